import { suppressionOf } from '../../person/people';
import { readersOf as behindReport } from '../../report/reports';
import type { RecordId, ReportId, RuleId, SourceId, WatchId } from '#core/id';
import { namesOf } from '#core/judge/words';
import { describeCondition } from '#core/judge/describe';
import type { StateName } from '#core/judge/memory';
import { readReason, type Reason } from '#core/judge/reason';
import { storedRule, type RuleDefinition } from '#core/judge/rule';
import { ALL_RECORDS } from '#core/read/all-records';
import { storedDefinition, type WatchDefinition } from '#core/read/definition';
import type { ChainFacts } from '#core/tell/chain';
import type { Instant, Interval } from '#core/when/interval';
import { instant, type Db } from '../../base/pool';
import { HAS_POINTS, IS_SILENT, seriesWhere, type StoredProblem, type SeriesNow } from '../../reading/series-now';
import type { SourceWay } from '../../../fetch/request';

/** A rule of a watch as it stands. */
interface RuleNow {
  id: RuleId;
  version: number;
  definition: RuleDefinition;
  state: StateName | null;
  waiting: boolean | null;
  since: Instant | null;
  lastReason: Reason | null;
  reports: { id: ReportId; name: string; cadence: string }[];
  audiences: string[];
  readers: ChainFacts['readers'];
  lastDelivery: ChainFacts['lastDelivery'];
}

/** A watch as it stands, with all that its list row and its page tell of it. */
export interface WatchNow {
  id: WatchId;
  sourceId: SourceId;
  state: 'running' | 'paused';
  version: number;
  definition: WatchDefinition;
  frequency: Interval;
  address: string;
  site: string;
  /** Who answers for it, and what it is tagged with. */
  owner: string;
  tags: string[];
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
  problem: StoredProblem | null;
  /** Ways that no longer find a field while others do, by field. */
  lost: Record<string, string[]> | null;
  way: SourceWay;
  host: string;
  hostPausedAt: Instant | null;
  looksSpent: { host: string; most: number; until: Instant } | null;
  /** Looks that fell due while the one before was on its way, since the source was made. */
  skipped: number;
  /** How many records are there now, and how many turned up that she neither chose nor left out. */
  recordCount: number;
  /** The record that stands for all of them, where it is read how many there are. */
  allRecords: RecordId | null;
  offeredCount: number;
  /** Of its first record. */
  series: SeriesNow[];
  unheard: ChainFacts['unheard'];
  rules: RuleNow[];
}

const READERS = `
  SELECT DISTINCT p.id, p.name, ${suppressionOf('p')} AS kept
  FROM report_rule j
  CROSS JOIN LATERAL (${behindReport('j.report_id')}) r
  JOIN person p ON p.id = r.person
  WHERE j.rule_id = u.id AND j.left_at IS NULL`;

const AUDIENCES = `
  SELECT DISTINCT coalesce('list:' || rr.list_id, 'person:' || rr.person_id) AS key
  FROM report_rule j
  JOIN report_reader rr ON rr.report_id = j.report_id
  WHERE j.rule_id = u.id AND j.left_at IS NULL`;

/** Of so many alerts of a rule the deliveries are looked at. */
const LATEST_ALERTS = 50;

/** The delivery in trouble, or else the latest. */
const LAST_DELIVERY = `
  SELECT jsonb_build_object(
    'state', d.state,
    'person', p.name,
    'at', ${instant('coalesce(d.sent_at, d.ordered_at)')},
    'response', d.response,
    'nextAttemptAt', ${instant('d.next_attempt_at')})
  FROM (SELECT id FROM alert WHERE rule_id = u.id ORDER BY seen_at DESC LIMIT ${LATEST_ALERTS}) a
  JOIN notification t ON t.alert_id = a.id
  JOIN delivery d ON d.id = t.delivery_id
  JOIN person p ON p.id = d.person_id
  WHERE d.state <> 'kept back'
  ORDER BY d.state <> 'sent' DESC, d.ordered_at DESC, d.id
  LIMIT 1`;

const REPORTS = `
  SELECT jsonb_agg(jsonb_build_object('id', r.id, 'name', r.name, 'cadence', rv.definition->>'cadence') ORDER BY r.id)
  FROM report_rule j
  JOIN report r ON r.id = j.report_id
  JOIN report_version rv ON rv.report_id = r.id AND rv.version = r.version
  WHERE j.rule_id = u.id AND j.left_at IS NULL AND r.ended_at IS NULL`;

