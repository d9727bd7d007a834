-- Lists that are read in, and views of lists.

CREATE TABLE import_job (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  kind varchar(12) NOT NULL,
  name varchar(200) NOT NULL,
  size bigint(20) NOT NULL DEFAULT 0,
  state varchar(12) NOT NULL,
  dry_run tinyint(1) NOT NULL DEFAULT 1,
  user_id bigint(20) unsigned NOT NULL,
  branch_id bigint(20) unsigned NOT NULL,
  created_at datetime(6) NOT NULL,
  seen_at datetime(6) NOT NULL,
  matching text NOT NULL DEFAULT '',
  done int(11) NOT NULL DEFAULT 0,
  total int(11) NOT NULL DEFAULT 0,
  made int(11) NOT NULL DEFAULT 0,
  changed int(11) NOT NULL DEFAULT 0,
  same int(11) NOT NULL DEFAULT 0,
  refused int(11) NOT NULL DEFAULT 0,
  pictures int(11) NOT NULL DEFAULT 0,
  says varchar(1000) NOT NULL DEFAULT '',
  document_number varchar(30) NOT NULL DEFAULT '',
  PRIMARY KEY (id),
  KEY state (state,seen_at),
  KEY user_id (user_id),
  KEY branch_id (branch_id),
  FOREIGN KEY (user_id) REFERENCES user (id),
  FOREIGN KEY (branch_id) REFERENCES branch (id)
) ENGINE=InnoDB;

CREATE TABLE import_chunk (
  import_id bigint(20) unsigned NOT NULL,
  part varchar(8) NOT NULL,
  n int(11) NOT NULL,
  data mediumblob NOT NULL,
  PRIMARY KEY (import_id,part,n),
  FOREIGN KEY (import_id) REFERENCES import_job (id) ON DELETE CASCADE
) ENGINE=InnoDB;

CREATE TABLE import_row (
  import_id bigint(20) unsigned NOT NULL,
  line int(11) NOT NULL,
  outcome varchar(8) NOT NULL,
  product varchar(120) NOT NULL,
  variant varchar(190) NOT NULL,
  sku varchar(40) NOT NULL,
  detail varchar(1000) NOT NULL DEFAULT '',
  field varchar(60) NOT NULL DEFAULT '',
  want varchar(500) NOT NULL DEFAULT '',
  record text NOT NULL DEFAULT '',
  PRIMARY KEY (import_id,line),
  KEY import_id (import_id,outcome,line),
  FOREIGN KEY (import_id) REFERENCES import_job (id) ON DELETE CASCADE
) ENGINE=InnoDB;

CREATE TABLE column_match (
  kind varchar(12) NOT NULL,
  head varchar(80) COLLATE utf8mb4_bin NOT NULL,
  name varchar(80) NOT NULL,
  PRIMARY KEY (kind,head)
) ENGINE=InnoDB;

CREATE TABLE saved_view (
  id bigint(20) unsigned NOT NULL AUTO_INCREMENT,
  user_id bigint(20) unsigned NOT NULL,
  name varchar(60) NOT NULL,
  query varchar(2000) NOT NULL,
  name_key varchar(190) COLLATE utf8mb4_bin NOT NULL,
  PRIMARY KEY (id),
  UNIQUE KEY user_id (user_id,name_key),
  FOREIGN KEY (user_id) REFERENCES user (id)
) ENGINE=InnoDB;
