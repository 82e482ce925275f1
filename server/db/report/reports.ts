import type { EditionId, PersonId, ReportId, RuleId } from '#core/id';
import { atOnceDefinition, storedOrder, type ReportDefinition } from '#core/tell/definition';
import type { ReachedBy } from '#core/tell/reach';
import type { Instant } from '#core/when/interval';
import { suppressionOf } from '../person/people';
import { instant, moment, theRow, type Db } from '../base/pool';

/** Who reads, as keys: `person:3`, `list:1`. */
export type AudienceKey = string;

/** Whether a key `key` is of somebody, or of a list, that is there. */
const PRESENT = `(EXISTS (SELECT FROM person p WHERE key = 'person:' || p.id AND p.removed_at IS NULL)
  OR EXISTS (SELECT FROM list l WHERE key = 'list:' || l.id AND l.removed_at IS NULL))`;

/** Which of these are there still. */
export async function presentOf(db: Db, audiences: AudienceKey[]): Promise<AudienceKey[]> {
  const { rows } = await db.query<{ key: AudienceKey }>(
    `SELECT key FROM unnest($1::text[]) AS k(key) WHERE ${PRESENT}`,
    [audiences],
  );
  return rows.map(({ key }) => key);
}

const SAME_READERS = `
SELECT r.id FROM report r JOIN report_version v ON v.report_id = r.id AND v.version = r.version
WHERE r.ended_at IS NULL AND v.definition->'cadence'->>'cut' = 'at once' AND r.cut_with IS NULL
  AND (SELECT array_agg(coalesce('list:' || rr.list_id, 'person:' || rr.person_id) ORDER BY 1) FROM report_reader rr
  WHERE rr.report_id = r.id)
    = (SELECT array_agg(key ORDER BY 1) FROM unnest($1::text[]) AS k(key))
ORDER BY r.id LIMIT 1`;

/** The report that tells exactly these at once: found, or made. */
export async function ensureAtOnceReport(
  db: Db,
  audiences: AudienceKey[],
  madeBy: PersonId,
  now: Instant,
): Promise<ReportId> {
  const { rows } = await db.query<{ id: ReportId }>(SAME_READERS, [audiences]);
  return rows[0]?.id ?? makeAtOnceReport(db, audiences, madeBy, now);
}

async function makeAtOnceReport(db: Db, audiences: AudienceKey[], madeBy: PersonId, now: Instant): Promise<ReportId> {
  const named = await db.query<{ name: string }>(
    `SELECT name FROM (
       SELECT 1 AS place, name FROM list WHERE 'list:' || id = ANY($1)
       UNION ALL
       SELECT 2, name FROM person WHERE 'person:' || id = ANY($1)
     ) heard ORDER BY place, name`,
    [audiences],
  );
  const name = `${named.rows.map((row) => row.name).join(' and ')}, at once`;
  const made = await db.query<{ id: ReportId }>(
    `INSERT INTO report (name, version, cut_seq, owner_id, made_at, cut_at)
      SELECT $1, 1, last, $2, $3, $3
      FROM commit_order
      RETURNING id`,
    [name, madeBy, moment(now)],
  );
  const id = theRow(made).id;
  await db.query(
    'INSERT INTO report_version (report_id, version, definition, made_by, made_at) VALUES ($1, 1, $2, $3, $4)',
    [id, storedOrder.write(atOnceDefinition(audiences)), madeBy, moment(now)],
  );
  await setReaders(db, id, audiences);
  return id;
}

/** Who reads a report, in SQL: those it names and those on its lists, but for who left it. */
export const readersOf = (report: string): string => `
  SELECT DISTINCT coalesce(rr.person_id, m.person_id) AS person
  FROM report_reader rr LEFT JOIN list_member m ON m.list_id = rr.list_id
  WHERE rr.report_id = ${report} AND coalesce(rr.person_id, m.person_id) IS NOT NULL
    AND NOT EXISTS (SELECT FROM reader_left l
    WHERE l.report_id = rr.report_id AND l.person_id = coalesce(rr.person_id, m.person_id) AND l.back_at IS NULL)`;

