import type { Figure } from '#core/judge/asked';
import type { Clause } from '#core/judge/clause';
import { isMeasure, sameValue, type Measure, type Value } from '#core/value/value';
import { alike, num } from './arithmetic';

// Kinds of clauses that turn on the last readings of a series alone, worked out from all of them by the words of the
// rules.

/** A reading as these see it: what it was, whether it was the baseline, or of before the rule was saved or late. */
interface Seen {
  value: Value;
  baseline: boolean;
  unjudged: boolean;
}

interface Found {
  is: 'met' | 'unmet' | 'undecided';
  unlike?: boolean;
  byMargin?: boolean;
  happened?: boolean;
}

type Of<Kind extends Clause['kind']> = Extract<Clause, { kind: Kind }>;

const UNDECIDED: Found = { is: 'undecided' };
const UNLIKE: Found = { is: 'undecided', unlike: true };
const met = (yes: boolean): Found => ({ is: yes ? 'met' : 'unmet' });

/** The newest reading that is judged; null where there is none. */
const newestOf = (all: readonly Seen[]): Seen | null => all.filter(({ unjudged }) => !unjudged).at(-1) ?? null;
const withValue = (all: readonly Seen[]): Seen[] => all.filter(({ value }) => value.kind !== 'absent');

/**
 * 11: by the scale, the best first; a move is held against the last grade before an absence, and at the baseline
 * nothing moved.
 */
export function ofGrade({ how }: Of<'grade'>, all: readonly Seen[], isRead: boolean): Found {
  const newest = newestOf(all);
  if (newest === null || newest.value.kind === 'absent') return UNDECIDED;
  if (newest.value.kind !== 'grade') return UNLIKE;
  const rank = ({ value }: Seen) => (value.kind === 'grade' ? value.scale.indexOf(value.grade) : -1);
  if ('is' in how) {
    const limit = newest.value.scale.indexOf(how.grade);
    return met(how.is === 'at or below' ? rank(newest) >= limit : rank(newest) <= limit);
  }
  const before = withValue(all).at(-2);
  if (before === undefined || newest.baseline || !isRead) return met(false);
  const worse = rank(newest) - rank(before);
  return (how.moves === 'worse' ? worse : -worse) >= how.steps ? { is: 'met', happened: true } : met(false);
}

/** 12: a phrase is there or not; it appears or disappears, and that is so until it does the opposite. */
export function ofPhrase({ how }: Of<'text'>, all: readonly Seen[]): Found {
  const newest = newestOf(all);
  if (newest === null || newest.value.kind === 'absent') return UNDECIDED;
  if ('matches' in how) return met(newest.value.kind === 'text' && new RegExp(how.matches).test(newest.value.text));
  const has = ({ value }: Seen) => value.kind === 'text' && value.text.includes(how.phrase);
  if (how.is === 'there' || how.is === 'not there') return met(has(newest) === (how.is === 'there'));
  const wanted = how.is === 'appears';
  const read = withValue(all);
  for (let at = read.length - 1; at > 0; at -= 1) {
    const [now, before] = [read[at] as Seen, read[at - 1] as Seen];
    if (has(now) !== wanted || now.baseline || now.unjudged) return met(false);
    if (has(before) !== wanted) return met(true);
  }
  return met(false);
}

/** 15: known to be missing; or back, which is of the moment at which a value comes after an absence. */
export function ofAbsence({ how }: Of<'absence'>, all: readonly Seen[], isRead: boolean): Found {
  const newest = newestOf(all);
  if (newest === null) return UNDECIDED;
  const absent = newest.value.kind === 'absent';
  if (how === 'is absent') return met(absent);
  const back = isRead && !newest.baseline && !absent && all.at(-2)?.value.kind === 'absent';
  return back ? { is: 'met', happened: true } : met(false);
}

/**
 * 13: below or above another series by so much, without a margin; of each the last value counts, an absence with it.
 */
export function ofAnother(clause: Of<'against'>, [own, other]: readonly (Value | null)[]): Found {
  if (own === undefined || other === undefined) return UNDECIDED;
  if (own === null || !isMeasure(own) || other === null || !isMeasure(other)) return UNDECIDED;
  if (!alike(own, other) || (clause.by.by === 'amount' && !alike(clause.by.amount, own))) return UNLIKE;
  const side = clause.is === 'below' ? -1 : 1;
  const limit = num(other) + side * sizeOf(clause.by, other);
  const apart = side * (num(own) - limit);
  return met(apart > 0 || (apart === 0 && clause.inclusive));
}

const sizeOf = (figure: Figure, of: Measure): number =>
  figure.by === 'amount' ? num(figure.amount) : (Number(figure.percent) * Math.abs(num(of))) / 100;

/** Whether a series moved since its last value, absences passed over. */
export function hasMoved(all: readonly Seen[]): boolean {
  const [newest, before] = [newestOf(all), withValue(all).at(-2)];
  return (
    newest !== null &&
    before !== undefined &&
    !newest.baseline &&
    newest.value.kind !== 'absent' &&
    !sameValue(newest.value, before.value)
  );
}

/** Whether a value went, or came back. */
export function hasTurned(all: readonly Seen[]): boolean {
  const [newest, before] = [newestOf(all), all.at(-2)];
  return (
    newest !== null &&
    before !== undefined &&
    !newest.baseline &&
    (newest.value.kind === 'absent') !== (before.value.kind === 'absent')
  );
}
