import { DAY, HOUR, type Instant } from '#core/when/interval';
import { readConfig } from '#server/config';
import { claimDue, nextDueAt } from '#server/db/source/sources';
import { sendWaiting } from '#server/deliver/deliver';
import { moveClock, nextByClockAt } from '#server/pipeline/clock';
import { runSource } from '#server/pipeline/run';
import { openServices } from '#server/work/services';
import { preparePartitions } from '#server/db/base/partitions';
import { startStandins } from '#standins/server';
import { enterItems, joinOffers } from './items';
import { askTom } from './readers';
import { startReports } from './reports';
import { EVENTS, HISTORY, makeScenario } from './scenario';
import { begin, nameSites, SET_UPS } from './set-ups';
import { putStencil, tagWatches } from './bulk';

/** Where the replay finds its parts. */
export interface ReplayPlaces {
  environment: Record<string, string | undefined>;
  standinsPort: number;
  smtpPort: number;
  standinsFolder: string;
}

const AT_ONCE = 6;

/** When records are joined to items: once the first are read, and once the last set-up is. */
const JOINED = [HISTORY - DAY, DAY];

/**
 * Makes the demo's history: sets the stand-ins and the pipeline on one clock, weeks back, and lets the real pipeline
 * run every run that was due from then to `end`, mails included. Returns how many runs there were.
 */
export async function replay(places: ReplayPlaces, end: Instant, progress: (share: number) => void): Promise<number> {
  const beginning = end - HISTORY;
  let now = beginning;
  const clock = () => now;
  const config = readConfig({
    ...places.environment,
    SHRIKE_LOG_LEVEL: 'warn',
    SHRIKE_HOST_MOST_AT_ONCE: String(AT_ONCE),
  });
  const standins = await startStandins({
    port: places.standinsPort,
    smtpPort: places.smtpPort,
    folder: places.standinsFolder,
    clock,
  });
  const services = await openServices(config, clock);
  const { pipeline, post } = services;
  try {
    await preparePartitions(pipeline.pool, beginning, end);
    const people = await makeScenario(services.pool, places.standinsPort, config.hostMostAtOnce, pipeline.sources, now);
    await nameSites(services.pool);
    await enterItems(services.pool, people.owner, now);
    const setting = {
      pool: services.pool,
      sources: pipeline.sources,
      port: places.standinsPort,
      mostAtOnce: config.hostMostAtOnce,
      ...people,
    };
    const begins = SET_UPS.map((setUp) => ({ before: setUp.before, happens: () => begin(setUp, { ...setting, now }) }));
    const joins = JOINED.map((before) => ({ before, happens: () => joinOffers(services.pool, people.owner, now) }));
    const reports = {
      before: 14 * DAY,
      happens: () => startReports(services.pool, pipeline.ids, people.owner, people.tell, now),
    };
    const together = [
      reports,
      ...[14.5 * DAY, DAY - HOUR].map((before) => ({
        before,
        happens: () => tagWatches(services.pool, people.owner, now),
      })),
      { before: 8 * DAY, happens: () => putStencil(services.pool, people.owner, now) },
      { before: 2 * DAY, happens: () => askTom(services.pool, pipeline, now) },
    ];
    const events = [
      ...EVENTS.map(({ before, happens }) => ({ before, happens: () => Promise.resolve(happens(standins.world)) })),
      ...begins,
      ...joins,
      ...together,
    ].sort((a, b) => b.before - a.before);
    let runs = 0;
    for (;;) {
      const [due, rules] = [await nextDueAt(services.pool), await nextByClockAt(services.pool)];
      const event = events[0];
      const next = Math.min(due ?? end, rules ?? end, event === undefined ? end : end - event.before);
      if (next >= end) return runs;
      now = Math.max(now, next);
      if (event !== undefined && end - event.before <= now) await events.shift()?.happens();
      const moved = await moveClock(pipeline, now);
      const claimed = await claimDue(services.pool, now, config.leaseMs, AT_ONCE);
      const summaries = await Promise.all(claimed.map((source) => runSource(pipeline, source)));
      if (moved.alerts + moved.mails > 0 || summaries.some((summary) => summary.alerts + summary.notices > 0))
        await sendWaiting(post);
      runs += claimed.length;
      progress((now - beginning) / HISTORY);
    }
  } finally {
    await post.jobs.close();
    await services.close();
    await standins.close();
  }
}
