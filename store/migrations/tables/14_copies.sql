-- What says that copies of seldom changed rows are old: a count of the changes of the house, and a stamp for each product.

CREATE TABLE house_change (
  id tinyint(3) unsigned NOT NULL,
  n bigint(20) unsigned NOT NULL,
  PRIMARY KEY (id)
) ENGINE=InnoDB;

CREATE TABLE product_change (
  product_id bigint(20) unsigned NOT NULL,
  stamp bigint(20) unsigned NOT NULL,
  PRIMARY KEY (product_id)
) ENGINE=InnoDB;

INSERT INTO house_change (id, n) VALUES (1,4);

CREATE TRIGGER barcode_delete AFTER DELETE ON barcode FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id = OLD.variant_id;

CREATE TRIGGER barcode_insert AFTER INSERT ON barcode FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id = NEW.variant_id;

CREATE TRIGGER barcode_update AFTER UPDATE ON barcode FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id IN (OLD.variant_id, NEW.variant_id);

CREATE TRIGGER branch_delete AFTER DELETE ON branch FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER branch_insert AFTER INSERT ON branch FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER branch_update AFTER UPDATE ON branch FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER branch_way_delete AFTER DELETE ON branch_way FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER branch_way_insert AFTER INSERT ON branch_way FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER branch_way_update AFTER UPDATE ON branch_way FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER bundle_part_delete AFTER DELETE ON bundle_part FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id = OLD.variant_id;

CREATE TRIGGER bundle_part_insert AFTER INSERT ON bundle_part FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id = NEW.variant_id;

CREATE TRIGGER bundle_part_update AFTER UPDATE ON bundle_part FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id IN (OLD.variant_id, NEW.variant_id);

CREATE TRIGGER category_delete AFTER DELETE ON category FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER category_insert AFTER INSERT ON category FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER category_update AFTER UPDATE ON category FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER condition_price_delete AFTER DELETE ON condition_price FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id = OLD.variant_id;

CREATE TRIGGER condition_price_insert AFTER INSERT ON condition_price FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id = NEW.variant_id;

CREATE TRIGGER condition_price_update AFTER UPDATE ON condition_price FOR EACH ROW UPDATE product_change c JOIN variant v ON v.product_id = c.product_id SET c.stamp = UUID_SHORT() WHERE v.id IN (OLD.variant_id, NEW.variant_id);

CREATE TRIGGER device_delete AFTER DELETE ON device FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER device_insert AFTER INSERT ON device FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER device_update AFTER UPDATE ON device FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER pack_delete AFTER DELETE ON pack FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id = OLD.product_id;

CREATE TRIGGER pack_insert AFTER INSERT ON pack FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id = NEW.product_id;

CREATE TRIGGER pack_update AFTER UPDATE ON pack FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id IN (OLD.product_id, NEW.product_id);

CREATE TRIGGER price_delete AFTER DELETE ON price FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id = OLD.product_id;

CREATE TRIGGER price_insert AFTER INSERT ON price FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id = NEW.product_id;

CREATE TRIGGER price_update AFTER UPDATE ON price FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id IN (OLD.product_id, NEW.product_id);

CREATE TRIGGER price_list_delete AFTER DELETE ON price_list FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER price_list_insert AFTER INSERT ON price_list FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER price_list_update AFTER UPDATE ON price_list FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER product_delete AFTER DELETE ON product FOR EACH ROW DELETE FROM product_change WHERE product_id = OLD.id;

CREATE TRIGGER product_insert AFTER INSERT ON product FOR EACH ROW INSERT INTO product_change (product_id, stamp) VALUES (NEW.id, UUID_SHORT());

CREATE TRIGGER product_update AFTER UPDATE ON product FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id = NEW.id;

CREATE TRIGGER register_delete AFTER DELETE ON register FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER register_insert AFTER INSERT ON register FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER register_update AFTER UPDATE ON register FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER setting_delete AFTER DELETE ON setting FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER setting_insert AFTER INSERT ON setting FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER setting_update AFTER UPDATE ON setting FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER shelf_delete AFTER DELETE ON shelf FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER shelf_insert AFTER INSERT ON shelf FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER shelf_update AFTER UPDATE ON shelf FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER shelf_count_delete AFTER DELETE ON shelf_count FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1 AND OLD.held_still;

CREATE TRIGGER shelf_count_insert AFTER INSERT ON shelf_count FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1 AND NEW.held_still;

CREATE TRIGGER shelf_count_update AFTER UPDATE ON shelf_count FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1 AND (OLD.held_still <> NEW.held_still OR NEW.held_still AND OLD.state <> NEW.state);

CREATE TRIGGER condition_delete AFTER DELETE ON stock_condition FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER condition_insert AFTER INSERT ON stock_condition FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER condition_update AFTER UPDATE ON stock_condition FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER supplier_delete AFTER DELETE ON supplier FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER supplier_insert AFTER INSERT ON supplier FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER supplier_update AFTER UPDATE ON supplier FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER tax_class_delete AFTER DELETE ON tax_class FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER tax_class_insert AFTER INSERT ON tax_class FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER tax_class_update AFTER UPDATE ON tax_class FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER tax_rate_delete AFTER DELETE ON tax_rate FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER tax_rate_insert AFTER INSERT ON tax_rate FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER tax_rate_update AFTER UPDATE ON tax_rate FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER user_delete AFTER DELETE ON user FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER user_insert AFTER INSERT ON user FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER user_update AFTER UPDATE ON user FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1 AND NOT (OLD.login <=> NEW.login AND OLD.name <=> NEW.name AND OLD.role <=> NEW.role AND OLD.branch_id <=> NEW.branch_id AND OLD.closed_at <=> NEW.closed_at AND OLD.version <=> NEW.version);

CREATE TRIGGER user_branch_delete AFTER DELETE ON user_branch FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER user_branch_insert AFTER INSERT ON user_branch FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER user_branch_update AFTER UPDATE ON user_branch FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;

CREATE TRIGGER variant_delete AFTER DELETE ON variant FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id = OLD.product_id;

CREATE TRIGGER variant_update AFTER UPDATE ON variant FOR EACH ROW UPDATE product_change SET stamp = UUID_SHORT() WHERE product_id IN (OLD.product_id, NEW.product_id);
