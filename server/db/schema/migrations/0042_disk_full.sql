-- Since when a worker has no room to store what it reads.
ALTER TABLE worker ADD COLUMN full_since timestamptz;
