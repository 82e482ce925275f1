-- Lists of fifty thousand watches: what they are sorted, searched and filtered by stands in a narrow table of its own.
CREATE EXTENSION IF NOT EXISTS pg_trgm;

ALTER TABLE watch
  -- What it is called, as its present version says.
  ADD COLUMN subject text NOT NULL DEFAULT '',
  -- How many of its records are there now.
  ADD COLUMN record_count int NOT NULL DEFAULT 0;
UPDATE watch w SET
  subject = (SELECT definition->>'subject' FROM watch_version v WHERE v.watch_id = w.id AND v.version = w.version),
  record_count = (SELECT count(*) FROM record r WHERE r.watch_id = w.id AND r.gone_since IS NULL);
ALTER TABLE watch ALTER COLUMN subject DROP DEFAULT;
CREATE INDEX watch_of_subject ON watch (lower(subject)) WHERE state <> 'deleted';
CREATE INDEX watch_of_any_source ON watch (source_id);
CREATE INDEX source_of_host ON source (host);

-- How a watch stands. The rest of it is read where it is shown; this is what it is found by. It is worked out anew when
-- it is due, which
-- is as soon as anything moved that it depends on, or at a moment when the clock alone may move it.
CREATE TABLE standing (
  watch_id int PRIMARY KEY REFERENCES watch ON DELETE CASCADE,
  subject text NOT NULL,
  -- Name, site and address, as they are searched: in small letters.
  words text NOT NULL DEFAULT '',
  paused boolean NOT NULL DEFAULT false,
  raised boolean NOT NULL DEFAULT false,
  -- Some link of its chain is broken.
  broken boolean NOT NULL DEFAULT false,
  due_at timestamptz DEFAULT '-infinity'
);
CREATE INDEX standing_by_subject ON standing (subject, watch_id);
CREATE INDEX standing_paused ON standing (subject, watch_id) WHERE paused;
CREATE INDEX standing_raised ON standing (subject, watch_id) WHERE raised;
CREATE INDEX standing_broken ON standing (subject, watch_id) WHERE broken;
CREATE INDEX standing_words ON standing USING gin (words gin_trgm_ops);
CREATE INDEX standing_due ON standing (due_at) WHERE due_at IS NOT NULL;

-- How many watches stand how: counted as they move, not by looking through them.
CREATE TABLE tally (
  the_one boolean PRIMARY KEY DEFAULT true CHECK (the_one),
  watches int NOT NULL DEFAULT 0,
  paused int NOT NULL DEFAULT 0,
  raised int NOT NULL DEFAULT 0,
  broken int NOT NULL DEFAULT 0
);
INSERT INTO tally DEFAULT VALUES;

CREATE FUNCTION tally_counted() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
  way int := CASE TG_OP WHEN 'INSERT' THEN 1 ELSE -1 END;
BEGIN
  UPDATE tally
  SET watches = watches + way * n.all, paused = tally.paused + way * n.paused, raised = tally.raised + way * n.raised,
    broken = tally.broken + way * n.broken
  FROM (SELECT count(*) AS all, count(*) FILTER (WHERE paused) AS paused, count(*) FILTER (WHERE raised) AS raised,
    count(*) FILTER (WHERE broken) AS broken FROM counted) n WHERE n.all > 0;
  RETURN NULL;
END $$;
CREATE TRIGGER tally_came AFTER INSERT ON standing REFERENCING NEW TABLE AS counted FOR EACH STATEMENT EXECUTE FUNCTION
  tally_counted();
CREATE TRIGGER tally_went AFTER DELETE ON standing REFERENCING OLD TABLE AS counted FOR EACH STATEMENT EXECUTE FUNCTION
  tally_counted();

CREATE FUNCTION tally_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE tally
  SET paused = paused + NEW.paused::int - OLD.paused::int, raised = raised + NEW.raised::int - OLD.raised::int,
    broken = broken + NEW.broken::int - OLD.broken::int;
  RETURN NULL;
