-- What somebody who may said yes to on a basket: how far below its usual price a line may be sold, how much may be given
-- off all of it, its list. A line keeps its share of what was given off a basket that it was on, and its list where
-- that is another than its basket's.
ALTER TABLE basket ADD COLUMN granted decimal(20,4) NOT NULL DEFAULT 0, ADD COLUMN list_agreed tinyint(1) NOT NULL DEFAULT 0;
ALTER TABLE basket_line ADD COLUMN granted decimal(20,4) NOT NULL DEFAULT 0,
  ADD COLUMN granted_for decimal(18,3) NOT NULL DEFAULT 0,
  ADD COLUMN price_list_id bigint(20) unsigned NOT NULL DEFAULT 0,
  ADD COLUMN shared decimal(20,4) NOT NULL DEFAULT 0, ADD COLUMN shared_reason_id bigint(20) unsigned NOT NULL DEFAULT 0;
-- In which way what pays for something on the same basket had been paid itself.
ALTER TABLE tender ADD COLUMN via varchar(20) NOT NULL DEFAULT '';
-- What counts lock is not available any more.
UPDATE cost_pool c JOIN (SELECT DISTINCT r.variant_id FROM count_row r JOIN shelf_count h ON h.id = r.shelf_count_id WHERE r.held AND h.state <> 'Closed') x ON x.variant_id = c.variant_id SET c.for_sale = COALESCE((SELECT SUM(b.quantity) FROM balance b LEFT JOIN lot l ON l.id = b.lot_id WHERE b.variant_id = c.variant_id AND b.`condition` = 'For sale' AND (l.id IS NULL OR l.expiry >= COALESCE((SELECT value FROM setting WHERE name = 'expired_before'), '1000-01-01')) AND NOT EXISTS (SELECT 1 FROM count_row r JOIN shelf_count h ON h.id = r.shelf_count_id JOIN shelf s ON s.id = b.shelf_id WHERE r.variant_id = b.variant_id AND r.held AND r.lot_id = b.lot_id AND r.`condition` = b.`condition` AND h.branch_id = s.branch_id AND h.state <> 'Closed')), 0);
DELETE FROM product_figure WHERE product_id IN (SELECT v.product_id FROM variant v JOIN count_row r ON r.variant_id = v.id JOIN shelf_count h ON h.id = r.shelf_count_id WHERE r.held AND h.state <> 'Closed');
