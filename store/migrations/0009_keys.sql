-- the keys of 0008 are filled in: they are what is unique from now on
ALTER TABLE branch MODIFY name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, DROP KEY name, ADD UNIQUE (name_key);
ALTER TABLE shelf MODIFY name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, DROP KEY branch_id, ADD UNIQUE branch_id (branch_id, name_key);
ALTER TABLE tax_class MODIFY name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, DROP KEY name, ADD UNIQUE (name_key);
ALTER TABLE supplier MODIFY name_key VARCHAR(370) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, DROP KEY name, ADD UNIQUE (name_key);
ALTER TABLE category MODIFY path_key VARCHAR(700) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, DROP KEY path, ADD UNIQUE (path_key);
ALTER TABLE product MODIFY name_key VARCHAR(370) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, DROP KEY name, DROP KEY name_3, ADD KEY name (name, id), ADD UNIQUE (name_key);
ALTER TABLE value_set MODIFY name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, DROP KEY name, ADD UNIQUE (name_key);
ALTER TABLE set_value MODIFY name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, DROP KEY value_set_id, ADD UNIQUE value_set_id (value_set_id, name_key);
ALTER TABLE price_list MODIFY name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, DROP KEY name, ADD UNIQUE (name_key);
ALTER TABLE pack MODIFY name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, DROP KEY product_id, ADD UNIQUE product_id (product_id, name_key);
ALTER TABLE product_attribute MODIFY name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, DROP PRIMARY KEY, ADD PRIMARY KEY (product_id, name_key), DROP KEY name, ADD KEY name (name_key, value);
ALTER TABLE label_template MODIFY name_key VARCHAR(250) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, DROP KEY name, ADD UNIQUE (name_key);
ALTER TABLE saved_view MODIFY name_key VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, DROP KEY user_id, ADD UNIQUE user_id (user_id, name_key);
ALTER TABLE unit ADD live_product_id BIGINT UNSIGNED AS (IF(state = 'undone', NULL, product_id)) PERSISTENT, ADD UNIQUE one_of_a_product (live_product_id, number);
DROP TABLE IF EXISTS goose_db_version;
