-- +goose Up
CREATE TABLE picture (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  sum CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
  type VARCHAR(8) NOT NULL,
  width INT NOT NULL,
  height INT NOT NULL,
  data MEDIUMBLOB NOT NULL,
  small_type VARCHAR(8) NOT NULL,
  small_width INT NOT NULL,
  small_height INT NOT NULL,
  small MEDIUMBLOB NOT NULL
);
ALTER TABLE category
  ADD tax_class_id BIGINT UNSIGNED NULL,
  ADD markup DECIMAL(12,4) NULL,
  ADD ending VARCHAR(60) NULL,
  ADD restock_level DECIMAL(18,3) NULL,
  ADD picture_id BIGINT UNSIGNED NULL,
  ADD FOREIGN KEY (tax_class_id) REFERENCES tax_class (id),
  ADD FOREIGN KEY (picture_id) REFERENCES picture (id);
ALTER TABLE supplier ADD markup DECIMAL(12,4) NULL, ADD ending VARCHAR(60) NULL;

CREATE TABLE value_set (id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY, name VARCHAR(60) NOT NULL UNIQUE);
CREATE TABLE set_value (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  value_set_id BIGINT UNSIGNED NOT NULL,
  position INT NOT NULL,
  name VARCHAR(60) NOT NULL,
  swatch VARCHAR(40) NOT NULL DEFAULT '',
  UNIQUE (value_set_id, name),
  FOREIGN KEY (value_set_id) REFERENCES value_set (id)
);
INSERT INTO value_set (name) SELECT DISTINCT name FROM axis;
INSERT IGNORE INTO set_value (value_set_id, position, name, swatch)
  SELECT s.id, x.position, x.name, x.swatch FROM axis_value x JOIN axis a ON a.id = x.axis_id JOIN value_set s ON s.name = a.name ORDER BY x.id;
ALTER TABLE axis ADD value_set_id BIGINT UNSIGNED NULL;
UPDATE axis a JOIN value_set s ON s.name = a.name SET a.value_set_id = s.id;
ALTER TABLE axis MODIFY value_set_id BIGINT UNSIGNED NOT NULL, ADD FOREIGN KEY (value_set_id) REFERENCES value_set (id);
ALTER TABLE axis_value ADD value_id BIGINT UNSIGNED NULL, ADD retired BOOLEAN NOT NULL DEFAULT FALSE;
UPDATE axis_value x JOIN axis a ON a.id = x.axis_id JOIN set_value v ON v.value_set_id = a.value_set_id AND v.name = x.name SET x.value_id = v.id;
ALTER TABLE axis_value MODIFY value_id BIGINT UNSIGNED NOT NULL, ADD UNIQUE (axis_id, value_id), ADD FOREIGN KEY (value_id) REFERENCES set_value (id);
ALTER TABLE axis_value DROP KEY axis_id, DROP COLUMN name, DROP COLUMN swatch;

ALTER TABLE product
  ADD description TEXT NOT NULL DEFAULT '',
  ADD supplier_text TEXT NOT NULL DEFAULT '',
  ADD brand VARCHAR(80) NOT NULL DEFAULT '',
  ADD own_tax_class BOOLEAN NOT NULL DEFAULT TRUE,
  ADD buy_tax_class_id BIGINT UNSIGNED NULL,
  ADD discontinued BOOLEAN NOT NULL DEFAULT FALSE,
  ADD cost DECIMAL(18,6) NULL,
  ADD markup DECIMAL(12,4) NULL,
  ADD ending VARCHAR(60) NULL,
  ADD restock_level DECIMAL(18,3) NULL,
  ADD content DECIMAL(18,3) NULL,
  ADD measure VARCHAR(4) NOT NULL DEFAULT '',
  ADD bundle BOOLEAN NOT NULL DEFAULT FALSE,
  ADD picture_id BIGINT UNSIGNED NULL,
  ADD words TEXT NOT NULL DEFAULT '',
  ADD INDEX (name, id),
  ADD INDEX (brand),
  ADD INDEX (supplier_id, name),
  ADD INDEX (created_at),
  ADD FOREIGN KEY (buy_tax_class_id) REFERENCES tax_class (id),
  ADD FOREIGN KEY (picture_id) REFERENCES picture (id);
ALTER TABLE product DROP KEY name_2;
ALTER TABLE product ADD FULLTEXT KEY words (words);
ALTER TABLE variant
  ADD own_restock_level DECIMAL(18,3) NULL,
  ADD cost DECIMAL(18,6) NULL,
  ADD list_price DECIMAL(18,2) NULL,
  ADD retired BOOLEAN NOT NULL DEFAULT FALSE,
  ADD picture_id BIGINT UNSIGNED NULL,
  ADD INDEX (list_price),
  ADD FOREIGN KEY (picture_id) REFERENCES picture (id);
