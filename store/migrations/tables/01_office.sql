-- The shop and its branches, who works there, and what it has said of itself.

CREATE TABLE branch (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  name varchar(60) NOT NULL,
  name_key varchar(190) COLLATE utf8mb4_bin NOT NULL,
  position int(11) NOT NULL DEFAULT 0,
  closed tinyint(1) NOT NULL DEFAULT 0,
  PRIMARY KEY (id),
  UNIQUE KEY name_key (name_key)
) ENGINE=InnoDB;

CREATE TABLE shelf (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  branch_id bigint(20) unsigned NOT NULL,
  name varchar(60) NOT NULL,
  is_default tinyint(1) NOT NULL DEFAULT 0,
  name_key varchar(190) COLLATE utf8mb4_bin NOT NULL,
  position int(11) NOT NULL DEFAULT 0,
  closed tinyint(1) NOT NULL DEFAULT 0,
  PRIMARY KEY (id),
  UNIQUE KEY branch_id (branch_id,name_key),
  FOREIGN KEY (branch_id) REFERENCES branch (id)
) ENGINE=InnoDB;

CREATE TABLE branch_way (
  from_id bigint(20) unsigned NOT NULL,
  to_id bigint(20) unsigned NOT NULL,
  minutes int(11) NOT NULL,
  PRIMARY KEY (from_id,to_id),
  KEY to_id (to_id),
  FOREIGN KEY (from_id) REFERENCES branch (id),
  FOREIGN KEY (to_id) REFERENCES branch (id)
) ENGINE=InnoDB;

CREATE TABLE user (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  login varchar(190) COLLATE utf8mb4_bin NOT NULL,
  name varchar(80) NOT NULL,
  password_hash varchar(200) NOT NULL,
  role varchar(20) NOT NULL,
  branch_id bigint(20) unsigned NOT NULL,
  closed_at datetime(6) DEFAULT NULL,
  version bigint(20) unsigned NOT NULL DEFAULT 1,
  pin_hash varchar(200) NOT NULL DEFAULT '',
  pin_wrong int(11) NOT NULL DEFAULT 0,
  pin_until datetime(6) DEFAULT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY login (login),
  KEY branch_id (branch_id),
  FOREIGN KEY (branch_id) REFERENCES branch (id)
) ENGINE=InnoDB;

CREATE TABLE user_branch (
  user_id bigint(20) unsigned NOT NULL,
  branch_id bigint(20) unsigned NOT NULL,
  PRIMARY KEY (user_id,branch_id),
  KEY branch_id (branch_id),
  FOREIGN KEY (user_id) REFERENCES user (id),
  FOREIGN KEY (branch_id) REFERENCES branch (id)
) ENGINE=InnoDB;

CREATE TABLE api_token (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  user_id bigint(20) unsigned NOT NULL,
  token_hash char(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  created_at datetime(6) NOT NULL,
  name varchar(60) NOT NULL DEFAULT '',
  expires_at datetime(6) DEFAULT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY token_hash (token_hash),
  KEY user_id (user_id),
  FOREIGN KEY (user_id) REFERENCES user (id)
) ENGINE=InnoDB;

CREATE TABLE calendar_key (
  user_id bigint(20) unsigned NOT NULL,
  key_hash char(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  created_at datetime(6) NOT NULL,
  PRIMARY KEY (user_id),
  UNIQUE KEY key_hash (key_hash),
  FOREIGN KEY (user_id) REFERENCES user (id)
) ENGINE=InnoDB;

CREATE TABLE setting (
  name varchar(60) NOT NULL,
  value varchar(250) NOT NULL,
  PRIMARY KEY (name)
) ENGINE=InnoDB;

CREATE TABLE web_session (
  k varchar(120) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  data blob NOT NULL,
  expires_at datetime(6) DEFAULT NULL,
  PRIMARY KEY (k),
  KEY expires_at (expires_at)
) ENGINE=InnoDB;

CREATE TABLE sign_in_try (
  k char(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  slot bigint(20) NOT NULL,
  n int(10) unsigned NOT NULL,
  PRIMARY KEY (k,slot),
  KEY slot (slot)
) ENGINE=InnoDB;

CREATE TABLE request_key (
  k varchar(160) COLLATE utf8mb4_bin NOT NULL,
  result mediumtext NOT NULL DEFAULT '',
  created_at datetime(6) NOT NULL,
  asked char(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  PRIMARY KEY (k),
  KEY created_at (created_at)
) ENGINE=InnoDB;

CREATE TABLE reason (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  kind varchar(12) NOT NULL,
  name varchar(60) NOT NULL,
  name_key varchar(190) COLLATE utf8mb4_bin NOT NULL,
  account varchar(30) NOT NULL,
  closed tinyint(1) NOT NULL DEFAULT 0,
  PRIMARY KEY (id),
  UNIQUE KEY kind (kind,name_key)
) ENGINE=InnoDB;

CREATE TABLE stock_condition (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  name varchar(20) NOT NULL,
  name_key varchar(80) COLLATE utf8mb4_bin NOT NULL,
  position int(11) NOT NULL DEFAULT 0,
  holder tinyint(1) NOT NULL DEFAULT 0,
  days int(11) DEFAULT NULL,
  closed tinyint(1) NOT NULL DEFAULT 0,
  sold tinyint(1) NOT NULL DEFAULT 0,
  percent decimal(7,4) DEFAULT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY name_key (name_key)
) ENGINE=InnoDB;

INSERT INTO reason (id, kind, name, name_key, account, closed) VALUES (1,'given off','End of season','end of season','income',0),
(2,'given off','Scratched or worn','scratched or worn','income',0),
(3,'given off','Regular customer','regular customer','given off',0),
(4,'given off','Staff','staff','given off',0),
(5,'price','Label was wrong','label was wrong','income',0),
(6,'price','Price agreed','price agreed','income',0),
(7,'put in','Change from the bank','change from the bank','bank',0),
(8,'put in','Owner\'s money','owner\'s money','owner',0),
(9,'taken out','To the bank','to the bank','bank',0),
(10,'taken out','Small expense','small expense','expenses',0),
(11,'taken out','Owner\'s money','owner\'s money','owner',0),
(12,'stock','Lost','lost','stock loss',0),
(13,'stock','Broken','broken','stock loss',0),
(14,'stock','Used in the shop','used in the shop','expenses',0),
(15,'stock','Found','found','stock gain',0),
(16,'stock','Counted wrong','counted wrong','stock loss',0);

INSERT INTO stock_condition (id, name, name_key, position, holder, days, closed, sold, percent) VALUES (1,'For sale','for sale',0,0,NULL,0,1,NULL),
(2,'Seconds','seconds',1,0,60,0,1,20.0000),
(3,'To look over','to look over',2,0,3,0,0,NULL),
(4,'Lent','lent',3,1,30,0,0,NULL),
(5,'In repair','in repair',4,0,21,0,0,NULL),
(6,'For scrap','for scrap',5,0,14,0,0,NULL);
