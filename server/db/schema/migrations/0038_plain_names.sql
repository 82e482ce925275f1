-- Tables and columns bear the names that the code and the screens have for what they hold.

ALTER TABLE look RENAME TO preview;
ALTER TABLE look_step RENAME TO preview_action;
ALTER TABLE preview_action RENAME COLUMN look_id TO preview_id;

ALTER TABLE drawn RENAME TO rendered_image;
ALTER TABLE rendered_image RENAME COLUMN drawn_at TO rendered_at;

ALTER TABLE kept_for RENAME TO retention;

ALTER TABLE allowance RENAME TO quota;
ALTER TABLE allowance_told RENAME TO quota_notified;
ALTER TABLE allowance_check RENAME TO quota_check;

ALTER TABLE telling RENAME TO notification;

ALTER TABLE delivery RENAME COLUMN route TO channel;

ALTER TABLE host RENAME COLUMN looks TO runs_made;
ALTER TABLE host RENAME COLUMN looks_a_day TO runs_a_day;
ALTER TABLE host RENAME COLUMN looks_zone TO runs_zone;
ALTER TABLE host RENAME COLUMN looks_owner TO runs_owner;
ALTER TABLE host RENAME COLUMN looks_until TO runs_until;

ALTER INDEX look_of_draft RENAME TO preview_of_draft;
ALTER INDEX drawn_by_time RENAME TO rendered_image_by_time;
ALTER INDEX kept_for_by RENAME TO retention_by;
ALTER INDEX allowance_of_owner RENAME TO quota_of_owner;
ALTER INDEX telling_of_delivery RENAME TO notification_of_delivery;
ALTER INDEX telling_of_report RENAME TO notification_of_report;
ALTER INDEX host_with_looks RENAME TO host_with_runs;
ALTER INDEX host_of_looks_owner RENAME TO host_of_runs_owner;

ALTER TABLE retention DROP CONSTRAINT kept_for_what_check;
UPDATE retention SET what = 'runs' WHERE what = 'looks';
ALTER TABLE retention ADD CONSTRAINT retention_what_check CHECK
  (what IN ('runs', 'snapshots', 'pictures', 'readings', 'news', 'editions', 'mails', 'files', 'edits'));
UPDATE quota_notified SET of = 'runs' WHERE of = 'looks';
