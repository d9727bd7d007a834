-- The stock book: documents with entries and postings, and what they leave on hand. Only store/book writes here.

CREATE TABLE document (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  kind varchar(20) NOT NULL,
  number varchar(30) COLLATE utf8mb4_bin NOT NULL,
  branch_id bigint(20) unsigned NOT NULL,
  user_id bigint(20) unsigned NOT NULL,
  happened_at datetime(6) NOT NULL,
  recorded_at datetime(6) NOT NULL,
  note varchar(250) NOT NULL DEFAULT '',
  reverses_id bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY number (number),
  UNIQUE KEY reverses_id (reverses_id),
  KEY kind (kind,happened_at),
  KEY happened_at (happened_at),
  KEY branch_id (branch_id),
  KEY user_id (user_id),
  KEY recorded_at (recorded_at),
  FOREIGN KEY (branch_id) REFERENCES branch (id),
  FOREIGN KEY (user_id) REFERENCES user (id),
  FOREIGN KEY (reverses_id) REFERENCES document (id)
) ENGINE=InnoDB;

CREATE TABLE number_range (
  name varchar(40) NOT NULL,
  next bigint(20) unsigned NOT NULL,
  PRIMARY KEY (name)
) ENGINE=InnoDB;

CREATE TABLE lot (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  variant_id bigint(20) unsigned NOT NULL,
  number varchar(40) COLLATE utf8mb4_bin NOT NULL,
  expiry date NOT NULL DEFAULT '9999-12-31',
  PRIMARY KEY (id),
  UNIQUE KEY variant_id (variant_id,number,expiry),
  KEY by_expiry (expiry),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
) ENGINE=InnoDB;

CREATE TABLE balance (
  variant_id bigint(20) unsigned NOT NULL,
  shelf_id bigint(20) unsigned NOT NULL,
  lot_id bigint(20) unsigned NOT NULL DEFAULT 0,
  `condition` varchar(20) NOT NULL,
  quantity decimal(18,3) NOT NULL,
  PRIMARY KEY (variant_id,shelf_id,lot_id,`condition`),
  KEY `condition` (`condition`,quantity),
  KEY shelf_id (shelf_id),
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (shelf_id) REFERENCES shelf (id)
) ENGINE=InnoDB;

CREATE TABLE cost_pool (
  variant_id bigint(20) unsigned NOT NULL,
  quantity decimal(18,3) NOT NULL DEFAULT 0.000,
  value decimal(20,4) NOT NULL DEFAULT 0.0000,
  last_cost decimal(18,6) NOT NULL DEFAULT 0.000000,
  for_sale decimal(18,3) NOT NULL DEFAULT 0.000,
  low tinyint(1) NOT NULL DEFAULT 0,
  cost decimal(20,6) NOT NULL DEFAULT 0.000000,
  margin decimal(12,1) DEFAULT NULL,
  under tinyint(1) NOT NULL DEFAULT 0,
  PRIMARY KEY (variant_id),
  KEY low (low,variant_id),
  KEY quantity (quantity),
  KEY for_sale (for_sale),
  KEY value (value),
  KEY margin (margin),
  KEY under (under,variant_id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
) ENGINE=InnoDB;

CREATE TABLE cost_layer (
  variant_id bigint(20) unsigned NOT NULL,
  position int(11) NOT NULL,
  document_id bigint(20) unsigned NOT NULL,
  quantity decimal(18,3) NOT NULL,
  value decimal(20,4) NOT NULL,
  PRIMARY KEY (variant_id,position),
  KEY document_id (document_id),
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (document_id) REFERENCES document (id)
) ENGINE=InnoDB;

CREATE TABLE unit (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  variant_id bigint(20) unsigned NOT NULL,
  number varchar(40) COLLATE utf8mb4_bin NOT NULL,
  state varchar(20) NOT NULL,
  shelf_id bigint(20) unsigned NOT NULL,
  lot_id bigint(20) unsigned NOT NULL DEFAULT 0,
  `condition` varchar(20) NOT NULL,
  cost decimal(20,4) NOT NULL,
  product_id bigint(20) unsigned DEFAULT NULL,
  live_product_id bigint(20) unsigned GENERATED ALWAYS AS (if(state = 'undone',NULL,product_id)) STORED,
  PRIMARY KEY (id),
  UNIQUE KEY variant_id (variant_id,number),
  UNIQUE KEY one_of_a_product (live_product_id,number),
  KEY number (number),
  KEY shelf_id (shelf_id),
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (shelf_id) REFERENCES shelf (id)
) ENGINE=InnoDB;

CREATE TABLE entry (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  document_id bigint(20) unsigned NOT NULL,
  line int(11) NOT NULL,
  variant_id bigint(20) unsigned NOT NULL,
  shelf_id bigint(20) unsigned NOT NULL,
  lot_id bigint(20) unsigned NOT NULL DEFAULT 0,
  `condition` varchar(20) NOT NULL,
  serial varchar(40) COLLATE utf8mb4_bin NOT NULL DEFAULT '',
  quantity decimal(18,3) NOT NULL,
  value decimal(20,4) NOT NULL,
  bought tinyint(1) NOT NULL DEFAULT 0,
  quantity_after decimal(18,3) NOT NULL,
  value_after decimal(20,4) NOT NULL,
  came_on date DEFAULT NULL,
  of_document_id bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (id),
  KEY variant_id (variant_id,id),
  KEY document_id (document_id,line),
  KEY shelf_id (shelf_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (shelf_id) REFERENCES shelf (id)
) ENGINE=InnoDB;

CREATE TABLE held_by (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  document_id bigint(20) unsigned NOT NULL,
  variant_id bigint(20) unsigned NOT NULL,
  branch_id bigint(20) unsigned NOT NULL,
  lot_id bigint(20) unsigned NOT NULL DEFAULT 0,
  `condition` varchar(20) NOT NULL,
  serials text NOT NULL DEFAULT '',
  quantity decimal(18,3) NOT NULL,
  with_whom varchar(80) NOT NULL,
  back_by date DEFAULT NULL,
  PRIMARY KEY (id),
  KEY variant_id (variant_id,branch_id),
  KEY document_id (document_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
) ENGINE=InnoDB;

CREATE TABLE ledger_posting (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  document_id bigint(20) unsigned NOT NULL,
  account varchar(30) NOT NULL,
  amount decimal(20,4) NOT NULL,
  PRIMARY KEY (id),
  KEY document_id (document_id,account),
  FOREIGN KEY (document_id) REFERENCES document (id)
) ENGINE=InnoDB;

CREATE TABLE approval (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  at datetime(6) NOT NULL,
  deed varchar(40) NOT NULL,
  what varchar(250) NOT NULL,
  asked_by bigint(20) unsigned NOT NULL,
  approved_by bigint(20) unsigned NOT NULL,
  register_id bigint(20) unsigned DEFAULT NULL,
  basket_id bigint(20) unsigned DEFAULT NULL,
  document_id bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (id),
  KEY basket_id (basket_id),
  KEY document_id (document_id),
  KEY asked_by (asked_by),
  KEY approved_by (approved_by),
  FOREIGN KEY (asked_by) REFERENCES user (id),
  FOREIGN KEY (approved_by) REFERENCES user (id),
  FOREIGN KEY (document_id) REFERENCES document (id)
) ENGINE=InnoDB;
