import { shownValue } from '../compare/shown';
import { decimal } from '../value/decimal';
import { formatPercent, formatValue } from '../value/format';
import { cut } from '../value/sanitise';
import { moveBetween, type Value } from '../value/value';
import { formatDuration, formatInstant, type Place } from '../when/format';
import { clausesOf } from './clause';
import { kindOf } from './kinds/table';
import type { Why } from './observation';
import type { RuleMemory } from './memory';
import type { RuleDefinition } from './rule';
import type { Turn } from './subject';
import type { Notification } from './throttle';

/** What became of a rule on a record at a moment. */
type How =
  | 'met'
  | 'met at the baseline'
  | 'waits to be left'
  | 'still raised'
  | 'still raised, no value'
  | 'still waits'
  | 'left'
  | 'not met'
  | 'not seen to cross'
  | 'happened'
  | 'met again'
  | 'further'
  | 'holds'
  | 'holds for a time'
  | 'held'
  | 'held for a time'
  | 'held, and not heard of'
  | 'hold broken'
  | 'changed'
  | 'unchanged'
  | 'baseline'
  | 'unlike'
  | 'undecided'
  | 'record gone'
  | 'closed by hand'
  | 'opened by hand'
  | 'told by the clock'
  | 'a deed';

/** Why a rule came to its verdict, with the numbers it turned on. */
export interface Reason {
  code: How;
  /** How many readings it has held at, of how many; or for how long, in ms. */
  has?: number;
  of?: number;
  /** What each clause was found to be, in the order in which they are said; null of those that nothing moved. */
  whys?: (Why | null)[];
  /** What was not told, and why. */
  kept?: Extract<Notification, { what: 'kept' }>['because'];
}

/** Why a turn came out as it did. */
export function reasonOf(rule: RuleDefinition, before: RuleMemory, turn: Turn): Reason {
  const kept = turn.told.find((told) => told.what === 'kept');
  const whys = turn.findings.map((finding) => (finding === null ? null : shownWhy(finding.why)));
  return {
    ...howOf(rule, before, turn),
    ...(whys.some((why) => why !== null) ? { whys } : {}),
    ...(kept === undefined ? {} : { kept: kept.because }),
  };
}

/** What is kept says of a long text its beginning. */
function shownWhy(why: Why): Why {
  if (why.code === 'stands at') return { ...why, value: shownValue(why.value) };
  return why.code === 'moved' ? { ...why, from: shownValue(why.from), to: shownValue(why.to) } : why;
}

function howOf(rule: RuleDefinition, before: RuleMemory, turn: Turn): Pick<Reason, 'code' | 'has' | 'of'> {
  if (turn.by === 'telling') return { code: turn.told.length > 0 ? 'told by the clock' : 'a deed' };
  const did = (what: Turn['effects'][number]['do']) => turn.effects.find((effect) => effect.do === what);
  const closed = turn.effects.find((effect) => effect.do === 'close');
  if (did('open') !== undefined) return turn.by === 'deed' ? { code: 'opened by hand' } : raisedOf(rule, before);
  if (closed !== undefined) return { code: CLOSED[closed.because] };
  if (did('say') !== undefined && turn.after === 'undecided') return { code: 'unlike' };
  const alert = turn.effects.find((effect) => effect.do === 'alert');
  if (alert?.of === 'again') return { code: 'met again' };
  if (alert?.of === 'further') return { code: 'further' };
  if (alert !== undefined) return { code: isChange(rule) ? 'changed' : 'happened' };
  return quietOf(rule, before, turn);
}

const CLOSED = { left: 'left', unlike: 'unlike', 'record gone': 'record gone', 'by hand': 'closed by hand' } as const;

const isChange = ({ when }: RuleDefinition) => 'kind' in when && kindOf(when).isChange === true;

function raisedOf({ hold }: RuleDefinition, before: RuleMemory): Pick<Reason, 'code' | 'has' | 'of'> {
  if (hold?.for === 'readings') return { code: 'held', has: hold.count };
  if (hold?.for === 'time') return { code: 'held for a time', has: hold.ms };
  return { code: before.judged.begun ? 'met' : 'met at the baseline' };
}

