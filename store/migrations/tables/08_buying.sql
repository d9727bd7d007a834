-- Orders, deliveries, bills, payments, what goes back, and what suppliers list.

CREATE TABLE purchase_order (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  number varchar(20) NOT NULL,
  supplier_id bigint(20) unsigned NOT NULL,
  branch_id bigint(20) unsigned NOT NULL,
  state varchar(20) NOT NULL,
  wanted_on date DEFAULT NULL,
  note varchar(500) NOT NULL DEFAULT '',
  created_by bigint(20) unsigned NOT NULL,
  created_at datetime(6) NOT NULL,
  placed_at datetime(6) DEFAULT NULL,
  sent_at datetime(6) DEFAULT NULL,
  changed_at datetime(6) DEFAULT NULL,
  revision bigint(20) unsigned NOT NULL DEFAULT 1,
  units decimal(18,3) NOT NULL DEFAULT 0.000,
  to_come decimal(18,3) NOT NULL DEFAULT 0.000,
  net decimal(20,4) NOT NULL DEFAULT 0.0000,
  tax decimal(20,4) NOT NULL DEFAULT 0.0000,
  gross decimal(20,4) NOT NULL DEFAULT 0.0000,
  PRIMARY KEY (id),
  UNIQUE KEY number (number),
  KEY by_state (state,wanted_on),
  KEY of_supplier (supplier_id,id),
  KEY branch_id (branch_id),
  KEY created_by (created_by),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (branch_id) REFERENCES branch (id),
  FOREIGN KEY (created_by) REFERENCES user (id)
) ENGINE=InnoDB;

