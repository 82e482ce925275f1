import type { PersonId } from '#core/id';
import { chainOf, firstBroken, type Link as ChainLink } from '#core/tell/chain';
import { DAY, type Instant } from '#core/when/interval';
import { alertsSince, changesSince } from '#server/db/reading/views/briefing';
import { coverageSince } from '#server/db/watch/coverage';
import { countWaiting } from '#server/db/delivery/deliveries';
import { noteVisit, placeOf } from '#server/db/person/people';
import { listReadings } from '#server/db/reading/views/readings';
import { chainFactsOf, type WatchNow } from '#server/db/watch/views/watch-now';
import { listPage, tallyNow } from '../../../parts/watch-list.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';
import { movedRows, storiesOf } from './stories';

const MOST_CHANGES = 400;

const MOST_STORIES = 3;

const MOST_ROWS = 14;

const MOST_TROUBLE = 12;

const FALLBACK = 7 * DAY;

const LEAD_HISTORY = 28 * DAY;

/** Since when the briefing tells: her last look, or the last week where that shows nothing. */
async function windowFor(personId: PersonId, now: Instant) {
  const { pool } = services();
  const looked = await noteVisit(pool, personId, now);
  const since = looked ?? now - FALLBACK;
  const changes = await changesSince(pool, since, MOST_CHANGES);
  if (changes.length > 0 || looked === null) return { looked, since, quiet: false, changes };
  return {
    looked,
    since: now - FALLBACK,
    quiet: true,
    changes: await changesSince(pool, now - FALLBACK, MOST_CHANGES),
  };
}

export async function loader({ context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'briefing' });
  const place = placeOf(person);
  const { pool, clock } = services();
  const now = clock();
  const window = await windowFor(person.id, now);
  const [alerts, coverage, broken, tally, waiting] = await Promise.all([
    alertsSince(pool, window.since, MOST_CHANGES),
    coverageSince(pool, window.since),
    listPage({ filter: 'broken', words: '' }, null, MOST_TROUBLE),
    tallyNow(),
    countWaiting(pool),
  ]);
  const stories = storiesOf(alerts, MOST_STORIES, now, place);
  const told = new Set(stories.map((story) => story.changeId));
  const rows = movedRows(window.changes).filter((row) => !told.has(row.changeId));
  const lead = stories[0];
  return {
    looked: window.looked,
    since: window.since,
    quiet: window.quiet,
    stories,
    leadReadings:
      lead === undefined || lead.seriesId === null ? [] : await listReadings(pool, [lead.seriesId], now - LEAD_HISTORY),
    rows: rows.slice(0, MOST_ROWS),
    rowCount: rows.length,
    coverage,
    trouble: troubleOf(broken.watches, now, place),
    brokenCount: tally.broken,
    watchCount: tally.all,
    waiting,
  };
}

export interface Trouble {
  id: number;
  name: string;
  link: ChainLink;
}

/** Watches whose chain is broken, with the first broken link: what is not read, and whom nobody reaches. */
function troubleOf(watches: WatchNow[], now: Instant, place: { locale: string; zone: string }): Trouble[] {
  return watches.flatMap((watch) => {
    const broken = firstBroken(chainOf(chainFactsOf(watch, place.locale), now, place));
    return broken === null ? [] : [{ id: watch.id, name: `${watch.site}, ${watch.definition.subject}`, link: broken }];
  });
}
