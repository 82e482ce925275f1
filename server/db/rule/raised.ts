import type { ChangeId, EpisodeId, PersonId, RecordId, RuleId, WatchId } from '#core/id';
import { storedRule, type RuleDefinition } from '#core/judge/rule';
import { storedNews, type News } from '#core/tell/news';
import type { Value } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import type { Ids } from '../base/ids';
import { instant, moment, theRow, type Db } from '../base/pool';

/** What somebody did about an episode. */
type EpisodeActionRow = 'seen' | 'taken on' | 'let go' | 'put off' | 'closed' | 'opened';

/** An episode with what a list of them says of it. */
export interface EpisodeNow {
  id: EpisodeId;
  watchId: WatchId;
  ruleId: RuleId;
  recordId: RecordId;
  subject: string;
  /** The name of the record, where the watch has several. */
  record: string | null;
  site: string;
  page: string;
  owner: string;
  rule: RuleDefinition;
  labels: Record<string, string>;
  openedAt: Instant;
  raisedAt: Instant;
  peak: Value;
  peakAt: Instant;
  closedAt: Instant | null;
  because: string | null;
  /** The value that its rule looks at, as it stands now; null where none was read. */
  now: Value | null;
  takenOn: { by: string; at: Instant; note: string | null } | null;
  putOffUntil: Instant | null;
  /** When others are told, where nobody has taken it on by then, and how often others were. */
  stepAt: Instant | null;
  step: number;
  /** What was done about it, the latest first. */
  done: { what: EpisodeActionRow; by: string; at: Instant; note: string | null }[];
  /** Who was told, when first, and how often. */
  told: { names: string[]; first: Instant; times: number } | null;
  changeId: ChangeId | null;
}

const LABELS = `SELECT jsonb_object_agg(f->>'key', f->>'label') FROM jsonb_array_elements(v.definition->'fields') f`;

/** The change that raised it leads to its trail. */
const CHANGE =
  'SELECT a.change_id FROM alert a WHERE a.episode_id = e.id AND a.change_id IS NOT NULL ORDER BY a.seen_at LIMIT 1';

const TOLD = `
  SELECT jsonb_build_object('names', jsonb_agg(DISTINCT p.name), 'first', ${instant('min(a.seen_at)')}, 'times',
    count(DISTINCT a.id))
  FROM alert a JOIN notification t ON t.alert_id = a.id JOIN person p ON p.id = t.person_id
  WHERE a.episode_id = e.id AND t.decision = 'told'
  HAVING count(*) > 0`;

/** So many deeds of an episode are shown. */
const MOST_DONE = 12;
const DONE = `
  SELECT jsonb_agg(jsonb_build_object('what', d.what, 'by', p.name, 'at', ${instant('d.done_at')}, 'note', d.note)
  ORDER BY d.done_at DESC, d.id DESC)
  FROM (SELECT * FROM episode_deed x WHERE x.episode_id = e.id AND x.what <> 'seen' ORDER BY x.done_at DESC, x.id DESC
  LIMIT ${MOST_DONE}) d
  JOIN person p ON p.id = d.person_id`;

const COLUMNS = `
  e.id, r.watch_id AS "watchId", e.rule_id AS "ruleId", e.record_id AS "recordId", w.subject,
  CASE WHEN v.definition->'records'->>'from' <> 'page' THEN coalesce(c.name, c.identity) END AS record,
  t.name AS site, s.address AS page, o.name AS owner, rv.definition AS rule, (${LABELS}) AS labels,
  e.opened_at AS "openedAt", e.raised_at AS "raisedAt", shown(e.peak) AS peak, e.peak_at AS "peakAt",
    e.closed_at AS "closedAt",
  e.closed_because AS because, shown(x.value) AS now,
  CASE WHEN k.id IS NOT NULL THEN jsonb_build_object('by', k.name, 'at', ${instant('e.taken_on_at')}, 'note', e.note)
    END AS "takenOn",
  e.put_off_until AS "putOffUntil", e.step_at AS "stepAt", e.step, coalesce((${DONE}), '[]') AS done, (${TOLD}) AS told,
    (${CHANGE}) AS "changeId"`;

const FROM = `
FROM episode e
JOIN rule r ON r.id = e.rule_id
JOIN rule_version rv ON rv.rule_id = r.id AND rv.version = r.version
JOIN watch w ON w.id = r.watch_id AND w.state <> 'deleted'
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
JOIN source s ON s.id = w.source_id
JOIN site t ON t.id = s.site_id
JOIN record c ON c.id = e.record_id
JOIN person o ON o.id = coalesce((SELECT id FROM person WHERE id = (rv.definition->>'owner')::int), w.owner_id)
LEFT JOIN series x ON x.record_id = e.record_id AND x.field = r.field
LEFT JOIN person k ON k.id = e.taken_on_by`;

