-- From where a report counts whose small moves add up; null where it counts from its last cut.
ALTER TABLE report ADD COLUMN counts_from_seq bigint, ADD COLUMN counts_from_at timestamptz;

-- Up to where it showed a series, by each of its editions that did.
CREATE TABLE report_shown (
  report_id int NOT NULL REFERENCES report ON DELETE CASCADE,
  series_id bigint NOT NULL REFERENCES series ON DELETE CASCADE,
  to_seq bigint NOT NULL,
  shown_at timestamptz NOT NULL,
  PRIMARY KEY (report_id, series_id, to_seq)
);
CREATE INDEX report_shown_of_series ON report_shown (series_id);

-- Several editions of one cut may tell of one alert, as its record bears several tags.
ALTER TABLE edition_alert DROP CONSTRAINT edition_alert_report_id_alert_id_key;
CREATE INDEX edition_alert_of_report ON edition_alert (report_id, alert_id);
