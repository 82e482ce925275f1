import type { RuleId, WatchId } from '#core/id';
import type { Choice } from '#core/judge/records';
import { storedRule, type RuleDefinition } from '#core/judge/rule';
import type { Instant } from '#core/when/interval';
import { moment, theRow, type Db } from '../../base/pool';

/** A rule as a list of them says it. */
export interface RuleRow {
  id: RuleId;
  watchId: WatchId;
  subject: string;
  site: string;
  owner: string;
  definition: RuleDefinition;
  labels: Record<string, string>;
  /** How many episodes are open, up to a hundred. */
  raised: number;
  paused: boolean;
  readers: string[];
  lastAlertAt: Instant | null;
  endsAt: Instant | null;
  choice: Choice | null;
}

/** What a list of rules is in the order of. */
export const RULE_ORDERS = ['watch', 'site', 'owner', 'tag', 'state', 'told', 'ends'] as const;
export type RuleOrder = (typeof RULE_ORDERS)[number];

/** Which rules a list shows. */
export const RULE_FILTERS = ['all', 'raised', 'off', 'ends soon'] as const;
export type RuleFilter = (typeof RULE_FILTERS)[number];

const IS_RAISED = 'EXISTS (SELECT FROM episode e WHERE e.rule_id = u.id AND e.closed_at IS NULL)';
const LAST_ALERT = '(SELECT a.seen_at FROM alert a WHERE a.rule_id = u.id ORDER BY a.seen_at DESC LIMIT 1)';

const BY: Record<RuleOrder, string> = {
  watch: 'w.subject',
  site: 't.name',
  owner: 'o.name',
  tag: `v.definition->'tags'->>0 NULLS LAST`,
  state: `NOT ${IS_RAISED}, u.off`,
  told: `${LAST_ALERT} DESC NULLS LAST`,
  ends: 'u.ends_at NULLS LAST',
};

const FROM = `
FROM rule u
JOIN rule_version v ON v.rule_id = u.id AND v.version = u.version
JOIN watch w ON w.id = u.watch_id AND w.state <> 'deleted'
JOIN watch_version wv ON wv.watch_id = w.id AND wv.version = w.version
JOIN source s ON s.id = w.source_id
JOIN site t ON t.id = s.site_id
JOIN person o ON o.id = coalesce((SELECT id FROM person WHERE id = (v.definition->>'owner')::int), w.owner_id)`;

const READERS = `
SELECT coalesce(jsonb_agg(DISTINCT coalesce(l.name, p.name)), '[]')
FROM report_rule j JOIN report_reader rr ON rr.report_id = j.report_id LEFT JOIN list l ON l.id = rr.list_id LEFT
JOIN person p ON p.id = rr.person_id
WHERE j.rule_id = u.id AND j.left_at IS NULL`;

const COLUMNS = `
u.id, u.watch_id AS "watchId", w.subject, t.name AS site, o.name AS owner, v.definition, u.choice,
(SELECT jsonb_object_agg(f->>'key', f->>'label') FROM jsonb_array_elements(wv.definition->'fields') f) AS labels,
(SELECT count(*)::int
FROM (SELECT FROM episode e WHERE e.rule_id = u.id AND e.closed_at IS NULL LIMIT 100) e) AS raised,
w.state = 'paused' AS paused, (${READERS}) AS readers, ${LAST_ALERT} AS "lastAlertAt", u.ends_at AS "endsAt"`;

/** Which rules a list shows, of all that go on. */
export interface RulesAsked {
  filter: RuleFilter;
  words: string;
  site: string;
  owner: string;
  tag: string;
  /** What ends until then ends soon. */
  soon: Instant;
}

function conditionsOf({ filter, words, site, owner, tag, soon }: RulesAsked): { where: string; values: unknown[] } {
  const values: unknown[] = [];
  const where = ['u.ended_at IS NULL'];
  const add = (condition: (at: string) => string, value: unknown) => where.push(condition(`$${values.push(value)}`));
  if (filter === 'raised') where.push(IS_RAISED);
  if (filter === 'off') where.push('u.off');
  if (filter === 'ends soon') add((at) => `u.ends_at <= ${at}`, moment(soon));
  if (words !== '')
    add((at) => `strpos(lower(concat_ws(' ', v.definition->>'name', w.subject, t.name)), lower(${at})) > 0`, words);
  if (site !== '') add((at) => `t.name = ${at}`, site);
  if (owner !== '') add((at) => `o.name = ${at}`, owner);
  if (tag !== '') add((at) => `v.definition->'tags' ? ${at}`, tag);
  return { where: where.join(' AND '), values };
}

/** Rules in an order, page by page. */
export async function listRules(
  db: Db,
  asked: RulesAsked & { order: RuleOrder; skip: number; most: number },
): Promise<RuleRow[]> {
  const { where, values } = conditionsOf(asked);
  const { rows } = await db.query<RuleRow>(
    `SELECT ${COLUMNS} ${FROM}
      WHERE ${where}
      ORDER BY ${BY[asked.order]}, w.subject, u.id
      LIMIT $${values.push(asked.most)}
      OFFSET $${values.push(asked.skip)}`,
    values,
  );
  return rows.map(({ definition, ...row }) => ({ ...row, definition: storedRule.read(definition) }));
}

/** How many rules a list shows. */
export async function countRules(db: Db, asked: RulesAsked): Promise<number> {
  const { where, values } = conditionsOf(asked);
  return theRow(await db.query<{ n: number }>(`SELECT count(*) AS n ${FROM} WHERE ${where}`, values)).n;
}

/** The tags that rules bear. */
export async function ruleTags(db: Db, most: number): Promise<string[]> {
  const { rows } = await db.query<{ tag: string }>(
    `SELECT DISTINCT tag FROM rule u JOIN rule_version v ON v.rule_id = u.id AND v.version = u.version
     CROSS
     JOIN LATERAL jsonb_array_elements_text(CASE WHEN jsonb_typeof(v.definition->'tags') = 'array'
       THEN v.definition->'tags' ELSE '[]' END) tag
     WHERE u.ended_at IS NULL ORDER BY tag LIMIT $1`,
    [most],
  );
  return rows.map(({ tag }) => tag);
}
