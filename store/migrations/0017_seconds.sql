-- conditions that goods are sold in apart from new, at a price of their own
ALTER TABLE stock_condition ADD sold BOOLEAN NOT NULL DEFAULT FALSE, ADD percent DECIMAL(7,4) NULL;
UPDATE stock_condition SET sold = TRUE WHERE name = 'For sale';
UPDATE stock_condition SET sold = TRUE, percent = 20 WHERE name = 'Seconds';
CREATE TABLE condition_price (
  variant_id BIGINT UNSIGNED NOT NULL,
  `condition` VARCHAR(20) NOT NULL,
  amount DECIMAL(20,4) NULL,
  percent DECIMAL(7,4) NULL,
  PRIMARY KEY (variant_id, `condition`),
  FOREIGN KEY (variant_id) REFERENCES variant (id) ON DELETE CASCADE
);
ALTER TABLE basket_line ADD `condition` VARCHAR(20) NOT NULL DEFAULT 'For sale';
-- of a sale: which condition was sold, and which lots were passed over for the one that was chosen
ALTER TABLE sale_line ADD `condition` VARCHAR(20) NOT NULL DEFAULT 'For sale', ADD passed_over VARCHAR(250) NOT NULL DEFAULT '';
