import type { Question } from '../judge/questions';
import { describeChange, namePart } from '../read/frame/changes';
import { formatValue } from '../value/format';
import type { FrameChange } from '../read/frame/types';

/** What a question is about, as its sentences need it. */
export type Askable = Pick<Question, 'was' | 'value' | 'changes'>;

const LOCALE = 'en-GB';

/** `Was £24.00, now £21.00, “for members”. Is this the price you follow?` */
export function describeQuestion({ was, value, changes }: Askable, label: string, locale = LOCALE): string {
  const [first] = changes;
  const before = was === null ? '' : `Was ${formatValue(was, locale)}; `;
  const now = `${before === '' ? 'Now' : 'now'} ${formatValue(value, locale)}`;
  const why = first === undefined ? '' : `, ${sayFirst(first)}`;
  return `${before}${now}${why}. Is this the ${label} you follow?`;
}

/** The change that says most, short: `“for members”` beside it, else what it is of. */
function sayFirst(change: FrameChange): string {
  if (change.part === 'beside' && change.is !== null) return `“${change.is}”`;
  if (change.part === 'jump' || change.part === 'nought') return 'a long way from it';
  return `with ${describeChange(change)}`;
}

/** What of a question is asked, as the end of `It now says …`. */
export function saysNow([first]: readonly FrameChange[]): string {
  if (first === undefined) return '';
  if (first.is === null) return `It no longer says “${first.was ?? ''}”.`;
  if (first.part === 'jump') return 'That is a long way from the last one.';
  if (first.part === 'nought') return 'That is nothing.';
  if (first.part === 'found') return 'Its ways disagree.';
  if (first.part === 'beside' || first.part === 'under' || first.part === 'above' || first.part === 'line')
    return `It now says “${first.is}”.`;
  return `Now ${namePart(first)}: “${first.is}”.`;
}