/** The latest episodes that are open, at most so many. */
export async function listRaised(db: Db, most: number): Promise<EpisodeNow[]> {
  const { rows } = await db.query<EpisodeNow>(
    `SELECT ${COLUMNS} ${FROM} WHERE e.closed_at IS NULL ORDER BY e.raised_at DESC, e.id DESC LIMIT $1`,
    [most],
  );
  return rows.map(episodeOf);
}

/** The episodes that were closed since a moment, the latest first. */
export async function listOver(db: Db, since: Instant, most: number): Promise<EpisodeNow[]> {
  const { rows } = await db.query<EpisodeNow>(
    `SELECT ${COLUMNS} ${FROM} WHERE e.closed_at >= $1 ORDER BY e.closed_at DESC, e.id DESC LIMIT $2`,
    [moment(since), most],
  );
  return rows.map(episodeOf);
}

const episodeOf = ({ rule, ...episode }: EpisodeNow): EpisodeNow => ({
  ...episode,
  rule: storedRule.read(rule),
  labels: episode.labels ?? {},
});

/** Past so many open episodes they are not counted one by one. */
const MOST_COUNTED = 1_000;

/** How many episodes are open, up to a thousand. */
export async function countRaised(db: Db): Promise<number> {
  const counted = await db.query<{ n: number }>({
    name: 'count raised',
    text: `SELECT count(*) AS n FROM (SELECT FROM episode WHERE closed_at IS NULL LIMIT ${MOST_COUNTED}) e`,
  });
  return theRow(counted).n;
}

/** What an alert told, and how its episode stands. */
interface NotifiedAlert {
  news: News;
  episode: EpisodeId | null;
  open: boolean;
  takenOn: { by: string; at: Instant } | null;
}

/** Finds what an alert told; null where it is no longer kept. */
export async function findNotified(db: Db, alert: number): Promise<NotifiedAlert | null> {
  const { rows } = await db.query<NotifiedAlert>(
    `SELECT a.news, e.id AS episode, e.id IS NOT NULL AND e.closed_at IS NULL AS open,
       CASE WHEN k.id IS NOT NULL THEN jsonb_build_object('by', k.name, 'at', ${instant('e.taken_on_at')})
         END AS "takenOn"
     FROM alert a LEFT JOIN episode e ON e.id = a.episode_id LEFT JOIN person k ON k.id = e.taken_on_by
     WHERE a.id = $1`,
    [alert],
  );
  return rows[0] === undefined ? null : { ...rows[0], news: storedNews.read(rows[0].news) };
}

/** Where an episode is judged: its rule, its record, and whether it is open. */
export interface EpisodePlace {
  rule: RuleId;
  record: RecordId;
  open: boolean;
}

/** Finds an episode and holds the source of its watch, so that nobody else moves it; null where there is none. */
export async function holdEpisode(db: Db, id: EpisodeId): Promise<EpisodePlace | null> {
  const held = await db.query(
    `SELECT FROM source s WHERE s.id = (
       SELECT w.source_id FROM episode e JOIN rule r ON r.id = e.rule_id JOIN watch w ON w.id = r.watch_id
       WHERE e.id = $1 AND w.state <> 'deleted'
     ) FOR UPDATE`,
    [id],
  );
  if (held.rows.length === 0) return null;
  const { rows } = await db.query<EpisodePlace>(
    'SELECT rule_id AS rule, record_id AS record, closed_at IS NULL AS open FROM episode WHERE id = $1',
    [id],
  );
  return rows[0] ?? null;
}

/** What is kept of a deed: by whom, with what words, until when. */
export interface ActionSaid {
  what: EpisodeActionRow;
  person: PersonId;
  note: string | null;
  until: Instant | null;
  at: Instant;
}

/** The statement that keeps that somebody opened the episode which is open now of a rule on a record. */
export const openedStatement = (
  deedId: number,
  { rule, record }: Pick<EpisodePlace, 'rule' | 'record'>,
  { person, note, at }: ActionSaid,
) => ({
  text: `INSERT INTO episode_deed (id, episode_id, person_id, what, note, done_at)
    SELECT $1, e.id, $4, 'opened', $5, $6 FROM episode e
    WHERE e.rule_id = $2 AND e.record_id = $3 AND e.closed_at IS NULL`,
  values: [deedId, rule, record, person, note, moment(at)],
});