/** What is so where nothing came of it. */
function quietOf(rule: RuleDefinition, before: RuleMemory, turn: Turn): Pick<Reason, 'code' | 'has' | 'of'> {
  const { state, heldBack } = turn.memory.judged;
  if (state.is === 'holding') return holdsOf(rule, state, turn);
  if (state.is === 'raised') return { code: turn.verdict === 'undecided' ? 'still raised, no value' : 'still raised' };
  if (turn.before === 'holding') return { code: 'hold broken' };
  if (heldBack.length > 0) return { code: before.judged.begun ? 'still waits' : 'waits to be left' };
  if (turn.findings.some((finding) => finding?.why.code === 'not seen on the other side'))
    return { code: 'not seen to cross' };
  if (turn.verdict === 'undecided')
    return { code: turn.findings.some((finding) => finding?.unlike === true) ? 'unlike' : 'undecided' };
  if (isChange(rule)) return { code: before.judged.begun ? 'unchanged' : 'baseline' };
  return { code: 'not met' };
}

type Holding = Extract<RuleMemory['judged']['state'], { is: 'holding' }>;

function holdsOf(
  { hold }: RuleDefinition,
  { readings, since, until }: Holding,
  { at }: Turn,
): Pick<Reason, 'code' | 'has' | 'of'> {
  if (hold?.for === 'readings') return { code: 'holds', has: readings, of: hold.count };
  if (hold?.for === 'time' && until !== null)
    return { code: 'holds for a time', has: Math.max(0, at - since), of: hold.ms };
  return { code: 'held, and not heard of' };
}

/** The sentence of each, as the end of one. */
const SENTENCES: Record<How, string | ((has: number, of: number) => string)> = {
  met: 'the condition was not met before and is met now',
  'met at the baseline': 'the condition was met at the first run, and you chose to hear of it then',
  'waits to be left': 'the condition was met at the first run; it waits until that is left and met again',
  'still raised': 'it was raised already, and is told once an episode',
  'still raised, no value': 'it was raised already, and stays so while nothing can be said of it',
  'still waits': 'it waits until the condition is left and met again',
  left: 'the condition is no longer met; the episode is closed',
  'not met': 'the condition is not met',
  'not seen to cross': 'the limit was not seen to be crossed; it waits until the condition is left and met again',
  happened: 'what the rule waits for happened',
  'met again': 'it is met again inside its episode, and you asked to hear of that',
  further: 'it was raised already, and has met a further limit now',
  holds: (has, of) => `the condition is met; it has held for ${has} of ${of} readings`,
  'holds for a time': (has, of) =>
    `the condition is met; it has held for ${formatDuration(has)} of ${formatDuration(of)}`,
  held: (has) => `the condition was met at ${has} readings in a row`,
  'held for a time': (has) => `the condition was met for ${formatDuration(has)} without interruption`,
  'held, and not heard of': 'the time to hold is up, but nothing was heard of it lately; the next reading decides',
  'hold broken': 'the condition is no longer met; it did not hold for long enough',
  changed: 'the value changed',
  unchanged: 'the value did not change',
  baseline: 'this is the first reading, with nothing to compare it with',
  unlike: 'the value and the limit are in different units, so they are not compared',
  undecided: 'it cannot be said whether the condition is met',
  'record gone': 'the record is gone; the episode is closed',
  'closed by hand': 'the episode was closed by hand; the condition has to be left before it is raised again',
  'opened by hand':
    'the episode was opened by hand; it stays open though the condition is not met, until somebody closes it',
  'told by the clock': 'its time to be told came',
  'a deed': 'somebody saw to it',
};

const KEPT: Record<NonNullable<Reason['kept']>, string> = {
  resting: 'not told: it rests since it was told once',
  'told lately': 'not told yet: something was told lately, and what comes meanwhile is told as one',
  'outside the hours': 'not told yet: it waits for its hours to begin',
  'put off': 'not told yet: it is put off',
  'no longer met': 'not told: it was over before its time to be told came',
};

/** Why a rule came to its verdict, as the end of a sentence: the values that it turned on, then what that means. */
export function describeReason(reason: Reason, place: Place): string {
  const { code, has = 0, of = 0, kept } = reason;
  const sentence = SENTENCES[code];
  const said = typeof sentence === 'string' ? sentence : sentence(has, of);
  return [...describeWhys(reason, place), said, ...(kept === undefined ? [] : [KEPT[kept]])].join('; ');
}

/** What a rule of one clause turned on, in words; of several the clauses say it, each by itself. */
function describeWhys({ whys = [] }: Reason, place: Place): string[] {
  const [only, ...more] = whys;
  return only == null || more.length > 0 ? [] : describeWhy(only, place);
}

const MOST_QUOTED = 60;

function said(value: Value, { locale, zone }: Place): string {
  const words = formatValue(value, locale, zone);
  if (value.kind !== 'text' && value.kind !== 'state') return words;
  return `“${words.length > MOST_QUOTED ? `${cut(words, MOST_QUOTED - 1)}…` : words}”`;
}