const MEMBERS = `
SELECT k.key, coalesce(array_agg(m.person) FILTER (WHERE m.person IS NOT NULL), '{}') AS people
FROM unnest($1::text[]) AS k(key) LEFT JOIN LATERAL (
  SELECT split_part(k.key, ':', 2)::int AS person WHERE k.key LIKE 'person:%'
  UNION ALL
  SELECT l.person_id FROM list_member l WHERE k.key LIKE 'list:%' AND l.list_id = split_part(k.key, ':', 2)::int
) m ON true GROUP BY k.key`;

/** Who stands behind keys: a person for herself, of a list its members. */
export async function membersOf(db: Db, audiences: AudienceKey[]): Promise<Map<AudienceKey, PersonId[]>> {
  const { rows } = await db.query<{ key: AudienceKey; people: PersonId[] }>(MEMBERS, [[...new Set(audiences)]]);
  return new Map(rows.map(({ key, people }) => [key, people]));
}

const STAYS = `
SELECT p.id FROM report r JOIN person p ON p.id = r.owner_id AND p.removed_at IS NULL
WHERE r.id = $1 AND NOT EXISTS (SELECT FROM reader_left l
WHERE l.report_id = r.id AND l.person_id = p.id AND l.back_at IS NULL)`;

/** Who answers for a report, unless she left it herself, or is not there any more. */
export async function ownerStaying(db: Db, report: ReportId): Promise<PersonId | null> {
  return (await db.query<{ id: PersonId }>(STAYS, [report])).rows[0]?.id ?? null;
}

const READERS = `
INSERT INTO report_reader (report_id, person_id, list_id)
SELECT $1, CASE WHEN key LIKE 'person:%' THEN split_part(key, ':', 2)::int END, CASE WHEN key LIKE 'list:%'
  THEN split_part(key, ':', 2)::int END
FROM unnest($2::text[]) AS k(key)
WHERE ${PRESENT}`;

/** Lets exactly these read a report. */
export async function setReaders(db: Db, id: ReportId, audiences: AudienceKey[]): Promise<void> {
  await db.query('DELETE FROM report_reader WHERE report_id = $1', [id]);
  await db.query(READERS, [id, audiences]);
}

/** Gives all news that is committed its place in the order of commits, so that a cut finds few without one. */
export async function placeNews(db: Db): Promise<void> {
  await db.query({ name: 'place news', text: 'SELECT place_news()' });
}

/** Lets a rule be told through exactly this report, or through none. */
export async function setReportOfRule(db: Db, ruleId: RuleId, reportId: ReportId | null, now: Instant): Promise<void> {
  await db.query(
    'UPDATE report_rule SET left_at = $3 WHERE rule_id = $1 AND left_at IS NULL AND report_id IS DISTINCT FROM $2',
    [ruleId, reportId, moment(now)],
  );
  if (reportId === null) return;
  await db.query('INSERT INTO report_rule (report_id, rule_id, joined_at) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING', [
    reportId,
    ruleId,
    moment(now),
  ]);
}

/** A report as its list shows it: `readers` are those of all of it, or of the rest where it is split. */
export interface ReportNow {
  id: ReportId;
  name: string;
  version: number;
  order: ReportDefinition;
  owner: string;
  ownerId: PersonId;
  madeAt: Instant;
  /** Who reads it, by name: lists and people; who left it; and the people behind them who have not. */
  readers: string[];
  left: string[];
  hearing: ReachedBy[];
  editions: number;
  last: { id: EditionId; number: number; at: Instant; lines: number | null } | null;
  cutAt: Instant;
  dueAt: Instant | null;
  /** Rules that are told through it by name. */
  rules: number;
  /** How many of its deliveries have not gone out, and would be cancelled with it. */
  unsent: number;
  /** Why its last cut is not an edition yet, where it is not. */
  problem: string | null;
  /** The number under which its feed can be read now. */
  feed: number;
}

/** The states of deliveries that can still be cancelled. */
export const UNSENT = `'queued', 'kept back', 'refused'`;

const BEHIND = `FROM (${readersOf('r.id')}) b JOIN person q ON q.id = b.person`;

