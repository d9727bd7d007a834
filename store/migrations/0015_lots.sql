-- from how many days before its expiry a lot is told, for the products of a category
ALTER TABLE category ADD expiry_days INT NULL;
