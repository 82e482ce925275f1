import type { WatchId } from '#core/id';
import { chainOf, firstBroken, QUEUE_PATIENCE } from '#core/tell/chain';
import { HOUR, MINUTE, type Instant } from '#core/when/interval';
import { inTransaction, moment, theRow, type Db, type Pool } from './pool';
import { chainFactsOf, watchesOf, type WatchNow } from './watch-now';

/** The lists that watches are in. */
export const FILTERS = ['all', 'raised', 'broken', 'paused'] as const;
export type Filter = (typeof FILTERS)[number];

/** How many watches are in each list. */
export async function readTally(db: Db): Promise<Record<Filter, number>> {
  return theRow(await db.query<Record<Filter, number>>('SELECT watches AS all, raised, broken, paused FROM tally'));
}

/** Where a page of a list begins: after a watch, by its name and number. */
export interface After {
  subject: string;
  id: WatchId;
}

const CONDITIONS: Record<Filter, string> = { all: 'true', raised: 'raised', broken: 'broken', paused: 'paused' };

/** The watches of a list whose name, site or address holds some words, by name; those after a watch, at most so many. */
export async function listStanding(
  db: Db,
  { filter, words, after, most }: { filter: Filter; words: string; after: After | null; most: number },
): Promise<After[]> {
  const { rows } = await db.query<After>(
    `SELECT subject, watch_id AS id FROM standing
     WHERE ${CONDITIONS[filter]}
       ${words === '' ? 'AND $1::text IS NULL' : 'AND words LIKE $1'}
       ${after === null ? 'AND $2::text IS NULL AND $3::int IS NULL' : 'AND (subject, watch_id) > ($2, $3)'}
     ORDER BY subject, watch_id LIMIT $4`,
    [words === '' ? null : `%${words.toLowerCase().replace(/[\\%_]/g, '\\$&')}%`, after?.subject ?? null, after?.id ?? null, most],
  );
  return rows;
}

/**
 * Works out anew how watches stand where that is due, at most so many, and returns which they were. What somebody else is at, or
 * what moves at this very moment, is left for the next time.
 */
export async function refreshStandings(pool: Pool, now: Instant, most: number): Promise<WatchId[]> {
  return inTransaction(pool, async (db) => {
    const { rows } = await db.query<{ id: WatchId }>(
      'SELECT watch_id AS id FROM standing WHERE due_at <= $1 ORDER BY due_at LIMIT $2 FOR UPDATE SKIP LOCKED',
      [moment(now), most],
    );
    const ids = rows.map(({ id }) => id);
    if (ids.length === 0) return ids;
    const standings = (await watchesOf(db, ids)).map((watch) => standingOf(watch, now));
    await db.query(STORE, [JSON.stringify(standings)]);
    return ids;
  });
}

const STORE = `
UPDATE standing s SET words = n.words, paused = n.paused, raised = n.raised, broken = n.broken, due_at = n.due
FROM jsonb_to_recordset($1) AS n(id int, words text, paused boolean, raised boolean, broken boolean, due timestamptz)
WHERE s.watch_id = n.id`;

/** Where only a state counts, and no words of it. */
const NOWHERE = { locale: 'en-GB', zone: 'UTC' };

function standingOf(watch: WatchNow, now: Instant): object {
  const { definition, site, address, state, rules } = watch;
  const broken = firstBroken(chainOf(chainFactsOf(watch, NOWHERE.locale), now, NOWHERE)) !== null;
  const due = dueAgain(watch, broken, now);
  return {
    id: watch.id,
    words: `${definition.subject} ${site} ${address}`.toLowerCase().slice(0, LONGEST_WORDS),
    paused: state === 'paused',
    raised: rules.some((rule) => rule.state === 'raised'),
    broken,
    due: due === null ? null : moment(due),
  };
}

const LONGEST_WORDS = 2_000;
const SOONEST = 5 * MINUTE;

/** When the clock alone may make it stand otherwise: a mail waits too long, a sensor is silent, a trouble has been forgotten. */
function dueAgain({ definition: { records }, rules }: WatchNow, broken: boolean, now: Instant): Instant | null {
  const moments: Instant[] = [];
  for (const { lastDelivery } of rules) {
    if (lastDelivery?.state === 'queued' && lastDelivery.at + QUEUE_PATIENCE >= now) moments.push(lastDelivery.at + QUEUE_PATIENCE + 1);
  }
  if (records.from === 'senml' || records.from === 'metrics') moments.push(now + SOONEST);
  if (broken) moments.push(now + HOUR);
  return moments.length === 0 ? null : Math.min(...moments);
}
