import type { SeriesId, RecordId } from '#core/id';
import { type RunFacts } from '../facts';
import { seriesName, type JudgedWatch, type StoredReading } from './judged';
import { describeProblem } from '#core/read/problem';
import type { BadReading, GoodReading, SeenRecord } from '#core/judge/known';
import { valueColumns } from '#core/value/value';
import { moment, type Statement } from '../../db/base/pool';

/** How many new rows of records and series a run makes, each of which needs a number. */
export function newRows(judged: JudgedWatch[]): { records: SeenRecord[]; series: string[] } {
  const records = judged.flatMap(({ outcome }) => outcome.records.filter(({ known }) => known === null));
  const fresh = judged.flatMap(({ watch, outcome }) =>
    outcome.good
      .filter(({ known }) => known?.id == null)
      .map(({ identity, field }) => seriesName(watch.id, identity, field.key)),
  );
  return { records, series: [...new Set(fresh)] };
}

/** Every reading with the number of its series: the one it has, or the one that is given to it now. */
export function withSeries(judged: JudgedWatch[], given: ReadonlyMap<string, SeriesId>): StoredReading[] {
  return judged.flatMap(({ watch, outcome }) =>
    outcome.good.map((reading) => {
      const seriesId = reading.known?.id ?? given.get(seriesName(watch.id, reading.identity, reading.field.key));
      if (seriesId === undefined) throw new Error('a series without a number');
      return { watch, reading, seriesId };
    }),
  );
}

/** Keeps records, series and readings. */
export function storeReadings(
  facts: RunFacts,
  judged: JudgedWatch[],
  readings: StoredReading[],
  given: { records: ReadonlyMap<SeenRecord, RecordId>; series: ReadonlyMap<string, SeriesId> },
): Statement[] {
  return [
    ...storeRecords(facts, judged, given.records),
    ...storeSeries(facts, readings, given.series),
    ...openReadings(
      facts,
      readings.filter(({ reading }) => reading.opens),
    ),
    ...seeAgain(
      facts,
      readings.filter(({ reading }) => !reading.opens),
    ),
    ...markUnread(judged),
  ];
}

/**
 * What an open reading has to its credit since it was last written: runs that brought nothing new, counted on the
 * watch.
 */
const CREDIT = 'last_seen = greatest(r.last_seen, w.settled_at), runs = r.runs + (w.settled_runs - s.read_mark)';
const HAS_CREDIT =
  's.problem IS NULL AND w.settled_runs > s.read_mark AND r.series_id = s.id AND r.first_seen = s.open_since';

const RECORDS = `
WITH new AS (
  SELECT *
  FROM jsonb_to_recordset($1) AS n(id bigint, watch int, identity text, name text, variant text, labels jsonb,
    counters jsonb)
), went AS (
  UPDATE record SET gone_since = $2 FROM unnest($3::bigint[]) AS g(id) WHERE record.id = g.id
), credited AS (
  UPDATE reading r SET ${CREDIT} FROM series s JOIN watch w ON w.id = s.watch_id
  WHERE s.record_id = ANY($3::bigint[]) AND ${HAS_CREDIT}
), offered AS (
  INSERT INTO offered_record (watch_id, identity, name, first_seen)
  SELECT watch, identity, name, $2 FROM jsonb_to_recordset($4) AS o(watch int, identity text, name text)
  ON CONFLICT DO NOTHING
)
INSERT INTO record (id, watch_id, identity, name, variant, labels, counters, first_seen)
SELECT id, watch, identity, name, variant, labels, counters, $2 FROM new
ON CONFLICT (watch_id, identity) DO UPDATE
SET name = excluded.name, variant = excluded.variant, labels = excluded.labels, counters = excluded.counters,
  gone_since = NULL`;

/** Records that are new, back, named anew or count further, those that went, and those that are offered. */
function storeRecords(facts: RunFacts, judged: JudgedWatch[], given: ReadonlyMap<SeenRecord, RecordId>): Statement[] {
  const touched = judged.flatMap(({ watch, outcome }) =>
    outcome.records.filter(isTouched).map((record) => ({ watch: watch.id, record })),
  );
  const gone = judged.flatMap(({ outcome: { moves } }) =>
    moves.flatMap(({ record, change }) => (change.to.kind === 'absent' ? (record?.id ?? []) : [])),
  );
  const offered = judged.flatMap(({ watch, outcome }) =>
    outcome.offered.map((record) => ({ watch: watch.id, ...record })),
  );
  if (touched.length === 0 && gone.length === 0 && offered.length === 0) return [];
  const rows = touched.map(({ watch, record }) => {
    const { known, identity, name, variant, labels, counters } = record;
    return { id: known?.id ?? given.get(record), watch, identity, name, variant, labels, counters };
  });
  return [
    {
      name: 'store records',
      text: RECORDS,
      values: [JSON.stringify(rows), moment(facts.startedAt), gone, JSON.stringify(offered)],
    },
  ];
}

