-- What we sell: an item by our own reference, with what it is called and asked for at each channel of ours.
CREATE TABLE item (
  id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  reference text NOT NULL,
  name text NOT NULL DEFAULT '',
  brand text NOT NULL DEFAULT '',
  category text NOT NULL DEFAULT '',
  supplier text NOT NULL DEFAULT '',
  gtin text NOT NULL DEFAULT '',
  -- The agreed minimums, each with the days on which it holds in the zone of whoever said it last.
  minimums jsonb NOT NULL DEFAULT '[]',
  zone text NOT NULL,
  made_at timestamptz NOT NULL,
  ended_at timestamptz
);
CREATE UNIQUE INDEX item_reference ON item (lower(reference)) WHERE ended_at IS NULL;

CREATE TABLE listing (
  item_id int NOT NULL REFERENCES item ON DELETE CASCADE,
  site_id int NOT NULL REFERENCES site,
  listing text NOT NULL DEFAULT '',
  variant text NOT NULL DEFAULT '',
  price jsonb,
  PRIMARY KEY (item_id, site_id)
);
CREATE INDEX item_gtin ON item (lpad(gtin, 14, '0')) WHERE gtin <> '' AND ended_at IS NULL;
CREATE INDEX listing_of_site ON listing (site_id);
CREATE INDEX listing_called ON listing (lower(listing)) WHERE listing <> '';

-- A record that is an offer of an item: joined by a person, and gone on with whatever the record is called.
ALTER TABLE record ADD COLUMN item_id int REFERENCES item, ADD COLUMN joined_by int REFERENCES person,
  ADD COLUMN joined_at timestamptz;
CREATE INDEX record_of_item ON record (item_id) WHERE item_id IS NOT NULL;
CREATE INDEX record_joined ON record (watch_id) WHERE item_id IS NOT NULL;
CREATE INDEX record_of_joiner ON record (joined_by) WHERE joined_by IS NOT NULL;

-- A rule that asks the items of its records, and one that runs for the highest or lowest of them: those that it chose.
ALTER TABLE rule ADD COLUMN asks_items boolean NOT NULL DEFAULT false, ADD COLUMN choice jsonb;
CREATE INDEX rule_asking_items ON rule (watch_id) WHERE asks_items AND ended_at IS NULL;

-- Who changed what and when, with the difference in words; what was done at one go bears one number, and is undone at
-- one go.
CREATE TABLE edit (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  batch bigint NOT NULL,
  at timestamptz NOT NULL,
  person_id int NOT NULL REFERENCES person,
  kind text NOT NULL,
  thing bigint NOT NULL,
  name text NOT NULL,
  what text[] NOT NULL,
  before jsonb,
  after jsonb,
  undone boolean NOT NULL DEFAULT false
);
CREATE SEQUENCE edit_batch;
CREATE INDEX edit_at ON edit (at DESC, id DESC);
CREATE INDEX edit_of_batch ON edit (batch);
CREATE INDEX edit_of_thing ON edit (kind, thing, id DESC);
CREATE INDEX edit_of_person ON edit (person_id);
