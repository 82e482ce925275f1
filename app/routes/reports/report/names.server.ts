import type { ReportDefinition } from '#core/tell/definition';
import type { Db } from '#server/db/base/pool';

/** What those are called that standing orders name by number: pairs, as a page carries them. */
export type Names = Record<'sites' | 'watches' | 'items' | 'rules', [number, string][]>;

const SITES = 'SELECT id, name FROM site WHERE id = ANY($1)';
const WATCHES = `SELECT w.id, v.definition->>'subject' AS name
  FROM watch w
  JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
  WHERE w.id = ANY($1)`;
const ITEMS = `SELECT id, CASE name WHEN '' THEN reference ELSE name END AS name FROM item WHERE id = ANY($1)`;
const RULES = `
SELECT u.id, coalesce(d.definition->>'name', 'a rule of ' || (v.definition->>'subject')) AS name
FROM rule u JOIN rule_version d ON d.rule_id = u.id AND d.version = u.version
JOIN watch w ON w.id = u.watch_id JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
WHERE u.id = ANY($1)`;

/** Looks up what standing orders name. */
export async function namesOf(db: Db, orders: ReportDefinition[]): Promise<Names> {
  const find = async (text: string, ids: number[]): Promise<[number, string][]> => {
    if (ids.length === 0) return [];
    return (await db.query<{ id: number; name: string }>(text, [[...new Set(ids)]])).rows.map(({ id, name }) => [
      id,
      name,
    ]);
  };
  const chosen = orders.map(({ takes }) => takes);
  return {
    sites: await find(
      SITES,
      chosen.flatMap(({ only, not }) => [...only.sites, ...not.sites]),
    ),
    watches: await find(
      WATCHES,
      chosen.flatMap(({ only, not }) => [...only.watches, ...not.watches]),
    ),
    items: await find(
      ITEMS,
      chosen.flatMap(({ only }) => only.items),
    ),
    rules: await find(
      RULES,
      chosen.flatMap(({ only }) => only.rules),
    ),
  };
}
