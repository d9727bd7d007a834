-- Customers.

CREATE TABLE customer (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  name varchar(80) NOT NULL,
  name_key varchar(250) COLLATE utf8mb4_bin NOT NULL,
  mail varchar(254) NOT NULL DEFAULT '',
  mail_key varchar(254) COLLATE utf8mb4_bin NOT NULL DEFAULT '',
  phone varchar(40) NOT NULL DEFAULT '',
  phone_key varchar(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  address varchar(400) NOT NULL DEFAULT '',
  note varchar(400) NOT NULL DEFAULT '',
  price_list_id bigint(20) unsigned DEFAULT NULL,
  days_to_pay int(11) DEFAULT NULL,
  created_at datetime(6) NOT NULL,
  forgotten_at datetime(6) DEFAULT NULL,
  merged_into bigint(20) unsigned DEFAULT NULL,
  revision bigint(20) unsigned NOT NULL DEFAULT 1,
  PRIMARY KEY (id),
  KEY by_name (name_key),
  KEY by_mail (mail_key),
  KEY by_phone (phone_key),
  KEY price_list_id (price_list_id),
  KEY merged_into (merged_into),
  FOREIGN KEY (price_list_id) REFERENCES price_list (id),
  FOREIGN KEY (merged_into) REFERENCES customer (id)
) ENGINE=InnoDB;
