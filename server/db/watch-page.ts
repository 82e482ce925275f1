import type { KnownRecord } from '#core/read/mend/mending';
import type { Change } from '#core/compare/compare';
import type { RuleDefinition, RuleStateName } from '#core/judge/rule';
import type { Reason } from '#core/judge/step';
import type { WatchDefinition } from '#core/read/definition';
import type { Quality } from '#core/read/found';
import type { ChainFacts } from '#core/tell/chain';
import { describeCondition } from '#core/judge/describe';
import type { Value } from '#core/value/value';
import { HOUR, MINUTE, type Instant, type Interval } from '#core/when/interval';
import { moment, type Db } from './pool';
import type { SourceWay } from './sources';

const MS = (column: string) => `(extract(epoch FROM ${column}) * 1000)::bigint`;

/** A problem as it was kept. */
interface KeptProblem {
  link: 'source' | 'value';
  reason: string;
  sentence: string;
}

interface SeriesNow {
  id: number;
  field: string;
  value: Value;
  openSince: Instant;
  lastGoodAt: Instant;
  /** Since when it sends nothing good while the rest is read; null while it is heard of. */
  unheardSince: Instant | null;
  /** How its source vouches for it now, where it says. */
  quality: Quality | null;
  problem: KeptProblem | null;
}

interface RuleNow {
  id: number;
  version: number;
  definition: RuleDefinition;
  state: RuleStateName | null;
  waiting: boolean | null;
  since: Instant | null;
  lastReason: Reason | null;
  reports: { id: number; name: string; cadence: string }[];
  audiences: string[];
  readers: { name: string; confirmed: boolean }[];
  lastDelivery: ChainFacts['lastDelivery'];
}

/** A watch as it stands, with all that its list row and its page tell of it. */
export interface WatchNow {
  id: number;
  state: 'running' | 'paused';
  version: number;
  definition: WatchDefinition;
  frequency: Interval;
  address: string;
  site: string;
  madeBy: string;
  madeAt: Instant;
  /** What the present version changed, where Shrike itself says so. */
  note: string | null;
  createdAt: Instant;
  nextDue: Instant | null;
  askedAt: Instant | null;
  lastRunAt: Instant | null;
  lastRunTookMs: number | null;
  failingSince: Instant | null;
  problem: KeptProblem | null;
  /** Ways that no longer find a field while others do, by field. */
  lost: Record<string, string[]> | null;
  way: SourceWay;
  host: string;
  hostPausedAt: Instant | null;
  /** Looks that fell due while the one before was on its way, since the source was made. */
  skipped: number;
  /** How many records are there now, and how many turned up that she neither chose nor left out. */
  recordCount: number;
  offeredCount: number;
  /** Of its first record. */
  series: SeriesNow[];
  unheard: ChainFacts['unheard'];
  rule: RuleNow | null;
}

const READERS = `SELECT DISTINCT p.id, p.name, p.confirmed_at IS NOT NULL AS confirmed
  FROM report_rule j JOIN report_reader rr ON rr.report_id = j.report_id LEFT JOIN list_member m ON m.list_id = rr.list_id
  JOIN person p ON p.id = coalesce(rr.person_id, m.person_id) WHERE j.rule_id = u.id AND j.left_at IS NULL`;

const AUDIENCES = `SELECT DISTINCT coalesce('list:' || rr.list_id, 'person:' || rr.person_id) AS key
  FROM report_rule j JOIN report_reader rr ON rr.report_id = j.report_id WHERE j.rule_id = u.id AND j.left_at IS NULL`;

const DELIVERY = `SELECT jsonb_build_object('state', d.state, 'person', p.name, 'at', ${MS('coalesce(d.sent_at, d.ordered_at)')}, 'response', d.response,
    'nextAttemptAt', ${MS('d.next_attempt_at')})
  FROM alert a JOIN telling t ON t.alert_id = a.id JOIN delivery d ON d.id = t.delivery_id JOIN person p ON p.id = d.person_id
  WHERE a.rule_id = u.id AND d.state <> 'kept back' ORDER BY (d.state NOT IN ('sent')) DESC, d.ordered_at DESC, d.id LIMIT 1`;

