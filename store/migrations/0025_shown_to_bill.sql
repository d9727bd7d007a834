-- What of its goods was not billed when a line of a bill was saved: a bill posts what was shown.
ALTER TABLE bill_line ADD COLUMN shown decimal(18,3) DEFAULT NULL;