/**
 * What is met, and does not count until it is left: since the baseline, since it was closed by hand, or as nobody saw
 * it cross.
 */
const WAITS =
  `(memory->'judged'->'heldBack' <> '[]' OR memory->'judged'->'clauses' @> ` + `'[{"own": {"side": "passed over"}}]')`;

/** Of the records of a watch the one that a rule stands out on most. */
const STATE = `
  SELECT name, ${WAITS} AS waiting, since, reason
  FROM rule_state s
  WHERE s.rule_id = u.id AND s.version = u.judged_version
  ORDER BY array_position(ARRAY['raised', 'holding', 'calm', 'undecided'], name), ${WAITS} DESC
  LIMIT 1`;

const RULES = `
  SELECT jsonb_agg(jsonb_build_object(
    'id', u.id,
    'version', u.version,
    'definition', uv.definition,
    'state', st.name,
    'waiting', st.waiting,
    'since', ${instant('st.since')},
    'lastReason', st.reason,
    'reports', coalesce((${REPORTS}), '[]'),
    'readers',
      coalesce((SELECT jsonb_agg(jsonb_build_object('name', q.name, 'kept', q.kept) ORDER BY q.name)
    FROM (${READERS}) q), '[]'),
    'audiences', coalesce((SELECT jsonb_agg(q.key ORDER BY q.key) FROM (${AUDIENCES}) q), '[]'),
    'lastDelivery', (${LAST_DELIVERY})
  ) ORDER BY u.id)
  FROM rule u
  JOIN rule_version uv ON uv.rule_id = u.id AND uv.version = u.version
  LEFT JOIN LATERAL (${STATE}) st ON true
  WHERE u.watch_id = w.id AND u.ended_at IS NULL`;

/** Of its first record, those that are there before those that went. */
const SERIES = seriesWhere(`s.record_id = coalesce(
    (SELECT r.id FROM record r WHERE r.watch_id = w.id AND r.gone_since IS NULL AND r.identity <> '${ALL_RECORDS}'
    ORDER BY r.id LIMIT 1),
    (SELECT r.id FROM record r WHERE r.watch_id = w.id AND r.identity <> '${ALL_RECORDS}' ORDER BY r.id LIMIT 1))`);

/** Only what comes point by point can fall silent in part; of all else no series is looked at. */
const UNHEARD = `
  SELECT jsonb_build_object(
    'count', count(DISTINCT s.record_id),
    'bad', count(DISTINCT s.record_id) FILTER (WHERE s.quality = 'bad'),
    'since', ${instant('min(s.last_good_at)')})
  FROM series s
  JOIN record r ON r.id = s.record_id
  WHERE s.watch_id = w.id
    AND ${IS_SILENT}
    AND (jsonb_typeof(v.definition->'chosen') IS DISTINCT FROM 'array' OR v.definition->'chosen' ? r.identity)
    AND EXISTS (SELECT FROM jsonb_array_elements(v.definition->'fields') f WHERE f->>'key' = s.field)
  HAVING count(*) > 0`;

const NOW = `
SELECT w.id, w.source_id AS "sourceId", w.state, w.version, v.definition, v.frequency, s.address, t.name AS site,
  o.name AS owner, w.tags, p.name AS "madeBy", v.made_at AS "madeAt", v.note,
  w.created_at AS "createdAt",
  CASE WHEN w.state = 'running' THEN greatest(w.read_due_at, d.due_at) END AS "nextDue",
  w.asked_at AS "askedAt", w.last_read_at AS "lastRunAt", s.last_took_ms AS "lastRunTookMs",
    w.failing_since AS "failingSince",
  w.problem, w.lost, s.way, s.skipped, s.host, h.paused_at AS "hostPausedAt",
  CASE WHEN h.runs_made >= h.runs_a_day AND s.way <> 'posted'
    THEN jsonb_build_object('host', h.name, 'most', h.runs_a_day, 'until', ${instant('h.runs_until')})
    END AS "looksSpent",
  w.record_count AS "recordCount",
  (SELECT r.id FROM record r WHERE r.watch_id = w.id AND r.identity = '${ALL_RECORDS}') AS "allRecords",
  (SELECT count(*) FROM offered_record o WHERE o.watch_id = w.id) AS "offeredCount",
  coalesce((${SERIES}), '[]') AS series,
  CASE WHEN ${HAS_POINTS} THEN (${UNHEARD}) END AS unheard,
  coalesce((${RULES}), '[]') AS rules
FROM watch w
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
JOIN source s ON s.id = w.source_id
JOIN site t ON t.id = s.site_id
JOIN due d ON d.source_id = s.id
JOIN host h ON h.name = s.host
JOIN person p ON p.id = v.made_by
JOIN person o ON o.id = w.owner_id
WHERE w.state <> 'deleted'`;

