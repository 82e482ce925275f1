import type { EpisodeId, PersonId } from '#core/id';
import type { Instant } from '#core/when/interval';
import { actOn, type EpisodeAction } from '#server/pipeline/episode-actions';
import { readForm, textIn } from '../../../form.server';
import { readLongId } from '../../../ids.server';
import { keepingServices, services } from '../../../services.server';
import { untilOf } from './until';

const MOST_AT_ONCE = 200;
const LONGEST_NOTE = 500;

/** What was done, in a sentence where there is something to say; null where all went as asked. */
export interface ActionAnswer {
  said: string | null;
}

const answer = (said: string | null): ActionAnswer => ({ said });

/** Does what a form asks about episodes: one after another, each by itself. */
export async function actOnEpisodes(request: Request, person: { id: PersonId; zone: string }): Promise<ActionAnswer> {
  const form = await readForm(request);
  const { clock, signals } = services();
  const ids = [...new Set(form.getAll('episode').map((id) => readLongId<EpisodeId>(id)))].filter((id) => id > 0);
  const deed = actionIn(form, clock(), person.zone);
  if (ids.length === 0 || deed === null) return answer('Say what is to be done about which episode.');
  if (ids.length > MOST_AT_ONCE) return answer(`At most ${MOST_AT_ONCE} at once: choose fewer.`);
  const keeping = await keepingServices();
  let done = 0;
  for (const id of ids) if (await actOn(keeping, id, deed, person.id, clock())) done += 1;
  signals.say('watches', 'outbox');
  if (done === ids.length) return answer(null);
  return answer(done === 0 ? 'It is over already.' : `Done for ${done} of ${ids.length}: the others are over already.`);
}

function actionIn(form: FormData, now: Instant, zone: string): EpisodeAction | null {
  const note = textIn(form, 'note').slice(0, LONGEST_NOTE);
  switch (textIn(form, 'do')) {
    case 'take on':
      return { what: 'take on', note };
    case 'let go':
      return { what: 'let go' };
    case 'close':
      return { what: 'close', note };
    case 'put off': {
      const until = untilOf(textIn(form, 'until'), now, zone);
      return until === null ? null : { what: 'put off', until };
    }
    case 'take up':
      return { what: 'put off', until: null };
    default:
      return null;
  }
}
