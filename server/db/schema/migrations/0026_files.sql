-- The files that an edition's mails bear: made with it, and kept as they went out.
CREATE TABLE edition_file (
  edition_id bigint NOT NULL REFERENCES edition ON DELETE CASCADE,
  form text NOT NULL CHECK (form IN ('csv', 'xlsx', 'json')),
  body bytea NOT NULL,
  PRIMARY KEY (edition_id, form)
);
