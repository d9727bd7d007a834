-- +goose Up
-- why stock or money changes, with the account of the books that it is posted to
CREATE TABLE reason (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kind VARCHAR(12) NOT NULL,
  name VARCHAR(60) NOT NULL,
  name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  account VARCHAR(30) NOT NULL,
  closed BOOLEAN NOT NULL DEFAULT FALSE,
  UNIQUE (kind, name_key)
);
INSERT INTO reason (kind, name, name_key, account) VALUES
  ('given off', 'End of season', 'end of season', 'income'), ('given off', 'Scratched or worn', 'scratched or worn', 'income'),
  ('given off', 'Regular customer', 'regular customer', 'given off'), ('given off', 'Staff', 'staff', 'given off'),
  ('price', 'Label was wrong', 'label was wrong', 'income'), ('price', 'Price agreed', 'price agreed', 'income'),
  ('put in', 'Change from the bank', 'change from the bank', 'bank'), ('put in', 'Owner''s money', 'owner''s money', 'owner'),
  ('taken out', 'To the bank', 'to the bank', 'bank'), ('taken out', 'Small expense', 'small expense', 'expenses'),
  ('taken out', 'Owner''s money', 'owner''s money', 'owner'),
  ('stock', 'Lost', 'lost', 'stock loss'), ('stock', 'Broken', 'broken', 'stock loss'),
  ('stock', 'Used in the shop', 'used in the shop', 'expenses'), ('stock', 'Found', 'found', 'stock gain'),
  ('stock', 'Counted wrong', 'counted wrong', 'stock loss');
-- people at a register by PIN
ALTER TABLE user ADD pin_hash VARCHAR(200) NOT NULL DEFAULT '', ADD pin_wrong INT NOT NULL DEFAULT 0, ADD pin_until DATETIME(6) NULL;
CREATE TABLE approval (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  at DATETIME(6) NOT NULL,
  deed VARCHAR(40) NOT NULL,
  what VARCHAR(250) NOT NULL,
  asked_by BIGINT UNSIGNED NOT NULL,
  approved_by BIGINT UNSIGNED NOT NULL,
  register_id BIGINT UNSIGNED NULL,
  basket_id BIGINT UNSIGNED NULL,
  document_id BIGINT UNSIGNED NULL,
  INDEX (basket_id),
  INDEX (document_id),
  FOREIGN KEY (asked_by) REFERENCES user (id),
  FOREIGN KEY (approved_by) REFERENCES user (id),
  FOREIGN KEY (document_id) REFERENCES document (id)
);
-- how many minutes one is from branch to branch
CREATE TABLE branch_way (
  from_id BIGINT UNSIGNED NOT NULL,
  to_id BIGINT UNSIGNED NOT NULL,
  minutes INT NOT NULL,
  PRIMARY KEY (from_id, to_id),
  FOREIGN KEY (from_id) REFERENCES branch (id),
  FOREIGN KEY (to_id) REFERENCES branch (id)
);
-- whom the shop sells to
CREATE TABLE customer (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  name_key VARCHAR(250) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  mail VARCHAR(254) NOT NULL DEFAULT '',
  mail_key VARCHAR(254) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '',
  phone VARCHAR(40) NOT NULL DEFAULT '',
  phone_key VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  address VARCHAR(400) NOT NULL DEFAULT '',
  note VARCHAR(400) NOT NULL DEFAULT '',
  price_list_id BIGINT UNSIGNED NULL,
  days_to_pay INT NULL,
  created_at DATETIME(6) NOT NULL,
  forgotten_at DATETIME(6) NULL,
  merged_into BIGINT UNSIGNED NULL,
  revision BIGINT UNSIGNED NOT NULL DEFAULT 1,
  INDEX by_name (name_key),
  INDEX by_mail (mail_key),
  INDEX by_phone (phone_key),
  FOREIGN KEY (price_list_id) REFERENCES price_list (id),
  FOREIGN KEY (merged_into) REFERENCES customer (id)
);
-- vouchers and store credit: money that the shop owes
CREATE TABLE credit (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kind VARCHAR(20) NOT NULL,
  code VARCHAR(24) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
  customer_id BIGINT UNSIGNED NULL,
  balance DECIMAL(20,4) NOT NULL,
  given_at DATETIME(6) NOT NULL,
  blocked_at DATETIME(6) NULL,
  INDEX (customer_id),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);
