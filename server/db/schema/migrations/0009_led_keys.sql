-- What goes with something else is led to by an index, whole or of all rows that point at something.
CREATE INDEX change_of_series ON change (series_id) WHERE series_id IS NOT NULL;
CREATE INDEX change_of_record ON change (record_id) WHERE record_id IS NOT NULL;
CREATE INDEX alert_of_series ON alert (series_id);
CREATE INDEX draft_of_watch ON draft (watch_id) WHERE watch_id IS NOT NULL;
CREATE INDEX draft_done_of_person ON draft_done (person_id);
CREATE INDEX draft_done_of_watch ON draft_done (watch_id);
CREATE INDEX posting_of_draft ON posting (draft_id) WHERE draft_id IS NOT NULL;
CREATE INDEX report_rule_ever_of_rule ON report_rule (rule_id);
CREATE INDEX report_rule_of_report ON report_rule (report_id);
CREATE INDEX telling_of_report ON telling (report_id);
