import { compilePattern } from '../read/pattern';
import { add, compareDecimals, subtract } from '../value/decimal';
import { alike, type Measure } from '../value/value';
import { DAY } from '../when/interval';
import {
  childrenOf,
  clausesOf,
  isEvent,
  type Clause,
  type Condition,
  type Figure,
  type Limits,
  type JudgedWindow,
} from './clause';
import { amountOf, isNegative, isZero } from './clauses/limits';
import type { Rule } from './engine';
import { isTally, MOST_KEPT } from './window';

/** Why a rule is refused: what cannot be said, or can never come to anything. */
export type Refusal =
  | { code: 'nothing said' }
  | { code: 'too much said'; most: number }
  | { code: 'an event takes no hold' }
  | { code: 'silence takes no hold' }
  | { code: 'no event under none' }
  | { code: 'no margin under none' }
  | { code: 'no percent of nought' }
  | { code: 'margin leaves nothing' }
  | { code: 'limits crossed' }
  | { code: 'limits not further'; most: number }
  | { code: 'units differ' }
  | { code: 'neither rise nor fall' }
  | { code: 'not more than nought' }
  | { code: 'hold of nothing' }
  | { code: 'too long a stretch'; readings: number; most: number }
  | { code: 'bad pattern'; said: string };

const MOST_CLAUSES = 20;
const MOST_NESTED = 4;
const MOST_READINGS = 1_000;
const LONGEST = 366 * DAY;

/** What is wrong with a rule on a watch that looks so often; null where it can be judged. */
export function refuse({ when, hold }: Rule, intervalMs: number): Refusal | null {
  const clauses = clausesOf(when);
  if (depthOf(when) > MOST_NESTED || clauses.length > MOST_CLAUSES)
    return { code: 'too much said', most: MOST_CLAUSES };
  return ofParts(when, false) ?? ofHold(hold, clauses) ?? first(clauses, (clause) => ofClause(clause, intervalMs));
}

function first<T>(all: readonly T[], of: (each: T) => Refusal | null): Refusal | null {
  for (const each of all) {
    const found = of(each);
    if (found !== null) return found;
  }
  return null;
}

const depthOf = (condition: Condition): number =>
  'kind' in condition ? 0 : 1 + Math.max(0, ...childrenOf(condition).map(depthOf));

/** What cannot be joined: nothing at all, and under none what has no being or a margin. */
function ofParts(condition: Condition, underNone: boolean): Refusal | null {
  if ('kind' in condition) {
    if (underNone && isEvent(condition)) return { code: 'no event under none' };
    return underNone && 'margin' in condition && condition.margin !== undefined
      ? { code: 'no margin under none' }
      : null;
  }
  const parts = childrenOf(condition);
  return parts.length === 0
    ? { code: 'nothing said' }
    : first(parts, (part) => ofParts(part, underNone || 'none' in condition));
}

function ofHold(hold: Rule['hold'], clauses: readonly Clause[]): Refusal | null {
  if (hold === undefined) return null;
  if (clauses.some(isEvent)) return { code: 'an event takes no hold' };
  if (clauses.some(({ kind }) => kind === 'silence')) return { code: 'silence takes no hold' };
  const isNothing = hold.for === 'readings' ? !isWhole(hold.count, MOST_READINGS) : !isWhole(hold.ms, LONGEST);
  return isNothing ? { code: 'hold of nothing' } : null;
}

const isWhole = (count: number, most: number) => Number.isInteger(count) && count >= 1 && count <= most;

function ofClause(clause: Clause, intervalMs: number): Refusal | null {
  switch (clause.kind) {
    case 'level':
    case 'crossing':
      return ofLimits(clause.limits) ?? ofMargin(clause.limits, clause.margin) ?? ofWindow(clause.of.over, intervalMs);
    case 'move':
      return ofMove(clause);
    case 'before':
      return ofSides(clause) ?? tooLong(LENGTHS[clause.by], intervalMs);
    case 'against':
      return ofFigure(clause.by, true) ?? (clause.margin === undefined ? null : ofFigure(clause.margin, true));
    case 'silence':
      return ofSilence(clause.how);
    case 'text':
      return ofText(clause.how);
    default:
      return isWhole(countIn(clause), MOST_COUNTED) ? null : NOTHING;
  }
}

/** Words, places or steps that are counted; one where nothing is. */
function countIn(clause: Clause): number {
  if (clause.kind === 'change') return clause.words ?? 1;
  if (clause.kind === 'rank') return clause.by;
  // One in one would be every reading.
  if (clause.kind === 'unusual') return clause.oneIn - 1;
  return clause.kind === 'grade' && 'moves' in clause.how ? clause.how.steps : 1;
}

const MOST_COUNTED = 100_000;

const NOTHING: Refusal = { code: 'not more than nought' };