CREATE TABLE purchase_order_line (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  order_id bigint(20) unsigned NOT NULL,
  variant_id bigint(20) unsigned NOT NULL,
  quantity decimal(18,3) NOT NULL,
  pack varchar(60) NOT NULL DEFAULT '',
  factor decimal(18,3) NOT NULL DEFAULT 1.000,
  price decimal(20,6) DEFAULT NULL,
  discount decimal(7,4) NOT NULL DEFAULT 0.0000,
  percent decimal(7,4) NOT NULL DEFAULT 0.0000,
  part_number varchar(60) NOT NULL DEFAULT '',
  arrived decimal(18,3) NOT NULL DEFAULT 0.000,
  called_off decimal(18,3) NOT NULL DEFAULT 0.000,
  outstanding decimal(18,3) NOT NULL DEFAULT 0.000,
  revision bigint(20) unsigned NOT NULL DEFAULT 1,
  PRIMARY KEY (id),
  UNIQUE KEY order_id (order_id,variant_id),
  KEY awaited (variant_id,outstanding),
  FOREIGN KEY (order_id) REFERENCES purchase_order (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
) ENGINE=InnoDB;

CREATE TABLE purchase_order_event (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  order_id bigint(20) unsigned NOT NULL,
  user_id bigint(20) unsigned NOT NULL,
  at datetime(6) NOT NULL,
  what varchar(20) NOT NULL,
  detail text NOT NULL DEFAULT '',
  document_id bigint(20) unsigned DEFAULT NULL,
  costs text NOT NULL DEFAULT '',
  PRIMARY KEY (id),
  KEY order_id (order_id),
  KEY user_id (user_id),
  KEY document_id (document_id),
  FOREIGN KEY (order_id) REFERENCES purchase_order (id),
  FOREIGN KEY (user_id) REFERENCES user (id),
  FOREIGN KEY (document_id) REFERENCES document (id)
) ENGINE=InnoDB;

CREATE TABLE delivery (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  document_id bigint(20) unsigned DEFAULT NULL,
  supplier_id bigint(20) unsigned DEFAULT NULL,
  branch_id bigint(20) unsigned NOT NULL,
  supplier_number varchar(60) NOT NULL DEFAULT '',
  posted_number varchar(190) COLLATE utf8mb4_bin DEFAULT NULL,
  note varchar(250) NOT NULL DEFAULT '',
  costs_include_tax tinyint(1) NOT NULL DEFAULT 0,
  extra decimal(20,4) NOT NULL DEFAULT 0.0000,
  spread varchar(10) NOT NULL DEFAULT 'value',
  created_by bigint(20) unsigned NOT NULL,
  created_at datetime(6) NOT NULL,
  net decimal(20,4) NOT NULL DEFAULT 0.0000,
  tax decimal(20,4) NOT NULL DEFAULT 0.0000,
  gross decimal(20,4) NOT NULL DEFAULT 0.0000,
  revision bigint(20) unsigned NOT NULL DEFAULT 1,
  came_on date DEFAULT NULL,
  extra_tax_class_id bigint(20) unsigned DEFAULT NULL,
  extra_percent decimal(7,4) NOT NULL DEFAULT 0.0000,
  bill_later tinyint(1) NOT NULL DEFAULT 0,
  hand_key varchar(64) CHARACTER SET ascii COLLATE ascii_bin DEFAULT NULL,
  hand_shelf_id bigint(20) unsigned DEFAULT NULL,
  hand_variant_id bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY document_id (document_id),
  UNIQUE KEY supplier_id (supplier_id,posted_number),
  UNIQUE KEY hand_key (hand_key),
  KEY branch_id (branch_id),
  KEY created_by (created_by),
  KEY extra_tax_class_id (extra_tax_class_id),
  KEY hand_shelf (hand_shelf_id),
  KEY hand_variant (hand_variant_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (branch_id) REFERENCES branch (id),
  FOREIGN KEY (created_by) REFERENCES user (id),
  FOREIGN KEY (extra_tax_class_id) REFERENCES tax_class (id),
  FOREIGN KEY (hand_shelf_id) REFERENCES shelf (id),
  FOREIGN KEY (hand_variant_id) REFERENCES variant (id)
) ENGINE=InnoDB;

CREATE TABLE delivery_line (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  delivery_id bigint(20) unsigned NOT NULL,
  variant_id bigint(20) unsigned NOT NULL,
  quantity decimal(18,3) NOT NULL,
  cost decimal(20,6) DEFAULT NULL,
  percent decimal(7,4) NOT NULL DEFAULT 0.0000,
  lot_number varchar(40) COLLATE utf8mb4_bin NOT NULL DEFAULT '',
  expiry date DEFAULT NULL,
  serials text NOT NULL DEFAULT '',
  total decimal(20,4) DEFAULT NULL,
  how varchar(12) NOT NULL DEFAULT '',
  shelf_id bigint(20) unsigned DEFAULT NULL,
  unbilled decimal(18,3) NOT NULL DEFAULT 0.000,
  unbilled_value decimal(20,4) NOT NULL DEFAULT 0.0000,
  PRIMARY KEY (id),
  KEY variant_id (variant_id),
  KEY in_order (delivery_id,id),
  KEY line_shelf (shelf_id),
  KEY to_bill (unbilled),
  FOREIGN KEY (delivery_id) REFERENCES delivery (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (shelf_id) REFERENCES shelf (id)
) ENGINE=InnoDB;

CREATE TABLE delivery_order (
  delivery_id bigint(20) unsigned NOT NULL,
  order_id bigint(20) unsigned NOT NULL,
  PRIMARY KEY (delivery_id,order_id),
  KEY order_id (order_id),
  FOREIGN KEY (delivery_id) REFERENCES delivery (id) ON DELETE CASCADE,
  FOREIGN KEY (order_id) REFERENCES purchase_order (id)
) ENGINE=InnoDB;

CREATE TABLE delivery_share (
  delivery_line_id bigint(20) unsigned NOT NULL,
  order_line_id bigint(20) unsigned NOT NULL,
  quantity decimal(18,3) NOT NULL,
  PRIMARY KEY (delivery_line_id,order_line_id),
  KEY order_line_id (order_line_id),
  FOREIGN KEY (order_line_id) REFERENCES purchase_order_line (id)
) ENGINE=InnoDB;

CREATE TABLE bill (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  kind varchar(20) NOT NULL DEFAULT 'bill',
  supplier_id bigint(20) unsigned NOT NULL,
  branch_id bigint(20) unsigned NOT NULL,
  number varchar(60) NOT NULL DEFAULT '',
  posted_key varchar(190) COLLATE utf8mb4_bin DEFAULT NULL,
  document_id bigint(20) unsigned DEFAULT NULL,
  delivery_id bigint(20) unsigned DEFAULT NULL,
  billed_on date NOT NULL,
  due_on date NOT NULL,
  note varchar(250) NOT NULL DEFAULT '',
  freight decimal(20,4) NOT NULL DEFAULT 0.0000,
  freight_percent decimal(7,4) NOT NULL DEFAULT 0.0000,
  freight_tax_class_id bigint(20) unsigned DEFAULT NULL,
  spread varchar(10) NOT NULL DEFAULT 'value',
  paper decimal(20,4) DEFAULT NULL,
  net decimal(20,4) NOT NULL DEFAULT 0.0000,
  tax decimal(20,4) NOT NULL DEFAULT 0.0000,
  gross decimal(20,4) NOT NULL DEFAULT 0.0000,
  open decimal(20,4) NOT NULL DEFAULT 0.0000,
  created_by bigint(20) unsigned NOT NULL,
  created_at datetime(6) NOT NULL,
  revision bigint(20) unsigned NOT NULL DEFAULT 1,
  PRIMARY KEY (id),
  UNIQUE KEY supplier_id (supplier_id,kind,posted_key),
  KEY owed (open,due_on),
  KEY of_document (document_id),
  KEY branch_id (branch_id),
  KEY delivery_id (delivery_id),
  KEY created_by (created_by),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (branch_id) REFERENCES branch (id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (delivery_id) REFERENCES delivery (id),
  FOREIGN KEY (created_by) REFERENCES user (id)
) ENGINE=InnoDB;

CREATE TABLE bill_line (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  bill_id bigint(20) unsigned NOT NULL,
  variant_id bigint(20) unsigned NOT NULL,
  delivery_line_id bigint(20) unsigned DEFAULT NULL,
  order_line_id bigint(20) unsigned DEFAULT NULL,
  quantity decimal(18,3) NOT NULL,
  net decimal(20,4) NOT NULL,
  percent decimal(7,4) NOT NULL DEFAULT 0.0000,
  dearer varchar(10) NOT NULL DEFAULT '',
  missing varchar(10) NOT NULL DEFAULT '',
  came decimal(18,3) NOT NULL DEFAULT 0.000,
  cleared decimal(20,4) NOT NULL DEFAULT 0.0000,
  ahead_units decimal(18,3) NOT NULL DEFAULT 0.000,
  ahead decimal(20,4) NOT NULL DEFAULT 0.0000,
  PRIMARY KEY (id),
  KEY ahead_of (order_line_id,ahead_units),
  KEY bill_id (bill_id),
  KEY variant_id (variant_id),
  FOREIGN KEY (bill_id) REFERENCES bill (id) ON DELETE CASCADE,
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (order_line_id) REFERENCES purchase_order_line (id)
) ENGINE=InnoDB;

CREATE TABLE bill_delivery (
  bill_id bigint(20) unsigned NOT NULL,
  delivery_id bigint(20) unsigned NOT NULL,
  PRIMARY KEY (bill_id,delivery_id),
  KEY delivery_id (delivery_id),
  FOREIGN KEY (bill_id) REFERENCES bill (id) ON DELETE CASCADE,
  FOREIGN KEY (delivery_id) REFERENCES delivery (id)
) ENGINE=InnoDB;

CREATE TABLE payment (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  document_id bigint(20) unsigned NOT NULL,
  supplier_id bigint(20) unsigned DEFAULT NULL,
  paid_from varchar(20) NOT NULL,
  drawer_id bigint(20) unsigned DEFAULT NULL,
  amount decimal(20,4) NOT NULL,
  paid_on date NOT NULL,
  undone tinyint(1) NOT NULL DEFAULT 0,
  PRIMARY KEY (id),
  UNIQUE KEY document_id (document_id),
  KEY drawer_id (drawer_id),
  KEY supplier_id (supplier_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (drawer_id) REFERENCES drawer (id)
) ENGINE=InnoDB;

CREATE TABLE payment_part (
  payment_id bigint(20) unsigned NOT NULL,
  bill_id bigint(20) unsigned NOT NULL,
  amount decimal(20,4) NOT NULL,
  PRIMARY KEY (payment_id,bill_id),
  KEY bill_id (bill_id),
  FOREIGN KEY (payment_id) REFERENCES payment (id),
  FOREIGN KEY (bill_id) REFERENCES bill (id)
) ENGINE=InnoDB;

CREATE TABLE credit_expected (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  supplier_id bigint(20) unsigned NOT NULL,
  document_id bigint(20) unsigned NOT NULL,
  why varchar(250) NOT NULL DEFAULT '',
  percent decimal(7,4) NOT NULL DEFAULT 0.0000,
  net decimal(20,4) NOT NULL,
  open decimal(20,4) NOT NULL,
  since datetime(6) NOT NULL,
  bill_id bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (id),
  KEY supplier_id (supplier_id,open),
  KEY document_id (document_id),
  KEY bill_id (bill_id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (bill_id) REFERENCES bill (id)
) ENGINE=InnoDB;

CREATE TABLE supplier_return (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  document_id bigint(20) unsigned NOT NULL,
  supplier_id bigint(20) unsigned NOT NULL,
  worth decimal(20,4) NOT NULL,
  expected decimal(20,4) NOT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY document_id (document_id),
  KEY supplier_id (supplier_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id)
) ENGINE=InnoDB;

CREATE TABLE supplied (
  supplier_id bigint(20) unsigned NOT NULL,
  variant_id bigint(20) unsigned NOT NULL,
  part_number varchar(60) NOT NULL DEFAULT '',
  pack varchar(60) NOT NULL DEFAULT '',
  factor decimal(18,3) NOT NULL DEFAULT 1.000,
  price decimal(20,6) NOT NULL,
  discount decimal(7,4) NOT NULL DEFAULT 0.0000,
  at datetime(6) NOT NULL,
  source varchar(20) NOT NULL,
  PRIMARY KEY (supplier_id,variant_id),
  KEY variant_id (variant_id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
) ENGINE=InnoDB;

CREATE TABLE catalog_item (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  supplier_id bigint(20) unsigned NOT NULL,
  part_number varchar(60) NOT NULL DEFAULT '',
  item_key varchar(190) COLLATE utf8mb4_bin NOT NULL,
  gtin varchar(14) NOT NULL DEFAULT '',
  gtin_key varchar(48) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  name varchar(120) NOT NULL,
  brand varchar(80) NOT NULL DEFAULT '',
  cost decimal(20,6) DEFAULT NULL,
  pack varchar(60) NOT NULL DEFAULT '',
  factor decimal(18,3) NOT NULL DEFAULT 1.000,
  suggested decimal(20,4) DEFAULT NULL,
  from_on date DEFAULT NULL,
  read_at datetime(6) NOT NULL,
  variant_id bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY supplier_id (supplier_id,item_key),
  KEY by_gtin (gtin_key),
  KEY by_name (supplier_id,name),
  KEY of_variant (supplier_id,variant_id),
  KEY variant_id (variant_id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
) ENGINE=InnoDB;