CREATE TABLE credit_move (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  credit_id BIGINT UNSIGNED NOT NULL,
  document_id BIGINT UNSIGNED NOT NULL,
  amount DECIMAL(20,4) NOT NULL,
  INDEX (document_id),
  FOREIGN KEY (credit_id) REFERENCES credit (id),
  FOREIGN KEY (document_id) REFERENCES document (id)
);
-- how each document at a register was paid; below zero for what went back
CREATE TABLE tender (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  document_id BIGINT UNSIGNED NOT NULL,
  drawer_id BIGINT UNSIGNED NOT NULL,
  kind VARCHAR(20) NOT NULL,
  amount DECIMAL(20,4) NOT NULL,
  handed DECIMAL(20,4) NOT NULL DEFAULT 0,
  reference VARCHAR(160) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '',
  credit_id BIGINT UNSIGNED NULL,
  customer_id BIGINT UNSIGNED NULL,
  INDEX (document_id),
  INDEX (drawer_id, kind, amount),
  INDEX (reference),
  INDEX (customer_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (drawer_id) REFERENCES drawer (id),
  FOREIGN KEY (credit_id) REFERENCES credit (id),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
);
INSERT INTO tender (document_id, drawer_id, kind, amount, handed) SELECT document_id, drawer_id, 'cash', handed - change_given, handed FROM sale WHERE handed <> 0;
INSERT INTO tender (document_id, drawer_id, kind, amount, reference) SELECT document_id, drawer_id, 'card', card, card_reference FROM sale WHERE card <> 0;
INSERT INTO tender (document_id, drawer_id, kind, amount) SELECT document_id, drawer_id, 'cash', -cash FROM sale_return WHERE cash <> 0;
INSERT INTO tender (document_id, drawer_id, kind, amount, reference) SELECT r.document_id, r.drawer_id, 'card', -r.card, s.card_reference FROM sale_return r JOIN sale s ON s.document_id = r.sale_id WHERE r.card <> 0;
INSERT INTO tender (document_id, drawer_id, kind, amount, handed, reference) SELECT v.id, t.drawer_id, t.kind, -t.amount, -t.handed, t.reference FROM document v JOIN tender t ON t.document_id = v.reverses_id;
ALTER TABLE sale DROP handed, DROP change_given, DROP card, DROP card_reference,
  ADD customer_id BIGINT UNSIGNED NULL, ADD off_why VARCHAR(60) NOT NULL DEFAULT '', ADD vouchers DECIMAL(20,4) NOT NULL DEFAULT 0,
  ADD note VARCHAR(250) NOT NULL DEFAULT '', ADD INDEX of_customer (customer_id, document_id);
ALTER TABLE sale ADD FOREIGN KEY sale_customer (customer_id) REFERENCES customer (id);
ALTER TABLE sale_line ADD list_price DECIMAL(20,4) NULL, ADD off DECIMAL(20,4) NOT NULL DEFAULT 0, ADD own_off DECIMAL(20,4) NOT NULL DEFAULT 0,
  ADD off_why VARCHAR(60) NOT NULL DEFAULT '', ADD note VARCHAR(250) NOT NULL DEFAULT '', ADD owed BOOLEAN NOT NULL DEFAULT FALSE,
  ADD INDEX owing (owed, document_id), ADD INDEX sold_at (variant_id, document_id);
ALTER TABLE sale_return DROP cash, DROP card, MODIFY sale_id BIGINT UNSIGNED NULL, ADD customer_id BIGINT UNSIGNED NULL;
ALTER TABLE return_line MODIFY sale_line_id BIGINT UNSIGNED NULL, ADD variant_id BIGINT UNSIGNED NULL;
UPDATE return_line r JOIN sale_line l ON l.id = r.sale_line_id SET r.variant_id = l.variant_id WHERE r.variant_id IS NULL;
CREATE TABLE number_given (
  document_id BIGINT UNSIGNED PRIMARY KEY,
  sale_line_id BIGINT UNSIGNED NOT NULL UNIQUE,
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (sale_line_id) REFERENCES sale_line (id)
);
-- baskets: put by with a name, for a customer, with what is agreed on them
ALTER TABLE basket ADD branch_id BIGINT UNSIGNED NOT NULL DEFAULT 0, ADD name VARCHAR(60) NOT NULL DEFAULT '', ADD held_at DATETIME(6) NULL,
  ADD customer_id BIGINT UNSIGNED NULL, ADD note VARCHAR(250) NOT NULL DEFAULT '', ADD off_kind VARCHAR(10) NOT NULL DEFAULT '',
  ADD off_value DECIMAL(20,4) NOT NULL DEFAULT 0, ADD off_reason_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  ADD INDEX on_hold (branch_id, held_at), ADD INDEX of_customer (customer_id);
UPDATE basket b JOIN register r ON r.id = b.register_id SET b.branch_id = r.branch_id;
ALTER TABLE basket ADD FOREIGN KEY basket_customer (customer_id) REFERENCES customer (id);
ALTER TABLE basket_line ADD note VARCHAR(250) NOT NULL DEFAULT '', ADD off_kind VARCHAR(10) NOT NULL DEFAULT '',
  ADD off_value DECIMAL(20,4) NOT NULL DEFAULT 0, ADD off_reason_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  ADD list_price DECIMAL(20,4) NULL, ADD price_reason_id BIGINT UNSIGNED NOT NULL DEFAULT 0, ADD owed BOOLEAN NOT NULL DEFAULT FALSE;
CREATE TABLE basket_voucher (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  basket_id BIGINT UNSIGNED NOT NULL,
  amount DECIMAL(20,4) NOT NULL,
  FOREIGN KEY (basket_id) REFERENCES basket (id)
);
CREATE TABLE basket_back (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  basket_id BIGINT UNSIGNED NOT NULL,
  sale_id BIGINT UNSIGNED NULL,
  line INT NOT NULL DEFAULT 0,
  variant_id BIGINT UNSIGNED NOT NULL,
  quantity VARCHAR(20) NOT NULL,
  `condition` VARCHAR(20) NOT NULL,
  serials TEXT NOT NULL DEFAULT '',
  price VARCHAR(30) NOT NULL DEFAULT '',
  cost VARCHAR(30) NOT NULL DEFAULT '',
  lot_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  amount VARCHAR(30) NOT NULL DEFAULT '',
  FOREIGN KEY (basket_id) REFERENCES basket (id),
  FOREIGN KEY (sale_id) REFERENCES sale (document_id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);
-- cash put into a drawer and taken out of it
CREATE TABLE drawer_move (
  document_id BIGINT UNSIGNED PRIMARY KEY,
  drawer_id BIGINT UNSIGNED NOT NULL,
  kind VARCHAR(12) NOT NULL,
  amount DECIMAL(20,4) NOT NULL,
  reason VARCHAR(60) NOT NULL DEFAULT '',
  note VARCHAR(250) NOT NULL DEFAULT '',
  INDEX (drawer_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (drawer_id) REFERENCES drawer (id)
);
-- how often a drawer opened, and why
CREATE TABLE drawer_opened (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  register_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  user_id BIGINT UNSIGNED NOT NULL,
  why VARCHAR(60) NOT NULL,
  INDEX (register_id, at),
  FOREIGN KEY (register_id) REFERENCES register (id),
  FOREIGN KEY (user_id) REFERENCES user (id)
);
-- pages of tiles that the shop arranges
CREATE TABLE tile_page (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(40) NOT NULL,
  position INT NOT NULL,
  revision BIGINT UNSIGNED NOT NULL DEFAULT 1
);
CREATE TABLE tile (
  page_id BIGINT UNSIGNED NOT NULL,
  position INT NOT NULL,
  category_id BIGINT UNSIGNED NULL,
  product_id BIGINT UNSIGNED NULL,
  PRIMARY KEY (page_id, position),
  FOREIGN KEY (page_id) REFERENCES tile_page (id) ON DELETE CASCADE,
  FOREIGN KEY (category_id) REFERENCES category (id) ON DELETE CASCADE,
  FOREIGN KEY (product_id) REFERENCES product (id) ON DELETE CASCADE
);
-- a product that was made in a hurry is completed later
ALTER TABLE product ADD hurried_at DATETIME(6) NULL, ADD INDEX hurried (hurried_at);

-- +goose Down
ALTER TABLE product DROP KEY hurried, DROP hurried_at;
DROP TABLE tile, tile_page, drawer_opened, drawer_move, basket_back, basket_voucher, number_given;