const LEFT = `SELECT q.name
  FROM reader_left l
  JOIN person q ON q.id = l.person_id
  WHERE l.report_id = r.id AND l.back_at IS NULL
  ORDER BY q.name`;

const REPORTS = `
SELECT r.id, r.name, r.version, v.definition AS order, o.name AS owner, r.owner_id AS "ownerId", r.made_at AS "madeAt",
  r.editions, r.feed, r.cut_at AS "cutAt", r.due_at AS "dueAt",
  ARRAY(SELECT coalesce(l.name, p.name) FROM report_reader rr LEFT JOIN list l ON l.id = rr.list_id LEFT
  JOIN person p ON p.id = rr.person_id
    WHERE rr.report_id = r.id AND v.definition->'readers' ? coalesce('list:' || rr.list_id, 'person:' || rr.person_id)
    ORDER BY rr.list_id NULLS LAST, 1) AS readers,
  coalesce((SELECT jsonb_agg(jsonb_build_object('name', q.name, 'kept', ${suppressionOf('q')}) ORDER BY q.name)
    ${BEHIND}),
    '[]') AS hearing,
  ARRAY(${LEFT}) AS left,
  (SELECT jsonb_build_object('id', e.id, 'number', e.number, 'at', ${instant('e.made_at')}, 'lines', c.lines)
    FROM edition e LEFT JOIN cut c ON c.id = e.cut_id WHERE e.report_id = r.id ORDER BY e.number DESC LIMIT 1) AS last,
  (SELECT count(*)::int FROM report_rule j JOIN rule u ON u.id = j.rule_id
  WHERE j.report_id = r.id AND j.left_at IS NULL AND u.ended_at IS NULL) AS rules,
  (SELECT count(*)::int FROM delivery d WHERE d.report_id = r.id AND d.state IN (${UNSENT})) AS unsent,
  (SELECT c.problem FROM cut c WHERE c.report_id = r.id AND c.composed_at IS NULL AND c.problem IS NOT NULL
  ORDER BY c.number LIMIT 1) AS problem
FROM report r JOIN report_version v ON v.report_id = r.id AND v.version = r.version JOIN person o ON o.id = r.owner_id
WHERE r.ended_at IS NULL`;

const readNow = ({ order, ...rest }: Omit<ReportNow, 'order'> & { order: unknown }): ReportNow => ({
  ...rest,
  order: storedOrder.read(order),
});

/** All reports, those that are planned first, by their next cut. */
export async function listReports(db: Db, most: number): Promise<ReportNow[]> {
  const { rows } = await db.query<ReportNow>(`${REPORTS} ORDER BY r.due_at NULLS LAST, r.name, r.id LIMIT $1`, [most]);
  return rows.map(readNow);
}

/** What the reports are called, at most so many. */
export async function reportNames(db: Db, most: number): Promise<{ id: ReportId; name: string }[]> {
  return (
    await db.query<{ id: ReportId; name: string }>(
      'SELECT id, name FROM report WHERE ended_at IS NULL ORDER BY name, id LIMIT $1',
      [most],
    )
  ).rows;
}

/** Reports whose names hold some words, by name; at most so many. */
export async function findReports(db: Db, words: string, most: number): Promise<{ id: ReportId; name: string }[]> {
  const { rows } = await db.query<{ id: ReportId; name: string }>(
    `SELECT id, name FROM report WHERE ended_at IS NULL AND strpos(lower(name), lower($1)) > 0
      ORDER BY name, id LIMIT $2`,
    [words, most],
  );
  return rows;
}

/** Ends the address of a report's feed: the next one is another. */
export async function endFeed(db: Db, id: ReportId): Promise<void> {
  await db.query('UPDATE report SET feed = feed + 1 WHERE id = $1', [id]);
}

/** One report; null where there is none, or it has ended. */
export async function findReport(db: Db, id: ReportId): Promise<ReportNow | null> {
  const { rows } = await db.query<ReportNow>(`${REPORTS} AND r.id = $1`, [id]);
  return rows[0] === undefined ? null : readNow(rows[0]);
}