END $$;
CREATE TRIGGER tally_moved AFTER UPDATE OF paused, raised, broken ON standing FOR EACH ROW
  WHEN ((OLD.paused, OLD.raised, OLD.broken)
  IS DISTINCT FROM (NEW.paused, NEW.raised, NEW.broken)) EXECUTE FUNCTION tally_moved();

CREATE FUNCTION tally_emptied() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE tally SET watches = 0, paused = 0, raised = 0, broken = 0;
  RETURN NULL;
END $$;
CREATE TRIGGER tally_emptied AFTER TRUNCATE ON standing FOR EACH STATEMENT EXECUTE FUNCTION tally_emptied();

-- What makes a watch stand otherwise is said here, once, whoever does it; only the states of rules, of which a run may
-- move thousands,
-- are said by the run that moves them.
CREATE FUNCTION watch_came() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO standing (watch_id, subject) SELECT id, subject FROM came WHERE state <> 'deleted';
  RETURN NULL;
END $$;
CREATE TRIGGER watch_came AFTER INSERT ON watch REFERENCING NEW TABLE AS came FOR EACH STATEMENT EXECUTE FUNCTION
  watch_came();

CREATE FUNCTION watch_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF NEW.state = 'deleted' THEN
    DELETE FROM standing WHERE watch_id = NEW.id;
  ELSE
    UPDATE standing SET subject = NEW.subject, paused = NEW.state = 'paused', due_at = '-infinity'
    WHERE watch_id = NEW.id;
  END IF;
  RETURN NULL;
END $$;
CREATE TRIGGER watch_moved AFTER UPDATE OF state, version, subject, source_id, problem, lost ON watch FOR EACH ROW
  WHEN ((OLD.state, OLD.version, OLD.subject, OLD.source_id, OLD.problem, OLD.lost)

    IS DISTINCT FROM (NEW.state, NEW.version, NEW.subject, NEW.source_id, NEW.problem, NEW.lost)) EXECUTE FUNCTION watch_moved();

CREATE FUNCTION rule_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE standing SET due_at = '-infinity' WHERE watch_id = NEW.watch_id;
  RETURN NULL;
END $$;
CREATE TRIGGER rule_moved AFTER INSERT OR UPDATE OF version,
  ended_at ON rule FOR EACH ROW EXECUTE FUNCTION rule_moved();

CREATE FUNCTION source_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE standing SET due_at = '-infinity' FROM watch w WHERE w.id = standing.watch_id AND w.source_id = NEW.id;
  RETURN NULL;
END $$;
CREATE TRIGGER source_moved AFTER UPDATE OF site, address, host ON source FOR EACH ROW
  WHEN ((OLD.site, OLD.address, OLD.host)
  IS DISTINCT FROM (NEW.site, NEW.address, NEW.host)) EXECUTE FUNCTION source_moved();

CREATE FUNCTION host_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE standing SET due_at = '-infinity' FROM watch w JOIN source s ON s.id = w.source_id
  WHERE w.id = standing.watch_id AND s.host = NEW.name;
  RETURN NULL;
END $$;
CREATE TRIGGER host_moved AFTER UPDATE OF paused_at ON host FOR EACH ROW
  WHEN ((OLD.paused_at IS NULL) <> (NEW.paused_at IS NULL)) EXECUTE FUNCTION host_moved();

CREATE FUNCTION report_moved(report int) RETURNS void LANGUAGE sql AS $$
  UPDATE standing SET due_at = '-infinity' FROM report_rule j JOIN rule r ON r.id = j.rule_id
  WHERE r.watch_id = standing.watch_id AND j.report_id = report AND j.left_at IS NULL
$$;
CREATE INDEX report_reader_of_person ON report_reader (person_id);
CREATE INDEX report_reader_of_list ON report_reader (list_id);
CREATE INDEX list_member_of_person ON list_member (person_id);

CREATE FUNCTION readers_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM report_moved(CASE WHEN TG_OP = 'DELETE' THEN OLD.report_id ELSE NEW.report_id END);
  RETURN NULL;
END $$;
CREATE TRIGGER readers_moved AFTER INSERT OR DELETE ON report_reader FOR EACH ROW EXECUTE FUNCTION readers_moved();

