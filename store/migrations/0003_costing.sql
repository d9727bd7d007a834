-- +goose Up
CREATE TABLE cost_layer (
  variant_id BIGINT UNSIGNED NOT NULL,
  position INT NOT NULL,
  document_id BIGINT UNSIGNED NOT NULL,
  quantity DECIMAL(18,3) NOT NULL,
  value DECIMAL(18,2) NOT NULL,
  PRIMARY KEY (variant_id, position),
  FOREIGN KEY (variant_id) REFERENCES variant (id),
  FOREIGN KEY (document_id) REFERENCES document (id)
);
ALTER TABLE cost_pool ADD INDEX (quantity), ADD INDEX (for_sale), ADD INDEX (value);
ALTER TABLE document ADD INDEX (recorded_at);
ALTER TABLE ticket_line ADD labelled BOOLEAN NOT NULL DEFAULT FALSE;

-- +goose Down
ALTER TABLE ticket_line DROP COLUMN labelled;
ALTER TABLE document DROP KEY recorded_at;
ALTER TABLE cost_pool DROP KEY quantity, DROP KEY for_sale, DROP KEY value;
DROP TABLE cost_layer;
