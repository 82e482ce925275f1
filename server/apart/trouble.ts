import { formatDuration, formatInstant } from '#core/when/format';
import { DAY, type Instant } from '#core/when/interval';
import type { Pulse } from '../db/base/workers';
import { placeOf, type Person } from '../db/person/people';

/** What keeps everybody from hearing anything. */
export type Trouble = 'no database' | 'no worker' | 'disk full';

/** What is wrong by the pulse; null for a pulse means that the database did not answer. */
export function troubleOf(pulse: Pulse | null): Trouble | null {
  if (pulse === null) return 'no database';
  if (pulse.workers === 0) return 'no worker';
  return pulse.fullSince === null ? null : 'disk full';
}

/** What is known of the trouble there is, and what was told of it. */
export type Watch = { state: 'well' } | { state: 'trouble'; what: Trouble; since: Instant; toldAt: Instant | null };

/** What is to be mailed now. */
export type Told = { what: Trouble; since: Instant } & ({ kind: 'begun' } | { kind: 'lasts' } | { kind: 'over' });

export const WELL: Watch = { state: 'well' };

/**
 * Goes on from what was known to what is seen now. Trouble is told once it has lasted a while, again each day, and that
 * it is over where it was told. One kind that turns into another is the same trouble.
 */
export function goOn(
  before: Watch,
  seen: Trouble | null,
  now: Instant,
  afterMs: number,
): { watch: Watch; tell: Told | null } {
  if (seen === null) {
    const tell: Told | null =
      before.state === 'trouble' && before.toldAt !== null
        ? { kind: 'over', what: before.what, since: before.since }
        : null;
    return { watch: WELL, tell };
  }
  const { since, toldAt } = before.state === 'trouble' ? before : { since: now, toldAt: null };
  const watch: Watch = { state: 'trouble', what: seen, since, toldAt };
  if (toldAt === null) return { watch, tell: now - since < afterMs ? null : { kind: 'begun', what: seen, since } };
  return { watch, tell: now - toldAt < DAY ? null : { kind: 'lasts', what: seen, since } };
}

const WHAT: Record<Trouble, { has: string; means: string; todo: string }> = {
  'no database': {
    has: 'its database has not answered',
    means: 'Nothing is fetched, nothing is stored, and nobody hears of anything.',
    todo: 'Look whether PostgreSQL runs, and start it again. Shrike goes on by itself.',
  },
  'no worker': {
    has: 'no worker has run',
    means: 'Nothing is fetched, and nobody hears of anything.',
    todo: 'Start Shrike again, or a worker. What is due by then is run at once.',
  },
  'disk full': {
    has: 'the disk of its database has been full',
    means: 'Nothing can be stored, so nothing is fetched, and nobody hears of anything.',
    todo: 'Make room on that disk. Shrike goes on by itself within seconds.',
  },
};

/** The mail to one who answers for this Shrike, in her own locale and zone. */
export function mailOf(told: Told, person: Person, publicUrl: string, now: Instant): { subject: string; text: string } {
  const { has, means, todo } = WHAT[told.what];
  const lasted = formatDuration(now - told.since);
  const since = `since ${formatInstant(told.since, 'exact', placeOf(person))}`;
  if (told.kind === 'over')
    return {
      subject: `Shrike is well again, after ${lasted}`,
      text: `For ${lasted}, ${since}, ${has}. It goes on now; what was due is being run.\n\n${publicUrl}\n`,
    };
  const subject = `${told.kind === 'lasts' ? 'Still nobody' : 'Nobody'} hears from Shrike: ${has}`;
  return { subject, text: `For ${lasted}, ${since}, ${has}.\n\n${means} ${todo}\n\n${publicUrl}\n` };
}
