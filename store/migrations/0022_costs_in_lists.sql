-- Lists kept costs that were not written with every movement: the figures of all products are worked out anew.
DELETE FROM product_figure;
