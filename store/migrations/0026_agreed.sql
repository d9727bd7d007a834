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
