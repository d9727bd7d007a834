-- +goose Up
-- what one weighs, in kg, for costs that are spread by weight; a restock level that follows
-- what is on hand after a delivery; and how long before its expiry a lot is told
ALTER TABLE lot ADD INDEX by_expiry (expiry);
ALTER TABLE variant ADD after_delivery DECIMAL(18,3) NULL;
ALTER TABLE product ADD weight DECIMAL(12,3) NULL, ADD restock_percent DECIMAL(7,4) NULL, ADD expiry_days INT NULL;
-- what of an order's changes tells costs, for those who may see them
ALTER TABLE purchase_order_event ADD costs TEXT NOT NULL DEFAULT '';
UPDATE purchase_order_event SET costs = detail, detail = '' WHERE what = 'Changed' AND detail LIKE '% less %';
-- a delivery that is scanned in the hand: the key of the device's, where its next goods go,
-- and what was scanned last
ALTER TABLE delivery ADD hand_key VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NULL UNIQUE,
  ADD hand_shelf_id BIGINT UNSIGNED NULL, ADD hand_variant_id BIGINT UNSIGNED NULL,
  ADD FOREIGN KEY hand_shelf (hand_shelf_id) REFERENCES shelf (id),
  ADD FOREIGN KEY hand_variant (hand_variant_id) REFERENCES variant (id);
-- what suppliers offer, as their catalogs say it
CREATE TABLE catalog_item (
  id BIGINT UNSIGNED AUTO_INCREMENT PRIMARY KEY,
  supplier_id BIGINT UNSIGNED NOT NULL,
  part_number VARCHAR(60) NOT NULL DEFAULT '',
  item_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  gtin VARCHAR(14) NOT NULL DEFAULT '',
  gtin_key VARCHAR(48) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
  name VARCHAR(120) NOT NULL,
  brand VARCHAR(80) NOT NULL DEFAULT '',
  cost DECIMAL(20,6) NULL,
  pack VARCHAR(60) NOT NULL DEFAULT '',
  factor DECIMAL(18,3) NOT NULL DEFAULT 1,
  suggested DECIMAL(20,4) NULL,
  from_on DATE NULL,
  read_at DATETIME(6) NOT NULL,
  variant_id BIGINT UNSIGNED NULL,
  UNIQUE (supplier_id, item_key),
  INDEX by_gtin (gtin_key),
  INDEX by_name (supplier_id, name),
  INDEX of_variant (supplier_id, variant_id),
  FOREIGN KEY (supplier_id) REFERENCES supplier (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
);

-- +goose Down
ALTER TABLE purchase_order_event DROP costs;
DROP TABLE catalog_item;
ALTER TABLE delivery DROP FOREIGN KEY hand_shelf, DROP FOREIGN KEY hand_variant, DROP hand_key, DROP hand_shelf_id, DROP hand_variant_id;
ALTER TABLE lot DROP KEY by_expiry;
ALTER TABLE variant DROP after_delivery;
ALTER TABLE product DROP weight, DROP restock_percent, DROP expiry_days;