function isTouched({ known, name, counters }: SeenRecord): boolean {
  return (
    known === null ||
    known.goneSince !== null ||
    known.name !== name ||
    JSON.stringify(known.counters) !== JSON.stringify(counters)
  );
}

const SERIES = `
WITH new AS (
  SELECT *
  FROM jsonb_to_recordset($1) AS n(series bigint, watch int, identity text, field text, value jsonb, at timestamptz,
    stamp timestamptz, quality text, news boolean)
), firsts AS (
  INSERT INTO first_reading (series_id, watch_id, value, seen_at) SELECT series, watch, shown(value), $2 FROM new
  WHERE news
)
INSERT INTO series (id, watch_id, record_id, field, value, open_since, last_good_at, source_at, quality, read_mark)
SELECT n.series, n.watch, r.id, n.field, n.value, n.at, $2, n.stamp, n.quality, w.settled_runs
FROM new n JOIN record r ON r.watch_id = n.watch AND r.identity = n.identity JOIN watch w ON w.id = n.watch`;

/** Series that begin, each with the first that was read of it. */
function storeSeries(facts: RunFacts, readings: StoredReading[], given: ReadonlyMap<string, SeriesId>): Statement[] {
  if (given.size === 0) return [];
  const begun = new Set<SeriesId>();
  const rows = readings.flatMap(({ watch, reading, seriesId }) => {
    if (reading.known?.id != null || begun.has(seriesId)) return [];
    begun.add(seriesId);
    const { identity, field, value, quality } = reading;
    const of = { series: seriesId, watch: watch.id, identity, field: field.key };
    return { ...of, value, at: moment(reading.at), stamp: stampOf(reading), quality, news: isFirstNews(reading) };
  });
  return [{ name: 'store series', text: SERIES, values: [JSON.stringify(rows), moment(facts.startedAt)] }];
}

/** The first that is read of what is told by itself is news; that it has no value yet is none. */
export const isFirstNews = (reading: Pick<GoodReading, 'known' | 'field' | 'value' | 'late' | 'quality'>): boolean =>
  reading.known?.id == null &&
  reading.field.mode === 'stepwise' &&
  reading.value.kind !== 'absent' &&
  !standsAside(reading);

const stampOf = ({ stamped, at }: GoodReading) => (stamped ? moment(at) : null);

/** A late or bad point takes its place among the readings, and leaves what the series stands at. */
const standsAside = ({ late, quality }: Pick<GoodReading, 'late' | 'quality'>) => late || quality === 'bad';

/** Looks that brought nothing new count for a reading only while its record was there. */
const wasThere = ({ watch, reading }: StoredReading) => watch.records.get(reading.identity)?.goneSince === null;

const OPEN = `
WITH new AS (
  SELECT *
  FROM jsonb_to_recordset($1) AS n(id bigint, value jsonb, kind text, amount numeric, unit text, words text,
    at timestamptz,
    stamp timestamptz, quality text, late boolean, aside boolean, there boolean)
), latest AS (
  SELECT DISTINCT ON (id) * FROM new WHERE NOT aside ORDER BY id, at DESC
), credited AS (
  UPDATE reading r SET ${CREDIT} FROM latest n JOIN series s ON s.id = n.id JOIN watch w ON w.id = s.watch_id
  WHERE n.there AND ${HAS_CREDIT}
), moved AS (
  UPDATE series s
  SET value = n.value, open_since = n.at, last_good_at = $2, problem = NULL, source_at = n.stamp, quality = n.quality,
    read_mark = w.settled_runs
  FROM latest n, watch w WHERE s.id = n.id AND w.id = s.watch_id
), heard AS (
  UPDATE series s SET source_at = greatest(s.source_at, n.stamp), quality = n.quality FROM new n
  WHERE n.aside AND NOT n.late AND s.id = n.id AND NOT EXISTS (SELECT FROM latest WHERE latest.id = n.id)
)
INSERT INTO reading (series_id, first_seen, last_seen, kind, amount, unit, words, run_id, quality, late)
SELECT id, at, at, kind, amount, unit, words, $3, quality, late FROM new ON CONFLICT DO NOTHING`;

function openReadings(facts: RunFacts, opened: StoredReading[]): Statement[] {
  if (opened.length === 0) return [];
  const rows = opened.map((each) => {
    const { reading, seriesId } = each;
    const { value, quality, late } = reading;
    const times = { at: moment(reading.at), stamp: stampOf(reading) };
    return {
      id: seriesId,
      value,
      ...valueColumns(value),
      ...times,
      quality,
      late,
      aside: standsAside(reading),
      there: wasThere(each),
    };
  });
  return [{ name: 'open readings', text: OPEN, values: [JSON.stringify(rows), moment(facts.startedAt), facts.runId] }];
}

