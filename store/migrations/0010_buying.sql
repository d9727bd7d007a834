-- +goose Up
-- what was agreed with a supplier, and whom to ask there
ALTER TABLE supplier ADD account_number VARCHAR(60) NOT NULL DEFAULT '', ADD currency_note VARCHAR(120) NOT NULL DEFAULT '',
  ADD note TEXT NOT NULL DEFAULT '', ADD discount DECIMAL(7,4) NOT NULL DEFAULT 0, ADD freight DECIMAL(8,4) NOT NULL DEFAULT 0,
  ADD days_to_pay INT NOT NULL DEFAULT 0, ADD lead_days INT NOT NULL DEFAULT 0,
  ADD minimum_order DECIMAL(20,4) NOT NULL DEFAULT 0, ADD closed_at DATETIME(6) NULL,
  ADD revision BIGINT UNSIGNED NOT NULL DEFAULT 1;
CREATE TABLE supplier_contact (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  supplier_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(80) NOT NULL DEFAULT '',
  mail VARCHAR(254) NOT NULL DEFAULT '',
  phone VARCHAR(40) NOT NULL DEFAULT '',
  note VARCHAR(120) NOT NULL DEFAULT '',
  FOREIGN KEY (supplier_id) REFERENCES supplier (id)
);
-- what is ordered of whom; the state and what is to come follow from the lines
CREATE TABLE purchase_order (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  number VARCHAR(20) NOT NULL UNIQUE,
  supplier_id BIGINT UNSIGNED NOT NULL,
  branch_id BIGINT UNSIGNED NOT NULL,
  state VARCHAR(20) NOT NULL,
  wanted_on DATE NULL,
  note VARCHAR(500) NOT NULL DEFAULT '',
  created_by BIGINT UNSIGNED NOT NULL,
  created_at DATETIME(6) NOT NULL,
  placed_at DATETIME(6) NULL,
  sent_at DATETIME(6) NULL,
  changed_at DATETIME(6) NULL,
  revision BIGINT UNSIGNED NOT NULL DEFAULT 1,
  units DECIMAL(18,3) NOT NULL DEFAULT 0,
  to_come DECIMAL(18,3) NOT NULL DEFAULT 0,
  net DECIMAL(20,4) NOT NULL DEFAULT 0,
  tax DECIMAL(20,4) NOT NULL DEFAULT 0,
  gross DECIMAL(20,4) NOT NULL DEFAULT 0,
  INDEX by_state (state, wanted_on),
  INDEX of_supplier (supplier_id, id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (branch_id) REFERENCES branch (id),
  FOREIGN KEY (created_by) REFERENCES user (id)
);
CREATE TABLE purchase_order_line (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  order_id BIGINT UNSIGNED NOT NULL,
  variant_id BIGINT UNSIGNED NOT NULL,
  quantity DECIMAL(18,3) NOT NULL,
  pack VARCHAR(60) NOT NULL DEFAULT '',
  factor DECIMAL(18,3) NOT NULL DEFAULT 1,
  price DECIMAL(20,6) NULL,
  discount DECIMAL(7,4) NOT NULL DEFAULT 0,
  percent DECIMAL(7,4) NOT NULL DEFAULT 0,
  part_number VARCHAR(60) NOT NULL DEFAULT '',
  arrived DECIMAL(18,3) NOT NULL DEFAULT 0,
  called_off DECIMAL(18,3) NOT NULL DEFAULT 0,
  outstanding DECIMAL(18,3) NOT NULL DEFAULT 0,
  revision BIGINT UNSIGNED NOT NULL DEFAULT 1,
  UNIQUE (order_id, variant_id),
  INDEX awaited (variant_id, outstanding),
  FOREIGN KEY (order_id) REFERENCES purchase_order (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);
CREATE TABLE purchase_order_event (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  order_id BIGINT UNSIGNED NOT NULL,
  user_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  what VARCHAR(20) NOT NULL,
  detail TEXT NOT NULL DEFAULT '',
  document_id BIGINT UNSIGNED NULL,
  FOREIGN KEY (order_id) REFERENCES purchase_order (id),
  FOREIGN KEY (user_id) REFERENCES user (id),
  FOREIGN KEY (document_id) REFERENCES document (id)
);
-- what we paid last: of each supplier for each variant, before the discount
CREATE TABLE supplied (
  supplier_id BIGINT UNSIGNED NOT NULL,
  variant_id BIGINT UNSIGNED NOT NULL,
  part_number VARCHAR(60) NOT NULL DEFAULT '',
  pack VARCHAR(60) NOT NULL DEFAULT '',
  factor DECIMAL(18,3) NOT NULL DEFAULT 1,
  price DECIMAL(20,6) NOT NULL,
  discount DECIMAL(7,4) NOT NULL DEFAULT 0,
  at DATETIME(6) NOT NULL,
  source VARCHAR(20) NOT NULL,
  PRIMARY KEY (supplier_id, variant_id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);
-- the orders that a delivery is against, and which of their lines its goods were for
CREATE TABLE delivery_order (
  delivery_id BIGINT UNSIGNED NOT NULL,
  order_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (delivery_id, order_id),
  FOREIGN KEY (delivery_id) REFERENCES delivery (id) ON DELETE CASCADE,
  FOREIGN KEY (order_id) REFERENCES purchase_order (id)
);
CREATE TABLE delivery_share (
  delivery_line_id BIGINT UNSIGNED NOT NULL,
  order_line_id BIGINT UNSIGNED NOT NULL,
  quantity DECIMAL(18,3) NOT NULL,
  PRIMARY KEY (delivery_line_id, order_line_id),
  FOREIGN KEY (order_line_id) REFERENCES purchase_order_line (id)
);
ALTER TABLE delivery_line ADD total DECIMAL(20,4) NULL, ADD how VARCHAR(12) NOT NULL DEFAULT '', ADD shelf_id BIGINT UNSIGNED NULL,
  ADD FOREIGN KEY line_shelf (shelf_id) REFERENCES shelf (id);

-- bills of suppliers: what we owe; a credit note is one below zero
ALTER TABLE delivery ADD bill_later BOOLEAN NOT NULL DEFAULT FALSE;
ALTER TABLE delivery_line ADD unbilled DECIMAL(18,3) NOT NULL DEFAULT 0, ADD unbilled_value DECIMAL(20,4) NOT NULL DEFAULT 0,
  ADD INDEX to_bill (unbilled);
ALTER TABLE entry ADD of_document_id BIGINT UNSIGNED NULL;
CREATE TABLE bill (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kind VARCHAR(20) NOT NULL DEFAULT 'bill',
  supplier_id BIGINT UNSIGNED NOT NULL,
  branch_id BIGINT UNSIGNED NOT NULL,
  number VARCHAR(60) NOT NULL DEFAULT '',
  posted_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL,
  document_id BIGINT UNSIGNED NULL,
  delivery_id BIGINT UNSIGNED NULL,
  billed_on DATE NOT NULL,
  due_on DATE NOT NULL,
  note VARCHAR(250) NOT NULL DEFAULT '',
  freight DECIMAL(20,4) NOT NULL DEFAULT 0,
  freight_percent DECIMAL(7,4) NOT NULL DEFAULT 0,
  freight_tax_class_id BIGINT UNSIGNED NULL,
  spread VARCHAR(10) NOT NULL DEFAULT 'value',
  paper DECIMAL(20,4) NULL,
  net DECIMAL(20,4) NOT NULL DEFAULT 0,
  tax DECIMAL(20,4) NOT NULL DEFAULT 0,
  gross DECIMAL(20,4) NOT NULL DEFAULT 0,
  open DECIMAL(20,4) NOT NULL DEFAULT 0,
  created_by BIGINT UNSIGNED NOT NULL,
  created_at DATETIME(6) NOT NULL,
  revision BIGINT UNSIGNED NOT NULL DEFAULT 1,
  UNIQUE (supplier_id, kind, posted_key),
  INDEX owed (open, due_on),
  INDEX of_document (document_id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (branch_id) REFERENCES branch (id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (delivery_id) REFERENCES delivery (id),
  FOREIGN KEY (created_by) REFERENCES user (id)
);
CREATE TABLE bill_line (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  bill_id BIGINT UNSIGNED NOT NULL,
  variant_id BIGINT UNSIGNED NOT NULL,
  delivery_line_id BIGINT UNSIGNED NULL,
  order_line_id BIGINT UNSIGNED NULL,
  quantity DECIMAL(18,3) NOT NULL,
  net DECIMAL(20,4) NOT NULL,
  percent DECIMAL(7,4) NOT NULL DEFAULT 0,
  dearer VARCHAR(10) NOT NULL DEFAULT '',
  missing VARCHAR(10) NOT NULL DEFAULT '',
  came DECIMAL(18,3) NOT NULL DEFAULT 0,
  cleared DECIMAL(20,4) NOT NULL DEFAULT 0,
  ahead_units DECIMAL(18,3) NOT NULL DEFAULT 0,
  ahead DECIMAL(20,4) NOT NULL DEFAULT 0,
  INDEX ahead_of (order_line_id, ahead_units),
  FOREIGN KEY (bill_id) REFERENCES bill (id) ON DELETE CASCADE,
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (order_line_id) REFERENCES purchase_order_line (id)
);
-- the deliveries that a bill is for, or over which its freight is spread
CREATE TABLE bill_delivery (
  bill_id BIGINT UNSIGNED NOT NULL,
  delivery_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (bill_id, delivery_id),
  FOREIGN KEY (bill_id) REFERENCES bill (id) ON DELETE CASCADE,
  FOREIGN KEY (delivery_id) REFERENCES delivery (id)
);
CREATE TABLE payment (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  document_id BIGINT UNSIGNED NOT NULL UNIQUE,
  supplier_id BIGINT UNSIGNED NULL,
  paid_from VARCHAR(20) NOT NULL,
  drawer_id BIGINT UNSIGNED NULL,
  amount DECIMAL(20,4) NOT NULL,
  paid_on DATE NOT NULL,
  undone BOOLEAN NOT NULL DEFAULT FALSE,
  INDEX (drawer_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (drawer_id) REFERENCES drawer (id)
);
CREATE TABLE payment_part (
  payment_id BIGINT UNSIGNED NOT NULL,
  bill_id BIGINT UNSIGNED NOT NULL,
  amount DECIMAL(20,4) NOT NULL,
  PRIMARY KEY (payment_id, bill_id),
  FOREIGN KEY (payment_id) REFERENCES payment (id),
  FOREIGN KEY (bill_id) REFERENCES bill (id)
);
-- what a supplier owes us until its credit note is there
CREATE TABLE credit_expected (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  supplier_id BIGINT UNSIGNED NOT NULL,
  document_id BIGINT UNSIGNED NOT NULL,
  why VARCHAR(250) NOT NULL DEFAULT '',
  percent DECIMAL(7,4) NOT NULL DEFAULT 0,
  net DECIMAL(20,4) NOT NULL,
  open DECIMAL(20,4) NOT NULL,
  since DATETIME(6) NOT NULL,
  bill_id BIGINT UNSIGNED NULL,
  INDEX (supplier_id, open),
  INDEX (document_id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (bill_id) REFERENCES bill (id)
);
CREATE TABLE supplier_return (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  document_id BIGINT UNSIGNED NOT NULL UNIQUE,
  supplier_id BIGINT UNSIGNED NOT NULL,
  worth DECIMAL(20,4) NOT NULL,
  expected DECIMAL(20,4) NOT NULL,
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id)
);
-- what the mailbox stand-in sent
CREATE TABLE mail (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  at DATETIME(6) NOT NULL,
  recipient VARCHAR(254) NOT NULL,
  subject VARCHAR(250) NOT NULL,
  raw LONGBLOB NOT NULL
);
-- what stood under payable is owed, though nobody noted when it is due
INSERT INTO bill (kind, supplier_id, branch_id, number, posted_key, document_id, delivery_id, billed_on, due_on, net, tax, gross, open,
  created_by, created_at)
  SELECT 'bill', d.supplier_id, d.branch_id, d.supplier_number, d.posted_number, d.document_id, d.id, DATE(x.happened_at), DATE(x.happened_at),
    d.net, d.tax, d.gross, d.gross, d.created_by, x.recorded_at
  FROM delivery d JOIN document x ON x.id = d.document_id
  WHERE d.supplier_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM document y WHERE y.reverses_id = d.document_id);

-- +goose Down
DROP TABLE mail, supplier_return, credit_expected, payment_part, payment, bill_delivery, bill_line, bill;
ALTER TABLE entry DROP of_document_id;
ALTER TABLE delivery_line DROP KEY to_bill, DROP unbilled, DROP unbilled_value;
ALTER TABLE delivery DROP bill_later;
ALTER TABLE delivery_line DROP FOREIGN KEY line_shelf, DROP total, DROP how, DROP shelf_id;
DROP TABLE delivery_share, delivery_order, supplied, purchase_order_event, purchase_order_line, purchase_order, supplier_contact;
ALTER TABLE supplier DROP account_number, DROP currency_note, DROP note, DROP discount, DROP freight, DROP days_to_pay, DROP lead_days,
  DROP minimum_order, DROP closed_at, DROP revision;
