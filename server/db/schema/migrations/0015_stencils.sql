-- A rule with blanks, to be put on many watches; what it made knows it.
CREATE TABLE stencil (
  id int GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  version int NOT NULL,
  definition jsonb NOT NULL,
  made_by int NOT NULL REFERENCES person,
  made_at timestamptz NOT NULL,
  ended_at timestamptz
);
CREATE INDEX stencil_of_person ON stencil (made_by);
ALTER TABLE rule ADD COLUMN stencil_id int REFERENCES stencil;
CREATE INDEX rule_of_stencil ON rule (stencil_id) WHERE stencil_id IS NOT NULL;
