import { decimal } from '../value/decimal';
import { formatUnit, formatValue } from '../value/format';
import { foldText } from '../value/parse';
import { sameValue, type Measure, type Value } from '../value/value';
import { formatDuration, formatInstant, type Place } from '../when/format';
import { DAY, type Instant } from '../when/interval';
import { runsFor } from './backtest';
import { LEAST_GAPS, usualPace } from './clauses/silence';
import { clausesOf, isOwn, type Clause, type Limits } from './clause';
import type { History } from './past';
import { isAbout, ownFields, type RuleDefinition } from './rule';
import { extent } from './tune';

/** Why a rule could not have been met by anything that was read so far. */
export type Never =
  | { code: 'no records' }
  /** A limit beyond all values so far: the lowest of them, or the highest. */
  | { code: 'limit never reached'; field: string; side: 'lowest' | 'highest'; amount: number; like: Measure }
  | { code: 'never counted so'; field: string; like: Measure }
  | { code: 'never said'; field: string; words: string }
  /** Every record that used to move has rested for many times its usual gap between two moves. */
  | { code: 'moves no more'; field: string; since: Instant; usualMs: number };

/** By so many moves at most is told at which pace something moves. */
export const MOST_MOVES = 40;

/** What was read so far of the records that a rule runs for. */
export interface Seen {
  /** It runs for none of them; where none is known that is not said. */
  none: boolean;
  /** Whether anything was read of a field, and the least and the most that is counted like a measure. */
  read: (field: string) => boolean;
  extent: (field: string, like: Measure) => [least: number, most: number] | null;
  says: (field: string, wanted: Value) => boolean;
  hasPhrase: (field: string, folded: string) => boolean;
  /** Of each record the moments at which a field moved of late, in any order; of one that is measured none. */
  moves: (field: string) => Instant[][];
}

/**
 * What of a rule nothing that was read so far could have met, in the order of its clauses; empty where something could,
 * or nothing was read.
 */
export const neverMet = (rule: RuleDefinition, histories: readonly History[], now: Instant): Never[] =>
  neverBy(rule, seenIn(rule, histories), now);

/** The same, by what is known of what was read. */
export function neverBy(rule: RuleDefinition, seen: Seen, now: Instant): Never[] {
  if (seen.none) return [{ code: 'no records' }];
  const clauses = clausesOf(rule.when);
  // Whoever waits for silence is well served by what rests.
  const rests = clauses.some(({ kind }) => kind === 'silence')
    ? []
    : ownFields(rule).flatMap((field) => ofPace(field, seen, now));
  return [...clauses.flatMap((clause) => ofClause(clause, seen)), ...rests];
}

/** So many times its usual gap, and a day at the least, has what no longer moves at its own pace rested. */
const RESTS_TIMES = 10;

function ofPace(field: string, seen: Seen, now: Instant): Never[] {
  const paced = seen.moves(field).flatMap((moves) => {
    const times = [...moves].sort((one, other) => one - other);
    const gaps = times.slice(1).map((at, n) => at - (times[n] ?? at));
    return gaps.length < LEAST_GAPS ? [] : [{ last: times.at(-1) ?? 0, usual: usualPace(gaps) }];
  });
  const isResting = ({ last, usual }: (typeof paced)[number]) => now - last > Math.max(DAY, RESTS_TIMES * usual);
  if (paced.length === 0 || !paced.every(isResting)) return [];
  return [
    {
      code: 'moves no more',
      field,
      since: Math.max(...paced.map(({ last }) => last)),
      usualMs: usualPace(paced.map(({ usual }) => usual)),
    },
  ];
}

