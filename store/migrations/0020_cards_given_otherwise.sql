-- the state of a card whose money was given in another way is longer than the column was, and was cut
ALTER TABLE card_charge MODIFY state VARCHAR(20) NOT NULL;
UPDATE card_charge SET state = 'given otherwise' WHERE state = 'given otherw';
