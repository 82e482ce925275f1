import { ALL_RECORDS } from '../read/all-records';
import { formatAmount, formatPercent, formatValue } from '../value/format';
import { cut } from '../value/sanitise';
import type { Measure, Value } from '../value/value';
import type { Throttle } from './throttle';
import { formatDuration, formatInstant } from '../when/format';
import {
  childrenOf,
  isOwn,
  type Asked,
  type Sharing,
  type Clause,
  type Condition,
  type Figure,
  type Judged,
  type Limits,
  type StateTest,
  type JudgedWindow,
} from './clause';
import { isRanking, type RuleDefinition } from './rule';
import { listed } from '../words';

/** How the things that a rule names are called. */
export interface Names {
  /** Of a field of the rule's own watch, by its key. */
  field: (key: string) => string;
  /** Of a record, by its identity; as it stands where nothing is known of it. */
  record?: (identity: string) => string;
  /** Of another watch. */
  watch?: (id: number) => string;
  /** What only the setting of a rule needs is left out. */
  brief?: boolean;
  locale: string;
}

/** Names where only the fields are known. */
export const namesOf = (field: Names['field'], locale: string): Names => ({ field, locale });

/** A condition in words: `price falls below £24.00 and stock is “In stock”`. */
export function describeCondition(condition: Condition, names: Names): string {
  return joined(condition, names, false);
}

function joined(condition: Condition, names: Names, nested: boolean): string {
  if ('kind' in condition) return describeClause(condition, names);
  const parts = childrenOf(condition).map((part) => joined(part, names, true));
  if ('none' in condition)
    return parts.length === 1 ? `it is not so that ${parts.join('')}` : `none of these: ${parts.join('; ')}`;
  const said = parts.join('all' in condition ? ' and ' : ' or ');
  return nested && parts.length > 1 ? `(${said})` : said;
}

/** A condition as it stands once it is met: `price is below £24.00`, where it was to fall below that. */
export function describeStanding(condition: Condition, names: Names): string {
  return describeCondition(asLevel(condition), { ...names, brief: true });
}

