-- When somebody was done with what an alert told her.
ALTER TABLE telling ADD COLUMN dealt_at timestamptz;