const RULE = `SELECT jsonb_build_object('id', u.id, 'version', u.version, 'definition', uv.definition,
    'state', st.name, 'waiting', st.waiting, 'since', ${MS('st.since')},
    'lastReason', (SELECT reason FROM verdict x WHERE x.rule_id = u.id AND x.rule_version = u.version ORDER BY made_at DESC, id DESC LIMIT 1),
    'reports', coalesce((SELECT jsonb_agg(jsonb_build_object('id', r.id, 'name', r.name, 'cadence', rv.definition->>'cadence') ORDER BY r.id)
       FROM report_rule j JOIN report r ON r.id = j.report_id JOIN report_version rv ON rv.report_id = r.id AND rv.version = r.version
       WHERE j.rule_id = u.id AND j.left_at IS NULL AND r.ended_at IS NULL), '[]'),
    'readers', coalesce((SELECT jsonb_agg(jsonb_build_object('name', q.name, 'confirmed', q.confirmed) ORDER BY q.name) FROM (${READERS}) q), '[]'),
    'audiences', coalesce((SELECT jsonb_agg(q.key ORDER BY q.key) FROM (${AUDIENCES}) q), '[]'),
    'lastDelivery', (${DELIVERY}))
  FROM rule u JOIN rule_version uv ON uv.rule_id = u.id AND uv.version = u.version
  LEFT JOIN LATERAL (SELECT name, waiting, since FROM rule_state s WHERE s.rule_id = u.id AND s.version = u.version ORDER BY array_position(ARRAY['raised', 'holding', 'calm', 'undecided'], name), waiting LIMIT 1) st ON true
  WHERE u.watch_id = w.id AND u.ended_at IS NULL ORDER BY u.id LIMIT 1`;

/** A point that so many looks have not brought, and for so long, is taken for silent: many report by the hour and are polled by the minute. */
const QUIET_LOOKS = 4;
const QUIET_MS = 2 * HOUR;
/** One that is there and called bad says more, but a single bad point is no trouble yet. */
const BAD_LOOKS = 1.5;
const BAD_MS = 5 * MINUTE;

/** Sensors and metrics come point by point: some may fall silent, or be called bad, while the rest is read. */
const IS_UNHEARD = `(s.problem IS NULL AND v.definition->'records'->>'from' IN ('senml', 'metrics')
    AND s.last_good_at < w.last_good_at - interval '1 ms' * CASE WHEN s.quality = 'bad' THEN greatest(${BAD_LOOKS} * w.interval_ms, ${BAD_MS})
      ELSE greatest(${QUIET_LOOKS} * w.interval_ms, ${QUIET_MS}) END)`;

const SERIES = `SELECT jsonb_agg(jsonb_build_object('id', s.id, 'field', s.field, 'value', shown(s.value), 'openSince', ${MS('s.open_since')}, 'problem', s.problem,
    'quality', s.quality, 'unheardSince', ${MS(`CASE WHEN ${IS_UNHEARD} THEN s.last_good_at END`)}, 'lastGoodAt', ${MS('CASE WHEN s.problem IS NULL THEN greatest(s.last_good_at, w.last_good_at) ELSE s.last_good_at END')}) ORDER BY s.id)
  FROM series s WHERE s.record_id = (SELECT r.id FROM record r WHERE r.watch_id = w.id ORDER BY r.gone_since IS NOT NULL, r.id LIMIT 1)`;

const UNHEARD = `SELECT jsonb_build_object('count', count(DISTINCT s.record_id), 'bad', count(DISTINCT s.record_id) FILTER (WHERE s.quality = 'bad'),
    'since', ${MS('min(s.last_good_at)')})
  FROM series s JOIN record r ON r.id = s.record_id
  WHERE s.watch_id = w.id AND ${IS_UNHEARD} AND (jsonb_typeof(v.definition->'chosen') IS DISTINCT FROM 'array' OR v.definition->'chosen' ? r.identity)
    AND EXISTS (SELECT FROM jsonb_array_elements(v.definition->'fields') f WHERE f->>'key' = s.field)
  HAVING count(*) > 0`;

const NOW = `
SELECT w.id, w.state, w.version, v.definition, v.frequency, s.address, s.site, p.name AS "madeBy", v.made_at AS "madeAt", v.note, w.created_at AS "createdAt",
  CASE WHEN w.state = 'running' THEN greatest(w.read_due_at, s.due_at) END AS "nextDue", w.asked_at AS "askedAt",
  w.last_read_at AS "lastRunAt", run.took_ms AS "lastRunTookMs", w.failing_since AS "failingSince", w.problem, w.lost, s.way, s.skipped,
  s.host, h.paused_at AS "hostPausedAt",
  (SELECT count(*) FROM record r WHERE r.watch_id = w.id AND r.gone_since IS NULL) AS "recordCount",
  (SELECT count(*) FROM offered_record o WHERE o.watch_id = w.id) AS "offeredCount",
  coalesce((${SERIES}), '[]') AS series, (${UNHEARD}) AS unheard, (${RULE}) AS rule
FROM watch w JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
JOIN source s ON s.id = w.source_id JOIN host h ON h.name = s.host JOIN person p ON p.id = v.made_by
LEFT JOIN LATERAL (SELECT took_ms FROM run r WHERE r.source_id = s.id ORDER BY started_at DESC LIMIT 1) run ON true
WHERE w.state <> 'deleted'`;

