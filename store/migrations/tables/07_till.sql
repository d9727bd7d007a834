-- Registers with their drawers and baskets; sales, returns, tenders, vouchers.

CREATE TABLE register (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  branch_id bigint(20) unsigned NOT NULL,
  name varchar(60) NOT NULL,
  code varchar(8) NOT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY code (code),
  KEY branch_id (branch_id),
  FOREIGN KEY (branch_id) REFERENCES branch (id)
) ENGINE=InnoDB;

CREATE TABLE drawer (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  register_id bigint(20) unsigned NOT NULL,
  open_register_id bigint(20) unsigned DEFAULT NULL,
  opened_by bigint(20) unsigned NOT NULL,
  opened_at datetime(6) NOT NULL,
  `float` decimal(20,4) NOT NULL,
  closed_by bigint(20) unsigned DEFAULT NULL,
  closed_at datetime(6) DEFAULT NULL,
  should_be decimal(20,4) DEFAULT NULL,
  counted decimal(20,4) DEFAULT NULL,
  document_id bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY open_register_id (open_register_id),
  KEY register_id (register_id),
  KEY opened_by (opened_by),
  KEY closed_by (closed_by),
  KEY document_id (document_id),
  FOREIGN KEY (register_id) REFERENCES register (id),
  FOREIGN KEY (opened_by) REFERENCES user (id),
  FOREIGN KEY (closed_by) REFERENCES user (id),
  FOREIGN KEY (document_id) REFERENCES document (id)
) ENGINE=InnoDB;