UPDATE variant SET own_restock_level = restock_level;
CREATE TABLE product_picture (
  product_id BIGINT UNSIGNED NOT NULL,
  picture_id BIGINT UNSIGNED NOT NULL,
  position INT NOT NULL,
  PRIMARY KEY (product_id, picture_id),
  FOREIGN KEY (product_id) REFERENCES product (id),
  FOREIGN KEY (picture_id) REFERENCES picture (id)
);
CREATE TABLE product_supplier (
  product_id BIGINT UNSIGNED NOT NULL,
  supplier_id BIGINT UNSIGNED NOT NULL,
  part_number VARCHAR(60) NOT NULL DEFAULT '',
  PRIMARY KEY (product_id, supplier_id),
  INDEX (part_number),
  FOREIGN KEY (product_id) REFERENCES product (id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id)
);
INSERT INTO product_supplier (product_id, supplier_id) SELECT id, supplier_id FROM product WHERE supplier_id IS NOT NULL;
CREATE TABLE product_attribute (
  product_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(40) NOT NULL,
  value VARCHAR(200) NOT NULL,
  PRIMARY KEY (product_id, name),
  INDEX (name, value),
  FOREIGN KEY (product_id) REFERENCES product (id)
);
CREATE TABLE pack (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  product_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(40) NOT NULL,
  factor DECIMAL(18,3) NOT NULL,
  bought BOOLEAN NOT NULL DEFAULT FALSE,
  UNIQUE (product_id, name),
  FOREIGN KEY (product_id) REFERENCES product (id)
);
CREATE TABLE bundle_part (
  bundle_id BIGINT UNSIGNED NOT NULL,
  variant_id BIGINT UNSIGNED NOT NULL,
  quantity DECIMAL(18,3) NOT NULL,
  PRIMARY KEY (bundle_id, variant_id),
  FOREIGN KEY (bundle_id) REFERENCES variant (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);
ALTER TABLE barcode ADD pack_id BIGINT UNSIGNED NULL, ADD FOREIGN KEY (pack_id) REFERENCES pack (id);
CREATE TABLE barcode_range (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(60) NOT NULL UNIQUE,
  prefix CHAR(2) NOT NULL,
  first BIGINT UNSIGNED NOT NULL,
  last BIGINT UNSIGNED NOT NULL,
  next BIGINT UNSIGNED NOT NULL,
  open BOOLEAN NOT NULL DEFAULT TRUE
);
INSERT INTO barcode_range (name, prefix, first, last, next)
  SELECT 'Own numbers', s.value, 1, 9999999999, COALESCE((SELECT next FROM number_range WHERE name = 'own barcode'), 1) FROM setting s WHERE s.name = 'barcode_prefix';
DELETE FROM setting WHERE name = 'barcode_prefix';
DELETE FROM number_range WHERE name = 'own barcode';

CREATE TABLE price_list (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(40) NOT NULL UNIQUE,
  rule_kind VARCHAR(12) NOT NULL DEFAULT '',
  rule_percent DECIMAL(12,4) NOT NULL DEFAULT 0,
  rule_amount DECIMAL(18,2) NOT NULL DEFAULT 0,
  rule_list_id BIGINT UNSIGNED NULL,
  ending VARCHAR(60) NOT NULL DEFAULT '',
  FOREIGN KEY (rule_list_id) REFERENCES price_list (id)
);
INSERT INTO price_list (id, name) VALUES (1, 'Regular');
ALTER TABLE price
  ADD price_list_id BIGINT UNSIGNED NOT NULL DEFAULT 1,
  ADD pack_id BIGINT UNSIGNED NULL,
  ADD from_quantity DECIMAL(18,3) NOT NULL DEFAULT 0,
  ADD user_id BIGINT UNSIGNED NULL,
  ADD INDEX (from_at),
  ADD FOREIGN KEY (price_list_id) REFERENCES price_list (id),
  ADD FOREIGN KEY (pack_id) REFERENCES pack (id),
  ADD FOREIGN KEY (user_id) REFERENCES user (id);
UPDATE variant v SET list_price = (SELECT p.amount FROM price p WHERE p.product_id = v.product_id AND (p.variant_id = v.id OR p.variant_id IS NULL) AND p.from_at <= UTC_TIMESTAMP(6)
  ORDER BY p.variant_id IS NULL, p.from_at DESC, p.id DESC LIMIT 1);

ALTER TABLE ticket ADD price_list_id BIGINT UNSIGNED NOT NULL DEFAULT 1, ADD FOREIGN KEY (price_list_id) REFERENCES price_list (id);
ALTER TABLE ticket_line ADD pack_id BIGINT UNSIGNED NULL, ADD priced_at DATETIME(6) NOT NULL DEFAULT CURRENT_TIMESTAMP(6), ADD FOREIGN KEY (pack_id) REFERENCES pack (id);
ALTER TABLE sale_line ADD pack VARCHAR(40) NOT NULL DEFAULT '', ADD factor DECIMAL(18,3) NOT NULL DEFAULT 1, ADD with_tax BOOLEAN NOT NULL DEFAULT TRUE;
CREATE TABLE sale_part (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  sale_line_id BIGINT UNSIGNED NOT NULL,
  variant_id BIGINT UNSIGNED NOT NULL,
  quantity DECIMAL(18,3) NOT NULL,
  cost DECIMAL(18,2) NOT NULL,
  serials VARCHAR(1000) NOT NULL DEFAULT '',
  UNIQUE (sale_line_id, variant_id),
  FOREIGN KEY (sale_line_id) REFERENCES sale_line (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);

CREATE TABLE search_word (word VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY, length INT NOT NULL, INDEX (length));
CREATE TABLE saved_view (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  user_id BIGINT UNSIGNED NOT NULL,
  name VARCHAR(60) NOT NULL,
  query VARCHAR(2000) NOT NULL,
  UNIQUE (user_id, name),
  FOREIGN KEY (user_id) REFERENCES user (id)
);
CREATE TABLE bulk_edit (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  user_id BIGINT UNSIGNED NOT NULL,
  at DATETIME(6) NOT NULL,
  says VARCHAR(250) NOT NULL,
  changes LONGTEXT NOT NULL,
  undone_at DATETIME(6) NULL,
  INDEX (at),
  FOREIGN KEY (user_id) REFERENCES user (id)
);
CREATE TABLE label_template (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(80) NOT NULL UNIQUE,
  body MEDIUMTEXT NOT NULL
);
CREATE TABLE import_job (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  kind VARCHAR(12) NOT NULL,
  name VARCHAR(200) NOT NULL,
  size BIGINT NOT NULL DEFAULT 0,
  state VARCHAR(12) NOT NULL,
  dry_run BOOLEAN NOT NULL DEFAULT TRUE,
  user_id BIGINT UNSIGNED NOT NULL,
  branch_id BIGINT UNSIGNED NOT NULL,
  created_at DATETIME(6) NOT NULL,
  seen_at DATETIME(6) NOT NULL,
  matching TEXT NOT NULL DEFAULT '',
  done INT NOT NULL DEFAULT 0,
  total INT NOT NULL DEFAULT 0,
  made INT NOT NULL DEFAULT 0,
  changed INT NOT NULL DEFAULT 0,
  same INT NOT NULL DEFAULT 0,
  refused INT NOT NULL DEFAULT 0,
  pictures INT NOT NULL DEFAULT 0,
  says VARCHAR(1000) NOT NULL DEFAULT '',
  document_number VARCHAR(30) NOT NULL DEFAULT '',
  INDEX (state, seen_at),
  FOREIGN KEY (user_id) REFERENCES user (id),
  FOREIGN KEY (branch_id) REFERENCES branch (id)
);
CREATE TABLE import_chunk (
  import_id BIGINT UNSIGNED NOT NULL,
  part VARCHAR(8) NOT NULL,
  n INT NOT NULL,
  data MEDIUMBLOB NOT NULL,
  PRIMARY KEY (import_id, part, n),
  FOREIGN KEY (import_id) REFERENCES import_job (id) ON DELETE CASCADE
);
CREATE TABLE import_row (
  import_id BIGINT UNSIGNED NOT NULL,
  line INT NOT NULL,
  outcome VARCHAR(8) NOT NULL,
  product VARCHAR(120) NOT NULL,
  variant VARCHAR(190) NOT NULL,
  sku VARCHAR(40) NOT NULL,
  detail VARCHAR(1000) NOT NULL DEFAULT '',
  field VARCHAR(60) NOT NULL DEFAULT '',
  want VARCHAR(500) NOT NULL DEFAULT '',
  record TEXT NOT NULL DEFAULT '',
  PRIMARY KEY (import_id, line),
  INDEX (import_id, outcome, line),
  FOREIGN KEY (import_id) REFERENCES import_job (id) ON DELETE CASCADE
);
CREATE TABLE column_match (
  kind VARCHAR(12) NOT NULL,
  head VARCHAR(80) NOT NULL,
  name VARCHAR(80) NOT NULL,
  PRIMARY KEY (kind, head)
);

-- +goose Down
SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'this version can not be taken back';
