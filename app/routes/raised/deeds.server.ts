import type { EpisodeId, PersonId } from '#core/id';
import { DAY, HOUR, type Instant } from '#core/when/interval';
import { nextWithin } from '#core/judge/telling';
import { actOn, type Deed } from '#server/pipeline/deeds';
import { readForm, textIn } from '../../form.server';
import { readLongId } from '../../ids.server';
import { keepingServices, services } from '../../services.server';

const MOST_AT_ONCE = 200;
const LONGEST_NOTE = 500;

/** What was done, in a sentence where there is something to say; null where all went as asked. */
export interface DeedAnswer {
  said: string | null;
}

const answer = (said: string | null): DeedAnswer => ({ said });

/** Does what a form asks about episodes: one after another, each by itself. */
export async function actOnEpisodes(request: Request, person: { id: PersonId; zone: string }): Promise<DeedAnswer> {
  const form = await readForm(request);
  const { clock, signals } = services();
  const ids = [...new Set(form.getAll('episode').map((id) => readLongId<EpisodeId>(id)))].filter((id) => id > 0);
  const deed = deedIn(form, clock(), person.zone);
  if (ids.length === 0 || deed === null) return answer('Say what is to be done about which episode.');
  if (ids.length > MOST_AT_ONCE) return answer(`At most ${MOST_AT_ONCE} at once: choose fewer.`);
  const keeping = await keepingServices();
  let done = 0;
  for (const id of ids) if (await actOn(keeping, id, deed, person.id, clock())) done += 1;
  signals.say('watches', 'outbox');
  if (done === ids.length) return answer(null);
  return answer(done === 0 ? 'It is over already.' : `Done for ${done} of ${ids.length}: the others are over already.`);
}

function deedIn(form: FormData, now: Instant, zone: string): Deed | null {
  const note = textIn(form, 'note').slice(0, LONGEST_NOTE);
  switch (textIn(form, 'do')) {
    case 'take on':
      return { what: 'take on', note };
    case 'let go':
      return { what: 'let go' };
    case 'close':
      return { what: 'close', note };
    case 'put off':
      return { what: 'put off', until: untilIn(textIn(form, 'until'), now, zone) };
    case 'take up':
      return { what: 'put off', until: null };
    default:
      return null;
  }
}

const EVERY_DAY = [1, 2, 3, 4, 5, 6, 7];
const MORNING = 8 * 60;

/** Until when something is put off: so many hours, tomorrow morning, or next Monday's. */
function untilIn(said: string, now: Instant, zone: string): Instant {
  const hours = { days: EVERY_DAY, from: MORNING, to: MORNING + 1, zone };
  if (said === 'tomorrow') return nextWithin(hours, now + HOUR);
  if (said === 'monday') return nextWithin({ ...hours, days: [1] }, now + HOUR);
  return now + (said === 'day' ? DAY : 2 * HOUR);
}
