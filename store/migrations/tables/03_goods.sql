-- Products with their variants, codes, packs and pictures; categories and suppliers.

CREATE TABLE picture (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  sum char(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  type varchar(8) NOT NULL,
  width int(11) NOT NULL,
  height int(11) NOT NULL,
  data mediumblob NOT NULL,
  small_type varchar(8) NOT NULL,
  small_width int(11) NOT NULL,
  small_height int(11) NOT NULL,
  small mediumblob NOT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY sum (sum)
) ENGINE=InnoDB;

CREATE TABLE category (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  parent_id bigint(20) unsigned DEFAULT NULL,
  name varchar(80) NOT NULL,
  path varchar(400) NOT NULL,
  colour char(7) NOT NULL DEFAULT '',
  tax_class_id bigint(20) unsigned DEFAULT NULL,
  markup decimal(12,4) DEFAULT NULL,
  ending varchar(60) DEFAULT NULL,
  restock_level decimal(18,3) DEFAULT NULL,
  picture_id bigint(20) unsigned DEFAULT NULL,
  path_key varchar(700) COLLATE utf8mb4_bin NOT NULL,
  expiry_days int(11) DEFAULT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY path_key (path_key),
  KEY parent_id (parent_id),
  KEY tax_class_id (tax_class_id),
  KEY picture_id (picture_id),
  FOREIGN KEY (parent_id) REFERENCES category (id),
  FOREIGN KEY (tax_class_id) REFERENCES tax_class (id),
  FOREIGN KEY (picture_id) REFERENCES picture (id)
) ENGINE=InnoDB;

CREATE TABLE supplier (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  name varchar(120) NOT NULL,
  markup decimal(12,4) DEFAULT NULL,
  ending varchar(60) DEFAULT NULL,
  name_key varchar(370) COLLATE utf8mb4_bin NOT NULL,
  account_number varchar(60) NOT NULL DEFAULT '',
  currency_note varchar(120) NOT NULL DEFAULT '',
  note text NOT NULL DEFAULT '',
  discount decimal(7,4) NOT NULL DEFAULT 0.0000,
  freight decimal(8,4) NOT NULL DEFAULT 0.0000,
  days_to_pay int(11) NOT NULL DEFAULT 0,
  lead_days int(11) NOT NULL DEFAULT 0,
  minimum_order decimal(20,4) NOT NULL DEFAULT 0.0000,
  closed_at datetime(6) DEFAULT NULL,
  revision bigint(20) unsigned NOT NULL DEFAULT 1,
  PRIMARY KEY (id),
  UNIQUE KEY name_key (name_key)
) ENGINE=InnoDB;

CREATE TABLE supplier_contact (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  supplier_id bigint(20) unsigned NOT NULL,
  name varchar(80) NOT NULL DEFAULT '',
  mail varchar(254) NOT NULL DEFAULT '',
  phone varchar(40) NOT NULL DEFAULT '',
  note varchar(120) NOT NULL DEFAULT '',
  PRIMARY KEY (id),
  KEY supplier_id (supplier_id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id)
) ENGINE=InnoDB;

CREATE TABLE value_set (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  name varchar(60) NOT NULL,
  name_key varchar(190) COLLATE utf8mb4_bin NOT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY name_key (name_key)
) ENGINE=InnoDB;

CREATE TABLE set_value (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  value_set_id bigint(20) unsigned NOT NULL,
  position int(11) NOT NULL,
  name varchar(60) NOT NULL,
  swatch varchar(40) NOT NULL DEFAULT '',
  name_key varchar(190) COLLATE utf8mb4_bin NOT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY value_set_id (value_set_id,name_key),
  FOREIGN KEY (value_set_id) REFERENCES value_set (id)
) ENGINE=InnoDB;

CREATE TABLE product (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  name varchar(120) NOT NULL,
  short_name varchar(40) NOT NULL DEFAULT '',
  style varchar(20) NOT NULL,
  category_id bigint(20) unsigned NOT NULL,
  supplier_id bigint(20) unsigned DEFAULT NULL,
  tax_class_id bigint(20) unsigned NOT NULL,
  unit varchar(8) NOT NULL,
  tracking varchar(12) NOT NULL,
  sku_pattern varchar(120) NOT NULL,
  created_at datetime(6) NOT NULL,
  description text NOT NULL DEFAULT '',
  supplier_text text NOT NULL DEFAULT '',
  brand varchar(80) NOT NULL DEFAULT '',
  own_tax_class tinyint(1) NOT NULL DEFAULT 1,
  buy_tax_class_id bigint(20) unsigned DEFAULT NULL,
  discontinued tinyint(1) NOT NULL DEFAULT 0,
  cost decimal(18,6) DEFAULT NULL,
  markup decimal(12,4) DEFAULT NULL,
  ending varchar(60) DEFAULT NULL,
  restock_level decimal(18,3) DEFAULT NULL,
  content decimal(18,3) DEFAULT NULL,
  measure varchar(4) NOT NULL DEFAULT '',
  bundle tinyint(1) NOT NULL DEFAULT 0,
  picture_id bigint(20) unsigned DEFAULT NULL,
  words text NOT NULL DEFAULT '',
  revision bigint(20) unsigned NOT NULL DEFAULT 1,
  name_key varchar(370) COLLATE utf8mb4_bin NOT NULL,
  weight decimal(12,3) DEFAULT NULL,
  restock_percent decimal(7,4) DEFAULT NULL,
  expiry_days int(11) DEFAULT NULL,
  hurried_at datetime(6) DEFAULT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY name_key (name_key),
  KEY category_id (category_id,name),
  KEY tax_class_id (tax_class_id),
  KEY brand (brand),
  KEY supplier_id (supplier_id,name),
  KEY created_at (created_at),
  KEY buy_tax_class_id (buy_tax_class_id),
  KEY picture_id (picture_id),
  KEY name (name,id),
  KEY hurried (hurried_at),
  FULLTEXT KEY words (words),
  FOREIGN KEY (category_id) REFERENCES category (id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (tax_class_id) REFERENCES tax_class (id),
  FOREIGN KEY (buy_tax_class_id) REFERENCES tax_class (id),
  FOREIGN KEY (picture_id) REFERENCES picture (id)
) ENGINE=InnoDB;

CREATE TABLE axis (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  product_id bigint(20) unsigned NOT NULL,
  position int(11) NOT NULL,
  name varchar(40) NOT NULL,
  value_set_id bigint(20) unsigned NOT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY product_id (product_id,position),
  KEY value_set_id (value_set_id),
  FOREIGN KEY (product_id) REFERENCES product (id),
  FOREIGN KEY (value_set_id) REFERENCES value_set (id)
) ENGINE=InnoDB;

CREATE TABLE axis_value (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  axis_id bigint(20) unsigned NOT NULL,
  position int(11) NOT NULL,
  value_id bigint(20) unsigned NOT NULL,
  retired tinyint(1) NOT NULL DEFAULT 0,
  PRIMARY KEY (id),
  UNIQUE KEY axis_id_2 (axis_id,value_id),
  KEY value_id (value_id),
  FOREIGN KEY (axis_id) REFERENCES axis (id),
  FOREIGN KEY (value_id) REFERENCES set_value (id)
) ENGINE=InnoDB;

CREATE TABLE variant (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  product_id bigint(20) unsigned NOT NULL,
  sku varchar(40) COLLATE utf8mb4_bin NOT NULL,
  label varchar(190) COLLATE utf8mb4_bin NOT NULL,
  value1_id bigint(20) unsigned DEFAULT NULL,
  value2_id bigint(20) unsigned DEFAULT NULL,
  value3_id bigint(20) unsigned DEFAULT NULL,
  restock_level decimal(18,3) DEFAULT NULL,
  own_restock_level decimal(18,3) DEFAULT NULL,
  cost decimal(18,6) DEFAULT NULL,
  list_price decimal(20,4) DEFAULT NULL,
  retired tinyint(1) NOT NULL DEFAULT 0,
  picture_id bigint(20) unsigned DEFAULT NULL,
  after_delivery decimal(18,3) DEFAULT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY sku (sku),
  UNIQUE KEY product_id (product_id,label),
  KEY value1_id (value1_id),
  KEY value2_id (value2_id),
  KEY value3_id (value3_id),
  KEY list_price (list_price),
  KEY picture_id (picture_id),
  KEY in_order (product_id,id),
  FOREIGN KEY (product_id) REFERENCES product (id),
  FOREIGN KEY (value1_id) REFERENCES axis_value (id),
  FOREIGN KEY (value2_id) REFERENCES axis_value (id),
  FOREIGN KEY (value3_id) REFERENCES axis_value (id),
  FOREIGN KEY (picture_id) REFERENCES picture (id)
) ENGINE=InnoDB;

CREATE TABLE pack (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  product_id bigint(20) unsigned NOT NULL,
  name varchar(40) NOT NULL,
  factor decimal(18,3) NOT NULL,
  bought tinyint(1) NOT NULL DEFAULT 0,
  name_key varchar(190) COLLATE utf8mb4_bin NOT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY product_id (product_id,name_key),
  FOREIGN KEY (product_id) REFERENCES product (id)
) ENGINE=InnoDB;

CREATE TABLE barcode (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  variant_id bigint(20) unsigned NOT NULL,
  code varchar(48) NOT NULL,
  code_key varchar(48) COLLATE utf8mb4_bin NOT NULL,
  pack_id bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY code_key (code_key),
  KEY variant_id (variant_id),
  KEY pack_id (pack_id),
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (pack_id) REFERENCES pack (id)
) ENGINE=InnoDB;

CREATE TABLE barcode_range (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  name varchar(60) NOT NULL,
  prefix char(2) NOT NULL,
  first bigint(20) unsigned NOT NULL,
  last bigint(20) unsigned NOT NULL,
  next bigint(20) unsigned NOT NULL,
  open tinyint(1) NOT NULL DEFAULT 1,
  PRIMARY KEY (id),
  UNIQUE KEY name (name)
) ENGINE=InnoDB;

CREATE TABLE scan_key (
  k varchar(48) COLLATE utf8mb4_bin NOT NULL,
  variant_id bigint(20) unsigned NOT NULL,
  barcode_id bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (k),
  KEY variant_id (variant_id),
  KEY barcode_id (barcode_id),
  FOREIGN KEY (variant_id) REFERENCES variant (id) ON DELETE CASCADE,
  FOREIGN KEY (barcode_id) REFERENCES barcode (id) ON DELETE CASCADE
) ENGINE=InnoDB;

CREATE TABLE search_word (
  word varchar(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  length int(11) NOT NULL,
  PRIMARY KEY (word),
  KEY length (length)
) ENGINE=InnoDB;

CREATE TABLE product_attribute (
  product_id bigint(20) unsigned NOT NULL,
  name varchar(40) NOT NULL,
  value varchar(200) NOT NULL,
  name_key varchar(190) COLLATE utf8mb4_bin NOT NULL,
  PRIMARY KEY (product_id,name_key),
  KEY name (name_key,value),
  FOREIGN KEY (product_id) REFERENCES product (id)
) ENGINE=InnoDB;

CREATE TABLE product_supplier (
  product_id bigint(20) unsigned NOT NULL,
  supplier_id bigint(20) unsigned NOT NULL,
  part_number varchar(60) NOT NULL DEFAULT '',
  PRIMARY KEY (product_id,supplier_id),
  KEY part_number (part_number),
  KEY supplier_id (supplier_id),
  FOREIGN KEY (product_id) REFERENCES product (id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id)
) ENGINE=InnoDB;

CREATE TABLE product_picture (
  product_id bigint(20) unsigned NOT NULL,
  picture_id bigint(20) unsigned NOT NULL,
  position int(11) NOT NULL,
  PRIMARY KEY (product_id,picture_id),
  KEY picture_id (picture_id),
  FOREIGN KEY (product_id) REFERENCES product (id),
  FOREIGN KEY (picture_id) REFERENCES picture (id)
) ENGINE=InnoDB;

CREATE TABLE product_figure (
  product_id bigint(20) unsigned NOT NULL,
  on_hand decimal(20,3) NOT NULL DEFAULT 0.000,
  for_sale decimal(20,3) NOT NULL DEFAULT 0.000,
  value decimal(20,4) NOT NULL DEFAULT 0.0000,
  price_min decimal(20,4) DEFAULT NULL,
  price_max decimal(20,4) DEFAULT NULL,
  margin_min decimal(12,1) DEFAULT NULL,
  under tinyint(1) NOT NULL DEFAULT 0,
  low int(11) NOT NULL DEFAULT 0,
  PRIMARY KEY (product_id),
  KEY on_hand (on_hand),
  KEY for_sale (for_sale),
  KEY value (value),
  KEY price_min (price_min),
  KEY price_max (price_max),
  KEY margin_min (margin_min),
  FOREIGN KEY (product_id) REFERENCES product (id)
) ENGINE=InnoDB;

CREATE TABLE bundle_part (
  bundle_id bigint(20) unsigned NOT NULL,
  variant_id bigint(20) unsigned NOT NULL,
  quantity decimal(18,3) NOT NULL,
  PRIMARY KEY (bundle_id,variant_id),
  KEY variant_id (variant_id),
  FOREIGN KEY (bundle_id) REFERENCES variant (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
) ENGINE=InnoDB;

CREATE TABLE bulk_edit (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  user_id bigint(20) unsigned NOT NULL,
  at datetime(6) NOT NULL,
  says varchar(250) NOT NULL,
  changes longtext NOT NULL,
  undone_at datetime(6) DEFAULT NULL,
  PRIMARY KEY (id),
  KEY at (at),
  KEY user_id (user_id),
  FOREIGN KEY (user_id) REFERENCES user (id)
) ENGINE=InnoDB;