/** One watch as it stands; null when there is none, or it was deleted. */
export async function findWatch(db: Db, id: number): Promise<WatchNow | null> {
  const { rows } = await db.query<WatchNow>(`${NOW} AND w.id = $1`, [id]);
  return rows[0] ?? null;
}

/** One record as it stands, with its series. */
export interface RecordNow {
  id: number;
  identity: string;
  name: string;
  variant: string | null;
  firstSeen: Instant;
  goneSince: Instant | null;
  /** How many there are of those that were asked for. */
  total: number;
  series: SeriesNow[];
}

const RECORDS = `
SELECT r.id, r.identity, coalesce(r.name, r.identity) AS name, r.variant, r.first_seen AS "firstSeen", r.gone_since AS "goneSince", r.total,
  coalesce((${SERIES.replace(/FROM series s WHERE.*$/s, 'FROM series s WHERE s.record_id = r.id')}), '[]') AS series
FROM (
  SELECT r.*, count(*) OVER () AS total FROM record r
  WHERE r.watch_id = $1 AND ($2 = '' OR strpos(lower(coalesce(r.name, r.identity)), $2) > 0 OR r.id = $4)
  ORDER BY r.gone_since IS NOT NULL, r.id = $4 DESC, r.id LIMIT $3 OFFSET $5
) r JOIN watch w ON w.id = r.watch_id JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
ORDER BY r.gone_since IS NOT NULL, r.id = $4 DESC, r.id`;

/** A page of the records of a watch, those that are there first; of those whose name holds some words, and a chosen one in any case. */
export async function listRecords(
  db: Db,
  watchId: number,
  { words, chosen, most, page = 0 }: { words: string; chosen: number | null; most: number; page?: number },
): Promise<RecordNow[]> {
  const { rows } = await db.query<RecordNow>(RECORDS, [watchId, words.toLowerCase(), most, chosen ?? 0, page * most]);
  return rows;
}

const MOST_KNOWN = 2000;

/** The records that a watch knows and that have not gone, with the last good values of their fields; the first 2,000. */
export async function listKnown(db: Db, watchId: number): Promise<KnownRecord[]> {
  const { rows } = await db.query<KnownRecord>(
    `SELECT r.identity, jsonb_object_agg(s.field, s.value) AS fields FROM record r JOIN series s ON s.record_id = r.id
     WHERE r.watch_id = $1 AND r.gone_since IS NULL GROUP BY r.id ORDER BY r.id LIMIT ${MOST_KNOWN}`,
    [watchId],
  );
  return rows;
}

/** Records that turned up on a watch which follows chosen ones, the latest first. */
export async function listOffered(db: Db, watchId: number, most: number): Promise<{ identity: string; name: string; firstSeen: Instant }[]> {
  const { rows } = await db.query<{ identity: string; name: string; firstSeen: Instant }>(
    'SELECT identity, name, first_seen AS "firstSeen" FROM offered_record WHERE watch_id = $1 ORDER BY first_seen DESC, identity LIMIT $2',
    [watchId, most],
  );
  return rows;
}

/** Ends the offer of records that were taken or left out. */
export async function settleOffered(db: Db, watchId: number, identities: string[]): Promise<void> {
  await db.query('DELETE FROM offered_record WHERE watch_id = $1 AND identity = ANY($2)', [watchId, identities]);
}

/** How punctual a watch has been since a moment: its runs, and how late they began, in milliseconds. */
export interface Punctuality {
  runs: number;
  usualMs: number;
  mostMs: number;
}

/** How late the runs of a watch began since a moment; null where there was none. */
export async function findPunctuality(db: Db, watchId: number, from: Instant): Promise<Punctuality | null> {
  const { rows } = await db.query<Punctuality>(
    `SELECT count(*) AS runs, percentile_disc(0.5) WITHIN GROUP (ORDER BY r.late_ms) AS "usualMs", max(r.late_ms) AS "mostMs"
     FROM watch_run w JOIN run r ON r.id = w.run_id WHERE w.watch_id = $1 AND w.started_at >= $2`,
    [watchId, moment(from)],
  );
  return rows[0] === undefined || rows[0].runs === 0 ? null : rows[0];
}