function seenIn(rule: RuleDefinition, histories: readonly History[]): Seen {
  const own = runsFor(rule, histories, 0);
  const values = (field: string): Value[] =>
    own.flatMap(({ fields }) => (fields[field]?.readings ?? []).map(({ value }) => value));
  return {
    none: own.length === 0 && histories.some((history) => isAbout(rule, history)),
    read: (field) => own.some(({ fields }) => (fields[field]?.readings.length ?? 0) > 0),
    extent: (field, like) => extent(own, field, like),
    says: (field, wanted) => values(field).some((value) => sameValue(value, wanted)),
    hasPhrase: (field, folded) =>
      values(field).some((value) => value.kind === 'text' && foldText(value.text).toLowerCase().includes(folded)),
    moves: (field) =>
      own.flatMap(({ fields }) =>
        fields[field]?.stepwise === true ? [fields[field].readings.slice(-MOST_MOVES).map(({ at }) => at)] : [],
      ),
  };
}

function ofClause(clause: Clause, seen: Seen): Never[] {
  if (clause.kind === 'level' || clause.kind === 'crossing')
    return clause.of.over === undefined && isOwn(clause.of.asked)
      ? ofLimits(clause.of.asked.field, clause.limits, seen)
      : [];
  if (clause.kind === 'state' && clause.how !== 'any move' && isOwn(clause.asked))
    return ofStates(clause.asked.field, clause.how, seen);
  if (clause.kind === 'text' && 'phrase' in clause.how && isOwn(clause.asked))
    return ofPhrase(clause.asked.field, clause.how, seen);
  return [];
}

function ofLimits(field: string, limits: Limits, seen: Seen): Never[] {
  if (!seen.read(field)) return [];
  const like = 'limit' in limits ? limits.limit : limits.low;
  const found = seen.extent(field, like);
  if (found === null) return [{ code: 'never counted so', field, like }];
  const [least, most] = found;
  const limit = Number(like.amount);
  if (limits.is === 'below' && (limits.inclusive ? least > limit : least >= limit))
    return [{ code: 'limit never reached', field, side: 'lowest', amount: least, like }];
  if (limits.is === 'above' && (limits.inclusive ? most < limit : most <= limit))
    return [{ code: 'limit never reached', field, side: 'highest', amount: most, like }];
  return [];
}

type StateHow = Exclude<Extract<Clause, { kind: 'state' }>['how'], string>;

function ofStates(field: string, how: StateHow, seen: Seen): Never[] {
  const wanted = 'is' in how ? how.is : 'becomes' in how ? how.becomes : 'leaves' in how ? how.leaves : how.to;
  const words = 'state' in wanted ? wanted.state : 'text' in wanted ? wanted.text : '';
  return !seen.read(field) || words === '' || seen.says(field, wanted) ? [] : [{ code: 'never said', field, words }];
}

function ofPhrase(field: string, { phrase, is }: { phrase: string; is: string }, seen: Seen): Never[] {
  const has = is === 'not there' || !seen.read(field) || seen.hasPhrase(field, foldText(phrase).toLowerCase());
  return has ? [] : [{ code: 'never said', field, words: phrase }];
}

/** Why a rule could not have been met so far, as a sentence. */
export function describeNever(never: Never, labelOf: (key: string) => string, { locale, zone }: Place): string {
  switch (never.code) {
    case 'no records':
      return 'No record of this watch is let through: it would run for none.';
    case 'never counted so':
      return (
        `No ${labelOf(never.field)} was ever counted in ${formatUnit(never.like, locale) || 'that'}: it could not ` +
        'be judged.'
      );
    case 'limit never reached': {
      const read = { ...never.like, amount: decimal(String(never.amount)) ?? never.like.amount };
      return (
        `It could not have been met so far: the ${never.side} ${labelOf(never.field)} that was read is ` +
        `${formatValue(read, locale)}.`
      );
    }
    case 'never said':
      return `“${never.words}” was never read as ${labelOf(never.field)} so far.`;
    case 'moves no more':
      return (
        `${labelOf(never.field)} moved every ${formatDuration(never.usualMs)} or so, and has not since ` +
        `${formatInstant(never.since, 'date', { locale, zone })}.`
      );
  }
}
