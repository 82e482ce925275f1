-- A source is one address fetched in one way: by one request, with its steps and its sealed secrets.
ALTER TABLE source
  DROP CONSTRAINT source_way_check,
  ADD CHECK (way IN ('plain', 'rendered', 'posted')),
  ADD COLUMN request jsonb NOT NULL DEFAULT '{}',
  ADD COLUMN request_key text GENERATED ALWAYS AS (md5(request::text)) STORED,
  -- Failed runs since the last good one: the more, the longer until the next.
  ADD COLUMN failures int NOT NULL DEFAULT 0,
  -- Looks that fell due while the one before was still on its way.
  ADD COLUMN skipped bigint NOT NULL DEFAULT 0,
  DROP CONSTRAINT source_address_way_key,
  ADD UNIQUE (address, way, request_key);

-- How a host is to be treated, and what it asked of us.
ALTER TABLE host
  ADD COLUMN paused_at timestamptz,
  ADD COLUMN pause_ms int NOT NULL DEFAULT 0 CHECK (pause_ms >= 0),
  ADD COLUMN next_at timestamptz,
  ADD COLUMN robots_heeded boolean NOT NULL DEFAULT true,
  -- SHA-256 fingerprints: the one certificate that is trusted by hand, and the one that was refused last.
  ADD COLUMN trusted_certificate text,
  ADD COLUMN refused_certificate text;

-- Sources that are slow by nature, as rendered pages are, keep the quick ones waiting no longer: a worker claims each
-- kind by itself. Hosts that are asked as much as they allow are passed over before the earliest are chosen, so that a
-- slow one with many sources keeps no other host waiting.
DROP FUNCTION claim_due(timestamptz, timestamptz, int, uuid);

CREATE FUNCTION claim_due(at timestamptz, lease_end timestamptz, most int, token uuid, ways text[]) RETURNS SETOF source
LANGUAGE plpgsql AS $$
BEGIN
  PERFORM FROM source WHERE due_at <= at AND (lease_until IS NULL OR lease_until < at) AND way = ANY(ways) LIMIT 1;
  IF NOT FOUND THEN
    RETURN;
  END IF;
  PERFORM pg_advisory_xact_lock(hashtext('shrike claim'));
  RETURN QUERY
    WITH busy AS (
      SELECT host, count(*) AS n FROM source WHERE lease_until >= at GROUP BY host
    ), room AS (
      -- A host with a pause between requests is asked one thing at a time.
      SELECT h.name, CASE WHEN h.pause_ms > 0 THEN 1 ELSE h.most_at_once END - coalesce(b.n, 0) AS places
      FROM host h LEFT JOIN busy b ON b.host = h.name
      WHERE h.paused_at IS NULL AND (h.next_at IS NULL OR h.next_at <= at)
    ), candidate AS (
      SELECT s.id, s.host, s.due_at, room.places FROM source s JOIN room ON room.name = s.host
      WHERE s.due_at <= at AND (s.lease_until IS NULL OR s.lease_until < at) AND s.way = ANY(ways) AND room.places > 0
      ORDER BY s.due_at LIMIT 4 * most FOR UPDATE OF s SKIP LOCKED
    ), ranked AS (
      SELECT c.id, c.due_at, c.places, row_number() OVER (PARTITION BY c.host ORDER BY c.due_at) AS place
      FROM candidate c
    ), chosen AS (
      SELECT ranked.id FROM ranked WHERE place <= places ORDER BY ranked.due_at LIMIT most
    )
    UPDATE source s SET lease_until = lease_end, lease_token = token FROM chosen WHERE s.id = chosen.id RETURNING s.*;
END $$;

ALTER TABLE snapshot ADD COLUMN content_type text NOT NULL DEFAULT '';

-- The picture of a rendered page, taken in the page load that the snapshot came from, with the boxes of its elements.
CREATE TABLE picture (
  snapshot_id bigint PRIMARY KEY,
  source_id int NOT NULL REFERENCES source ON DELETE CASCADE,
  taken_at timestamptz NOT NULL,
  image bytea NOT NULL,
  width int NOT NULL,
  height int NOT NULL,
  boxes jsonb NOT NULL
);
CREATE INDEX picture_of_source ON picture (source_id, snapshot_id DESC);

ALTER TABLE watch
  -- The version under which records were last read, so that what an edit brings in is no news.
  ADD COLUMN read_version int,
  -- Ways of finding that no longer work while others do, by field: to be confirmed.
  ADD COLUMN lost jsonb,
  -- Failed runs in a row, and the cause that was told of them: once, until it is read again.
  ADD COLUMN failures int NOT NULL DEFAULT 0,
  ADD COLUMN told_cause text;

-- A watch that stopped being read, or is read again.
CREATE TABLE notice (
  id bigint PRIMARY KEY,
  run_id bigint NOT NULL,
  watch_id int NOT NULL REFERENCES watch ON DELETE CASCADE,
  kind text NOT NULL CHECK (kind IN ('failing', 'recovered')),
  cause text NOT NULL,
  sentence text NOT NULL,
  since timestamptz NOT NULL,
  made_at timestamptz NOT NULL
);
CREATE INDEX notice_of_watch ON notice (watch_id, made_at DESC);

