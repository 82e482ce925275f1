import type { RecordId, RuleId, RunId, SeriesId, WatchId } from '#core/id';
import { judgesAlike, storedRule, type RuleDefinition } from '#core/judge/rule';
import { readReason, type Reason } from '#core/judge/reason';
import type { StoredReading } from '#core/judge/past';
import { arrivalOf, type Arrivals } from '../../reading/histories';
import { valueOfColumns, type Value, type ValueColumns } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from '../../base/pool';

// A watch as it was at a moment: the rules in force then, what was read until then, and what was written down of it.

/** A rule in the version of a moment. */
export interface RuleThen {
  id: RuleId;
  version: number;
  definition: RuleDefinition;
  /** Since when it judges as it did then. */
  savedAt: Instant;
}

/** So far back is looked for the version with which a rule began to judge as it does. */
const MOST_VERSIONS = 50;

const VERSIONS = `
SELECT u.id, v.version, v.definition, v.made_at AS "madeAt"
FROM rule u CROSS JOIN LATERAL (
  SELECT * FROM rule_version x WHERE x.rule_id = u.id AND x.made_at <= $2 ORDER BY x.version DESC LIMIT ${MOST_VERSIONS}
) v
WHERE u.watch_id = $1 AND (u.ended_at IS NULL OR u.ended_at > $2)
ORDER BY u.id, v.version DESC`;

/** The rules of a watch in force at a moment, each since when it judges as it did then. */
export async function rulesAt(db: Db, watch: WatchId, at: Instant): Promise<RuleThen[]> {
  const { rows } = await db.query<{ id: RuleId; version: number; definition: unknown; madeAt: Instant }>(VERSIONS, [
    watch,
    moment(at),
  ]);
  const rules = new Map<RuleId, RuleThen & { whole: boolean }>();
  for (const { id, version, definition, madeAt } of rows) {
    const known = rules.get(id);
    const read = storedRule.read(definition);
    if (known === undefined) rules.set(id, { id, version, definition: read, savedAt: madeAt, whole: true });
    else if (known.whole && judgesAlike(known.definition, read)) known.savedAt = madeAt;
    else known.whole = false;
  }
  return [...rules.values()].map(({ whole: _whole, ...rule }) => rule);
}

/** Of each series so many readings of before a moment are looked at, the latest; and of a longer text its beginning. */
const MOST_READINGS = 2_000;
const MOST_OF_A_TEXT = 2_000;
/** What was seen at many runs stands for each of them where every run counts: so many of a series are replayed. */
const MOST_RUNS = 4_000;

const READINGS = `
SELECT s.field, r.first_seen AS at, r.last_seen AS until, r.runs, r.kind, r.amount, r.unit,
  left(r.words, ${MOST_OF_A_TEXT}) AS words, r.run_id AS run, r.late
FROM series s CROSS JOIN LATERAL (
  SELECT * FROM reading_seen x WHERE x.series_id = s.id AND x.first_seen <= $3 AND x.quality IS DISTINCT FROM 'bad'
  ORDER BY x.first_seen DESC LIMIT ${MOST_READINGS}
) r
WHERE s.record_id = $1 AND s.field = ANY($2)
ORDER BY s.field, r.first_seen`;

/** What was read of a record up to a moment, by field, the oldest first; `whole` where that is all there was. */
export async function readUpTo(
  db: Db,
  record: RecordId,
  fields: string[],
  at: Instant,
  arrivals: Arrivals<string> = { startOf: new Map(), timed: new Set() },
): Promise<{ readings: Map<string, StoredReading[]>; whole: boolean }> {
  const { rows } = await db.query<
    Omit<StoredReading, 'value'> & { field: string; run: RunId | null; late: boolean } & ValueColumns
  >(READINGS, [record, fields, moment(at)]);
  const readings = new Map<string, StoredReading[]>();
  for (const { field, at: from, until, runs, run, late, ...columns } of rows) {
    const own = readings.get(field) ?? [];
    const arrival = arrivalOf(field, { at: from, run, late }, arrivals);
    const value = valueOfColumns(columns);
    own.push(seenUntil({ at: from, until, runs, value, ...arrival }, at));
    readings.set(field, own);
  }
  const looks = [...readings].map(([field, own]) => [field, own, latestRuns(own)] as const);
  const isCut = rows.some(({ words }) => words !== null && words.length >= MOST_OF_A_TEXT);
  const whole = !isCut && looks.every(([, own, latest]) => own.length < MOST_READINGS && latest.whole);
  return { readings: new Map(looks.map(([field, , latest]) => [field, latest.readings])), whole };
}

