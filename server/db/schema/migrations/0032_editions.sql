-- Editions of all reports are looked through from the latest on.
DROP INDEX edition_by_time;
CREATE INDEX edition_latest ON edition (made_at DESC, id DESC);
