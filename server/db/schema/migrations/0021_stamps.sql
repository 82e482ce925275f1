-- Of a value that was stated again and again at the source's own times, when: so that a point of a time that is known
-- is told from one that is new.
ALTER TABLE reading ADD COLUMN stamps timestamptz[];
