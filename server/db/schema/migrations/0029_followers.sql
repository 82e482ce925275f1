-- Reports whose cuts come neither by the clock nor by the rules that name them: with each run of what they follow, or
-- with news that they take.
ALTER TABLE report ADD COLUMN cut_with text CHECK (cut_with IN ('run', 'news'));
CREATE INDEX report_cut_with ON report (id) WHERE cut_with IS NOT NULL AND ended_at IS NULL;
