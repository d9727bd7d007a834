-- what is compared as a key stands in a column of its own, compared by its bytes: core/text says what is the same
ALTER TABLE branch ADD name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL;
ALTER TABLE shelf ADD name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL;
ALTER TABLE tax_class ADD name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL;
ALTER TABLE supplier ADD name_key VARCHAR(370) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL;
ALTER TABLE category ADD path_key VARCHAR(700) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL;
ALTER TABLE product ADD name_key VARCHAR(370) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL;
ALTER TABLE value_set ADD name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL;
ALTER TABLE set_value ADD name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL;
ALTER TABLE price_list ADD name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL;
ALTER TABLE pack ADD name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL;
ALTER TABLE product_attribute ADD name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL;
ALTER TABLE label_template ADD name_key VARCHAR(250) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL;
ALTER TABLE saved_view ADD name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL;
-- these hold keys themselves
ALTER TABLE user MODIFY login VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL;
ALTER TABLE column_match MODIFY head VARCHAR(80) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL;
ALTER TABLE delivery MODIFY posted_number VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NULL;
ALTER TABLE variant MODIFY sku VARCHAR(40) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  MODIFY label VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL;
ALTER TABLE barcode MODIFY code_key VARCHAR(48) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL;
ALTER TABLE document MODIFY number VARCHAR(30) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL;
ALTER TABLE lot MODIFY number VARCHAR(40) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL;
ALTER TABLE entry MODIFY serial VARCHAR(40) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '';
ALTER TABLE count_event MODIFY serial VARCHAR(40) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '';
ALTER TABLE delivery_line MODIFY lot_number VARCHAR(40) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL DEFAULT '',
  ADD INDEX in_order (delivery_id, id);
ALTER TABLE delivery_line DROP KEY delivery_id;
-- a number belongs to a product: one of its variants has it, unless its delivery was undone
ALTER TABLE unit MODIFY number VARCHAR(40) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
  ADD product_id BIGINT UNSIGNED NULL;
-- SKUs and barcodes are one name space
CREATE TABLE scan_key (
  k VARCHAR(48) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin PRIMARY KEY,
  variant_id BIGINT UNSIGNED NOT NULL,
  barcode_id BIGINT UNSIGNED NULL,
  FOREIGN KEY (variant_id) REFERENCES variant (id) ON DELETE CASCADE,
  FOREIGN KEY (barcode_id) REFERENCES barcode (id) ON DELETE CASCADE
);
-- a scan that says a lot means that one
ALTER TABLE basket_line ADD lot_id BIGINT UNSIGNED NOT NULL DEFAULT 0;
-- a delivery is begun before its supplier is known, has a day of its own, and asks for what a line costs
ALTER TABLE delivery MODIFY supplier_id BIGINT UNSIGNED NULL, ADD came_on DATE NULL,
  ADD extra_tax_class_id BIGINT UNSIGNED NULL, ADD extra_percent DECIMAL(7,4) NOT NULL DEFAULT 0,
  ADD FOREIGN KEY (extra_tax_class_id) REFERENCES tax_class (id);
ALTER TABLE delivery_line MODIFY cost DECIMAL(20,6) NULL;
-- people come and go, work at branches, and sign in so many times
ALTER TABLE user ADD closed_at DATETIME(6) NULL, ADD version BIGINT UNSIGNED NOT NULL DEFAULT 1;
CREATE TABLE user_branch (
  user_id BIGINT UNSIGNED NOT NULL,
  branch_id BIGINT UNSIGNED NOT NULL,
  PRIMARY KEY (user_id, branch_id),
  FOREIGN KEY (user_id) REFERENCES user (id),
  FOREIGN KEY (branch_id) REFERENCES branch (id)
);
INSERT INTO user_branch (user_id, branch_id) SELECT id, branch_id FROM user;
ALTER TABLE api_token ADD name VARCHAR(60) NOT NULL DEFAULT '', ADD expires_at DATETIME(6) NULL;
CREATE TABLE sign_in_try (
  k CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
  slot BIGINT NOT NULL,
  n INT UNSIGNED NOT NULL,
  PRIMARY KEY (k, slot),
  INDEX (slot)
);
-- what came in after a row was counted is told from what was there
ALTER TABLE count_event ADD last_entry_id BIGINT UNSIGNED NOT NULL DEFAULT 0;
-- a receipt is looked for by its title
ALTER TABLE print_job ADD INDEX title (title);
-- many numbers go on one line
ALTER TABLE basket_line MODIFY serials TEXT NOT NULL DEFAULT '';
ALTER TABLE sale_line MODIFY serials TEXT NOT NULL DEFAULT '';
ALTER TABLE return_line MODIFY serials TEXT NOT NULL DEFAULT '';
ALTER TABLE sale_part MODIFY serials TEXT NOT NULL DEFAULT '';
-- the day goods came in, where it is not the document's
ALTER TABLE entry ADD came_on DATE NULL;
