-- +goose Up
RENAME TABLE ticket TO basket, ticket_line TO basket_line, drawer_session TO drawer;
ALTER TABLE basket_line CHANGE ticket_id basket_id BIGINT UNSIGNED NOT NULL;
ALTER TABLE drawer CHANGE expected should_be DECIMAL(18,2) NULL;
ALTER TABLE sale CHANGE drawer_session_id drawer_id BIGINT UNSIGNED NOT NULL;
ALTER TABLE sale_return CHANGE drawer_session_id drawer_id BIGINT UNSIGNED NOT NULL;
ALTER TABLE product MODIFY tracking VARCHAR(12) NOT NULL;
UPDATE product SET tracking = 'not stocked' WHERE tracking = 'untracked';
UPDATE document SET kind = 'Cash-up' WHERE kind = 'Drawer closing';
UPDATE entry SET `condition` = CASE `condition` WHEN 'To check' THEN 'To look over' WHEN 'House use' THEN 'Lent' WHEN 'At repair' THEN 'In repair' ELSE 'For scrap' END
  WHERE `condition` IN ('To check', 'House use', 'At repair', 'To scrap');
UPDATE balance SET `condition` = CASE `condition` WHEN 'To check' THEN 'To look over' WHEN 'House use' THEN 'Lent' WHEN 'At repair' THEN 'In repair' ELSE 'For scrap' END
  WHERE `condition` IN ('To check', 'House use', 'At repair', 'To scrap');
UPDATE unit SET `condition` = CASE `condition` WHEN 'To check' THEN 'To look over' WHEN 'House use' THEN 'Lent' WHEN 'At repair' THEN 'In repair' ELSE 'For scrap' END
  WHERE `condition` IN ('To check', 'House use', 'At repair', 'To scrap');
UPDATE return_line SET `condition` = CASE `condition` WHEN 'To check' THEN 'To look over' WHEN 'House use' THEN 'Lent' WHEN 'At repair' THEN 'In repair' ELSE 'For scrap' END
  WHERE `condition` IN ('To check', 'House use', 'At repair', 'To scrap');
UPDATE count_row SET `condition` = CASE `condition` WHEN 'To check' THEN 'To look over' WHEN 'House use' THEN 'Lent' WHEN 'At repair' THEN 'In repair' ELSE 'For scrap' END
  WHERE `condition` IN ('To check', 'House use', 'At repair', 'To scrap');
UPDATE count_event SET `condition` = CASE `condition` WHEN 'To check' THEN 'To look over' WHEN 'House use' THEN 'Lent' WHEN 'At repair' THEN 'In repair' ELSE 'For scrap' END
  WHERE `condition` IN ('To check', 'House use', 'At repair', 'To scrap');

-- +goose Down
SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the former words can not be taken back';
