import { formatInstant, formatRecent, type Place } from '#core/when/format';
import { capital, countOf, listed } from '#core/words';
import type { NotNotified } from '#server/db/delivery/views/not-notified';

/** Why a reader heard nothing of a report in a stretch, or what she heard, as a sentence. */
export function notNotifiedWords(of: NotNotified, name: string, now: number, place: Place): string {
  const said = [
    mailWords(of),
    leftWords(of, name, place),
    madeWords(of, place),
    cutWords(of),
    backWords(of),
    nextWords(of, now, place),
  ];
  const words = said.filter((each) => each !== '').join('; ');
  return `${capital(words)}.`;
}

const mailWords = ({ mails }: NotNotified): string =>
  mails === 0 ? '' : `${countOf(mails, 'mail')} ordered, as listed`;

const leftWords = ({ leftAt }: NotNotified, name: string, place: Place): string =>
  leftAt === null ? '' : `${name} left it ${formatInstant(leftAt, 'moment', place)}`;

const madeWords = ({ madeAt }: NotNotified, place: Place): string =>
  madeAt === null ? '' : `made only ${formatInstant(madeAt, 'moment', place)}`;

function cutWords({ cadence, cuts, quiet, open, mails, stoodBack }: NotNotified): string {
  if (cadence === 'at once') return mails === 0 && stoodBack === 0 ? 'nothing that it takes came' : '';
  if (cuts === 0) return 'it was not made';
  const none =
    quiet === 0
      ? ''
      : quiet === cuts
        ? `due ${countOf(cuts, 'time')}, with nothing to tell`
        : `${quiet} of ${cuts} cuts had nothing to tell`;
  return [none, open === 0 ? '' : `${countOf(open, 'edition')} not made yet`].filter(Boolean).join('; ');
}

const backWords = ({ stoodBack, inFavourOf }: NotNotified): string =>
  stoodBack === 0 ? '' : `stood back ${stoodBack === 1 ? 'once' : `${stoodBack} times`}: ${listed(inFavourOf, 3)} told`;

const nextWords = ({ mails, cuts, dueAt }: NotNotified, now: number, place: Place): string =>
  mails === 0 && cuts === 0 && dueAt !== null ? `next: ${formatRecent(dueAt, now, place)}` : '';
