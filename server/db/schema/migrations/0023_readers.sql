-- Who hears: when she may be reached, and whether her address works.
ALTER TABLE person
  -- Hours by her clock in which nothing is sent, as minutes from midnight: {"from": 1320, "to": 420}.
  ADD COLUMN quiet jsonb,
  -- The minute of her day to which what is told at once is held.
  ADD COLUMN mail_hour int CHECK (mail_hour BETWEEN 0 AND 1439),
  -- An alert of this weight, or a greater one, is held by neither.
  ADD COLUMN passes text CHECK (passes IN ('low', 'usual', 'high')),
  -- When she was asked last to confirm her address.
  ADD COLUMN asked_at timestamptz,
  -- Since when her address is paused, since it refused mail for good; in the words of the server.
  ADD COLUMN paused_at timestamptz,
  ADD COLUMN paused_because text,
  -- Her own page answers under links of this number alone.
  ADD COLUMN page int NOT NULL DEFAULT 1,
  ADD COLUMN removed_at timestamptz;
ALTER TABLE list ADD COLUMN removed_at timestamptz;

-- Who left a report by her own will, until she undoes it.
CREATE TABLE reader_left (
  report_id int NOT NULL REFERENCES report ON DELETE CASCADE,
  person_id int NOT NULL REFERENCES person,
  left_at timestamptz NOT NULL,
  back_at timestamptz,
  PRIMARY KEY (report_id, person_id, left_at)
);
CREATE UNIQUE INDEX reader_left_now ON reader_left (report_id, person_id) WHERE back_at IS NULL;

-- A delivery covers an edition, or several where she could not be reached for a while; one that asks to confirm an
-- address covers none.
ALTER TABLE delivery
  ADD COLUMN purpose text NOT NULL DEFAULT 'edition' CHECK (purpose IN ('edition', 'confirmation')),
  ADD COLUMN report_id int REFERENCES report ON DELETE CASCADE,
  ADD COLUMN at_once boolean NOT NULL DEFAULT false,
  -- The greatest weight of what it tells.
  ADD COLUMN weight text CHECK (weight IN ('low', 'usual', 'high')),
  -- Until when quiet hours or her mail hour hold it.
  ADD COLUMN held_until timestamptz,
  -- The mail that says what became of it, where it never came.
  ADD COLUMN explained_by bigint REFERENCES delivery ON DELETE SET NULL,
  -- Where she leaves the report, as its header says.
  ADD COLUMN leave text;
CREATE TABLE delivery_edition (
  delivery_id bigint NOT NULL REFERENCES delivery ON DELETE CASCADE,
  edition_id bigint NOT NULL REFERENCES edition ON DELETE CASCADE,
  PRIMARY KEY (delivery_id, edition_id)
);
CREATE INDEX delivery_of_edition ON delivery_edition (edition_id);
INSERT INTO delivery_edition SELECT id, edition_id FROM delivery;
UPDATE delivery d SET report_id = e.report_id, at_once = e.cut_id IS NULL,
  reason = CASE d.reason WHEN 'the address is not confirmed' THEN 'unconfirmed' WHEN 'the report was deleted'
    THEN 'deleted' ELSE d.reason END
FROM edition e WHERE e.id = d.edition_id;

-- What is kept back until she can be reached is one delivery for each report: it has no number and no words before it
-- goes.
ALTER TABLE delivery
  DROP COLUMN edition_id,
  ALTER COLUMN number DROP NOT NULL, ALTER COLUMN subject DROP NOT NULL, ALTER COLUMN html DROP NOT NULL,
    ALTER COLUMN plain DROP NOT NULL;
UPDATE delivery_edition x SET delivery_id = o.open
FROM (SELECT d.id, min(d.id) OVER (PARTITION BY d.report_id, d.person_id) AS open FROM delivery d
WHERE d.state = 'kept back') o WHERE o.id = x.delivery_id;
UPDATE telling t SET delivery_id = o.open
FROM (SELECT d.id, min(d.id) OVER (PARTITION BY d.report_id, d.person_id) AS open FROM delivery d
WHERE d.state = 'kept back') o WHERE o.id = t.delivery_id;
DELETE FROM delivery d
WHERE d.state = 'kept back' AND NOT EXISTS (SELECT FROM delivery_edition x WHERE x.delivery_id = d.id);
-- Numbers that were never used are free again.
UPDATE reader_number n
SET last = coalesce((SELECT max(d.number) FROM delivery d
WHERE d.report_id = n.report_id AND d.person_id = n.person_id AND d.state <> 'kept back'), 0)
FROM delivery k WHERE k.state = 'kept back' AND k.report_id = n.report_id AND k.person_id = n.person_id;
UPDATE delivery SET number = NULL, subject = NULL, html = NULL, plain = NULL WHERE state = 'kept back';
ALTER TABLE delivery ADD CHECK ((purpose = 'edition') = (report_id IS NOT NULL));
CREATE UNIQUE INDEX delivery_open ON delivery (report_id, person_id) WHERE state = 'kept back' AND number IS NULL;
CREATE INDEX delivery_of_reader ON delivery (person_id, ordered_at DESC);
CREATE INDEX delivery_unsent_of_reader ON delivery (report_id, person_id) WHERE state <> 'sent';
CREATE INDEX delivery_waiting_for ON delivery (person_id) WHERE state IN ('queued', 'refused', 'kept back');
CREATE INDEX delivery_by_sent ON delivery (sent_at) WHERE sent_at IS NOT NULL;
CREATE INDEX delivery_of_report ON delivery (report_id) WHERE report_id IS NOT NULL;
CREATE INDEX delivery_explained ON delivery (explained_by) WHERE explained_by IS NOT NULL;
CREATE INDEX person_unreached ON person (id)
WHERE confirmed_at IS NULL OR paused_at IS NOT NULL OR removed_at IS NOT NULL;
