-- +goose Up
CREATE TABLE setting (name VARCHAR(60) PRIMARY KEY, value VARCHAR(250) NOT NULL);
CREATE TABLE branch (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(60) NOT NULL UNIQUE
);
CREATE TABLE shelf (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  branch_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(60) NOT NULL,
  is_default BOOLEAN NOT NULL DEFAULT FALSE,
  UNIQUE (branch_id, name),
  FOREIGN KEY (branch_id) REFERENCES branch (id)
);
CREATE TABLE register (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  branch_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(60) NOT NULL,
  code VARCHAR(8) NOT NULL UNIQUE,
  FOREIGN KEY (branch_id) REFERENCES branch (id)
);
CREATE TABLE user (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  login VARCHAR(60) NOT NULL UNIQUE,
  name VARCHAR(80) NOT NULL,
  password_hash VARCHAR(200) NOT NULL,
  role VARCHAR(20) NOT NULL,
  branch_id BIGINT UNSIGNED NOT NULL,
  FOREIGN KEY (branch_id) REFERENCES branch (id)
);
CREATE TABLE web_session (
  k VARCHAR(120) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
  data BLOB NOT NULL,
  expires_at DATETIME(6) NULL,
  INDEX (expires_at)
);
CREATE TABLE api_token (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  user_id BIGINT UNSIGNED NOT NULL,
  token_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
  created_at DATETIME(6) NOT NULL,
  FOREIGN KEY (user_id) REFERENCES user (id)
);
CREATE TABLE tax_class (id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL UNIQUE);
CREATE TABLE tax_rate (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  tax_class_id BIGINT UNSIGNED NOT NULL,
  from_at DATETIME(6) NOT NULL,
  percent DECIMAL(7,4) NOT NULL,
  UNIQUE (tax_class_id, from_at),
  FOREIGN KEY (tax_class_id) REFERENCES tax_class (id)
);
CREATE TABLE category (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  parent_id BIGINT UNSIGNED NULL,
  name VARCHAR(80) NOT NULL,
  path VARCHAR(400) NOT NULL,
  colour CHAR(7) NOT NULL DEFAULT '',
  UNIQUE (path),
  FOREIGN KEY (parent_id) REFERENCES category (id)
);
CREATE TABLE supplier (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL UNIQUE
);
CREATE TABLE product (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(120) NOT NULL UNIQUE,
  short_name VARCHAR(40) NOT NULL DEFAULT '',
  style VARCHAR(20) NOT NULL,
  category_id BIGINT UNSIGNED NOT NULL,
  supplier_id BIGINT UNSIGNED NULL,
  tax_class_id BIGINT UNSIGNED NOT NULL,
  unit VARCHAR(8) NOT NULL,
  tracking VARCHAR(12) NOT NULL,
  sku_pattern VARCHAR(120) NOT NULL,
  created_at DATETIME(6) NOT NULL,
  INDEX (category_id, name),
  FULLTEXT (name, short_name),
  FOREIGN KEY (category_id) REFERENCES category (id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (tax_class_id) REFERENCES tax_class (id)
);
CREATE TABLE axis (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  product_id BIGINT UNSIGNED NOT NULL,
  position INT NOT NULL,
  name VARCHAR(40) NOT NULL,
  UNIQUE (product_id, position),
  FOREIGN KEY (product_id) REFERENCES product (id)
);
CREATE TABLE axis_value (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  axis_id BIGINT UNSIGNED NOT NULL,
  position INT NOT NULL,
  name VARCHAR(60) NOT NULL,
  swatch CHAR(7) NOT NULL DEFAULT '',
  UNIQUE (axis_id, name),
  FOREIGN KEY (axis_id) REFERENCES axis (id)
);
CREATE TABLE variant (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  product_id BIGINT UNSIGNED NOT NULL,
  sku VARCHAR(40) NOT NULL UNIQUE,
  label VARCHAR(190) NOT NULL,
  value1_id BIGINT UNSIGNED NULL,
  value2_id BIGINT UNSIGNED NULL,
  value3_id BIGINT UNSIGNED NULL,
  restock_level DECIMAL(18,3) NULL,
  UNIQUE (product_id, label),
  FOREIGN KEY (product_id) REFERENCES product (id),
  FOREIGN KEY (value1_id) REFERENCES axis_value (id),
  FOREIGN KEY (value2_id) REFERENCES axis_value (id),
  FOREIGN KEY (value3_id) REFERENCES axis_value (id)
);
CREATE TABLE barcode (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  variant_id BIGINT UNSIGNED NOT NULL,
  code VARCHAR(48) NOT NULL,
  code_key VARCHAR(48) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);
CREATE TABLE price (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  product_id BIGINT UNSIGNED NOT NULL,
  variant_id BIGINT UNSIGNED NULL,
  from_at DATETIME(6) NOT NULL,
  amount DECIMAL(18,2) NOT NULL,
  INDEX (product_id, variant_id, from_at),
  FOREIGN KEY (product_id) REFERENCES product (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);
CREATE TABLE number_range (name VARCHAR(40) PRIMARY KEY, next BIGINT UNSIGNED NOT NULL);
CREATE TABLE lot (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  variant_id BIGINT UNSIGNED NOT NULL,
  number VARCHAR(40) NOT NULL,
  expiry DATE NOT NULL DEFAULT '9999-12-31',
  UNIQUE (variant_id, number, expiry),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);
CREATE TABLE document (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kind VARCHAR(20) NOT NULL,
  number VARCHAR(30) NOT NULL UNIQUE,
  branch_id BIGINT UNSIGNED NOT NULL,
  user_id BIGINT UNSIGNED NOT NULL,
  happened_at DATETIME(6) NOT NULL,
  recorded_at DATETIME(6) NOT NULL,
  note VARCHAR(250) NOT NULL DEFAULT '',
  reverses_id BIGINT UNSIGNED NULL UNIQUE,
  INDEX (kind, happened_at),
  INDEX (happened_at),
  FOREIGN KEY (branch_id) REFERENCES branch (id),
  FOREIGN KEY (user_id) REFERENCES user (id),
  FOREIGN KEY (reverses_id) REFERENCES document (id)
);
CREATE TABLE entry (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  document_id BIGINT UNSIGNED NOT NULL,
  line INT NOT NULL,
  variant_id BIGINT UNSIGNED NOT NULL,
  shelf_id BIGINT UNSIGNED NOT NULL,
  lot_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  `condition` VARCHAR(20) NOT NULL,
  serial VARCHAR(40) NOT NULL DEFAULT '',
  quantity DECIMAL(18,3) NOT NULL,
  value DECIMAL(18,2) NOT NULL,
  bought BOOLEAN NOT NULL DEFAULT FALSE,
  quantity_after DECIMAL(18,3) NOT NULL,
  value_after DECIMAL(18,2) NOT NULL,
  INDEX (variant_id, id),
  INDEX (document_id, line),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (shelf_id) REFERENCES shelf (id)
);
CREATE TABLE balance (
  variant_id BIGINT UNSIGNED NOT NULL,
  shelf_id BIGINT UNSIGNED NOT NULL,
  lot_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  `condition` VARCHAR(20) NOT NULL,
  quantity DECIMAL(18,3) NOT NULL,
  PRIMARY KEY (variant_id, shelf_id, lot_id, `condition`),
  INDEX (`condition`, quantity),
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (shelf_id) REFERENCES shelf (id)
);
CREATE TABLE cost_pool (
  variant_id BIGINT UNSIGNED PRIMARY KEY,
  quantity DECIMAL(18,3) NOT NULL DEFAULT 0,
  value DECIMAL(18,2) NOT NULL DEFAULT 0,
  last_cost DECIMAL(18,6) NOT NULL DEFAULT 0,
  for_sale DECIMAL(18,3) NOT NULL DEFAULT 0,
  low BOOLEAN NOT NULL DEFAULT FALSE,
  INDEX (low, variant_id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);
CREATE TABLE unit (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  variant_id BIGINT UNSIGNED NOT NULL,
  number VARCHAR(40) NOT NULL,
  state VARCHAR(20) NOT NULL,
  shelf_id BIGINT UNSIGNED NOT NULL,
  lot_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  `condition` VARCHAR(20) NOT NULL,
  cost DECIMAL(18,2) NOT NULL,
  UNIQUE (variant_id, number),
  INDEX (number),
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (shelf_id) REFERENCES shelf (id)
);
CREATE TABLE ledger_posting (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  document_id BIGINT UNSIGNED NOT NULL,
  account VARCHAR(30) NOT NULL,
  amount DECIMAL(18,2) NOT NULL,
  INDEX (document_id, account),
  FOREIGN KEY (document_id) REFERENCES document (id)
);
CREATE TABLE request_key (
  k VARCHAR(160) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin PRIMARY KEY,
  result MEDIUMTEXT NOT NULL DEFAULT '',
  created_at DATETIME(6) NOT NULL,
  INDEX (created_at)
);
CREATE TABLE drawer_session (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  register_id BIGINT UNSIGNED NOT NULL,
  open_register_id BIGINT UNSIGNED NULL UNIQUE,
  opened_by BIGINT UNSIGNED NOT NULL,
  opened_at DATETIME(6) NOT NULL,
  `float` DECIMAL(18,2) NOT NULL,
  closed_by BIGINT UNSIGNED NULL,
  closed_at DATETIME(6) NULL,
  expected DECIMAL(18,2) NULL,
  counted DECIMAL(18,2) NULL,
  document_id BIGINT UNSIGNED NULL,
  FOREIGN KEY (register_id) REFERENCES register (id),
  FOREIGN KEY (opened_by) REFERENCES user (id),
  FOREIGN KEY (closed_by) REFERENCES user (id),
  FOREIGN KEY (document_id) REFERENCES document (id)
);
CREATE TABLE ticket (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  register_id BIGINT UNSIGNED NOT NULL,
  open_register_id BIGINT UNSIGNED NULL UNIQUE,
  user_id BIGINT UNSIGNED NOT NULL,
  opened_at DATETIME(6) NOT NULL,
  FOREIGN KEY (register_id) REFERENCES register (id),
  FOREIGN KEY (user_id) REFERENCES user (id)
);
CREATE TABLE ticket_line (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  ticket_id BIGINT UNSIGNED NOT NULL,
  variant_id BIGINT UNSIGNED NOT NULL,
  quantity DECIMAL(18,3) NOT NULL,
  price DECIMAL(18,2) NOT NULL,
  serials VARCHAR(1000) NOT NULL DEFAULT '',
  FOREIGN KEY (ticket_id) REFERENCES ticket (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);
CREATE TABLE sale (
  document_id BIGINT UNSIGNED PRIMARY KEY,
  register_id BIGINT UNSIGNED NOT NULL,
  drawer_session_id BIGINT UNSIGNED NOT NULL,
  gross DECIMAL(18,2) NOT NULL,
  tax DECIMAL(18,2) NOT NULL,
  handed DECIMAL(18,2) NOT NULL,
  change_given DECIMAL(18,2) NOT NULL,
  card DECIMAL(18,2) NOT NULL,
  card_reference VARCHAR(160) NOT NULL DEFAULT '',
  INDEX (card_reference),
  INDEX (drawer_session_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (register_id) REFERENCES register (id),
  FOREIGN KEY (drawer_session_id) REFERENCES drawer_session (id)
);
CREATE TABLE sale_line (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  document_id BIGINT UNSIGNED NOT NULL,
  line INT NOT NULL,
  variant_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(120) NOT NULL,
  detail VARCHAR(190) NOT NULL,
  sku VARCHAR(40) NOT NULL,
  serials VARCHAR(1000) NOT NULL DEFAULT '',
  quantity DECIMAL(18,3) NOT NULL,
  price DECIMAL(18,2) NOT NULL,
  percent DECIMAL(7,4) NOT NULL,
  paid DECIMAL(18,2) NOT NULL,
  tax DECIMAL(18,2) NOT NULL,
  cost DECIMAL(18,2) NOT NULL,
  UNIQUE (document_id, line),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);
CREATE TABLE sale_return (
  document_id BIGINT UNSIGNED PRIMARY KEY,
  sale_id BIGINT UNSIGNED NOT NULL,
  drawer_session_id BIGINT UNSIGNED NOT NULL,
  amount DECIMAL(18,2) NOT NULL,
  tax DECIMAL(18,2) NOT NULL,
  cash DECIMAL(18,2) NOT NULL,
  card DECIMAL(18,2) NOT NULL,
  INDEX (drawer_session_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (sale_id) REFERENCES sale (document_id),
  FOREIGN KEY (drawer_session_id) REFERENCES drawer_session (id)
);
CREATE TABLE return_line (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  document_id BIGINT UNSIGNED NOT NULL,
  sale_line_id BIGINT UNSIGNED NOT NULL,
  serials VARCHAR(1000) NOT NULL DEFAULT '',
  `condition` VARCHAR(20) NOT NULL,
  quantity DECIMAL(18,3) NOT NULL,
  amount DECIMAL(18,2) NOT NULL,
  tax DECIMAL(18,2) NOT NULL,
  cost DECIMAL(18,2) NOT NULL,
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (sale_line_id) REFERENCES sale_line (id)
);
CREATE TABLE delivery (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  document_id BIGINT UNSIGNED NULL UNIQUE,
  supplier_id BIGINT UNSIGNED NOT NULL,
  branch_id BIGINT UNSIGNED NOT NULL,
  supplier_number VARCHAR(60) NOT NULL DEFAULT '',
  posted_number VARCHAR(60) NULL,
  note VARCHAR(250) NOT NULL DEFAULT '',
  costs_include_tax BOOLEAN NOT NULL DEFAULT FALSE,
  extra DECIMAL(18,2) NOT NULL DEFAULT 0,
  spread VARCHAR(10) NOT NULL DEFAULT 'value',
  created_by BIGINT UNSIGNED NOT NULL,
  created_at DATETIME(6) NOT NULL,
  net DECIMAL(18,2) NOT NULL DEFAULT 0,
  tax DECIMAL(18,2) NOT NULL DEFAULT 0,
  gross DECIMAL(18,2) NOT NULL DEFAULT 0,
  UNIQUE (supplier_id, posted_number),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (branch_id) REFERENCES branch (id),
  FOREIGN KEY (created_by) REFERENCES user (id)
);
CREATE TABLE delivery_line (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  delivery_id BIGINT UNSIGNED NOT NULL,
  variant_id BIGINT UNSIGNED NOT NULL,
  quantity DECIMAL(18,3) NOT NULL,
  cost DECIMAL(18,6) NOT NULL,
  percent DECIMAL(7,4) NOT NULL DEFAULT 0,
  lot_number VARCHAR(40) NOT NULL DEFAULT '',
  expiry DATE NULL,
  serials TEXT NOT NULL DEFAULT '',
  UNIQUE (delivery_id, variant_id, lot_number, expiry),
  FOREIGN KEY (delivery_id) REFERENCES delivery (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);
CREATE TABLE shelf_count (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  number VARCHAR(30) NOT NULL UNIQUE,
  branch_id BIGINT UNSIGNED NOT NULL,
  category_id BIGINT UNSIGNED NOT NULL,
  note VARCHAR(250) NOT NULL DEFAULT '',
  blind BOOLEAN NOT NULL DEFAULT FALSE,
  state VARCHAR(12) NOT NULL,
  created_by BIGINT UNSIGNED NOT NULL,
  created_at DATETIME(6) NOT NULL,
  document_id BIGINT UNSIGNED NULL,
  FOREIGN KEY (branch_id) REFERENCES branch (id),
  FOREIGN KEY (category_id) REFERENCES category (id),
  FOREIGN KEY (created_by) REFERENCES user (id),
  FOREIGN KEY (document_id) REFERENCES document (id)
);
CREATE TABLE count_row (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  shelf_count_id BIGINT UNSIGNED NOT NULL,
  open_branch_id BIGINT UNSIGNED NULL,
  variant_id BIGINT UNSIGNED NOT NULL,
  lot_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  `condition` VARCHAR(20) NOT NULL,
  planned BOOLEAN NOT NULL DEFAULT TRUE,
  counted DECIMAL(18,3) NULL,
  expected DECIMAL(18,3) NULL,
  variance DECIMAL(18,3) NULL,
  value DECIMAL(18,2) NULL,
  reason VARCHAR(12) NOT NULL DEFAULT '',
  UNIQUE (shelf_count_id, variant_id, lot_id, `condition`),
  UNIQUE (open_branch_id, variant_id, lot_id, `condition`),
  FOREIGN KEY (shelf_count_id) REFERENCES shelf_count (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);
CREATE TABLE count_event (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  shelf_count_id BIGINT UNSIGNED NOT NULL,
  variant_id BIGINT UNSIGNED NOT NULL,
  lot_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  `condition` VARCHAR(20) NOT NULL,
  serial VARCHAR(40) NOT NULL DEFAULT '',
  scanned BOOLEAN NOT NULL,
  quantity DECIMAL(18,3) NOT NULL,
  on_hand DECIMAL(18,3) NOT NULL,
  user_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  struck_at DATETIME(6) NULL,
  struck_by BIGINT UNSIGNED NULL,
  INDEX (shelf_count_id, variant_id),
  FOREIGN KEY (shelf_count_id) REFERENCES shelf_count (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (user_id) REFERENCES user (id)
);
CREATE TABLE device (name VARCHAR(40) PRIMARY KEY, state VARCHAR(40) NOT NULL);
CREATE TABLE print_job (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  device VARCHAR(40) NOT NULL,
  title VARCHAR(120) NOT NULL,
  pages MEDIUMTEXT NOT NULL,
  at DATETIME(6) NOT NULL
);
CREATE TABLE card_charge (
  reference VARCHAR(160) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin PRIMARY KEY,
  amount DECIMAL(18,2) NOT NULL,
  state VARCHAR(12) NOT NULL,
  at DATETIME(6) NOT NULL,
  INDEX (state, at)
);

-- +goose Down
SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the first version can not be taken back';