CREATE TABLE edition_notice (
  edition_id bigint NOT NULL REFERENCES edition ON DELETE CASCADE,
  notice_id bigint NOT NULL REFERENCES notice ON DELETE CASCADE,
  PRIMARY KEY (edition_id, notice_id)
);

-- What a version changed, where Shrike itself says so.
ALTER TABLE watch_version ADD COLUMN note text;

UPDATE watch_version
SET
  definition =
  '{"records": {"from": "page"}, "identity": [], "variant": null, "chosen": null, "leftOut": [], "guards": []}' ||
  definition;

ALTER TABLE record
  ADD COLUMN name text,
  ADD COLUMN variant text,
  ADD COLUMN labels jsonb NOT NULL DEFAULT '{}',
  ADD COLUMN gone_since timestamptz,
  -- The last raw state of counters that are read as an increase, by field.
  ADD COLUMN counters jsonb NOT NULL DEFAULT '{}';

-- Records that turned up on a watch which follows chosen ones: taken or left out by hand.
CREATE TABLE offered_record (
  watch_id int NOT NULL REFERENCES watch ON DELETE CASCADE,
  identity text NOT NULL,
  name text NOT NULL,
  first_seen timestamptz NOT NULL,
  PRIMARY KEY (watch_id, identity)
);

ALTER TABLE series
  -- The latest time the source itself gave, and how far it vouched for it.
  ADD COLUMN source_at timestamptz,
  ADD COLUMN quality text CHECK (quality IN ('good', 'uncertain', 'bad'));

ALTER TABLE reading
  DROP CONSTRAINT reading_kind_check,
  ADD CONSTRAINT reading_kind CHECK
    (kind IN ('money', 'number', 'text', 'flag', 'state', 'grade', 'moment', 'link', 'picture', 'absent')),
  ADD COLUMN quality text,
  ADD COLUMN late boolean NOT NULL DEFAULT false;

ALTER TABLE change
  ALTER COLUMN series_id DROP NOT NULL,
  ADD COLUMN record_id bigint REFERENCES record ON DELETE CASCADE,
  DROP CONSTRAINT change_kind_check,
  ADD CONSTRAINT change_kind CHECK (kind IN ('amount', 'unit', 'presence', 'grade', 'state', 'text', 'record')),
  ADD CHECK (num_nonnulls(series_id, record_id) >= 1);

ALTER TABLE draft
  ADD COLUMN way text NOT NULL DEFAULT 'plain' CHECK (way IN ('plain', 'rendered', 'posted')),
  ADD COLUMN request jsonb NOT NULL DEFAULT '{}',
  ADD COLUMN final_address text,
  -- Of a watch that is pointed at anew: which one, and the version that the edits lean on.
  ADD COLUMN watch_id int REFERENCES watch ON DELETE CASCADE,
  ADD COLUMN watch_version int;

-- A page looked at for a draft by a worker, in a browser: the draft's own page, another to try on, or its steps one by
-- one.
CREATE TABLE look (
  id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  draft_id int NOT NULL REFERENCES draft ON DELETE CASCADE,
  purpose text NOT NULL CHECK (purpose IN ('page', 'again', 'other', 'steps')),
  address text NOT NULL,
  request jsonb NOT NULL,
  state text NOT NULL DEFAULT 'asked' CHECK (state IN ('asked', 'done', 'failed')),
  asked_at timestamptz NOT NULL,
  taken_at timestamptz,
  problem text,
  body text COMPRESSION lz4,
  final_address text,
  image bytea,
  height int,
  boxes jsonb
);
CREATE INDEX look_of_draft ON look (draft_id, id DESC);

CREATE TABLE look_step (
  look_id int NOT NULL REFERENCES look ON DELETE CASCADE,
  place int NOT NULL,
  said text NOT NULL,
  problem text,
  image bytea NOT NULL,
  PRIMARY KEY (look_id, place)
);

-- An address to which another program may post, of a draft until its watch is started, then of a source. Its secret is
-- sealed.
CREATE TABLE posting (
  token text PRIMARY KEY,
  secret text,
  draft_id int REFERENCES draft ON DELETE CASCADE,
  source_id int REFERENCES source ON DELETE CASCADE
);
CREATE INDEX posting_of_source ON posting (source_id);

-- What was posted, once an id. The body goes when a run has taken it, the id stays.
CREATE TABLE posted_message (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  token text NOT NULL REFERENCES posting ON DELETE CASCADE,
  message_id text NOT NULL,
  received_at timestamptz NOT NULL,
  content_type text NOT NULL,
  body bytea,
  UNIQUE (token, message_id)
);
CREATE INDEX posted_waiting ON posted_message (token, id) WHERE body IS NOT NULL;
