import type { WatchId } from '#core/id';
import { arePoints } from '#core/read/definition';
import { chainOf, firstBroken, QUEUE_PATIENCE } from '#core/tell/chain';
import { HOUR, MINUTE, type Instant } from '#core/when/interval';
import { inTransaction, moment, theRow, type Db, type Pool } from '../base/pool';
import { watchedSites } from '../source/sites';
import { chainFactsOf, watchesOf, type WatchNow } from './views/watch-now';

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

/** What a list is in the order of: first by this, then by name. */
export const ORDERS = ['name', 'site', 'source', 'owner', 'tag', 'state', 'next', 'moved'] as const;
export type Order = (typeof ORDERS)[number];

const BY: Record<Exclude<Order, 'name'>, string> = {
  site: 't.site',
  source: 's.address',
  owner: 't.owner',
  tag: 't.tags[1] NULLS LAST',
  state: 'CASE WHEN t.broken THEN 0 WHEN t.raised THEN 1 WHEN t.paused THEN 3 ELSE 2 END',
  next: `CASE WHEN w.state = 'running' THEN w.read_due_at END NULLS LAST`,
  moved: 't.moved_at DESC NULLS LAST',
};

/** Which watches a list shows: in one state, with some words, of a site, an owner, with a tag. */
export interface ListAsked {
  filter: Filter;
  words: string;
  site?: string;
  owner?: string;
  tag?: string;
}

/** The conditions that a list sets, with their values. */
function conditionsOf({ filter, words, site = '', owner = '', tag = '' }: ListAsked): {
  where: string;
  values: unknown[];
} {
  const values: unknown[] = [];
  const where = [CONDITIONS[filter]];
  const add = (condition: (at: string) => string, value: unknown) => where.push(condition(`$${values.push(value)}`));
  if (words !== '') add((at) => `t.words LIKE ${at}`, `%${words.toLowerCase().replace(/[\\%_]/g, '\\$&')}%`);
  if (site !== '') add((at) => `t.site = ${at}`, site);
  if (owner !== '') add((at) => `t.owner = ${at}`, owner);
  if (tag !== '') add((at) => `t.tags @> ARRAY[${at}::text]`, tag);
  return { where: where.join(' AND '), values };
}

/** The watches of a list by name; those after a watch, at most so many. */
export async function listStanding(
  db: Db,
  { after, most, ...asked }: ListAsked & { after: After | null; most: number },
): Promise<After[]> {
  const { where, values } = conditionsOf(asked);
  const onward =
    after === null
      ? ''
      : `AND (t.subject, t.watch_id) > ($${values.push(after.subject)}, $${values.push(after.id)}::int)`;
  const { rows } = await db.query<After>(
    `SELECT t.subject, t.watch_id AS id
      FROM standing t
      WHERE ${where} ${onward}
      ORDER BY t.subject, t.watch_id
      LIMIT $${values.push(most)}`,
    values,
  );
  return rows;
}

/** Watches whose names, pages or labels hold some words, by name; at most so many. */
export async function findWatches(
  db: Db,
  words: string,
  most: number,
): Promise<{ id: WatchId; name: string; site: string }[]> {
  const { where, values } = conditionsOf({ filter: 'all', words });
  const { rows } = await db.query<{ id: WatchId; name: string; site: string }>(
    `SELECT t.watch_id AS id, t.subject AS name, t.site FROM standing t WHERE ${where}
      ORDER BY t.subject, t.watch_id LIMIT $${values.push(most)}`,
    values,
  );
  return rows;
}

