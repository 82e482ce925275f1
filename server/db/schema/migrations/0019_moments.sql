-- What became of a record under a rule at a moment is found by the record: for its trail, and for the reason that a
-- mail gives.
CREATE INDEX verdict_of_record ON verdict (record_id, made_at DESC);
