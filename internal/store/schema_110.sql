-- Version 110: instances remember who is signed in, and are told when that is no longer so.
CREATE FUNCTION tell_people() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_TABLE_NAME = 'sessions' THEN
        PERFORM pg_notify('vineladder_people', 's' || encode(OLD.hash, 'hex'));
    ELSIF TG_TABLE_NAME = 'accounts' THEN
        PERFORM pg_notify('vineladder_people', 'a' || NEW.id);
    ELSIF TG_OP = 'DELETE' THEN
        PERFORM pg_notify('vineladder_people', 'a' || OLD.account_id);
    ELSE
        PERFORM pg_notify('vineladder_people', 'a' || NEW.account_id);
    END IF;
    RETURN NULL;
END $$;
CREATE TRIGGER tell_people AFTER DELETE ON sessions FOR EACH ROW EXECUTE FUNCTION tell_people();
CREATE TRIGGER tell_people_account AFTER UPDATE OF account ON sessions FOR EACH ROW
    WHEN (OLD.account IS DISTINCT FROM NEW.account) EXECUTE FUNCTION tell_people();
CREATE TRIGGER tell_people AFTER UPDATE ON accounts FOR EACH ROW EXECUTE FUNCTION tell_people();
CREATE TRIGGER tell_people AFTER INSERT OR UPDATE OR DELETE ON account_roles FOR EACH ROW EXECUTE FUNCTION tell_people();
CREATE TRIGGER tell_people AFTER INSERT OR UPDATE OR DELETE ON mapped_roles FOR EACH ROW EXECUTE FUNCTION tell_people();
