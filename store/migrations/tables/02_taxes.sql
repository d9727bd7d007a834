-- Tax classes, and their rates over time.

CREATE TABLE tax_class (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  name varchar(40) NOT NULL,
  name_key varchar(190) COLLATE utf8mb4_bin NOT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY name_key (name_key)
) ENGINE=InnoDB;

CREATE TABLE tax_rate (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  tax_class_id bigint(20) unsigned NOT NULL,
  from_at datetime(6) NOT NULL,
  percent decimal(7,4) NOT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY tax_class_id (tax_class_id,from_at),
  FOREIGN KEY (tax_class_id) REFERENCES tax_class (id)
) ENGINE=InnoDB;