/**
 * A record of the watch of a rule that is judged, with the source of that held, so that nobody else moves it; null
 * where there is none.
 */
/** Of how many records a rule rests since it was told once. */
export async function countResting(db: Db, id: RuleId): Promise<number> {
  const { rows } = await db.query<{ count: number }>(`SELECT count(*)::int AS count ${RESTING}`, [id]);
  return rows[0]?.count ?? 0;
}

/** Those records beyond one, at most so many at a time. */
export async function restingRecords(db: Db, id: RuleId, beyond: number, most: number): Promise<RecordId[]> {
  const { rows } = await db.query<{ id: RecordId }>(
    `SELECT t.record_id AS id ${RESTING} AND t.record_id > $2 ORDER BY 1 LIMIT $3`,
    [id, beyond, most],
  );
  return rows.map((row) => row.id);
}

const RESTING = `
FROM rule r JOIN rule_state t ON t.rule_id = r.id AND t.version = r.judged_version
WHERE r.id = $1 AND t.memory->'telling'->>'resting' = 'true'`;

/** Holds the source of a rule that is judged; false where there is none. */
export async function holdRule(db: Db, id: RuleId): Promise<boolean> {
  const held = await db.query(HELD_SOURCE, [id]);
  return held.rows.length > 0;
}

const HELD_SOURCE = `
SELECT FROM source s WHERE s.id = (
  SELECT w.source_id FROM rule r JOIN watch w ON w.id = r.watch_id
  WHERE r.id = $1 AND w.state <> 'deleted' AND r.ended_at IS NULL AND NOT r.off AND r.begun_at IS NOT NULL
) FOR UPDATE`;

export async function holdRecord(db: Db, id: RuleId, identity: string): Promise<RecordId | null> {
  if (!(await holdRule(db, id))) return null;
  const { rows } = await db.query<{ id: RecordId }>(
    `SELECT c.id
      FROM rule r
      JOIN record c ON c.watch_id = r.watch_id
      WHERE r.id = $1 AND c.identity = $2 AND c.gone_since IS NULL`,
    [id, identity],
  );
  return rows[0]?.id ?? null;
}

/** The statement that keeps a deed with its episode. */
export const actionStatement = (deedId: number, id: EpisodeId, { what, person, note, until, at }: ActionSaid) => ({
  name: 'keep deed',
  text: `WITH done AS (
    INSERT INTO episode_deed (id, episode_id, person_id, what, note, until, done_at) VALUES ($1, $2, $3, $4, $5, $6, $7)
  )
  UPDATE episode SET
    taken_on_by = CASE $4 WHEN 'taken on' THEN $3 WHEN 'let go' THEN NULL ELSE taken_on_by END,
    taken_on_at = CASE $4 WHEN 'taken on' THEN $7::timestamptz WHEN 'let go' THEN NULL ELSE taken_on_at END,
    note = CASE $4 WHEN 'taken on' THEN $5 WHEN 'let go' THEN NULL ELSE note END,
    put_off_until = CASE $4 WHEN 'put off' THEN $6::timestamptz ELSE put_off_until END
  WHERE id = $2`,
  values: [deedId, id, person, what, note, until === null ? null : moment(until), moment(at)],
});

/**
 * Since when somebody knows of episodes, by their numbers; those that she sees for the first time are written down as
 * seen now.
 */
export async function noteSeen(
  db: Db,
  ids: Ids,
  person: PersonId,
  episodes: readonly EpisodeId[],
  now: Instant,
): Promise<ReadonlyMap<EpisodeId, Instant>> {
  if (episodes.length === 0) return new Map();
  const { rows } = await db.query<{ id: EpisodeId; at: Instant }>(
    `SELECT episode_id AS id, min(done_at) AS at
      FROM episode_deed
      WHERE episode_id = ANY($1) AND person_id = $2
      GROUP BY 1`,
    [episodes, person],
  );
  const seen = new Map(rows.map(({ id, at }) => [id, at]));
  const fresh = episodes.filter((id) => !seen.has(id));
  if (fresh.length > 0) {
    await db.query(
      `INSERT INTO episode_deed (id, episode_id, person_id, what, done_at)
       SELECT n.deed, n.episode, $3, 'seen', $4 FROM unnest($1::bigint[], $2::bigint[]) AS n(deed, episode)
       JOIN episode e ON e.id = n.episode
        WHERE NOT EXISTS (SELECT FROM episode_deed d WHERE d.episode_id = n.episode AND d.person_id = $3)`,
      [await ids.take(db, fresh.length), fresh, person, moment(now)],
    );
  }
  return new Map([...seen, ...fresh.map((id) => [id, now] as const)]);
}