/** Every watch as it stands, by name. */
export async function listWatches(db: Db): Promise<WatchNow[]> {
  const { rows } = await db.query<WatchNow>(`${NOW} ORDER BY v.definition->>'subject', w.id`);
  return rows;
}

/** How many watches there are. */
export async function countWatches(db: Db): Promise<number> {
  const { rows } = await db.query<{ n: number }>(`SELECT count(*) AS n FROM watch WHERE state <> 'deleted'`);
  return rows[0]?.n ?? 0;
}

/** What the chain needs to know of a watch. */
export function chainFactsOf(watch: WatchNow, locale: string): ChainFacts {
  const { rule } = watch;
  const labelOf = (key: string) => watch.definition.fields.find((field) => field.key === key)?.label ?? key;
  const shown = watch.series.filter((series) => watch.definition.fields.some((field) => field.key === series.field));
  return {
    state: watch.state,
    posted: watch.way === 'posted',
    hostPaused: watch.hostPausedAt === null ? null : { host: watch.host, since: watch.hostPausedAt },
    lastRun: watch.lastRunAt === null ? null : { startedAt: watch.lastRunAt, tookMs: watch.lastRunTookMs ?? 0 },
    nextDue: watch.nextDue,
    problem: watch.problem,
    failingSince: watch.failingSince,
    values: shown.map((series) => ({ label: labelOf(series.field), value: series.value, lastGoodAt: series.lastGoodAt })),
    records: watch.recordCount,
    unheard: watch.unheard,
    lost: Object.entries(watch.lost ?? {}).map(([field, ways]) => ({ label: labelOf(field), ways })),
    rule:
      rule === null
        ? null
        : {
            asked: describeCondition(rule.definition.condition, labelOf(rule.definition.condition.field), locale),
            state: rule.state ?? 'undecided',
            waiting: rule.waiting ?? false,
            since: rule.since,
            lastReason: rule.lastReason,
          },
    reports: rule?.reports.map((report) => report.name) ?? [],
    readers: rule?.readers ?? [],
    lastDelivery: rule?.lastDelivery ?? null,
  };
}

/** A change, with how it was told. */
export interface ChangeRow extends Change {
  id: number;
  field: string;
  /** The name of the record it happened to; null where that is the whole page. */
  record: string | null;
  seenAt: Instant;
  lookedBefore: Instant;
  told: number;
  alerts: number;
}

const CHANGES = `
SELECT c.id, c.field, (SELECT r.name FROM record r WHERE r.id = coalesce(c.record_id, (SELECT s.record_id FROM series s WHERE s.id = c.series_id))) AS record, c.kind, coalesce(c.was_shown, shown(c.was)) AS "from", coalesce(c.now_shown, shown(c.now)) AS "to", c.difference, c.percent, c.sense, c.seen_at AS "seenAt", c.looked_before AS "lookedBefore",
  (SELECT count(*) FROM alert a WHERE a.change_id = c.id) AS alerts,
  (SELECT count(DISTINCT t.person_id) FROM alert a JOIN telling t ON t.alert_id = a.id JOIN delivery d ON d.id = t.delivery_id
   WHERE a.change_id = c.id AND d.state = 'sent') AS told
FROM change c`;

/** The latest changes of a watch. */
export async function listChanges(db: Db, watchId: number, limit: number): Promise<ChangeRow[]> {
  const { rows } = await db.query<ChangeRow>(`${CHANGES} WHERE c.watch_id = $1 ORDER BY c.seen_at DESC, c.id DESC LIMIT $2`, [watchId, limit]);
  return rows;
}

/** How many changes a watch has had. */
export async function countChanges(db: Db, watchId: number): Promise<number> {
  const { rows } = await db.query<{ n: number }>('SELECT count(*) AS n FROM change WHERE watch_id = $1', [watchId]);
  return rows[0]?.n ?? 0;
}

/** One run as the ribbon shows it. */
export interface RunTick {
  at: Instant;
  outcome: 'first' | 'same' | 'changed' | 'failed';
  sentence: string | null;
}

const MOST_TICKS = 2000;

/** The runs of a watch since a moment, the oldest first. */
export async function listRuns(db: Db, watchId: number, from: Instant): Promise<RunTick[]> {
  const { rows } = await db.query<RunTick>(
    `SELECT started_at AS at, outcome, problem->>'sentence' AS sentence FROM watch_run
     WHERE watch_id = $1 AND started_at >= $2 ORDER BY started_at DESC LIMIT ${MOST_TICKS}`,
    [watchId, moment(from)],
  );
  return rows.reverse();
}

