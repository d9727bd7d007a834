-- Kinds of label.

CREATE TABLE label_template (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  name varchar(80) NOT NULL,
  body mediumtext NOT NULL,
  name_key varchar(250) COLLATE utf8mb4_bin NOT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY name_key (name_key)
) ENGINE=InnoDB;
