-- Of what is held of a rule as a whole all records are remembered, where only that of the latest was.
UPDATE rule SET gate = (gate - 'latest')
  || jsonb_build_object('records', CASE WHEN gate->>'latest' IS NULL THEN '[]'::jsonb
    ELSE jsonb_build_array(gate->'latest') END)
WHERE gate IS NOT NULL AND NOT gate ? 'records';
