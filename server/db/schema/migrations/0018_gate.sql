-- A rule may be told at most once in a time as a whole: until when nothing more is told of it, what is held meanwhile,
-- and when that is due.
ALTER TABLE rule ADD COLUMN gate jsonb, ADD COLUMN gate_at timestamptz;
CREATE INDEX rule_gate_due ON rule (gate_at) WHERE gate_at IS NOT NULL AND ended_at IS NULL;
