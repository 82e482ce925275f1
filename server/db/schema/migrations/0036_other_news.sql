-- What else there is of a watch than its changes is looked through by time: alerts that no change raised, and what was
-- first read.
CREATE INDEX alert_without_change ON alert (watch_id, seen_at DESC) WHERE change_id IS NULL;
DROP INDEX first_reading_of_watch;
CREATE INDEX first_reading_of_watch ON first_reading (watch_id, seen_at DESC);
