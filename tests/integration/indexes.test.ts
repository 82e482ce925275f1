import { afterAll, beforeAll, expect, it } from 'vitest';
import { openWorld, type TestWorld } from '../support/world';

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
afterAll(() => world.close());

/**
 * Keys whose rows go with what they point at, and that no index leads to: whole, or of all rows that point at
 * something.
 */
const UNLED = `
SELECT c.conrelid::regclass::text || ' (' || string_agg(a.attname, ', ' ORDER BY k.place) || ')' AS key
FROM pg_constraint c
CROSS JOIN LATERAL unnest(c.conkey) WITH ORDINALITY k(number, place)
JOIN pg_attribute a ON a.attrelid = c.conrelid AND a.attnum = k.number
WHERE c.contype = 'f' AND c.confdeltype IN ('c', 'n') AND c.connamespace = 'public'::regnamespace
  AND NOT EXISTS (
    SELECT FROM pg_index i
    WHERE i.indrelid = c.conrelid AND (i.indkey::int2[])[0:array_length(c.conkey, 1) - 1] @> c.conkey
      AND (i.indpred IS NULL OR pg_get_expr(i.indpred, i.indrelid) = '(' || a.attname || ' IS NOT NULL)'))
GROUP BY c.oid, c.conrelid ORDER BY 1`;

it('every key whose rows go with what they point at is led to by an index', async () => {
  expect(await world.rows(UNLED)).toEqual([]);
  expect(
    (
      await world.rows<{ n: number }>(
        `SELECT count(*)::int AS n FROM pg_constraint WHERE contype = 'f' AND confdeltype = 'c'`,
      )
    )[0]?.n,
  ).toBeGreaterThan(10);
});
