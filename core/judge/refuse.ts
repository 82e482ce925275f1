import { clausesOf, childrenOf, isEvent, isSilence, type Clause, type Condition } from './clause';
import type { Rule } from './engine';
import { kindOf } from './kinds/table';
import { firstRefused, isWhole, LONGEST, MOST_READINGS, type Refusal } from './refusal';

const MOST_CLAUSES = 20;
const MOST_NESTED = 4;

/** What is wrong with a rule on a watch that looks so often; null where it can be judged. */
export function refuse({ when, hold }: Rule, intervalMs: number): Refusal | null {
  const clauses = clausesOf(when);
  if (depthOf(when) > MOST_NESTED || clauses.length > MOST_CLAUSES)
    return { code: 'too much said', most: MOST_CLAUSES };
  return (
    ofParts(when) ??
    ofHold(hold, clauses) ??
    firstRefused(clauses, (clause) => kindOf(clause).refuse(clause, intervalMs))
  );
}

const depthOf = (condition: Condition): number =>
  'kind' in condition ? 0 : 1 + Math.max(0, ...childrenOf(condition).map(depthOf));

/** What cannot be joined: nothing at all, and under none what has no being or a margin. */
function ofParts(condition: Condition, underNone = false): Refusal | null {
  if ('kind' in condition) {
    if (underNone && isEvent(condition)) return { code: 'no event under none' };
    return underNone && 'margin' in condition && condition.margin !== undefined
      ? { code: 'no margin under none' }
      : null;
  }
  const parts = childrenOf(condition);
  return parts.length === 0
    ? { code: 'nothing said' }
    : firstRefused(parts, (part) => ofParts(part, underNone || 'none' in condition));
}

function ofHold(hold: Rule['hold'], clauses: readonly Clause[]): Refusal | null {
  if (hold === undefined) return null;
  if (clauses.some(isEvent)) return { code: 'an event takes no hold' };
  if (clauses.some(isSilence)) return { code: 'silence takes no hold' };
  const isNothing = hold.for === 'readings' ? !isWhole(hold.count, MOST_READINGS) : !isWhole(hold.ms, LONGEST);
  return isNothing ? { code: 'hold of nothing' } : null;
}

/** What is refused, as a sentence with what to do. */
export function describeRefusedRule(refusal: Refusal): string {
  switch (refusal.code) {
    case 'too much said':
      return `A rule may have at most ${refusal.most} conditions, four levels deep: make two rules of it.`;
    case 'too long a stretch':
      return (
        `The stretch would hold ${refusal.readings} runs, and at most ${refusal.most} are kept: take a shorter ` +
        'one, or run it less often.'
      );
    case 'limits not further':
      return `Each further limit has to lie beyond the one before it, and there may be ${refusal.most} at most.`;
    case 'bad pattern':
      return `The pattern cannot be read: ${refusal.said.replace(/\.$/, '')}.`;
    default:
      return SENTENCES[refusal.code];
  }
}

const SENTENCES: Record<
  Exclude<Refusal['code'], 'too much said' | 'too long a stretch' | 'limits not further' | 'bad pattern'>,
  string
> = {
  'nothing said': 'Say what has to be met.',
  'an event takes no hold': 'What happens at one moment cannot hold: leave the hold out, or say how a value stands.',
  'silence takes no hold': 'Silence is a time already: say how long it may be silent, and leave the hold out.',
  'no event under none': 'What happens at one moment cannot stand under “none”: say how a value stands.',
  'no margin under none': 'A margin cannot stand under “none”: leave it out.',
  'no percent of nought': 'Of nought there is no percent: say the margin as an amount.',
  'margin leaves nothing': 'With this margin the rule could never be left: the limits lie too close to each other.',
  'limits crossed': 'The lower limit has to be below the upper one.',
  'units differ': 'The figures of one condition are to be counted in the same unit.',
  'neither rise nor fall': 'Say how far it has to rise or to fall.',
  'not more than nought': 'Say a figure that is more than nought.',
  'hold of nothing': 'Say for how many readings, or how long, it has to hold.',
};
