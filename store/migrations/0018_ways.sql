-- what branches are called and how far they are is kept in copies, which this tells of every change
CREATE TRIGGER branch_insert AFTER INSERT ON branch FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER branch_update AFTER UPDATE ON branch FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER branch_delete AFTER DELETE ON branch FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER branch_way_insert AFTER INSERT ON branch_way FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER branch_way_update AFTER UPDATE ON branch_way FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
CREATE TRIGGER branch_way_delete AFTER DELETE ON branch_way FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1;
