import type { WatchId } from '#core/id';
import type { History, StoredReading } from '#core/judge/past';
import { ALL_RECORDS, isList, NUMBER_OF_RECORDS, numberOf } from '#core/read/all-records';
import type { WatchDefinition } from '#core/read/definition';
import type { Instant } from '#core/when/interval';
import type { Db } from './pool';
import type { Span } from './span';

// How many records a list had before anybody asked to read that: told by those that came and went since.

/** So many moves are looked back over. */
const MOST_MOVES = 2_000;

const COUNTED = `
SELECT w.record_count AS count, w.interval_ms AS "intervalMs", w.last_good_at AS "lastGoodAt", v.made_at AS since
FROM watch w JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
WHERE w.id = $1 AND w.read_version = w.version AND w.last_good_at IS NOT NULL`;

/** Under the present version alone: an edit may have others come and go without a word. */
const MOVES = `
SELECT c.seen_at AS at, sum(CASE WHEN c.now->>'kind' = 'absent' THEN -1 ELSE 1 END)::int AS more
FROM change c JOIN watch w ON w.id = c.watch_id
WHERE c.watch_id = $1 AND c.kind = 'record' AND c.watch_version = w.version
GROUP BY c.seen_at ORDER BY c.seen_at DESC LIMIT ${MOST_MOVES}`;

interface Counted {
  count: number;
  intervalMs: number;
  lastGoodAt: Instant;
  since: Instant;
}

/** The history of their number within a span; none where it cannot be told (of a feed nothing goes). */
export async function numberOverTime(db: Db, watch: WatchId, { subject, records }: WatchDefinition, { since, until }: Span): Promise<History[]> {
  if (!isList(records) || records.from === 'feed') return [];
  const { rows } = await db.query<Counted>(COUNTED, [watch]);
  const [counted] = rows;
  if (counted === undefined) return [];
  const { rows: moves } = await db.query<{ at: Instant; more: number }>(MOVES, [watch]);
  const begun = moves.length < MOST_MOVES ? counted.since : (moves.pop()?.at ?? counted.since);
  const readings = backFrom(counted, moves, begun).filter((reading) => reading.until >= since && reading.at <= until);
  return [{ identity: ALL_RECORDS, name: subject, fields: { [NUMBER_OF_RECORDS]: { stepwise: false, readings } } }];
}

/** What the number was since each move, the oldest first; `moves` is the latest first. */
function backFrom({ count, intervalMs, lastGoodAt }: Counted, moves: { at: Instant; more: number }[], begun: Instant): StoredReading[] {
  const readings: StoredReading[] = [];
  let [number, next] = [count, lastGoodAt + intervalMs];
  for (const { at, more } of [...moves, { at: begun, more: 0 }]) {
    const until = Math.max(at, next - intervalMs);
    readings.push({ at, until, runs: Math.max(1, Math.round((until - at) / intervalMs)), value: numberOf(number) });
    number -= more;
    next = at;
  }
  return readings.reverse();
}