CREATE TABLE drawer_move (
  document_id bigint(20) unsigned NOT NULL,
  drawer_id bigint(20) unsigned NOT NULL,
  kind varchar(12) NOT NULL,
  amount decimal(20,4) NOT NULL,
  reason varchar(60) NOT NULL DEFAULT '',
  note varchar(250) NOT NULL DEFAULT '',
  PRIMARY KEY (document_id),
  KEY drawer_id (drawer_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (drawer_id) REFERENCES drawer (id)
) ENGINE=InnoDB;

CREATE TABLE drawer_opened (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  register_id bigint(20) unsigned NOT NULL,
  at datetime(6) NOT NULL,
  user_id bigint(20) unsigned NOT NULL,
  why varchar(60) NOT NULL,
  PRIMARY KEY (id),
  KEY register_id (register_id,at),
  KEY user_id (user_id),
  FOREIGN KEY (register_id) REFERENCES register (id),
  FOREIGN KEY (user_id) REFERENCES user (id)
) ENGINE=InnoDB;

CREATE TABLE tile_page (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  name varchar(40) NOT NULL,
  position int(11) NOT NULL,
  revision bigint(20) unsigned NOT NULL DEFAULT 1,
  PRIMARY KEY (id)
) ENGINE=InnoDB;

CREATE TABLE tile (
  page_id bigint(20) unsigned NOT NULL,
  position int(11) NOT NULL,
  category_id bigint(20) unsigned DEFAULT NULL,
  product_id bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (page_id,position),
  KEY category_id (category_id),
  KEY product_id (product_id),
  FOREIGN KEY (page_id) REFERENCES tile_page (id) ON DELETE CASCADE,
  FOREIGN KEY (category_id) REFERENCES category (id) ON DELETE CASCADE,
  FOREIGN KEY (product_id) REFERENCES product (id) ON DELETE CASCADE
) ENGINE=InnoDB;

CREATE TABLE sale (
  document_id bigint(20) unsigned NOT NULL,
  register_id bigint(20) unsigned NOT NULL,
  drawer_id bigint(20) unsigned NOT NULL,
  gross decimal(20,4) NOT NULL,
  tax decimal(20,4) NOT NULL,
  customer_id bigint(20) unsigned DEFAULT NULL,
  off_why varchar(60) NOT NULL DEFAULT '',
  vouchers decimal(20,4) NOT NULL DEFAULT 0.0000,
  note varchar(250) NOT NULL DEFAULT '',
  PRIMARY KEY (document_id),
  KEY drawer_session_id (drawer_id),
  KEY register_id (register_id),
  KEY of_customer (customer_id,document_id),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (register_id) REFERENCES register (id),
  FOREIGN KEY (drawer_id) REFERENCES drawer (id)
) ENGINE=InnoDB;

CREATE TABLE sale_line (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  document_id bigint(20) unsigned NOT NULL,
  line int(11) NOT NULL,
  variant_id bigint(20) unsigned NOT NULL,
  name varchar(120) NOT NULL,
  detail varchar(190) NOT NULL,
  sku varchar(40) NOT NULL,
  serials text NOT NULL DEFAULT '',
  quantity decimal(18,3) NOT NULL,
  price decimal(20,4) NOT NULL,
  percent decimal(7,4) NOT NULL,
  paid decimal(20,4) NOT NULL,
  tax decimal(20,4) NOT NULL,
  cost decimal(20,4) NOT NULL,
  pack varchar(40) NOT NULL DEFAULT '',
  factor decimal(18,3) NOT NULL DEFAULT 1.000,
  with_tax tinyint(1) NOT NULL DEFAULT 1,
  list_price decimal(20,4) DEFAULT NULL,
  off decimal(20,4) NOT NULL DEFAULT 0.0000,
  own_off decimal(20,4) NOT NULL DEFAULT 0.0000,
  off_why varchar(60) NOT NULL DEFAULT '',
  note varchar(250) NOT NULL DEFAULT '',
  owed tinyint(1) NOT NULL DEFAULT 0,
  `condition` varchar(20) NOT NULL DEFAULT 'For sale',
  passed_over varchar(250) NOT NULL DEFAULT '',
  PRIMARY KEY (id),
  UNIQUE KEY document_id (document_id,line),
  KEY owing (owed,document_id),
  KEY sold_at (variant_id,document_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
) ENGINE=InnoDB;

CREATE TABLE sale_part (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  sale_line_id bigint(20) unsigned NOT NULL,
  variant_id bigint(20) unsigned NOT NULL,
  quantity decimal(18,3) NOT NULL,
  cost decimal(20,4) NOT NULL,
  serials text NOT NULL DEFAULT '',
  PRIMARY KEY (id),
  UNIQUE KEY sale_line_id (sale_line_id,variant_id),
  KEY variant_id (variant_id),
  FOREIGN KEY (sale_line_id) REFERENCES sale_line (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
) ENGINE=InnoDB;

CREATE TABLE number_given (
  document_id bigint(20) unsigned NOT NULL,
  sale_line_id bigint(20) unsigned NOT NULL,
  PRIMARY KEY (document_id),
  UNIQUE KEY sale_line_id (sale_line_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (sale_line_id) REFERENCES sale_line (id)
) ENGINE=InnoDB;

CREATE TABLE sale_return (
  document_id bigint(20) unsigned NOT NULL,
  sale_id bigint(20) unsigned DEFAULT NULL,
  drawer_id bigint(20) unsigned NOT NULL,
  amount decimal(20,4) NOT NULL,
  tax decimal(20,4) NOT NULL,
  customer_id bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (document_id),
  KEY drawer_session_id (drawer_id),
  KEY sale_id (sale_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (sale_id) REFERENCES sale (document_id),
  FOREIGN KEY (drawer_id) REFERENCES drawer (id)
) ENGINE=InnoDB;

CREATE TABLE return_line (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  document_id bigint(20) unsigned NOT NULL,
  sale_line_id bigint(20) unsigned DEFAULT NULL,
  serials text NOT NULL DEFAULT '',
  `condition` varchar(20) NOT NULL,
  quantity decimal(18,3) NOT NULL,
  amount decimal(20,4) NOT NULL,
  tax decimal(20,4) NOT NULL,
  cost decimal(20,4) NOT NULL,
  variant_id bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (id),
  KEY document_id (document_id),
  KEY sale_line_id (sale_line_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (sale_line_id) REFERENCES sale_line (id)
) ENGINE=InnoDB;

CREATE TABLE credit (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  kind varchar(20) NOT NULL,
  code varchar(24) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  customer_id bigint(20) unsigned DEFAULT NULL,
  balance decimal(20,4) NOT NULL,
  given_at datetime(6) NOT NULL,
  blocked_at datetime(6) DEFAULT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY code (code),
  KEY customer_id (customer_id),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
) ENGINE=InnoDB;

CREATE TABLE credit_move (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  credit_id bigint(20) unsigned NOT NULL,
  document_id bigint(20) unsigned NOT NULL,
  amount decimal(20,4) NOT NULL,
  PRIMARY KEY (id),
  KEY document_id (document_id),
  KEY credit_id (credit_id),
  FOREIGN KEY (credit_id) REFERENCES credit (id),
  FOREIGN KEY (document_id) REFERENCES document (id)
) ENGINE=InnoDB;

CREATE TABLE tender (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  document_id bigint(20) unsigned NOT NULL,
  drawer_id bigint(20) unsigned NOT NULL,
  kind varchar(20) NOT NULL,
  amount decimal(20,4) NOT NULL,
  handed decimal(20,4) NOT NULL DEFAULT 0.0000,
  reference varchar(160) COLLATE utf8mb4_bin NOT NULL DEFAULT '',
  credit_id bigint(20) unsigned DEFAULT NULL,
  customer_id bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (id),
  KEY document_id (document_id),
  KEY drawer_id (drawer_id,kind,amount),
  KEY reference (reference),
  KEY customer_id (customer_id),
  KEY credit_id (credit_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (drawer_id) REFERENCES drawer (id),
  FOREIGN KEY (credit_id) REFERENCES credit (id),
  FOREIGN KEY (customer_id) REFERENCES customer (id)
) ENGINE=InnoDB;

CREATE TABLE basket (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  register_id bigint(20) unsigned NOT NULL,
  open_register_id bigint(20) unsigned DEFAULT NULL,
  user_id bigint(20) unsigned NOT NULL,
  opened_at datetime(6) NOT NULL,
  price_list_id bigint(20) unsigned NOT NULL DEFAULT 1,
  branch_id bigint(20) unsigned NOT NULL DEFAULT 0,
  name varchar(60) NOT NULL DEFAULT '',
  held_at datetime(6) DEFAULT NULL,
  customer_id bigint(20) unsigned DEFAULT NULL,
  note varchar(250) NOT NULL DEFAULT '',
  off_kind varchar(10) NOT NULL DEFAULT '',
  off_value decimal(20,4) NOT NULL DEFAULT 0.0000,
  off_reason_id bigint(20) unsigned NOT NULL DEFAULT 0,
  PRIMARY KEY (id),
  UNIQUE KEY open_register_id (open_register_id),
  KEY register_id (register_id),
  KEY user_id (user_id),
  KEY price_list_id (price_list_id),
  KEY on_hold (branch_id,held_at),
  KEY of_customer (customer_id),
  FOREIGN KEY (customer_id) REFERENCES customer (id),
  FOREIGN KEY (register_id) REFERENCES register (id),
  FOREIGN KEY (user_id) REFERENCES user (id),
  FOREIGN KEY (price_list_id) REFERENCES price_list (id)
) ENGINE=InnoDB;

CREATE TABLE basket_line (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  basket_id bigint(20) unsigned NOT NULL,
  variant_id bigint(20) unsigned NOT NULL,
  quantity decimal(18,3) NOT NULL,
  price decimal(20,4) NOT NULL,
  serials text NOT NULL DEFAULT '',
  pack_id bigint(20) unsigned DEFAULT NULL,
  priced_at datetime(6) NOT NULL DEFAULT current_timestamp(6),
  labelled tinyint(1) NOT NULL DEFAULT 0,
  lot_id bigint(20) unsigned NOT NULL DEFAULT 0,
  note varchar(250) NOT NULL DEFAULT '',
  off_kind varchar(10) NOT NULL DEFAULT '',
  off_value decimal(20,4) NOT NULL DEFAULT 0.0000,
  off_reason_id bigint(20) unsigned NOT NULL DEFAULT 0,
  list_price decimal(20,4) DEFAULT NULL,
  price_reason_id bigint(20) unsigned NOT NULL DEFAULT 0,
  owed tinyint(1) NOT NULL DEFAULT 0,
  `condition` varchar(20) NOT NULL DEFAULT 'For sale',
  PRIMARY KEY (id),
  KEY ticket_id (basket_id),
  KEY variant_id (variant_id),
  KEY pack_id (pack_id),
  FOREIGN KEY (basket_id) REFERENCES basket (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (pack_id) REFERENCES pack (id)
) ENGINE=InnoDB;

CREATE TABLE basket_back (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  basket_id bigint(20) unsigned NOT NULL,
  sale_id bigint(20) unsigned DEFAULT NULL,
  line int(11) NOT NULL DEFAULT 0,
  variant_id bigint(20) unsigned NOT NULL,
  quantity varchar(20) NOT NULL,
  `condition` varchar(20) NOT NULL,
  serials text NOT NULL DEFAULT '',
  price varchar(30) NOT NULL DEFAULT '',
  cost varchar(30) NOT NULL DEFAULT '',
  lot_id bigint(20) unsigned NOT NULL DEFAULT 0,
  amount varchar(30) NOT NULL DEFAULT '',
  PRIMARY KEY (id),
  KEY basket_id (basket_id),
  KEY sale_id (sale_id),
  KEY variant_id (variant_id),
  FOREIGN KEY (basket_id) REFERENCES basket (id),
  FOREIGN KEY (sale_id) REFERENCES sale (document_id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
) ENGINE=InnoDB;

CREATE TABLE basket_voucher (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  basket_id bigint(20) unsigned NOT NULL,
  amount decimal(20,4) NOT NULL,
  PRIMARY KEY (id),
  KEY basket_id (basket_id),
  FOREIGN KEY (basket_id) REFERENCES basket (id)
) ENGINE=InnoDB;
