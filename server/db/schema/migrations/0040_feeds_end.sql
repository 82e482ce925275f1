-- The address of a report's feed is under a number: the next one ends it.
ALTER TABLE report ADD COLUMN feed int NOT NULL DEFAULT 1;