/** A reading as far as it was seen up to a moment, its runs evenly apart. */
function seenUntil(reading: StoredReading, at: Instant): StoredReading {
  if (reading.until <= at) return reading;
  const share = (at - reading.at) / (reading.until - reading.at);
  return { ...reading, until: at, runs: Math.max(1, Math.ceil(reading.runs * share)) };
}

/** The latest readings that were seen at no more looks than are replayed; of the first of them its last looks. */
function latestRuns(readings: StoredReading[]): { readings: StoredReading[]; whole: boolean } {
  const latest: StoredReading[] = [];
  let left = MOST_RUNS;
  for (const reading of [...readings].reverse()) {
    if (left === 0) break;
    const runs = Math.min(left, reading.runs);
    const at =
      runs === reading.runs
        ? reading.at
        : Math.round(reading.until - ((reading.until - reading.at) * runs) / reading.runs);
    latest.push({ ...reading, at, runs });
    left -= runs;
  }
  return { readings: latest.reverse(), whole: readings.reduce((sum, { runs }) => sum + runs, 0) <= MOST_RUNS };
}

/** What was written down of a rule on a record, last up to a moment. */
export interface WrittenDown {
  rule: RuleId;
  at: Instant;
  after: string;
  reason: Reason;
}

const VERDICTS = `
SELECT a.id AS rule, x.made_at AS at, x.state_after AS after, x.reason
FROM unnest($2::int[]) AS a(id) CROSS JOIN LATERAL (
  SELECT * FROM verdict v WHERE v.record_id = $1 AND v.rule_id = a.id AND v.made_at <= $3
  ORDER BY v.made_at DESC, v.id DESC LIMIT 1
) x`;

/** The last verdict of each of some rules on a record, up to a moment. */
export async function verdictsUpTo(db: Db, record: RecordId, rules: RuleId[], at: Instant): Promise<WrittenDown[]> {
  const { rows } = await db.query<WrittenDown>(VERDICTS, [record, rules, moment(at)]);
  return rows.map((row) => ({ ...row, reason: readReason(row.reason) }));
}

/** A reading with those beside it, to go from one to the next. */
export interface ReadingAt {
  /** Since when it was so, by the source's own time or the run's, and when the run began that brought it. */
  at: Instant;
  came: Instant;
  value: Value;
  bad: boolean;
  before: Instant | null;
  after: Instant | null;
}

const READING = `
SELECT r.first_seen AS at, coalesce((SELECT max(started_at) FROM run WHERE id = r.run_id), r.first_seen) AS came,
  r.quality IS NOT DISTINCT FROM 'bad' AS bad, r.kind, r.amount, r.unit, left(r.words, 400) AS words,
  (SELECT max(x.first_seen) FROM reading x WHERE x.series_id = $1 AND x.first_seen < r.first_seen) AS before,
  (SELECT min(x.first_seen) FROM reading x WHERE x.series_id = $1 AND x.first_seen > r.first_seen) AS after
FROM (SELECT * FROM reading x WHERE x.series_id = $1 AND x.first_seen <= $2 ORDER BY x.first_seen DESC LIMIT 1) r`;

/** The reading of a series that was in force at a moment; null where there was none yet. */
export async function readingAt(db: Db, series: SeriesId, at: Instant): Promise<ReadingAt | null> {
  const { rows } = await db.query<Omit<ReadingAt, 'value'> & ValueColumns>(READING, [series, moment(at)]);
  const [row] = rows;
  if (row === undefined) return null;
  const { at: from, came, bad, before, after, ...columns } = row;
  return { at: from, came, bad, before, after, value: valueOfColumns(columns) };
}

/** The labels that a record bears. */
export async function labelsOf(db: Db, record: RecordId): Promise<Record<string, string>> {
  const { rows } = await db.query<{ labels: Record<string, string> }>('SELECT labels FROM record WHERE id = $1', [
    record,
  ]);
  return rows[0]?.labels ?? {};
}
