-- Copies of people know whether their PIN is another.
CREATE OR REPLACE TRIGGER user_update AFTER UPDATE ON user FOR EACH ROW UPDATE house_change SET n = n + 1 WHERE id = 1 AND NOT (OLD.login <=> NEW.login AND OLD.name <=> NEW.name AND OLD.role <=> NEW.role AND OLD.branch_id <=> NEW.branch_id AND OLD.closed_at <=> NEW.closed_at AND OLD.version <=> NEW.version AND OLD.pin_hash <=> NEW.pin_hash);
