-- the shop's own list of the conditions that goods can be in
CREATE TABLE stock_condition (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  name VARCHAR(20) NOT NULL,
  name_key VARCHAR(80) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL UNIQUE,
  position INT NOT NULL DEFAULT 0,
  holder BOOLEAN NOT NULL DEFAULT FALSE,
  days INT NULL,
  closed BOOLEAN NOT NULL DEFAULT FALSE
);
INSERT INTO stock_condition (name, name_key, position, holder, days) VALUES ('For sale', 'for sale', 0, FALSE, NULL), ('Seconds', 'seconds', 1, FALSE, 60),
  ('To look over', 'to look over', 2, FALSE, 3), ('Lent', 'lent', 3, TRUE, 30), ('In repair', 'in repair', 4, FALSE, 21), ('For scrap', 'for scrap', 5, FALSE, 14);
CREATE TRIGGER condition_insert AFTER INSERT ON stock_condition FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER condition_update AFTER UPDATE ON stock_condition FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER condition_delete AFTER DELETE ON stock_condition FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
-- with whom goods are, and until when
CREATE TABLE held_by (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  document_id BIGINT UNSIGNED NOT NULL,
  variant_id BIGINT UNSIGNED NOT NULL,
  branch_id BIGINT UNSIGNED NOT NULL,
  lot_id BIGINT UNSIGNED NOT NULL DEFAULT 0,
  `condition` VARCHAR(20) NOT NULL,
  serials TEXT NOT NULL DEFAULT '',
  quantity DECIMAL(18,3) NOT NULL,
  with_whom VARCHAR(80) NOT NULL,
  back_by DATE NULL,
  INDEX (variant_id, branch_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);