type Whys = { [Code in Why['code']]: (why: Extract<Why, { code: Code }>, place: Place) => string };

const WHYS: Whys = {
  'stands at': ({ value, of, reaches }, { locale, ...place }) =>
    [
      `it stands at ${said(value, { locale, ...place })}`,
      ...(of === undefined ? [] : [`${of.read} of ${Math.round(of.due)} runs were read`]),
      ...(reaches === undefined
        ? []
        : [
            `at this pace it comes to the limit on ${formatInstant(reaches.at, 'day', { locale, zone: reaches.zone })}`,
          ]),
    ].join(', '),
  'within the margin': ({ value }, place) => `at ${said(value, place)} it is not back by the margin yet`,
  'not seen on the other side': ({ value }, place) => `it stands at ${said(value, place)}`,
  moved: ({ from, to }, place) => `${said(from, place)} → ${said(to, place)}${percentWords(from, to, place)}`,
  absent: () => 'it has no value',
  'too long to search': () => 'its pattern is too large, or takes too long on a text of this length: say a simpler one',
  unlike: ({ value, other }, place) =>
    other === null ? said(value, place) : `${said(value, place)} against ${said(other, place)}`,
  'no percent from zero': () => 'from nought there is no percent',
  'nothing to hold it against': () => 'there is nothing to hold it against yet',
  'not read yet': () => 'it was not read yet',
  'too old': ({ at }, place) =>
    `what it asks of another watch is of ${formatInstant(at, 'moment', place)}, too old to go by`,
  'needs more': ({ has, of }) => `the history is too short: ${has} of ${of}`,
  unfinished: ({ read, due, value }, place) =>
    `${read} of ${Math.round(due)} runs were read${value === null ? '' : `, ${said(value, place)} so far`}`,
  'counted once as left': () => 'its stretch is over, and the next one begins anew',
  place: ({ rank, value, first }, place) =>
    `place ${rank} at ` +
    `${said(value, place)}${first === null ? '' : `, the first of the others at ${said(first, place)}`}`,
  band: ({ value, low, high }, place) =>
    `${said(value, place)}, with ${rounded(low, place)} to ${rounded(high, place)} expected`,
  'heard of': ({ at }, place) => `last heard of ${formatInstant(at, 'moment', place)}`,
  'failed runs': ({ count }) => `${count} failed ${count === 1 ? 'run' : 'runs'} in a row`,
  // The sentence of the whole says it.
  came: () => '',
  went: () => '',
};

/** What a clause turned on, in words; nothing where the sentence of the whole says it. */
export function describeWhy(why: Why, place: Place): string[] {
  const words = (WHYS[why.code] as (why: Why, place: Place) => string)(why, place);
  return words === '' ? [] : [words];
}

const PLACES = 4;
const rounded = (amount: number, { locale }: Place) =>
  new Intl.NumberFormat(locale, { maximumSignificantDigits: PLACES }).format(amount);

function percentWords(from: Value, to: Value, { locale }: Place): string {
  const percent = moveBetween(from, to)?.percent ?? null;
  return percent === null || percent === decimal('0')
    ? ''
    : ` (${percent.startsWith('-') ? '−' : '+'}${formatPercent(percent, locale)})`;
}

/** The clauses of a rule with what each was found to be, in words, where it has several. */
export function whysByClause(
  { when }: Pick<RuleDefinition, 'when'>,
  { whys = [] }: Reason,
): { clause: number; why: Why }[] {
  if (clausesOf(when).length < 2) return [];
  return whys.flatMap((why, clause) => (why === null ? [] : [{ clause, why }]));
}

/** The words under which reasons were stored before they bore numbers, and those that bore them under other names. */
const FORMER: Record<string, Reason> = {
  'met at the first look': { code: 'met at the baseline' },
  'met already, waiting': { code: 'waits to be left' },
  'still waiting': { code: 'still waits' },
  'no longer met': { code: 'left' },
  'unlike the limit': { code: 'unlike' },
};

/** A stored reason, in its present shape: a code with its numbers, or the words of before. */
export function readReason(stored: unknown): Reason {
  if (typeof stored === 'string') return FORMER[stored] ?? ({ code: stored } as Reason);
  const { readings, passed, ms, ...rest } = stored as Reason & { readings?: number; passed?: number; ms?: number };
  const has = readings ?? passed ?? ms;
  return has === undefined ? rest : { ...rest, has };
}
