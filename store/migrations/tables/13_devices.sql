-- What the simulated printers, mailbox and card terminal have.

CREATE TABLE device (
  name varchar(40) NOT NULL,
  state varchar(40) NOT NULL,
  PRIMARY KEY (name)
) ENGINE=InnoDB;

CREATE TABLE print_job (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  device varchar(40) NOT NULL,
  title varchar(120) NOT NULL,
  pages mediumtext NOT NULL,
  at datetime(6) NOT NULL,
  PRIMARY KEY (id),
  KEY title (title)
) ENGINE=InnoDB;

CREATE TABLE mail (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  at datetime(6) NOT NULL,
  recipient varchar(254) NOT NULL,
  subject varchar(250) NOT NULL,
  raw longblob NOT NULL,
  PRIMARY KEY (id)
) ENGINE=InnoDB;

CREATE TABLE card_charge (
  reference varchar(160) COLLATE utf8mb4_bin NOT NULL,
  amount decimal(20,4) NOT NULL,
  state varchar(20) NOT NULL,
  at datetime(6) NOT NULL,
  PRIMARY KEY (reference),
  KEY state (state,at)
) ENGINE=InnoDB;
