-- +goose Up
-- counts the changes of what most deeds read and few write, so that a copy of it can be told to be of today
CREATE TABLE house_change (
  id TINYINT UNSIGNED PRIMARY KEY,
  n BIGINT UNSIGNED NOT NULL
);
INSERT INTO house_change (id, n) VALUES (1, 1);
CREATE TRIGGER category_insert AFTER INSERT ON category FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER category_update AFTER UPDATE ON category FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER category_delete AFTER DELETE ON category FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER supplier_insert AFTER INSERT ON supplier FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER supplier_update AFTER UPDATE ON supplier FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER supplier_delete AFTER DELETE ON supplier FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER price_list_insert AFTER INSERT ON price_list FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER price_list_update AFTER UPDATE ON price_list FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER price_list_delete AFTER DELETE ON price_list FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER tax_class_insert AFTER INSERT ON tax_class FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER tax_class_update AFTER UPDATE ON tax_class FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER tax_class_delete AFTER DELETE ON tax_class FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER tax_rate_insert AFTER INSERT ON tax_rate FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER tax_rate_update AFTER UPDATE ON tax_rate FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER tax_rate_delete AFTER DELETE ON tax_rate FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER shelf_insert AFTER INSERT ON shelf FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER shelf_update AFTER UPDATE ON shelf FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER shelf_delete AFTER DELETE ON shelf FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
-- a price that was to begin later when it was written: lists wait for it
ALTER TABLE price ADD later BOOLEAN NOT NULL DEFAULT FALSE, ADD INDEX (later, from_at);
UPDATE price SET later = TRUE WHERE from_at > UTC_TIMESTAMP();
-- the order of lists by product, without looking at a row
CREATE INDEX in_order ON variant (product_id, id);

-- +goose Down
DROP INDEX in_order ON variant;
ALTER TABLE price DROP later;
DROP TRIGGER category_insert;
DROP TRIGGER category_update;
DROP TRIGGER category_delete;
DROP TRIGGER supplier_insert;
DROP TRIGGER supplier_update;
DROP TRIGGER supplier_delete;
DROP TRIGGER price_list_insert;
DROP TRIGGER price_list_update;
DROP TRIGGER price_list_delete;
DROP TRIGGER tax_class_insert;
DROP TRIGGER tax_class_update;
DROP TRIGGER tax_class_delete;
DROP TRIGGER tax_rate_insert;
DROP TRIGGER tax_rate_update;
DROP TRIGGER tax_rate_delete;
DROP TRIGGER shelf_insert;
DROP TRIGGER shelf_update;
DROP TRIGGER shelf_delete;
DROP TABLE house_change;