/** A stretch through which a rule stayed met. */
export interface EpisodeRow {
  id: number;
  seriesId: number;
  openedAt: Instant;
  closedAt: Instant | null;
  peak: Value;
}

/** The episodes of a watch's rules that reach into a window. */
export async function listEpisodes(db: Db, watchId: number, from: Instant): Promise<EpisodeRow[]> {
  const { rows } = await db.query<EpisodeRow>(
    `SELECT e.id, e.series_id AS "seriesId", e.opened_at AS "openedAt", e.closed_at AS "closedAt", shown(e.peak) AS peak FROM episode e JOIN rule r ON r.id = e.rule_id
     WHERE r.watch_id = $1 AND (e.closed_at IS NULL OR e.closed_at >= $2) ORDER BY e.opened_at`,
    [watchId, moment(from)],
  );
  return rows;
}

/** The path of one change down the chain, with every decision and its reason. */
export interface Trail {
  change: ChangeRow;
  runId: number;
  watchVersion: number;
  verdicts: { ruleId: number; condition: RuleDefinition['condition']; before: string; after: string; taken: boolean; reason: Reason; at: Instant }[];
  tellings: {
    report: string;
    edition: number | null;
    person: string;
    decision: string;
    inFavourOf: string | null;
    deliveryId: number | null;
    state: string | null;
    at: Instant | null;
    response: string | null;
    sentAgain: boolean | null;
  }[];
}

/** Follows one change of a watch down the chain; null when it is not one of this watch. */
export async function findTrail(db: Db, watchId: number, changeId: number): Promise<Trail | null> {
  const { rows } = await db.query<ChangeRow & { runId: number; watchVersion: number }>(
    `${CHANGES.replace('SELECT c.id', 'SELECT c.run_id AS "runId", c.watch_version AS "watchVersion", c.id')} WHERE c.watch_id = $1 AND c.id = $2`,
    [watchId, changeId],
  );
  const [change] = rows;
  if (change === undefined) return null;
  const verdicts = await db.query<Trail['verdicts'][number]>(
    `SELECT rule_id AS "ruleId", inputs->'condition' AS condition, state_before AS before, state_after AS after, taken, reason, made_at AS at
     FROM verdict WHERE change_id = $1 ORDER BY id`,
    [changeId],
  );
  const tellings = await db.query<Trail['tellings'][number]>(
    `SELECT r.name AS report, e.number AS edition, p.name AS person, t.decision, f.name AS "inFavourOf", d.id AS "deliveryId", d.state,
       coalesce(d.sent_at, d.ordered_at) AS at, d.response, d.sent_again AS "sentAgain"
     FROM alert a JOIN telling t ON t.alert_id = a.id JOIN report r ON r.id = t.report_id JOIN person p ON p.id = t.person_id
     LEFT JOIN report f ON f.id = t.in_favour_of LEFT JOIN delivery d ON d.id = t.delivery_id LEFT JOIN edition e ON e.id = d.edition_id
     WHERE a.change_id = $1 ORDER BY r.id, p.name`,
    [changeId],
  );
  return { change, runId: change.runId, watchVersion: change.watchVersion, verdicts: verdicts.rows, tellings: tellings.rows };
}

/** What a watch's source brought last. */
export interface LatestBody {
  snapshotId: number;
  body: string;
  address: string;
  takenAt: Instant;
}

/** What a watch's source brought last, read or not; null before the first. */
export async function findBody(db: Db, watchId: number): Promise<LatestBody | null> {
  const { rows } = await db.query<LatestBody>(
    `SELECT n.id AS "snapshotId", n.body, n.address, n.taken_at AS "takenAt" FROM watch w JOIN source s ON s.id = w.source_id JOIN snapshot n ON n.id = s.snapshot_id WHERE w.id = $1`,
    [watchId],
  );
  return rows[0] ?? null;
}

/** One side of a change between texts, whole; null where there is none. */
export async function findChangeText(db: Db, watchId: number, changeId: number, side: 'was' | 'now'): Promise<string | null> {
  const { rows } = await db.query<{ was: string | null; now: string | null }>(
    `SELECT was->>'text' AS was, now->>'text' AS now FROM change WHERE watch_id = $1 AND id = $2`,
    [watchId, changeId],
  );
  return rows[0]?.[side] ?? null;
}

/** The text of a series as it stands, whole; null where there is none. */
export async function findValueText(db: Db, watchId: number, seriesId: number): Promise<string | null> {
  const { rows } = await db.query<{ text: string | null }>(`SELECT value->>'text' AS text FROM series WHERE watch_id = $1 AND id = $2`, [
    watchId,
    seriesId,
  ]);
  return rows[0]?.text ?? null;
}
