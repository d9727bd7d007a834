-- What somebody was shown who saved a draft, which posts that and nothing else: what of its goods was not billed when a
-- line of a bill was saved; what of an order had arrived when a delivery was.
ALTER TABLE bill_line ADD COLUMN shown decimal(18,3) DEFAULT NULL, ADD KEY delivery_line_id (delivery_line_id);
ALTER TABLE delivery_order ADD COLUMN arrived decimal(18,3) DEFAULT NULL;
