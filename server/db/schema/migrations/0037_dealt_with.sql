-- What somebody is done with of all that mails told her: an alert, a move, word of a watch, each under the name that it
-- has there.
CREATE TABLE dealt (
  person_id int NOT NULL REFERENCES person ON DELETE CASCADE,
  news text NOT NULL,
  -- The mail in which she marked it: as long as that is known, so is this.
  delivery_id bigint NOT NULL REFERENCES delivery ON DELETE CASCADE,
  dealt_at timestamptz NOT NULL,
  PRIMARY KEY (person_id, news)
);
CREATE INDEX dealt_by_delivery ON dealt (delivery_id);

INSERT INTO dealt (person_id, news, delivery_id, dealt_at)
SELECT person_id, 'alert-' || alert_id, min(delivery_id), max(dealt_at) FROM telling
WHERE dealt_at IS NOT NULL AND delivery_id IS NOT NULL GROUP BY person_id, alert_id;
ALTER TABLE telling DROP COLUMN dealt_at;
