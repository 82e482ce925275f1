import type { ItemId, RuleId, WatchId } from '#core/id';
import { ITEM_PROPERTIES, type ItemProperty } from '#core/tell/definition';
import type { Db } from '../../base/pool';

/** What can be chosen in a standing order beyond sites and tags; so many of each at most. */
export interface Choosable extends Record<ItemProperty, string[]> {
  watches: { id: WatchId; name: string }[];
  items: { id: ItemId; name: string }[];
  rules: { id: RuleId; name: string }[];
  fields: string[];
}

const MOST = 500;

const WATCHES = `
SELECT w.id, (v.definition->>'subject') || ', ' || t.name AS name
FROM watch w JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version JOIN source s ON s.id = w.source_id
JOIN site t ON t.id = s.site_id
WHERE w.state <> 'deleted' ORDER BY w.id DESC LIMIT ${MOST}`;
const ITEMS = `SELECT id, CASE name WHEN '' THEN reference ELSE reference || ', ' || name END AS name
  FROM item
  WHERE ended_at IS NULL
  ORDER BY reference
  LIMIT ${MOST}`;
const RULES = `
SELECT u.id, coalesce(d.definition->>'name', 'a rule of ' || (v.definition->>'subject')) AS name
FROM rule u JOIN rule_version d ON d.rule_id = u.id AND d.version = u.version
JOIN watch w ON w.id = u.watch_id AND w.state <> 'deleted'
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
WHERE u.ended_at IS NULL ORDER BY u.id DESC LIMIT ${MOST}`;
/** The labels of the fields of the latest watches. */
const FIELDS = `
SELECT DISTINCT f->>'label' AS name
FROM (SELECT id, version FROM watch WHERE state <> 'deleted' ORDER BY id DESC LIMIT 2000) w
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version CROSS
JOIN jsonb_array_elements(v.definition->'fields') f ORDER BY 1 LIMIT ${MOST}`;
const property = (of: ItemProperty) =>
  `SELECT DISTINCT ${of} AS name FROM item WHERE ended_at IS NULL AND ${of} <> '' ORDER BY 1 LIMIT ${MOST}`;

/** What a standing order can choose among. */
export async function choosable(db: Db): Promise<Choosable> {
  const named = async <Id>(query: string) => (await db.query<{ id: Id; name: string }>(query)).rows;
  const words = async (query: string) => (await db.query<{ name: string }>(query)).rows.map(({ name }) => name);
  const [watches, items, rules] = [
    await named<WatchId>(WATCHES),
    await named<ItemId>(ITEMS),
    await named<RuleId>(RULES),
  ];
  const properties: [ItemProperty, string[]][] = [];
  for (const of of ITEM_PROPERTIES) properties.push([of, await words(property(of))]);
  return {
    watches,
    items,
    rules,
    fields: await words(FIELDS),
    ...(Object.fromEntries(properties) as Record<ItemProperty, string[]>),
  };
}
