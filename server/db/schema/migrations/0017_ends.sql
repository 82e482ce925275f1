-- When a reader is reminded that a rule ends soon; a notice of that comes of no run, and of no cause.
ALTER TABLE rule ADD COLUMN remind_at timestamptz;
UPDATE rule
SET remind_at = ends_at - CASE WHEN ends_at > now() + interval '7 days' THEN interval '7 days' ELSE interval '1 day' END
WHERE ends_at > now() + interval '1 day' AND ended_at IS NULL;
CREATE INDEX rule_to_remind ON rule (remind_at) WHERE remind_at IS NOT NULL AND ended_at IS NULL;
ALTER TABLE notice ALTER COLUMN run_id DROP NOT NULL, ALTER COLUMN cause DROP NOT NULL;
ALTER TABLE notice DROP CONSTRAINT notice_kind_check, ADD CHECK (kind IN ('failing', 'recovered', 'question', 'ends'));
