import { decimal } from '../value/decimal';
import { formatUnit, formatValue } from '../value/format';
import { foldText } from '../value/parse';
import { sameValue, type Value } from '../value/value';
import { formatDuration, formatInstant, type Place } from '../when/format';
import { DAY, type Instant } from '../when/interval';
import { runsFor } from './backtest';
import { LEAST_GAPS, usualPace } from './kinds/silence/judge';
import { kindOf } from './kinds/table';
import { MOST_MOVES, type Never, type Seen } from './seen';
import { clausesOf, isSilence } from './clause';
import type { History } from './past';
import { isAbout, ownFields, type RuleDefinition } from './rule';
import { extent } from './tune';

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
  const rests = clauses.some(isSilence) ? [] : ownFields(rule).flatMap((field) => ofPace(field, seen, now));
  return [...clauses.flatMap((clause) => kindOf(clause).never?.(clause, seen) ?? []), ...rests];
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