function ofLimits(limits: Limits): Refusal | null {
  if ('limit' in limits) return ofFurther(limits);
  if (!alike(limits.low, limits.high)) return { code: 'units differ' };
  return compareDecimals(limits.low.amount, limits.high.amount) >= 0 ? { code: 'limits crossed' } : null;
}

const MOST_FURTHER = 9;

/** Limits beyond the first are counted as it is, and each lies beyond the one before. */
function ofFurther({ is, limit, further = [] }: Extract<Limits, { limit: Measure }>): Refusal | null {
  if (further.some((each) => !alike(each, limit))) return { code: 'units differ' };
  const side = is === 'below' ? -1 : 1;
  const isOrdered = further.every(
    ({ amount }, at) => compareDecimals(amount, (further[at - 1] ?? limit).amount) === side,
  );
  return isOrdered && further.length <= MOST_FURTHER ? null : { code: 'limits not further', most: MOST_FURTHER };
}

/**
 * A margin is counted in what its limits are, is no percent of nought, and leaves room between two limits that a value
 * is to stay out of.
 */
function ofMargin(limits: Limits, margin: Figure | undefined): Refusal | null {
  if (margin === undefined) return null;
  const all = 'limit' in limits ? [limits.limit] : [limits.low, limits.high];
  if (margin.by === 'amount' && all.some((limit) => !alike(limit, margin.amount))) return { code: 'units differ' };
  if (margin.by === 'percent' && all.some(({ amount }) => isZero(amount))) return { code: 'no percent of nought' };
  const bad = ofFigure(margin, true);
  if (bad !== null || limits.is !== 'outside') return bad;
  const [low, high] = [limits.low.amount, limits.high.amount];
  const isEmpty = compareDecimals(add(low, amountOf(margin, low)), subtract(high, amountOf(margin, high))) > 0;
  return isEmpty ? { code: 'margin leaves nothing' } : null;
}

function ofMove({ against, ...sides }: Extract<Clause, { kind: 'move' }>): Refusal | null {
  return against.base === 'median' && !isWhole(against.of, MOST_READINGS) ? NOTHING : ofSides(sides);
}

/** A rise, a fall or both are said, each by more than nought. */
function ofSides({ rise, fall }: { rise: Figure | null; fall: Figure | null }): Refusal | null {
  if (rise === null && fall === null) return { code: 'neither rise nor fall' };
  return first([rise, fall], (figure) => (figure === null ? null : ofFigure(figure, false)));
}

/** A figure is no less than nought; of a move it is more. */
function ofFigure(figure: Figure, orNought: boolean): Refusal | null {
  const amount = figure.by === 'amount' ? figure.amount.amount : figure.percent;
  return isNegative(amount) || (isZero(amount) && !orNought) ? NOTHING : null;
}

function ofSilence(how: Extract<Clause, { kind: 'silence' }>['how']): Refusal | null {
  const count = 'ms' in how ? how.ms : 'count' in how ? how.count : Math.ceil(how.times);
  return isWhole(count, 'ms' in how ? LONGEST : MOST_READINGS) ? null : NOTHING;
}

function ofText(how: Extract<Clause, { kind: 'text' }>['how']): Refusal | null {
  if ('phrase' in how) return how.phrase.trim() === '' ? { code: 'nothing said' } : null;
  const pattern = compilePattern(how.matches);
  return pattern.ok ? null : { code: 'bad pattern', said: pattern.error };
}

const LENGTHS = { hour: DAY / 24, day: DAY, week: 7 * DAY, month: 31 * DAY } as const;

/**
 * A stretch that keeps its readings may hold so many looks of its watch; one that only sums them up is bounded by
 * nothing.
 */
function ofWindow(over: JudgedWindow | undefined, intervalMs: number): Refusal | null {
  if (over === undefined) return null;
  if (
    'last' in over.of &&
    !isWhole('ms' in over.of ? over.of.ms : over.of.count, 'ms' in over.of ? LONGEST : MOST_KEPT)
  )
    return NOTHING;
  const ms = 'this' in over.of ? LENGTHS[over.of.this] : over.of.last === 'time' ? over.of.ms : 0;
  return isTally(over) ? null : tooLong(ms, intervalMs);
}

function tooLong(ms: number, intervalMs: number): Refusal | null {
  const readings = Math.ceil(ms / intervalMs);
  return readings > MOST_KEPT ? { code: 'too long a stretch', readings, most: MOST_KEPT } : null;
}

/** What is refused, as a sentence with what to do. */
export function describeRefusedRule(refusal: Refusal): string {
  switch (refusal.code) {
    case 'too much said':
      return `A rule may have at most ${refusal.most} conditions, four levels deep: make two rules of it.`;
    case 'too long a stretch':
      return (
        `The stretch would hold ${refusal.readings} looks, and at most ${refusal.most} are kept: take a shorter ` +
        'one, or look less often.'
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
