-- Price lists, and prices from a moment on.

CREATE TABLE price_list (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  name varchar(40) NOT NULL,
  rule_kind varchar(12) NOT NULL DEFAULT '',
  rule_percent decimal(12,4) NOT NULL DEFAULT 0.0000,
  rule_amount decimal(20,4) NOT NULL DEFAULT 0.0000,
  rule_list_id bigint(20) unsigned DEFAULT NULL,
  ending varchar(60) NOT NULL DEFAULT '',
  name_key varchar(190) COLLATE utf8mb4_bin NOT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY name_key (name_key),
  KEY rule_list_id (rule_list_id),
  FOREIGN KEY (rule_list_id) REFERENCES price_list (id)
) ENGINE=InnoDB;

CREATE TABLE price (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  product_id bigint(20) unsigned NOT NULL,
  variant_id bigint(20) unsigned DEFAULT NULL,
  from_at datetime(6) NOT NULL,
  amount decimal(20,4) NOT NULL,
  price_list_id bigint(20) unsigned NOT NULL DEFAULT 1,
  pack_id bigint(20) unsigned DEFAULT NULL,
  from_quantity decimal(18,3) NOT NULL DEFAULT 0.000,
  user_id bigint(20) unsigned DEFAULT NULL,
  later tinyint(1) NOT NULL DEFAULT 0,
  PRIMARY KEY (id),
  KEY product_id (product_id,variant_id,from_at),
  KEY variant_id (variant_id),
  KEY from_at (from_at),
  KEY price_list_id (price_list_id),
  KEY pack_id (pack_id),
  KEY user_id (user_id),
  KEY later (later,from_at),
  FOREIGN KEY (product_id) REFERENCES product (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (price_list_id) REFERENCES price_list (id),
  FOREIGN KEY (pack_id) REFERENCES pack (id),
  FOREIGN KEY (user_id) REFERENCES user (id)
) ENGINE=InnoDB;

CREATE TABLE condition_price (
  variant_id bigint(20) unsigned NOT NULL,
  `condition` varchar(20) NOT NULL,
  amount decimal(20,4) DEFAULT NULL,
  percent decimal(7,4) DEFAULT NULL,
  PRIMARY KEY (variant_id,`condition`),
  FOREIGN KEY (variant_id) REFERENCES variant (id) ON DELETE CASCADE
) ENGINE=InnoDB;

INSERT INTO price_list (id, name, rule_kind, rule_percent, rule_amount, rule_list_id, ending, name_key) VALUES (1,'Regular','',0.0000,0.0000,NULL,'','regular');
