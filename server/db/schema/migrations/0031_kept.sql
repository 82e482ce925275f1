-- For how long what is recorded is kept, where somebody has chosen otherwise than the configuration.
CREATE TABLE kept_for (
  what text PRIMARY KEY CHECK
    (what IN ('looks', 'snapshots', 'pictures', 'readings', 'news', 'editions', 'mails', 'files', 'edits')),
  days int NOT NULL CHECK (days BETWEEN 1 AND 36500),
  set_by int NOT NULL REFERENCES person,
  set_at timestamptz NOT NULL
);
CREATE INDEX kept_for_by ON kept_for (set_by);
CREATE INDEX cut_by_time ON cut USING brin (made_at);
CREATE INDEX edition_by_time ON edition USING brin (made_at);
CREATE INDEX edit_by_time ON edit USING brin (at);
CREATE INDEX report_shown_by_time ON report_shown USING brin (shown_at);