/** A condition with its passings as what they lead to. */
function asLevel(condition: Condition): Condition {
  if (!('kind' in condition)) {
    const parts = childrenOf(condition).map(asLevel);
    return 'all' in condition ? { all: parts } : 'any' in condition ? { any: parts } : { none: parts };
  }
  if (condition.kind === 'crossing') return { ...condition, kind: 'level' };
  if (condition.kind === 'text' && 'phrase' in condition.how) {
    const { phrase, is } = condition.how;
    return { ...condition, how: { phrase, is: is === 'appears' ? 'there' : is === 'disappears' ? 'not there' : is } };
  }
  if (condition.kind !== 'state' || condition.how === 'any move') return condition;
  const to = 'becomes' in condition.how ? condition.how.becomes : 'to' in condition.how ? condition.how.to : null;
  return to === null ? condition : { ...condition, how: { is: to } };
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
export function describeClause(clause: Clause, names: Names): string {
  const say = DESCRIBED[clause.kind] as (clause: Clause, names: Names) => string;
  return say(clause, names);
}

type Kinds = { [Kind in Clause['kind']]: (clause: Extract<Clause, { kind: Kind }>, names: Names) => string };

const DESCRIBED: Kinds = {
  level: ({ of, limits, margin }, names) =>
    `${judgedWords(of, names)} ${limitWords('level', limits, names.locale)}${marginWords(margin, names)}`,
  crossing: ({ of, limits, margin }, names) =>
    `${judgedWords(of, names)} ${limitWords('crossing', limits, names.locale)}${marginWords(margin, names)}`,
  move: ({ asked, against, rise, fall }, names) => {
    switch (against.base) {
      case 'last':
        return `${askedWords(asked, names)} ${moveWords(rise, fall, names)}`;
      case 'told':
        return `${askedWords(asked, names)} ${moveWords(rise, fall, names)} since it was last told`;
      case 'extreme':
        return (
          `${askedWords(asked, names)} ${moveWords(rise, fall, names)} from its lowest or highest since it was ` +
          'last told'
        );
      case 'pinned':
        return (
          `${askedWords(asked, names)} ${apartWords(rise, fall, names)} ` +
          `${formatValue(against.value, names.locale)}`
        );
      case 'median':
        return (
          `${askedWords(asked, names)} ${apartWords(rise, fall, names)} the median of its last ${against.of} ` +
          'readings'
        );
      case 'series':
        return `${askedWords(asked, names)} ${apartWords(rise, fall, names)} ${otherWords(against.asked, names)}`;
    }
  },
  before: ({ asked, by, rise, fall }, names) =>
    `${askedWords(asked, names)} ${apartWords(rise, fall, names)} what it was a ${by} before`,
  change: ({ asked, words }, names) =>
    `${askedWords(asked, names)} ` +
    `changes${words === undefined ? '' : ` by at least ${words} ${words === 1 ? 'word' : 'words'}`}`,
  state: ({ asked, how }, names) => `${askedWords(asked, names)} ${stateWords(how, names.locale)}`,
  grade: ({ asked, how }, names) =>
    'moves' in how
      ? `${askedWords(asked, names)} gets ${how.moves} by at least ` +
        `${how.steps === 1 ? 'one grade' : `${how.steps} grades`}`
      : `${askedWords(asked, names)} is ` +
        `${how.is === 'at or below' ? `${how.grade} or worse` : `${how.grade} or better`}`,
  text: ({ asked, how }, names) =>
    'phrase' in how
      ? `“${short(how.phrase)}” ${how.is === 'there' ? 'is' : how.is === 'not there' ? 'is not' : how.is} in ` +
        `${askedWords(asked, names)}`
      : `${askedWords(asked, names)} matches ${short(how.matches)}`,
  against: ({ asked, other, is, by, inclusive }, names) => {
    const nought = /^0+(\.0+)?$/.test(by.by === 'amount' ? by.amount.amount : by.percent);
    const far = nought
      ? inclusive
        ? 'at or '
        : ''
      : `${inclusive ? 'at least' : 'more than'} ${figureWords(by, names.locale)} `;
    return `${askedWords(asked, names)} is ${far}${is} ${otherWords(other, names)}`;
  },
  place: ({ asked, among, end, how }, names) =>
    `${askedWords(asked, names)} ${how} the ${end} place ${amongWords(among)}`,
  rank: ({ asked, among, by }, names) =>
    `the rank of ${askedWords(asked, names)} ${amongWords(among)} moves by at least ${by}`,
  unusual: ({ asked, side, oneIn }, names) =>
    `${askedWords(asked, names)} is unusually ` +
    `${side === 'either' ? 'high or low' : side}${names.brief === true ? '' : ` (about one false alarm in ${oneIn})`}`,
  absence: ({ asked, how }, names) =>
    `${askedWords(asked, names)} ${how === 'is absent' ? 'has no value' : 'comes back'}`,
  record: ({ how }) => (how === 'appears' ? 'a record appears' : 'a record vanishes'),
  silence: ({ asked, how }, names) => {
    switch (how.of) {
      case 'readings':
        return `nothing is heard of ${askedWords(asked, names)} for ${formatDuration(how.ms)}`;
      case 'runs':
        return `${how.count} looks in a row fail`;
      case 'moves':
        return (
          `${askedWords(asked, names)} does not move for ` +
          `${'ms' in how ? formatDuration(how.ms) : `${how.times} times as long as usual`}`
        );
    }
  },
};

const MOST_QUOTED = 60;
const short = (text: string) => (text.length > MOST_QUOTED ? `${cut(text, MOST_QUOTED - 1)}…` : text);

const amongWords = (among: string) => (among === 'records' ? 'among all records' : 'among the offers of the item');

const OF_ITEM = { ours: 'ours', minimum: 'the agreed minimum', cheapest: 'the cheapest of the other offers' } as const;

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

/** `what shares its hive`, `what shares its hive (sensor is humidity)`. */
const sharingWords = ({ label, where }: Sharing): string =>
  `what shares its ${short(label)}${where === undefined ? '' : ` (${short(where.label)} is ${short(where.is)})`}`;

/** A series as it is named: `price`, `price of Copper smoker`, `ours at Web shop`. */
function askedWords(asked: Asked, names: Names): string {
  const { field, record, watch, sharing, item } = asked;
  if (sharing !== undefined) return `${names.field(field)} of ${sharingWords(sharing)}`;
  if (isOwn(asked)) return names.field(field);
  if (item === 'ours') return `${names.field(field)} of ours${channelWords(asked)}`;
  if (item !== undefined) return item === 'minimum' ? OF_ITEM[item] : `${names.field(field)} of ${OF_ITEM[item]}`;
  const where = watch === undefined ? '' : ` at ${names.watch?.(watch) ?? asked.called ?? 'another watch'}`;
  const label = watch === undefined ? names.field(field) : field;
  const age = asked.within === undefined ? '' : ` (no older than ${formatDuration(asked.within)})`;
  return record === undefined || record === ALL_RECORDS
    ? `${label}${where}${age}`
    : `${label} of ${names.record?.(record) ?? short(record)}${where}${age}`;
}

/** What a value is held against: of its item in short, since it is of the like. */
function otherWords(asked: Asked, names: Names): string {
  return asked.item === undefined ? askedWords(asked, names) : `${OF_ITEM[asked.item]}${channelWords(asked)}`;
}

const channelWords = ({ channel, called }: Asked) => (channel === undefined ? '' : ` at ${called ?? 'a channel'}`);

const MADE: Record<JudgedWindow['make'], string> = {
  minimum: 'the lowest',
  maximum: 'the highest',
  mean: 'the mean',
  median: 'the median',
  range: 'the range of',
  'first to last': 'the move from first to last of',
  sum: 'the sum of',
  readings: 'the number of readings of',
  moves: 'the number of moves of',
  increase: 'the increase of',
  pace: 'the pace of',
};

function judgedWords({ asked, over }: Judged, names: Names): string {
  if (over === undefined) return askedWords(asked, names);
  return `${MADE[over.make]} ${askedWords(asked, names)} ${windowWords(over.of)}`;
}

function windowWords(of: JudgedWindow['of']): string {
  if ('this' in of) return of.this === 'day' ? 'today' : `this ${of.this}`;
  return of.last === 'time' ? `over the last ${formatDuration(of.ms)}` : `over the last ${of.count} readings`;
}

/** The verb of a limit: `falls below`, `is at or above`. */
function limitVerb(kind: 'level' | 'crossing', { is, inclusive }: Pick<Limits, 'is' | 'inclusive'>): string {
  if (is === 'between') return kind === 'level' ? (inclusive ? 'is between' : 'is strictly between') : 'comes between';
  if (is === 'outside') return kind === 'level' ? 'is outside' : 'leaves';
  if (kind === 'level') return inclusive ? `is at or ${is}` : `is ${is}`;
  if (inclusive) return is === 'below' ? 'falls to or below' : 'rises to or above';
  return is === 'below' ? 'falls below' : 'rises above';
}

function limitWords(kind: 'level' | 'crossing', limits: Limits, locale: string): string {
  const verb = limitVerb(kind, limits);
  if ('limit' in limits) return `${verb} ${formatValue(limits.limit, locale)}${furtherWords(limits.further, locale)}`;
  return (
    `${verb} ${formatValue(limits.low, locale)} ${limits.is === 'between' && kind === 'level' ? 'and' : 'to'} ` +
    `${formatValue(limits.high, locale)}`
  );
}

/** `, told again at £22.00 and £20.00`. */
const furtherWords = (further: Measure[] = [], locale: string) =>
  further.length === 0 ? '' : `, told again at ${listed(further.map((limit) => formatValue(limit, locale)))}`;

const marginWords = (margin: Figure | undefined, { locale, brief }: Names) =>
  margin === undefined || brief === true ? '' : `, until it is back by ${figureWords(margin, locale)}`;

/** A figure in words: `£2.00`, `5%`. */
export const figureWords = (figure: Figure, locale: string): string =>
  figure.by === 'amount'
    ? formatAmount(figure.amount.amount, figure.amount, locale)
    : formatPercent(figure.percent, locale);

const alikeFigures = (rise: Figure | null, fall: Figure | null) => JSON.stringify(rise) === JSON.stringify(fall);

function moveWords(rise: Figure | null, fall: Figure | null, { locale }: Names): string {
  if (rise !== null && fall !== null && alikeFigures(rise, fall))
    return `rises or falls by at least ${figureWords(rise, locale)}`;
  const sides = [
    ...(rise === null ? [] : [`rises by at least ${figureWords(rise, locale)}`]),
    ...(fall === null ? [] : [`falls by at least ${figureWords(fall, locale)}`]),
  ];
  return sides.join(' or ');
}

function apartWords(rise: Figure | null, fall: Figure | null, { locale }: Names): string {
  if (rise !== null && fall !== null && alikeFigures(rise, fall))
    return `is at least ${figureWords(rise, locale)} away from`;
  const sides = [
    ...(rise === null ? [] : [`at least ${figureWords(rise, locale)} above`]),
    ...(fall === null ? [] : [`at least ${figureWords(fall, locale)} below`]),
  ];
  return `is ${sides.join(' or ')}`;
}

const saidValue = (value: Value, locale: string): string => {
  const said = formatValue(value, locale);
  return value.kind === 'text' || value.kind === 'state' ? `“${short(said)}”` : said;
};

function stateWords(how: StateTest, locale: string): string {
  if (how === 'any move') return 'moves';
  if ('is' in how) return `is ${saidValue(how.is, locale)}`;
  if ('becomes' in how) return `becomes ${saidValue(how.becomes, locale)}`;
  if ('leaves' in how) return `is no longer ${saidValue(how.leaves, locale)}`;
  return `goes from ${saidValue(how.from, locale)} to ${saidValue(how.to, locale)}`;
}