CREATE FUNCTION report_rule_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE standing SET due_at = '-infinity' FROM rule r WHERE r.id = NEW.rule_id AND r.watch_id = standing.watch_id;
  RETURN NULL;
END $$;
CREATE TRIGGER report_rule_moved AFTER INSERT
  OR UPDATE OF left_at ON report_rule FOR EACH ROW EXECUTE FUNCTION report_rule_moved();

CREATE FUNCTION list_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM report_moved(report_id) FROM report_reader
  WHERE list_id = CASE WHEN TG_OP = 'DELETE' THEN OLD.list_id ELSE NEW.list_id END;
  RETURN NULL;
END $$;
CREATE TRIGGER list_moved AFTER INSERT OR DELETE ON list_member FOR EACH ROW EXECUTE FUNCTION list_moved();

CREATE FUNCTION person_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM report_moved(report_id) FROM report_reader r
  WHERE r.person_id = NEW.id OR r.list_id IN (SELECT list_id FROM list_member m WHERE m.person_id = NEW.id);
  RETURN NULL;
END $$;
CREATE TRIGGER person_moved AFTER UPDATE OF name, confirmed_at ON person FOR EACH ROW
  WHEN ((OLD.name, OLD.confirmed_at) IS DISTINCT FROM (NEW.name, NEW.confirmed_at)) EXECUTE FUNCTION person_moved();

-- A mail that was taken at the first try and soon moves nothing.
CREATE INDEX telling_of_delivery ON telling (delivery_id);
CREATE FUNCTION delivery_moved() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE standing SET due_at = '-infinity' FROM telling t JOIN alert a ON a.id = t.alert_id
  WHERE t.delivery_id = NEW.id AND a.watch_id = standing.watch_id;
  RETURN NULL;
END $$;
CREATE TRIGGER delivery_moved AFTER UPDATE OF state, response ON delivery FOR EACH ROW
  WHEN (NEW.state <> 'sending' AND (OLD.state, OLD.response) IS DISTINCT FROM (NEW.state, NEW.response)
    AND (NEW.state <> 'sent' OR NEW.attempts > 1 OR NEW.sent_at > NEW.ordered_at + interval '30 seconds')) EXECUTE
      FUNCTION delivery_moved();

-- Watches that are there already.
INSERT INTO standing (watch_id, subject, paused) SELECT id, subject, state = 'paused' FROM watch
WHERE state <> 'deleted';

-- The reason of a rule's last step stands with its state.
ALTER TABLE rule_state ADD COLUMN reason jsonb;
UPDATE rule_state s SET reason = (
  SELECT x.reason FROM verdict x JOIN series y ON y.id = x.series_id
  WHERE x.rule_id = s.rule_id AND x.rule_version = s.version AND y.record_id = s.record_id
  ORDER BY x.made_at DESC, x.id DESC LIMIT 1);

-- What the views ask by, and what goes with something else.
DROP INDEX rule_of_watch;
CREATE INDEX rule_of_watch ON rule (watch_id);
CREATE INDEX alert_of_rule ON alert (rule_id, seen_at DESC);
CREATE INDEX record_present ON record (watch_id, id) WHERE gone_since IS NULL;
CREATE INDEX delivery_unsent ON delivery (ordered_at DESC, id DESC) WHERE state <> 'sent';
CREATE INDEX delivery_gone_out ON delivery (ordered_at DESC, id DESC) WHERE state = 'sent';
CREATE INDEX delivery_sent_at ON delivery (sent_at);
CREATE INDEX delivery_pending ON delivery (state) WHERE state NOT IN ('sent', 'kept back');
DROP INDEX delivery_waiting;
DROP INDEX delivery_by_time;
CREATE INDEX draft_of_person ON draft (person_id, updated_at DESC);

-- What each hour brought, counted once it is over and nothing of it is under way any more.
CREATE TABLE hour_tally (
  hour timestamptz PRIMARY KEY,
  runs int NOT NULL,
  failed int NOT NULL,
  changes int NOT NULL,
  told int NOT NULL
);
