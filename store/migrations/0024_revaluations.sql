-- By how much a document changed what goods cost that a line of another brought, so that it can be undone whatever
-- became of them; and which line brought a layer.
CREATE TABLE revaluation (
  document_id bigint(20) unsigned NOT NULL,
  of_document_id bigint(20) unsigned NOT NULL,
  line int(11) NOT NULL,
  variant_id bigint(20) unsigned NOT NULL,
  amount decimal(24,8) NOT NULL,
  PRIMARY KEY (document_id,of_document_id,line,variant_id),
  KEY of_document_id (of_document_id),
  KEY variant_id (variant_id),
  FOREIGN KEY (document_id) REFERENCES document (id),
  FOREIGN KEY (of_document_id) REFERENCES document (id),
  FOREIGN KEY (variant_id) REFERENCES variant (id)
) ENGINE=InnoDB;
INSERT INTO revaluation (document_id, of_document_id, line, variant_id, amount) SELECT e.document_id, e.of_document_id, e.line, e.variant_id, SUM(e.value) FROM entry e WHERE e.of_document_id IS NOT NULL AND e.quantity = 0 GROUP BY e.document_id, e.of_document_id, e.line, e.variant_id;
ALTER TABLE cost_layer ADD COLUMN line int(11) NOT NULL DEFAULT 0;
UPDATE cost_layer l SET line = COALESCE((SELECT MIN(e.line) FROM entry e WHERE e.document_id = l.document_id AND e.variant_id = l.variant_id AND e.quantity > 0), 0);
