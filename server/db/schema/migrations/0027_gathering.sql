-- What a report that gathers has taken and not told yet. It is cut when its time is up, begun by the first of these.
CREATE TABLE gathered (
  report_id int NOT NULL REFERENCES report ON DELETE CASCADE,
  alert_id bigint REFERENCES alert ON DELETE CASCADE,
  notice_id bigint REFERENCES notice ON DELETE CASCADE,
  CHECK (num_nonnulls(alert_id, notice_id) = 1)
);
CREATE INDEX gathered_of_report ON gathered (report_id);
CREATE INDEX gathered_alert ON gathered (alert_id) WHERE alert_id IS NOT NULL;
CREATE INDEX gathered_notice ON gathered (notice_id) WHERE notice_id IS NOT NULL;
