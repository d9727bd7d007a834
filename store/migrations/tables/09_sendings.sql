-- Goods between branches.

CREATE TABLE sending (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  number varchar(30) NOT NULL,
  from_id bigint(20) unsigned NOT NULL,
  to_id bigint(20) unsigned NOT NULL,
  state varchar(12) NOT NULL,
  wanted_on date DEFAULT NULL,
  note varchar(250) NOT NULL DEFAULT '',
  created_by bigint(20) unsigned NOT NULL,
  created_at datetime(6) NOT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY number (number),
  KEY state (state,id),
  KEY from_id (from_id),
  KEY to_id (to_id),
  KEY created_by (created_by),
  FOREIGN KEY (from_id) REFERENCES branch (id),
  FOREIGN KEY (to_id) REFERENCES branch (id),
  FOREIGN KEY (created_by) REFERENCES user (id)
) ENGINE=InnoDB;

CREATE TABLE sending_line (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  sending_id bigint(20) unsigned NOT NULL,
  variant_id bigint(20) unsigned NOT NULL,
  lot_id bigint(20) unsigned NOT NULL DEFAULT 0,
  `condition` varchar(20) NOT NULL,
  wanted decimal(18,3) NOT NULL DEFAULT 0.000,
  packed decimal(18,3) NOT NULL DEFAULT 0.000,
  sent decimal(18,3) NOT NULL DEFAULT 0.000,
  here decimal(18,3) NOT NULL DEFAULT 0.000,
  arrived decimal(18,3) NOT NULL DEFAULT 0.000,
  back decimal(18,3) NOT NULL DEFAULT 0.000,
  lost decimal(18,3) NOT NULL DEFAULT 0.000,
  `over` decimal(18,3) NOT NULL DEFAULT 0.000,
  over_settled decimal(18,3) NOT NULL DEFAULT 0.000,
  numbers text NOT NULL DEFAULT '',
  here_numbers text NOT NULL DEFAULT '',
  ended text NOT NULL DEFAULT '',
  over_numbers text NOT NULL DEFAULT '',
  PRIMARY KEY (id),
  UNIQUE KEY sending_id (sending_id,variant_id,lot_id,`condition`),
  KEY variant_id (variant_id),
  FOREIGN KEY (sending_id) REFERENCES sending (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
) ENGINE=InnoDB;

CREATE TABLE sending_event (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  sending_id bigint(20) unsigned NOT NULL,
  what varchar(250) NOT NULL,
  at datetime(6) NOT NULL,
  user_id bigint(20) unsigned NOT NULL,
  document_id bigint(20) unsigned DEFAULT NULL,
  PRIMARY KEY (id),
  KEY document_id (document_id),
  KEY sending_id (sending_id),
  KEY user_id (user_id),
  FOREIGN KEY (sending_id) REFERENCES sending (id),
  FOREIGN KEY (user_id) REFERENCES user (id),
  FOREIGN KEY (document_id) REFERENCES document (id)
) ENGINE=InnoDB;
