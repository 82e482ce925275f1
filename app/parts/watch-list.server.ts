import { isMeasure } from '#core/value/value';
import { DAY, MINUTE, type Instant } from '#core/when/interval';
import { listSparks, type Spark } from '#server/db/reading/views/sparks';
import {
  listInOrder,
  listNames,
  listStanding,
  readTally,
  refreshStandings,
  type After,
  type ListAsked,
  type Order,
} from '#server/db/watch/standings';
import { watchesOf, type WatchNow } from '#server/db/watch/views/watch-now';
import { atMostEvery } from '../recent.server';
import { services } from '../services.server';

const MOST_REFRESHED = 200;

/** How many watches are in which list, or were a second ago; what moved meanwhile is worked out first. */
export const tallyNow = atMostEvery(1_000, async () => {
  const { pool, clock, signals } = services();
  const moved = await refreshStandings(pool, clock(), MOST_REFRESHED);
  if (moved.length > 0) signals.say('watches', ...moved.map((id) => `watch:${id}` as const));
  return readTally(pool);
});

/** A page of a list by name: its watches as they stand, and where the next page begins. */
export async function listPage(
  asked: ListAsked,
  after: After | null,
  most: number,
): Promise<{ watches: WatchNow[]; next: After | null }> {
  const { pool } = services();
  await tallyNow();
  const found = await listStanding(pool, { ...asked, after, most: most + 1 });
  const shown = found.slice(0, most);
  const watches = await watchesOf(
    pool,
    shown.map(({ id }) => id),
  );
  return { watches, next: found.length > most ? (shown.at(-1) ?? null) : null };
}

/** A page of a list in another order than by name, by its number; and whether there is another one. */
export async function orderedPage(
  asked: ListAsked & { order: Exclude<Order, 'name'> },
  page: number,
  most: number,
): Promise<{ watches: WatchNow[]; more: boolean }> {
  const { pool } = services();
  await tallyNow();
  const found = await listInOrder(pool, { ...asked, skip: page * most, most: most + 1 });
  const place = new Map(found.map((id, at) => [id, at]));
  const watches = await watchesOf(pool, found.slice(0, most));
  return {
    watches: watches.sort((one, other) => (place.get(one.id) ?? 0) - (place.get(other.id) ?? 0)),
    more: found.length > most,
  };
}

/** The names that a list may be held to, or as they were some seconds ago. */
export const namesNow = atMostEvery(5_000, () => listNames(services().pool));

const SPARK_MS = 28 * DAY;
/** A small series has room for no more. */
const STRETCHES = 55;
/** Four weeks on a hundred pixels move by one in six hours. */
const KEPT_MS = 5 * MINUTE;
const MOST_KEPT = 20_000;

const kept = new Map<number, { until: Instant; spark: Spark }>();

/** The last four weeks of each watch's first number, up to what it is now; drawn from the record every few minutes. */
export async function sparksOf(watches: WatchNow[], now: Instant): Promise<Map<number, Spark>> {
  const { pool } = services();
  const series = watches.flatMap((watch) => watch.series.find(({ value }) => isMeasure(value)) ?? []);
  const missing = series.map(({ id }) => id).filter((id) => (kept.get(id)?.until ?? 0) <= now);
  if (kept.size + missing.length > MOST_KEPT) kept.clear();
  const found = await listSparks(pool, missing, now - SPARK_MS, now, STRETCHES);
  for (const id of missing) kept.set(id, { until: now + KEPT_MS, spark: found.get(id) ?? { at: [], height: [] } });
  return new Map(
    series.map(({ id, value, openSince }) => [
      id,
      withPresent(kept.get(id)?.spark, Math.max(openSince, now - SPARK_MS), value),
    ]),
  );
}

function withPresent(
  spark: Spark = { at: [], height: [] },
  since: Instant,
  value: WatchNow['series'][number]['value'],
): Spark {
  if (!isMeasure(value) || (spark.at.at(-1) ?? 0) >= since) return spark;
  return { at: [...spark.at, since], height: [...spark.height, Number(value.amount)] };
}
