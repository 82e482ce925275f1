import type { Throttle } from './throttle';
import { formatDuration, formatInstant } from '../when/format';
import type { Asked } from './asked';
import { childrenOf, type Clause, type Condition } from './clause';
import { kindOf } from './kinds/table';
import { isRanking, type RuleDefinition } from './rule';
import { OF_ITEM, sharingWords, short, type Names } from './words';

/** A condition in words: `price falls below £24.00 and stock is “In stock”`. */
export function describeCondition(condition: Condition, names: Names): string {
  if ('kind' in condition) return describeClause(condition, names);
  const parts = childrenOf(condition).map((part) => enclosed(part, names));
  if ('none' in condition)
    return parts.length === 1 ? `it is not so that ${parts.join('')}` : `none of these: ${parts.join('; ')}`;
  return parts.join('all' in condition ? ' and ' : ' or ');
}

/** A part of a condition: several that are joined stand in brackets. */
function enclosed(part: Condition, names: Names): string {
  const said = describeCondition(part, names);
  const isSeveral = !('kind' in part) && !('none' in part) && childrenOf(part).length > 1;
  return isSeveral ? `(${said})` : said;
}

/** A condition as it stands once it is met: `price is below £24.00`, where it was to fall below that. */
export function describeStanding(condition: Condition, names: Names): string {
  return describeCondition(condition, { ...names, brief: true });
}

/** What a rule asks beside its condition, each a few words: `for 2 hours`, `calm again …`, `for 1 record`. */
export function describeTerms({ hold, only, telling, told, ends, off, steps = [] }: RuleDefinition): string[] {
  return [
    ...(hold === undefined
      ? []
      : [hold.for === 'time' ? `for ${formatDuration(hold.ms)}` : `at ${hold.count} readings in a row`]),
    ...(only ?? []).map(describeTest),
    ...(told === 'reading' ? ['told at every reading'] : told === 'move' ? ['told at every move'] : []),
    ...describeThrottle(telling),
    ...(steps.length === 0
      ? []
      : [`others are told after ${steps.map(({ after }) => formatDuration(after)).join(', then ')}`]),
    ...(ends === undefined ? [] : [`until ${ends.date}`]),
    ...(off === true ? ['switched off'] : []),
  ];
}

function describeThrottle({ once, atMostEvery, together, remindEvery, hours, putOff }: Throttle = {}): string[] {
  return [
    ...(once === true ? ['told once, and then at rest'] : []),
    ...(atMostEvery === undefined
      ? []
      : [`at most once in ${formatDuration(atMostEvery)}${together === true ? ', of all records together' : ''}`]),
    ...(remindEvery === undefined ? [] : [`again every ${formatDuration(remindEvery)}`]),
    ...(hours === undefined ? [] : [`${clock(hours.from)} to ${clock(hours.to)}, ${daysOf(hours.days)}`]),
    ...(putOff === undefined
      ? []
      : [`put off until ${formatInstant(putOff.until, 'moment', { locale: 'en-GB', zone: putOff.zone })}`]),
  ];
}

const clock = (minutes: number) =>
  `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;
const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

function daysOf(days: number[]): string {
  const said = [...days].sort((a, b) => a - b).map((day) => DAYS[day - 1] ?? '');
  return said.length === 7 ? 'every day' : said.join(', ');
}

function describeTest(test: NonNullable<RuleDefinition['only']>[number]): string {
  if (test.by === 'identity') return test.in.length === 1 ? 'for one record' : `for ${test.in.length} records`;
  if (isRanking(test))
    return (
      `for the ${test.count} ${test.by} by ` +
      `${test.field}${test.anew === 'never' ? '' : `, chosen anew each ${test.anew}`}`
    );
  switch (test.by) {
    case 'label':
      return `where ${test.label} is ${test.is}`;
    case 'field':
      return `where ${test.field} is ${test.is}`;
    case 'item':
      return `where the ${test.property} of the item is ${test.is}`;
    default:
      return `where the name has “${test.holds}”`;
  }
}

/** One clause in words. */
export const describeClause = (clause: Clause, names: Names): string => kindOf(clause).words(clause, names);

/** What a value is held against, by as few words as tell it on a chart: `ours`, `Copper smoker`, `the other watch`. */
export function describeOther(
  { item, record, watch, sharing, called }: Asked,
  nameOf: (identity: string) => string | undefined,
): string {
  if (item !== undefined) return item === 'cheapest' ? 'the cheapest other' : OF_ITEM[item];
  if (watch !== undefined) return called ?? 'the other watch';
  if (sharing !== undefined) return sharingWords(sharing);
  return record === undefined ? '' : short(nameOf(record) ?? record);
}
