import type { RunId, SeriesId, WatchId } from '#core/id';
import type { History, PastRuns, StoredReading } from '#core/judge/past';
import { ALL_RECORDS, withNumber } from '#core/read/all-records';
import type { WatchDefinition } from '#core/read/definition';
import { valueOfColumns, type ValueColumns } from '#core/value/value';
import { timedFields } from '#core/judge/place';
import { numberOverTime } from './number-over-time';
import { moment, type Db } from '../base/pool';
import type { Span } from '../base/span';
import type { Instant } from '#core/when/interval';

/**
 * What of a watch's past a rule is tried on: of so many records, and so many readings of each of their series at most.
 */
const MOST_RECORDS = 60;
const MOST_READINGS = 20_000;
const MOST_OF_ONE = 6_000;
/** Texts are taken whole, the latest first, up to so many bytes of a series; of those before, the beginning. */
const MOST_OF_TEXTS = 200_000;
const MOST_OF_A_TEXT = 400;

const SERIES = `
SELECT s.id, s.field, r.identity, coalesce(r.name, r.identity) AS name, r.labels
FROM (SELECT id, identity, name, labels FROM record WHERE watch_id = $1
ORDER BY identity <> '${ALL_RECORDS}', gone_since IS NOT NULL, id LIMIT ${MOST_RECORDS + 1}) r
JOIN series s ON s.record_id = r.id
WHERE s.field = ANY($2)
ORDER BY r.id, s.field`;

const READINGS = `
SELECT q.id AS "seriesId", r.first_seen AS at, r.last_seen AS until, r.runs, r.kind, r.amount, r.unit,
  CASE WHEN r.whole THEN r.words ELSE left(r.words, ${MOST_OF_A_TEXT}) END AS words, r.run_id AS run, r.late, r.whole
FROM unnest($1::bigint[]) AS q(id)
CROSS JOIN LATERAL (
  SELECT *, coalesce(sum(octet_length(x.words)) OVER (ORDER BY x.first_seen DESC) <= ${MOST_OF_TEXTS}, true) AS whole
  FROM reading_seen x
  WHERE x.series_id = q.id AND x.quality IS DISTINCT FROM 'bad' AND x.first_seen <= $4
    AND x.first_seen >= coalesce((SELECT max(o.first_seen) FROM reading o
    WHERE o.series_id = q.id AND o.first_seen <= $2), $2)
  ORDER BY x.first_seen DESC LIMIT $3
) r
ORDER BY q.id, r.first_seen`;

type Row = Omit<StoredReading, 'value'> & {
  seriesId: SeriesId;
  run: RunId | null;
  late: boolean;
  whole: boolean;
} & ValueColumns;

/** Runs that read something and that failed, so many of the latest, with when each began. */
const MOST_RUNS = 20_000;
const RUNS = `
SELECT run_id AS id, started_at AS at, outcome = 'failed' AS failed FROM watch_run
WHERE watch_id = $1 AND started_at BETWEEN $2 AND $3 ORDER BY started_at DESC LIMIT ${MOST_RUNS}`;

/** When a watch was looked at in a span, and when each of those runs began. */
interface RunsOfWatch {
  runs: PastRuns;
  startOf: ReadonlyMap<RunId, Instant>;
}

export async function runsOfWatch(db: Db, id: WatchId, { since, until }: Span): Promise<RunsOfWatch> {
  const { rows } = await db.query<{ id: RunId; at: Instant; failed: boolean }>(RUNS, [
    id,
    moment(since),
    moment(until),
  ]);
  const known = rows.reverse();
  const at = (failed: boolean) => known.flatMap((run) => (run.failed === failed ? run.at : []));
  return {
    runs: { read: at(false), failed: at(true) },
    startOf: new Map(known.map((run) => [run.id, run.at])),
  };
}

/** So many of the latest times that records came and went. */
const MOST_MOVES = 5_000;
const PRESENCE = `
SELECT r.identity, c.seen_at AS at, c.now->>'kind' <> 'absent' AS there
FROM change c JOIN record r ON r.id = c.record_id
WHERE c.watch_id = $1 AND c.kind = 'record' AND c.seen_at BETWEEN $2 AND $3
ORDER BY c.seen_at DESC LIMIT ${MOST_MOVES}`;

