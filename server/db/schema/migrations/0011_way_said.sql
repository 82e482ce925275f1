-- Whether somebody has said how the source of a draft is fetched. Until then it is rendered where that shows more.
ALTER TABLE draft ADD COLUMN way_said boolean NOT NULL DEFAULT false;
