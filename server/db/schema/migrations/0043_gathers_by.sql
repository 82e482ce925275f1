-- The version by which a report gathers that was saved anew meanwhile: what has begun ends as it began.
ALTER TABLE report ADD COLUMN gathers_by int;