/** When records of a watch came and went in a span, by identity, the oldest first. */
async function presenceIn(db: Db, id: WatchId, { since, until }: Span): Promise<Map<string, History['presence']>> {
  const { rows } = await db.query<{ identity: string; at: Instant; there: boolean }>(PRESENCE, [
    id,
    moment(since),
    moment(until),
  ]);
  const presence = new Map<string, { at: Instant; there: boolean }[]>();
  for (const { identity, at, there } of rows.reverse()) {
    const own = presence.get(identity) ?? [];
    own.push({ at, there });
    presence.set(identity, own);
  }
  return presence;
}

/** When runs began that brought readings, where a source's own time says when those were so. */
export interface Arrivals<Of> {
  startOf: ReadonlyMap<RunId, Instant>;
  /** What of it goes by such a time: what else is read was so when it came. */
  timed: ReadonlySet<Of>;
}

/** When a stored reading came, where that is later than when it was so, and whether it was late. */
export function arrivalOf<Of>(
  of: Of,
  { at, run, late }: { at: Instant; run: RunId | null; late: boolean },
  { startOf, timed }: Arrivals<Of>,
): Pick<StoredReading, 'came' | 'late'> {
  const came = run === null || !timed.has(of) ? at : (startOf.get(run) ?? at);
  return { ...(came > at ? { came } : {}), ...(late ? { late } : {}) };
}

/**
 * What was read of some series in a span, with what was in force when it began, the oldest first; of each the latest so
 * many.
 */
export async function readingsIn(
  db: Db,
  series: readonly SeriesId[],
  { since, until }: Span,
  most: number,
  arrivals: Arrivals<SeriesId> = { startOf: new Map(), timed: new Set() },
): Promise<{ readings: Map<SeriesId, StoredReading[]>; whole: boolean }> {
  const { rows } = await db.query<Row>(READINGS, [series, moment(since), most, moment(until)]);
  const readings = new Map<SeriesId, StoredReading[]>();
  for (const { seriesId, at, until, runs, run, late, whole: _whole, ...columns } of rows) {
    const own = readings.get(seriesId) ?? [];
    own.push({ at, until, runs, value: valueOfColumns(columns), ...arrivalOf(seriesId, { at, run, late }, arrivals) });
    readings.set(seriesId, own);
  }
  return { readings, whole: rows.every(({ whole, words }) => whole || (words ?? '').length < MOST_OF_A_TEXT) };
}

/**
 * What was read of a watch in a span, record by record, as far as fields are drawn or judged; bounded, and says whether
 * something was left out.
 */
export async function historiesOf(
  db: Db,
  id: WatchId,
  definition: WatchDefinition,
  span: Span,
): Promise<{ histories: History[]; runs: PastRuns; whole: boolean }> {
  const fields = withNumber(definition);
  const stepwise = new Map(fields.map(({ key, mode }) => [key, mode === 'stepwise']));
  const timed = timedFields(fields, definition.records);
  const { rows: series } = await db.query<{
    id: SeriesId;
    field: string;
    identity: string;
    name: string;
    labels: Record<string, string>;
  }>(SERIES, [id, [...stepwise.keys()]]);
  const most = Math.max(100, Math.min(MOST_OF_ONE, Math.floor(MOST_READINGS / Math.max(1, series.length))));
  const { startOf, runs } = await runsOfWatch(db, id, span);
  const presence = await presenceIn(db, id, span);
  const { readings, whole } = await readingsIn(
    db,
    series.map((each) => each.id),
    span,
    most,
    { startOf, timed: new Set(series.flatMap((each) => (timed.has(each.field) ? each.id : []))) },
  );
  const histories = new Map<
    string,
    {
      identity: string;
      name: string;
      labels: Record<string, string>;
      presence?: History['presence'];
      fields: Record<string, { stepwise: boolean; readings: StoredReading[] }>;
    }
  >();
  for (const { id: seriesId, field, identity, name, labels } of series) {
    const moves = presence.get(identity);
    const record = histories.get(identity) ?? {
      identity,
      name,
      labels,
      ...(moves === undefined ? {} : { presence: moves }),
      fields: {},
    };
    record.fields[field] = { stepwise: stepwise.get(field) ?? true, readings: readings.get(seriesId) ?? [] };
    histories.set(identity, record);
  }
  const all = histories.has(ALL_RECORDS) ? [] : await numberOverTime(db, id, definition, span);
  return {
    histories: [...histories.values(), ...all],
    runs,
    whole: whole && [...readings.values()].every((own) => own.length < most) && histories.size < MOST_RECORDS,
  };
}
