import { clausesOf } from './clause';
import type { Memory } from './engine';
import { kindOf } from './kinds/table';
import type { RuleMemory } from './memory';
import type { RuleDefinition } from './rule';

/**
 * Whether what a rule remembers after a turn has to be kept: where only the moment moved at which it was judged last,
 * what was remembered before says the same.
 */
export function matters(rule: RuleDefinition, before: RuleMemory, after: RuleMemory): boolean {
  if (before === after) return false;
  if (goesByTheClock(rule) || said(before.judged) !== said(after.judged)) return true;
  return isHolding(after.judged) || JSON.stringify(withoutClock(before)) !== JSON.stringify(withoutClock(after));
}

/** A hold asks when it was heard of last. */
const isHolding = ({ state }: Memory) => state.is === 'holding';

const goesByTheClock = ({ when }: RuleDefinition) =>
  clausesOf(when).some((clause) => kindOf(clause).isClocked?.(clause) ?? false);

/** All but the moments of judging. */
const said = ({ clock: _clock, latest: _latest, ...rest }: Memory) => JSON.stringify(rest);

const withoutClock = ({ telling: { clock: _clock, ...rest } }: RuleMemory) => rest;
