import type { WatchId } from '#core/id';
import type { History, StoredReading } from '#core/judge/past';
import { ALL_RECORDS, isList, NUMBER_OF_RECORDS, numberOf } from '#core/read/all-records';
import type { WatchDefinition } from '#core/read/definition';
import { sameValue } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from '../base/pool';
import type { Span } from '../base/span';

// How many records a list had before anybody asked to read that: told by those that came and went since.

/** What says which records a version has. */
const LIST = `ROW(x.definition->'records', x.definition->'identity', x.definition->'chosen')`;

/** So many moves are looked back over. */
const MOST_MOVES = 2_000;

/** Since its list was last said otherwise, or first read: before that others may have come and gone without a word. */
const COUNTED = `
SELECT w.record_count AS count, w.interval_ms AS "intervalMs", w.last_good_at AS "lastGoodAt", greatest(
  (SELECT min(o.made_at) FROM watch_version o WHERE o.watch_id = w.id AND o.version > coalesce(
    (SELECT max(x.version) FROM watch_version x WHERE x.watch_id = w.id AND ${LIST}
    IS DISTINCT FROM ROW(v.definition->'records', v.definition->'identity', v.definition->'chosen')), 0)),
  b.first_seen) AS since, b.count AS "firstCount",
  (SELECT min(q.started_at) FROM watch_run q
  WHERE q.watch_id = w.id AND q.started_at >= v.made_at AND q.outcome <> 'failed') AS "versionSince"
FROM watch w JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
CROSS JOIN LATERAL (
  SELECT r.first_seen, count(*)::int AS count FROM record r WHERE r.watch_id = w.id AND r.identity <> '${ALL_RECORDS}'
  GROUP BY r.first_seen ORDER BY r.first_seen LIMIT 1
) b
WHERE w.id = $1 AND w.last_good_at IS NOT NULL`;

/** Records that came for the first time, and those that went or came back. */
const MOVES = `
SELECT m.at, sum(m.more)::int AS more
FROM (
  SELECT r.first_seen AS at, 1 AS more FROM record r
  WHERE r.watch_id = $1 AND r.identity <> '${ALL_RECORDS}' AND r.first_seen > $2
  UNION ALL
  SELECT c.seen_at, CASE WHEN c.now->>'kind' = 'absent' THEN -1 ELSE 1 END FROM change c
  JOIN record r ON r.id = c.record_id
  WHERE c.watch_id = $1 AND c.kind = 'record' AND c.seen_at > $2
    AND (c.now->>'kind' = 'absent' OR c.seen_at > r.first_seen)
) m
GROUP BY m.at ORDER BY m.at DESC LIMIT ${MOST_MOVES}`;

interface Counted {
  count: number;
  intervalMs: number;
  lastGoodAt: Instant;
  since: Instant;
  /** How many there were at the very first run. */
  firstCount: number;
  /** The first good look under the present version. */
  versionSince: Instant | null;
}

interface Move {
  at: Instant;
  more: number;
}

/** The history of their number within a span; none where it cannot be told (of a feed nothing goes). */
export async function numberOverTime(
  db: Db,
  watch: WatchId,
  { subject, records }: WatchDefinition,
  { since, until }: Span,
): Promise<History[]> {
  if (!isList(records) || records.from === 'feed') return [];
  const { rows } = await db.query<Counted>(COUNTED, [watch]);
  const [counted] = rows;
  if (counted === undefined) return [];
  const from = Math.max(counted.since, since);
  const { rows: moves } = await db.query<Move>(MOVES, [watch, moment(from)]);
  const readings = trusted(counted, moves, from).filter((reading) => reading.at <= until);
  return readings.length === 0
    ? []
    : [{ identity: ALL_RECORDS, name: subject, fields: { [NUMBER_OF_RECORDS]: { stepwise: false, readings } } }];
}

/**
 * As far back as the moves since a moment, the latest first, can be trusted: to the very first run where they lead to
 * as many as there were then; else no further than to where the present version began, since at the first run of each
 * what comes back does so without a word.
 */
function trusted(counted: Counted, moves: Move[], from: Instant): StoredReading[] {
  const isCut = moves.length >= MOST_MOVES;
  const all = isCut || from > counted.since ? [] : backFrom(counted, moves, from);
  const [first] = all;
  if (first !== undefined && sameValue(first.value, numberOf(counted.firstCount))) return all;
  if (counted.versionSince === null) return [];
  const begun = Math.max(counted.versionSince, isCut ? (moves.at(-1)?.at ?? from) : from);
  const known = moves.filter(({ at }) => at > begun);
  return backFrom(counted, known, begun);
}

/** What the number was since each move, the oldest first; `moves` is the latest first. */
function backFrom({ count, intervalMs, lastGoodAt }: Counted, moves: Move[], begun: Instant): StoredReading[] {
  const readings: StoredReading[] = [];
  let [number, next] = [count, lastGoodAt + intervalMs];
  for (const { at, more } of [...moves, { at: begun, more: 0 }]) {
    const until = Math.max(at, next - intervalMs);
    readings.push({ at, until, runs: Math.round((until - at) / intervalMs) + 1, value: numberOf(number) });
    number -= more;
    next = at;
  }
  return readings.reverse();
}
