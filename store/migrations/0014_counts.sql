-- shelf counts whole: what they are of, who counts, what is held still, what they came to
ALTER TABLE shelf_count MODIFY category_id BIGINT UNSIGNED NULL, ADD scope VARCHAR(400) NOT NULL DEFAULT '',
  ADD held_still BOOLEAN NOT NULL DEFAULT FALSE, ADD held_until DATETIME(6) NULL, ADD schedule_id BIGINT UNSIGNED NULL, ADD due_on DATE NULL,
  ADD given_up BOOLEAN NOT NULL DEFAULT FALSE, ADD closed_at DATETIME(6) NULL, ADD closed_by BIGINT UNSIGNED NULL,
  ADD counted_rows INT NOT NULL DEFAULT 0, ADD right_rows INT NOT NULL DEFAULT 0, ADD variance DECIMAL(18,3) NOT NULL DEFAULT 0,
  ADD value DECIMAL(20,4) NOT NULL DEFAULT 0, ADD INDEX (schedule_id, due_on), ADD INDEX (state, closed_at);
UPDATE shelf_count c JOIN category g ON g.id = c.category_id SET c.scope = g.path;
UPDATE shelf_count c JOIN document d ON d.id = c.document_id SET c.closed_at = d.recorded_at, c.closed_by = d.user_id;
UPDATE shelf_count c JOIN (SELECT shelf_count_id, COUNT(counted) AS counted, SUM(counted IS NOT NULL AND variance = 0) AS good, COALESCE(SUM(variance), 0) AS
  differs, COALESCE(SUM(value), 0) AS worth FROM count_row GROUP BY shelf_count_id) r ON r.shelf_count_id = c.id
  SET c.counted_rows = r.counted, c.right_rows = COALESCE(r.good, 0), c.variance = r.differs, c.value = r.worth WHERE c.state = 'Closed';
CREATE TABLE count_counter (
  shelf_count_id BIGINT UNSIGNED NOT NULL,
  user_id BIGINT UNSIGNED NOT NULL,
  position INT NOT NULL,
  PRIMARY KEY (shelf_count_id, user_id),
  FOREIGN KEY (shelf_count_id) REFERENCES shelf_count (id),
  FOREIGN KEY (user_id) REFERENCES user (id)
);
CREATE TABLE count_shelf (
  shelf_count_id BIGINT UNSIGNED NOT NULL,
  shelf_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (shelf_count_id, shelf_id),
  FOREIGN KEY (shelf_count_id) REFERENCES shelf_count (id),
  FOREIGN KEY (shelf_id) REFERENCES shelf (id)
);
ALTER TABLE count_row ADD held BOOLEAN NOT NULL DEFAULT FALSE, ADD chosen_by BIGINT UNSIGNED NULL, ADD INDEX held (held, variant_id);
ALTER TABLE count_event ADD unexpected BOOLEAN NOT NULL DEFAULT FALSE, ADD INDEX in_order (shelf_count_id, id);
-- counts that come round
CREATE TABLE count_schedule (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(80) NOT NULL,
  branch_id BIGINT UNSIGNED NOT NULL,
  category_id BIGINT UNSIGNED NULL,
  every VARCHAR(10) NOT NULL,
  n INT NOT NULL,
  anchor INT NOT NULL,
  user_id BIGINT UNSIGNED NOT NULL,
  next_on DATE NOT NULL,
  per_day INT NOT NULL DEFAULT 0,
  days_a INT NOT NULL DEFAULT 30,
  days_b INT NOT NULL DEFAULT 90,
  days_c INT NOT NULL DEFAULT 180,
  closed BOOLEAN NOT NULL DEFAULT FALSE,
  INDEX (next_on),
  FOREIGN KEY (branch_id) REFERENCES branch (id),
  FOREIGN KEY (category_id) REFERENCES category (id),
  FOREIGN KEY (user_id) REFERENCES user (id)
);
-- the secret address of a person's calendar
CREATE TABLE calendar_key (
  user_id BIGINT UNSIGNED PRIMARY KEY,
  key_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE,
  created_at DATETIME(6) NOT NULL,
  FOREIGN KEY (user_id) REFERENCES user (id)
);