/** One watch as it stands; null when there is none, or it was deleted. */
export async function findWatch(db: Db, id: WatchId): Promise<WatchNow | null> {
  const { rows } = await db.query<WatchNow>(`${NOW} AND w.id = $1`, [id]);
  return rows[0] === undefined ? null : watchOf(rows[0]);
}

/** What is stored as JSON, in its present shape. */
function watchOf({ rules, definition, ...watch }: WatchNow): WatchNow {
  const known = rules.map((rule) => ({
    ...rule,
    definition: storedRule.read(rule.definition),
    lastReason: reasonOf(rule.lastReason),
  }));
  return { ...watch, definition: storedDefinition.read(definition), rules: known };
}

const reasonOf = (stored: unknown) => (stored === null ? null : readReason(stored));

/** Some watches as they stand, in the order of their names. */
export async function watchesOf(db: Db, ids: number[]): Promise<WatchNow[]> {
  if (ids.length === 0) return [];
  const { rows } = await db.query<WatchNow>(`${NOW} AND w.id = ANY($1) ORDER BY w.subject, w.id`, [ids]);
  return rows.map(watchOf);
}

/** What the chain needs to know of a watch. */
export function chainFactsOf(watch: WatchNow, locale: string): ChainFacts {
  const { rules } = watch;
  const isFramed = (key: string) =>
    (watch.definition.fields.find((field) => field.key === key)?.frames ?? []).length > 0;
  const labelOf = (key: string) => watch.definition.fields.find((field) => field.key === key)?.label ?? key;
  const shown = watch.series.filter((series) => watch.definition.fields.some((field) => field.key === series.field));
  return {
    state: watch.state,
    posted: watch.way === 'posted',
    looksSpent: watch.looksSpent,
    hostPaused: watch.hostPausedAt === null ? null : { host: watch.host, since: watch.hostPausedAt },
    lastRun: watch.lastRunAt === null ? null : { startedAt: watch.lastRunAt, tookMs: watch.lastRunTookMs ?? 0 },
    nextDue: watch.nextDue,
    problem: watch.problem,
    failingSince: watch.failingSince,
    values: shown.map((series) => ({
      label: labelOf(series.field),
      value: series.value,
      lastGoodAt: series.lastGoodAt,
    })),
    records: watch.recordCount,
    unheard: watch.unheard,
    lost: Object.entries(watch.lost ?? {}).map(([field, ways]) => ({
      label: labelOf(field),
      ways,
      framed: isFramed(field),
    })),
    rules: rules.map(({ definition, state, waiting, since, lastReason, reports }) => ({
      asked: definition.name ?? describeCondition(definition.when, namesOf(labelOf, locale)),
      off: definition.off === true,
      state: state ?? 'undecided',
      waiting: waiting ?? false,
      since,
      lastReason,
      told: reports.length > 0,
    })),
    reports: [...new Set(rules.flatMap(({ reports }) => reports.map(({ name }) => name)))],
    readers: readersOf(rules),
    lastDelivery: lastDeliveryOf(rules),
  };
}

function readersOf(rules: RuleNow[]): RuleNow['readers'] {
  const readers = new Map(rules.flatMap((rule) => rule.readers.map((reader) => [reader.name, reader] as const)));
  return [...readers.values()].sort((a, b) => a.name.localeCompare(b.name));
}

/** Of the last deliveries by several rules the one in trouble, or else the latest. */
function lastDeliveryOf(rules: RuleNow[]): RuleNow['lastDelivery'] {
  const last = rules.flatMap(({ lastDelivery }) => lastDelivery ?? []);
  const weight = ({ state, at }: (typeof last)[number]) => (state === 'sent' ? 0 : Number.MAX_SAFE_INTEGER / 2) + at;
  return last.sort((a, b) => weight(b) - weight(a))[0] ?? null;
}
