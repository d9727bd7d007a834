-- a stamp for each product, another one at every change of what a register has to know of it, so that a copy of
-- that can be told to be of today. No stamp ever comes twice, not even one that was rolled back. A variant that is new
-- changes nothing of the others.
CREATE TABLE product_change (
  product_id BIGINT UNSIGNED PRIMARY KEY,
  stamp BIGINT UNSIGNED NOT NULL
);
INSERT INTO product_change (product_id, stamp) SELECT id, UUID_SHORT() FROM product;
CREATE TRIGGER product_insert AFTER INSERT ON product FOR EACH ROW INSERT INTO product_change (product_id, stamp) VALUES (NEW.id, UUID_SHORT());
CREATE TRIGGER product_update AFTER UPDATE ON product FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id = NEW.id;
CREATE TRIGGER product_delete AFTER DELETE ON product FOR EACH ROW DELETE FROM product_change WHERE product_id = OLD.id;
CREATE TRIGGER variant_update AFTER UPDATE ON variant FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id IN (OLD.product_id, NEW.product_id);
CREATE TRIGGER variant_delete AFTER DELETE ON variant FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id = OLD.product_id;
CREATE TRIGGER price_insert AFTER INSERT ON price FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id = NEW.product_id;
CREATE TRIGGER price_update AFTER UPDATE ON price FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id IN (OLD.product_id, NEW.product_id);
CREATE TRIGGER price_delete AFTER DELETE ON price FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id = OLD.product_id;
CREATE TRIGGER pack_insert AFTER INSERT ON pack FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id = NEW.product_id;
CREATE TRIGGER pack_update AFTER UPDATE ON pack FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id IN (OLD.product_id, NEW.product_id);
CREATE TRIGGER pack_delete AFTER DELETE ON pack FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id = OLD.product_id;
CREATE TRIGGER barcode_insert AFTER INSERT ON barcode FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id = NEW.variant_id;
CREATE TRIGGER barcode_update AFTER UPDATE ON barcode FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id IN (OLD.variant_id, NEW.variant_id);
CREATE TRIGGER barcode_delete AFTER DELETE ON barcode FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id = OLD.variant_id;
CREATE TRIGGER condition_price_insert AFTER INSERT ON condition_price FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id = NEW.variant_id;
CREATE TRIGGER condition_price_update AFTER UPDATE ON condition_price FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id IN (OLD.variant_id, NEW.variant_id);
CREATE TRIGGER condition_price_delete AFTER DELETE ON condition_price FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id = OLD.variant_id;
CREATE TRIGGER bundle_part_insert AFTER INSERT ON bundle_part FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id = NEW.variant_id;
CREATE TRIGGER bundle_part_update AFTER UPDATE ON bundle_part FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id IN (OLD.variant_id, NEW.variant_id);
CREATE TRIGGER bundle_part_delete AFTER DELETE ON bundle_part FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id = OLD.variant_id;
-- and settings, registers, devices, people and whether any count holds goods still are among what copies are kept of by the count of changes
CREATE TRIGGER setting_insert AFTER INSERT ON setting FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER setting_update AFTER UPDATE ON setting FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER setting_delete AFTER DELETE ON setting FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER register_insert AFTER INSERT ON register FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER register_update AFTER UPDATE ON register FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER register_delete AFTER DELETE ON register FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER shelf_count_insert AFTER INSERT ON shelf_count FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1 AND NEW.held_still;
CREATE TRIGGER shelf_count_update AFTER UPDATE ON shelf_count FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1 AND (OLD.held_still <> NEW.held_still OR NEW.held_still AND OLD.state <> NEW.state);
CREATE TRIGGER shelf_count_delete AFTER DELETE ON shelf_count FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1 AND OLD.held_still;
CREATE TRIGGER device_insert AFTER INSERT ON device FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER device_update AFTER UPDATE ON device FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER device_delete AFTER DELETE ON device FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER user_insert AFTER INSERT ON user FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER user_update AFTER UPDATE ON user FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1 AND NOT (OLD.login <=> NEW.login AND OLD.name <=> NEW.name AND OLD.role <=> NEW.role AND OLD.branch_id <=> NEW.branch_id AND OLD.closed_at <=> NEW.closed_at AND OLD.version <=> NEW.version);
CREATE TRIGGER user_delete AFTER DELETE ON user FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER user_branch_insert AFTER INSERT ON user_branch FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER user_branch_update AFTER UPDATE ON user_branch FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER user_branch_delete AFTER DELETE ON user_branch FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
