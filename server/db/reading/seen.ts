import pg from 'pg';
import type { WatchId } from '#core/id';
import { MOST_MOVES, type Seen } from '#core/judge/seen';
import { lets } from '#core/judge/records';
import { isAbout, isRanking, type RuleDefinition } from '#core/judge/rule';
import { foldText } from '#core/value/parse';
import { ALL_RECORDS } from '#core/read/all-records';
import { isMeasure, unitOf, wordsOf } from '#core/value/value';
import { inTransaction, type Pool } from '../base/pool';

/** What was read of a field of a record, of one kind and unit: the least and the most of it, and some of its words. */
interface SeenRow {
  watch: WatchId;
  identity: string;
  name: string;
  labels: Record<string, string>;
  field: string;
  kind: string;
  unit: string | null;
  least: number | null;
  most: number | null;
  words: (string | null)[];
  /** When it moved of late, in ms; of what is measured nothing. */
  moves: number[] | null;
}

/** Of so many records of a watch, and so many readings of each series, is it found; of texts their beginnings. */
const MOST_RECORDS = 60;
const MOST_READINGS = 2_000;
const MOST_WORDS = 40;
const LONGEST_WORDS = 400;

const SEEN = `
SELECT r.watch_id AS watch, r.identity, coalesce(r.name, r.identity) AS name, r.labels, s.field, x.kind, x.unit,
  x.least, x.most, x.words,
  CASE WHEN d.mode = 'stepwise' THEN (
    SELECT array_agg(extract(epoch FROM m.first_seen)::float8 * 1000)
    FROM (SELECT first_seen FROM reading y WHERE y.series_id = s.id ORDER BY y.first_seen DESC LIMIT ${MOST_MOVES}) m)
      END AS moves
FROM unnest($1::int[]) AS w(id)
JOIN watch ON watch.id = w.id
JOIN watch_version v ON v.watch_id = w.id AND v.version = watch.version
CROSS
JOIN LATERAL (SELECT * FROM record q WHERE q.watch_id = w.id AND q.gone_since IS NULL
ORDER BY q.identity <> '${ALL_RECORDS}', q.id LIMIT ${MOST_RECORDS}) r
JOIN series s ON s.record_id = r.id AND s.field = ANY($2)
LEFT
JOIN LATERAL (SELECT f->>'mode' AS mode FROM jsonb_array_elements(v.definition->'fields') f WHERE f->>'key' = s.field
LIMIT 1) d ON true
CROSS JOIN LATERAL (
  SELECT q.kind, q.unit, min(q.amount)::float8 AS least, max(q.amount)::float8 AS most,
    (array_agg(DISTINCT left(q.words, ${LONGEST_WORDS})))[1:${MOST_WORDS}] AS words
  FROM (SELECT * FROM reading y WHERE y.series_id = s.id ORDER BY y.first_seen DESC LIMIT ${MOST_READINGS}) q
  GROUP BY q.kind, q.unit
) x`;

const QUERY_CANCELED = '57014';

/**
 * What was read of some fields of watches so far, by watch; nothing where looking through it all takes longer than a
 * reader waits.
 */
export async function seenOf(
  pool: Pool,
  watches: readonly WatchId[],
  fields: readonly string[],
): Promise<ReadonlyMap<WatchId, SeenRow[]>> {
  const found = new Map<WatchId, SeenRow[]>(watches.map((id) => [id, []]));
  if (watches.length === 0) return found;
  try {
    for (const row of await seenInTime(pool, watches, fields)) found.get(row.watch)?.push(row);
  } catch (error) {
    if (!(error instanceof pg.DatabaseError && error.code === QUERY_CANCELED)) throw error;
  }
  return found;
}

const seenInTime = (pool: Pool, watches: readonly WatchId[], fields: readonly string[]): Promise<SeenRow[]> =>
  inTransaction(pool, async (db) => {
    await db.query(`SET LOCAL statement_timeout = '2s'`);
    return (await db.query<SeenRow>(SEEN, [watches, fields])).rows;
  });

/** What of it is of the records that a rule runs for. */
export function seenFor(rule: RuleDefinition, rows: readonly SeenRow[]): Seen {
  const { only = [] } = rule;
  const tests = only.filter((test) => !isRanking(test) && test.by !== 'item' && test.by !== 'field');
  const about = rows.filter((row) => isAbout(rule, row));
  const own = about.filter((row) => lets(tests, row));
  const of = (field: string) => own.filter((row) => row.field === field);
  // Where not all that was read is at hand nothing is said of it.
  const words = (field: string) => of(field).flatMap((row) => row.words.flatMap((each) => each ?? []));
  const isCut = (field: string) =>
    of(field).some((row) => row.words.length >= MOST_WORDS) ||
    words(field).some((each) => each.length >= LONGEST_WORDS);
  return {
    none: about.length > 0 && own.length === 0,
    read: (field) => of(field).length > 0,
    extent: (field, like) => {
      const alike = of(field).filter(
        ({ kind, unit, least, most }) => kind === like.kind && unit === unitOf(like) && least !== null && most !== null,
      );
      return alike.length === 0
        ? null
        : [Math.min(...alike.map(({ least }) => least ?? 0)), Math.max(...alike.map(({ most }) => most ?? 0))];
    },
    says: (field, wanted) => isMeasure(wanted) || isCut(field) || words(field).includes(wordsOf(wanted) ?? ''),
    moves: (field) => [
      ...new Map(
        of(field).flatMap(({ identity, moves }) => (moves === null ? [] : [[identity, moves] as const])),
      ).values(),
    ],
    hasPhrase: (field, folded) =>
      isCut(field) || words(field).some((each) => foldText(each).toLowerCase().includes(folded)),
  };
}