/** Of one value so many of the source's own times are kept, the latest. */
const MOST_STAMPS = 100;

/** Points of one run may belong to several readings of a series: what was seen again before it moved, and after. */
const AGAIN = `
WITH new AS (
  SELECT id, since, max(at) AS at, max(stamp) AS stamp, array_agg(stamp
  ORDER BY stamp) FILTER (WHERE stamp IS NOT NULL) AS stamps,
    max(quality) AS quality, count(*) AS times, bool_and(there) AS there
  FROM jsonb_to_recordset($1) AS n(id bigint, since timestamptz, at timestamptz, stamp timestamptz, quality text,
    there boolean) GROUP BY id, since
), latest AS (
  SELECT DISTINCT ON (id) * FROM new ORDER BY id, at DESC
), again AS (
  UPDATE series s SET last_good_at = $2, problem = NULL, source_at = greatest(s.source_at, n.stamp),
    quality = CASE WHEN n.stamp < before.source_at THEN before.quality ELSE n.quality END, read_mark = w.settled_runs
  FROM latest n JOIN series before ON before.id = n.id JOIN watch w ON w.id = before.watch_id WHERE s.id = n.id
  RETURNING s.id, n.since, CASE WHEN n.there AND before.problem IS NULL THEN w.settled_runs - before.read_mark ELSE 0
    END AS credit
)
UPDATE reading r SET last_seen = greatest(r.last_seen, n.at), runs = r.runs + n.times + coalesce(again.credit, 0),
  stamps = CASE WHEN n.stamps IS NULL THEN r.stamps
    ELSE
      (r.stamps || n.stamps)[greatest(1,
      coalesce(cardinality(r.stamps), 0) + cardinality(n.stamps) - ${MOST_STAMPS - 1}):] END
FROM new n LEFT JOIN again ON again.id = n.id AND again.since = n.since
WHERE r.series_id = n.id AND r.first_seen = n.since`;

function seeAgain(facts: RunFacts, seen: StoredReading[]): Statement[] {
  if (seen.length === 0) return [];
  const rows = seen.map((each) => {
    const { reading, seriesId } = each;
    const since = moment(reading.known?.openSince ?? reading.at);
    return {
      id: seriesId,
      since,
      at: moment(reading.at),
      stamp: stampOf(reading),
      quality: reading.quality,
      there: wasThere(each),
    };
  });
  return [{ name: 'see again', text: AGAIN, values: [JSON.stringify(rows), moment(facts.startedAt)] }];
}

/** What was not read stands as it last was, stale, with what there is against it. */
const UNREAD = `
WITH hit AS (
  SELECT s.id, n.problem, n.good
  FROM jsonb_to_recordset($1) AS n(watch int, identity text, field text, good timestamptz, problem jsonb)
  JOIN record c ON c.watch_id = n.watch AND c.identity = n.identity
  JOIN series s ON s.record_id = c.id AND s.field = n.field
  UNION ALL
  SELECT s.id, n.problem, n.good
  FROM jsonb_to_recordset($2) AS n(watch int, fields jsonb, good timestamptz, problem jsonb)
  JOIN series s ON s.watch_id = n.watch AND n.fields ? s.field
), credited AS (
  UPDATE reading r SET ${CREDIT} FROM hit JOIN series s ON s.id = hit.id JOIN record c ON c.id = s.record_id
  JOIN watch w ON w.id = s.watch_id
  WHERE c.gone_since IS NULL AND ${HAS_CREDIT}
)
UPDATE series s SET problem = hit.problem, read_mark = w.settled_runs,
  last_good_at = CASE WHEN s.problem IS NULL THEN greatest(s.last_good_at, hit.good) ELSE s.last_good_at END
FROM hit, watch w WHERE s.id = hit.id AND w.id = s.watch_id`;

function markUnread(judged: JudgedWatch[]): Statement[] {
  const single = judged.flatMap(({ watch, outcome }) =>
    outcome.bad.map(({ identity, field, problem }) => ({
      watch: watch.id,
      identity,
      field: field.key,
      good: goodBefore(watch),
      problem: kept(problem),
    })),
  );
  const whole = judged.flatMap(({ watch, outcome: { failure } }) =>
    failure === null
      ? []
      : [
          {
            watch: watch.id,
            fields: watch.definition.fields.map(({ key }) => key),
            good: goodBefore(watch),
            problem: kept(failure),
          },
        ],
  );
  if (single.length === 0 && whole.length === 0) return [];
  return [{ name: 'mark unread', text: UNREAD, values: [JSON.stringify(single), JSON.stringify(whole)] }];
}

const goodBefore = ({ lastGoodAt }: JudgedWatch['watch']) => (lastGoodAt === null ? null : moment(lastGoodAt));

const kept = (problem: BadReading['problem']) => ({
  link: 'value',
  reason: problem.reason,
  sentence: describeProblem(problem),
});