/** The watches of a list in another order, page by page. */
export async function listInOrder(
  db: Db,
  { order, skip, most, ...asked }: ListAsked & { order: Exclude<Order, 'name'>; skip: number; most: number },
): Promise<WatchId[]> {
  const { where, values } = conditionsOf(asked);
  const { rows } = await db.query<{ id: WatchId }>(
    `SELECT t.watch_id AS id FROM standing t JOIN watch w ON w.id = t.watch_id JOIN source s ON s.id = w.source_id
     WHERE ${where} ORDER BY ${BY[order]}, t.subject, t.watch_id LIMIT $${values.push(most)}
     OFFSET $${values.push(skip)}`,
    values,
  );
  return rows.map(({ id }) => id);
}

/** How many a list may be chosen from at once. */
const MOST_NAMES = 200;

/** From one owner to the next along the index, however many watches each has. */
const OWNERS = `
WITH RECURSIVE owner(id) AS (
  (SELECT w.owner_id FROM watch w ORDER BY w.owner_id LIMIT 1)
  UNION ALL
  SELECT (SELECT w.owner_id FROM watch w WHERE w.owner_id > o.id ORDER BY w.owner_id LIMIT 1) FROM owner o
  WHERE o.id IS NOT NULL
)
SELECT p.name FROM owner o JOIN person p ON p.id = o.id ORDER BY p.name LIMIT ${MOST_NAMES}`;

/** The sites, owners and tags that watches have, to choose from; no watch is looked through for it. */
export async function listNames(db: Db): Promise<{ sites: string[]; owners: string[]; tags: string[] }> {
  const names = async (query: string) => (await db.query<{ name: string }>(query)).rows.map(({ name }) => name);
  return {
    sites: await watchedSites(db, MOST_NAMES),
    owners: await names(OWNERS),
    tags: await names(`SELECT name FROM tag WHERE watches > 0 ORDER BY name LIMIT ${MOST_NAMES}`),
  };
}

/**
 * Works out anew how watches stand where that is due, at most so many, and returns which they were. What somebody else
 * is at, or what moves at this very moment, is left for the next time.
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
UPDATE standing s
SET words = n.words, paused = n.paused, raised = n.raised, broken = n.broken, due_at = n.due, site = n.site,
  owner = n.owner, tags = n.tags,
  moved_at = (SELECT c.seen_at FROM change c WHERE c.watch_id = n.id ORDER BY c.seen_at DESC LIMIT 1)
FROM jsonb_to_recordset($1) AS n(id int, words text, paused boolean, raised boolean, broken boolean, due timestamptz,
  site text, owner text, tags text[])
WHERE s.watch_id = n.id`;

/** Where only a state counts, and no words of it. */
const NOWHERE = { locale: 'en-GB', zone: 'UTC' };

function standingOf(watch: WatchNow, now: Instant): object {
  const { definition, site, address, state, rules, owner, tags } = watch;
  const broken = firstBroken(chainOf(chainFactsOf(watch, NOWHERE.locale), now, NOWHERE)) !== null;
  const due = dueAgain(watch, broken, now);
  return {
    id: watch.id,
    words: `${definition.subject} ${site} ${address} ${tags.join(' ')}`.toLowerCase().slice(0, LONGEST_WORDS),
    paused: state === 'paused',
    raised: rules.some((rule) => rule.state === 'raised'),
    broken,
    site,
    owner,
    tags,
    due: due === null ? null : moment(due),
  };
}

const LONGEST_WORDS = 2_000;
const SOONEST = 5 * MINUTE;

/**
 * When the clock alone may make it stand otherwise: a mail waits too long, a sensor is silent, a trouble has been
 * forgotten.
 */
function dueAgain({ definition: { records }, rules }: WatchNow, broken: boolean, now: Instant): Instant | null {
  const moments: Instant[] = [];
  for (const { lastDelivery } of rules) {
    if (lastDelivery?.state === 'queued' && lastDelivery.at + QUEUE_PATIENCE >= now)
      moments.push(lastDelivery.at + QUEUE_PATIENCE + 1);
  }
  if (arePoints(records)) moments.push(now + SOONEST);
  if (broken) moments.push(now + HOUR);
  return moments.length === 0 ? null : Math.min(...moments);
}
