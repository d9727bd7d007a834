-- branches and shelves have an order, and are closed when they are given up
ALTER TABLE branch ADD position INT NOT NULL DEFAULT 0, ADD closed BOOLEAN NOT NULL DEFAULT FALSE;
ALTER TABLE shelf ADD position INT NOT NULL DEFAULT 0, ADD closed BOOLEAN NOT NULL DEFAULT FALSE;
-- goods between branches: what is wanted, packed, on the way, arrived
CREATE TABLE sending (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  number VARCHAR(30) NOT NULL UNIQUE,
  from_id BIGINT UNSIGNED NOT NULL,
  to_id BIGINT UNSIGNED NOT NULL,
  state VARCHAR(12) NOT NULL,
  wanted_on DATE NULL,
  note VARCHAR(250) NOT NULL DEFAULT '',
  created_by BIGINT UNSIGNED NOT NULL,
  created_at DATETIME(6) NOT NULL,
  INDEX (state, id),
  FOREIGN KEY (from_id) REFERENCES branch (id),
  FOREIGN KEY (to_id) REFERENCES branch (id),
  FOREIGN KEY (created_by) REFERENCES user (id)
);
CREATE TABLE sending_line (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  sending_id BIGINT UNSIGNED NOT NULL,
  variant_id BIGINT UNSIGNED NOT NULL,
  lot_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  `condition` VARCHAR(20) NOT NULL,
  wanted DECIMAL(18,3) NOT NULL DEFAULT 0,
  packed DECIMAL(18,3) NOT NULL DEFAULT 0,
  sent DECIMAL(18,3) NOT NULL DEFAULT 0,
  here DECIMAL(18,3) NOT NULL DEFAULT 0,
  arrived DECIMAL(18,3) NOT NULL DEFAULT 0,
  back DECIMAL(18,3) NOT NULL DEFAULT 0,
  lost DECIMAL(18,3) NOT NULL DEFAULT 0,
  `over` DECIMAL(18,3) NOT NULL DEFAULT 0,
  over_settled DECIMAL(18,3) NOT NULL DEFAULT 0,
  numbers TEXT NOT NULL DEFAULT '',
  here_numbers TEXT NOT NULL DEFAULT '',
  ended TEXT NOT NULL DEFAULT '',
  over_numbers TEXT NOT NULL DEFAULT '',
  UNIQUE (sending_id, variant_id, lot_id, `condition`),
  INDEX (variant_id),
  FOREIGN KEY (sending_id) REFERENCES sending (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);
-- the knots on a sending's thread
CREATE TABLE sending_event (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  sending_id BIGINT UNSIGNED NOT NULL,
  what VARCHAR(250) NOT NULL,
  at DATETIME(6) NOT NULL,
  user_id BIGINT UNSIGNED NOT NULL,
  document_id BIGINT UNSIGNED NULL,
  INDEX (document_id),
  FOREIGN KEY (sending_id) REFERENCES sending (id),
  FOREIGN KEY (user_id) REFERENCES user (id),
  FOREIGN KEY (document_id) REFERENCES document (id)
);
