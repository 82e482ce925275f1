import type { Change } from '../compare/compare';
import type { Limits } from '../judge/asked';
import type { Clause, Condition } from '../judge/clause';
import { stepsMet } from '../judge/limits';
import { namesOf } from '../judge/words';
import { describeCondition } from '../judge/describe';
import { nearest } from '../judge/distance';
import type { Reaches } from '../judge/observation';
import { conditionOfOld, type ConditionOfOld, type Weight, type Wording } from '../judge/rule';
import { roleFor, type Role } from '../read/role';
import { storedAs } from '../versioned';
import { subtract, type Decimal } from '../value/decimal';
import { formatAmount, formatDifference, formatPercent, formatValue } from '../value/format';
import { cut } from '../value/sanitise';
import { alike, isMeasure, sameValue, type Measure, type Value } from '../value/value';
import { formatDuration, formatInstant } from '../when/format';
import type { Instant } from '../when/interval';

/**
 * What is told of a rule: that it is met, several times as one, that it still is, that it is over, or that it can no
 * longer be judged.
 */
type ToldOf =
  | { what: 'alert' }
  | { what: 'several'; count: number; since: Instant; together?: true }
  | { what: 'reminder' }
  /** Nobody has taken it on: others are told, too. */
  | { what: 'escalation'; step: number; of: number }
  /** Somebody opened an episode by hand. */
  | { what: 'opened'; by: string; note: string | null }
  | { what: 'over' }
  | { what: 'cannot be judged' }
  | { what: 'undecided for a day' };

/** An episode as far as it has come. */
interface Course {
  opened: Instant;
  peak: Value | null;
  /** Null while it is open. */
  closed: Instant | null;
}

/** One thing that happened, with all that a sentence, a mail or a page needs to tell it. */
export interface News {
  /** What is followed, as the analyst named it. */
  subject: string;
  /** The site's own name. */
  site: string;
  /** The address it was read at; empty in news of before that was kept with it. */
  page: string;
  field: { key: string; label: string; role?: Role };
  value: Value;
  /** The last good value before; null when this is the first. */
  previous: Value | null;
  /** How it moved from the value before, of a measured field too; null where it did not. */
  change: Change | null;
  /** The rule's condition; null when nothing asked for it. */
  asked: Condition | null;
  /** What the fields are called that it names. */
  labels?: Record<string, string>;
  told?: ToldOf;
  /** The episode that it belongs to. */
  course?: Course | null;
  weight?: Weight;
  /** The name that she gave the rule. */
  rule?: string;
  /** Her own words of it. */
  own?: Wording;
  /** What its stretch of readings came to, where that is judged and not the reading. */
  made?: Value;
  /** When a total that goes on at its pace comes to its limit. */
  reaches?: Reaches;
  /** Other fields that are shown with it. */
  carried?: { label: string; value: Value }[];
  seenAt: Instant;
  /** When the last good look before this was; null on the first. */
  lookedBefore: Instant | null;
}

/** How news is stored. */
export const storedNews = storedAs<News>(
  'news',
  (unnumbered) => ({ page: '', ...(unnumbered as object) }),
  withRole,
  withAsked,
);

/** News bore the one condition that there was. */
function withAsked(older: unknown): unknown {
  const { condition, ...news } = older as { condition: ConditionOfOld | null };
  return { ...news, asked: condition === null ? null : conditionOfOld(condition) };
}

/** News named its field alone, and what that is was told by its letters. */
function withRole(older: unknown): unknown {
  const news = older as News;
  const role = roleFor({
    label: news.field.label,
    type: { kind: news.value.kind === 'money' ? 'money' : 'stated' },
    locators: [],
  });
  return role === null ? news : { ...news, field: { ...news.field, role } };
}

/** A headline in two breaths: what is so now, and what that means. */
export interface Headline {
  lead: string;
  meaning: string;
}

/** Whether what is told is still so. */
type Tense = 'is' | 'was';

/** Writes the news as a headline: `Skepwright now asks £21.50 for Copper smoker`, `£2.50 below your limit`. */
export function headline(news: News, locale: string, tense: Tense = 'is'): Headline {
  const { told = { what: 'alert' } } = news;
  if (told.what === 'alert' || told.what === 'reminder' || told.what === 'escalation') {
    const still =
      told.what === 'alert' || news.course == null
        ? ''
        : `still so after ${formatDuration(news.seenAt - news.course.opened)}${STILL[told.what]}`;
    return { lead: lead(news, locale, tense), meaning: [meaning(news, locale), still].filter(Boolean).join(', ') };
  }
  const asked = `“${describeAsked(news, locale)}”`;
  const where = `${news.subject} at ${news.site}`;
  switch (told.what) {
    case 'several':
      return {
        lead: `${where}: ${told.count} alerts in ${formatDuration(news.seenAt - told.since)}`,
        meaning: told.together === true ? `${asked}, of all records together; this is the latest` : asked,
      };
    case 'opened':
      return { lead: `${where}: ${told.by} opened an episode of ${asked} by hand`, meaning: told.note ?? '' };
    case 'over':
      return { lead: `${where}: ${asked} is over`, meaning: courseWords(news.course ?? null, locale) };
    case 'cannot be judged':
      return {
        lead: `${where}: ${asked} cannot be judged any more`,
        meaning: 'its values are counted in something else',
      };
    case 'undecided for a day':
      return { lead: `${where}: nothing can be said of ${asked} for a day`, meaning: 'its episode stays open' };
  }
}

/** The same where there is little room: what it is of, and what is new about that. */
export function shortHeadline(news: News, locale: string): string {
  const { told = { what: 'alert' } } = news;
  const where = `${news.subject} at ${news.site}`;
  switch (told.what) {
    case 'reminder':
    case 'escalation':
      return `${lead(news, locale, 'is')}${told.what === 'reminder' ? ', still so' : ', nobody has taken it on'}`;
    case 'opened':
      return `${where}: ${told.by} opened an episode by hand`;
    case 'over':
      return `${where}: it is over`;
    case 'cannot be judged':
      return `${where} cannot be judged any more`;
    case 'undecided for a day':
      return `${where}: nothing can be said for a day`;
    default:
      return headline(news, locale).lead;
  }
}

const STILL = { reminder: '', escalation: ', and nobody has taken it on' } as const;

/** How long an episode lasted, and how far it went. */
function courseWords(course: Course | null, locale: string): string {
  if (course === null || course.closed === null) return '';
  const peak = course.peak === null ? '' : `, furthest ${formatValue(course.peak, locale)}`;
  return `after ${formatDuration(course.closed - course.opened)}${peak}`;
}

const LONGEST_QUOTED = 60;

/**
 * A value within a sentence: words that a page or a person chose stand in quotes, and only their beginning where they
 * are long.
 */
export function quoted(value: Value, locale: string): string {
  const said = formatValue(value, locale);
  if (value.kind !== 'text' && value.kind !== 'state') return said;
  return `“${said.length > LONGEST_QUOTED ? `${cut(said, LONGEST_QUOTED - 1)}…` : said}”`;
}

/** Kinds of which the condition itself is the news, and not the value that stands beside it. */
const SAID_BY_CONDITION: Clause['kind'][] = ['silence', 'record', 'unusual', 'place', 'rank', 'against', 'before'];

/** The only clause of what was asked; null where there are several, or none. */
const onlyClause = ({ asked }: News): Clause | null => (asked !== null && 'kind' in asked ? asked : null);

function isSaidByCondition(news: News): boolean {
  const clause = onlyClause(news);
  if (clause === null) return false;
  return SAID_BY_CONDITION.includes(clause.kind) || ('of' in clause && clause.of.over !== undefined);
}

function lead(news: News, locale: string, tense: Tense): string {
  if (isSaidByCondition(news)) return `${news.subject} at ${news.site}: ${describeAsked(news, locale)}`;
  return leadByValue(news, locale, tense);
}

function leadByValue(news: News, locale: string, tense: Tense): string {
  const isNow = tense === 'is' ? 'is now' : 'was';
  const now = formatValue(news.value, locale);
  const { subject, site, field } = news;
  if (news.value.kind === 'text' && news.value.text.length > LONGEST_QUOTED)
    return `The ${field.label} of ${subject} at ${site} changed`;
  if (news.value.kind === 'absent') return `${site} shows no ${field.label} for ${subject} any more`;
  if (news.value.kind === 'money' && field.role === 'price')
    return `${site} ${tense === 'is' ? 'now asks' : 'asked'} ${now} for ${subject}`;
  if (field.role === 'value') return `${subject} at ${site} ${isNow} ${quoted(news.value, locale)}`;
  return `${subject} at ${site}: ${field.label} ${isNow} ${quoted(news.value, locale)}`;
}

function meaning(news: News, locale: string): string {
  if (news.made !== undefined)
    return `${quoted(news.made, locale)} ${news.reaches === undefined ? 'by now' : reachedWords(news.reaches, locale)}`;
  if (isSaidByCondition(news))
    return news.value.kind === 'absent' ? '' : `${news.field.label} is ${quoted(news.value, locale)}`;
  const limit = limitDistance(news);
  if (limit !== null) {
    const { distance, side, like, of } = limit;
    // Of several limits it is said which one is meant.
    const named = of === null ? 'your limit' : `your limit of ${formatValue(of, locale)}`;
    return side === 'at' ? `just at ${named}` : `${formatSize(distance, like, locale)} ${side} ${named}`;
  }
  return moved(news, locale);
}

const reachedWords = ({ at, zone }: Reaches, locale: string) =>
  `at this pace, with the limit reached on ${formatInstant(at, 'day', { locale, zone })}`;

function formatSize(difference: Decimal, like: Value, locale: string): string {
  return isMeasure(like) ? formatAmount(difference.replace('-', '') as Decimal, like, locale) : '';
}

interface LimitDistance {
  distance: Decimal;
  side: 'below' | 'above' | 'at';
  like: Value;
  /** The limit, where it is one of several. */
  of: Measure | null;
}

function limitDistance(news: News): LimitDistance | null {
  const { value } = news;
  const limit = limitOf(news);
  if (limit === null || !isMeasure(value) || !alike(value, limit)) return null;
  const distance = subtract(value.amount, limit.amount);
  const side = /^-?0+(\.0+)?$/.test(distance) ? 'at' : distance.startsWith('-') ? 'below' : 'above';
  const { asked } = news;
  const isOneOfSeveral =
    asked !== null && 'limits' in asked && 'limit' in asked.limits && asked.limits.further !== undefined;
  return { distance, side, like: value, of: isOneOfSeveral ? limit : null };
}

/** The limit that the value stands beyond, of two the nearer one; null where the rule has none. */
export function limitOf(news: Pick<News, 'asked' | 'value'>): Measure | null {
  const { asked, value } = news;
  if (asked === null || !('kind' in asked) || !('limits' in asked) || asked.of.over !== undefined || !isMeasure(value))
    return null;
  return furthestPassed(asked.limits, value) ?? nearest(asked.limits, value);
}

/** Of limits one beyond the other the last that a value stands beyond, past the first. */
function furthestPassed(limits: Limits, value: Measure): Measure | null {
  return 'limit' in limits ? (limits.further?.[stepsMet(limits, value) - 1] ?? null) : null;
}

/** How it moved, in words: `down £2.50 (10.4%)`, `was “In stock”`; empty where nothing stood before. */
export function moved(news: Pick<News, 'change' | 'previous' | 'value'>, locale: string): string {
  const { change, previous, value } = news;
  if (previous === null || sameValue(previous, value)) return '';
  if (change?.difference == null || !isMeasure(change.to)) return `was ${quoted(previous, locale)}`;
  const direction = change.difference.startsWith('-') ? 'down' : 'up';
  const percent = change.percent === null ? '' : ` (${formatPercent(change.percent, locale)})`;
  return `${direction} ${formatSize(change.difference, change.to, locale)}${percent}`;
}

/** The difference column of a change: glyph, amount and percent; or what sort of change it is. */
export interface DifferenceParts {
  glyph: '▲' | '▼' | '◇';
  amount: string;
  percent: string | null;
}

/** A change as the parts of a table cell; numbers without their unit, which stands beside the value. */
export function differenceParts(
  change: Pick<Change, 'kind' | 'from' | 'to' | 'difference' | 'percent'>,
  locale: string,
): DifferenceParts {
  if (change.difference !== null && isMeasure(change.to)) {
    return {
      glyph: change.difference.startsWith('-') ? '▼' : '▲',
      amount: formatDifference(change.difference, change.to, locale),
      percent: change.percent === null ? null : formatPercent(change.percent, locale),
    };
  }
  if (change.kind === 'grade' && change.difference !== null) return gradeParts(change.difference);
  if (change.kind === 'record')
    return { glyph: '◇', amount: change.from.kind === 'absent' ? 'appeared' : 'vanished', percent: null };
  return { glyph: '◇', amount: DIFFERENCE_WORDS[change.kind], percent: null };
}

function gradeParts(steps: Decimal): DifferenceParts {
  const size = steps.replace('-', '');
  return {
    glyph: steps.startsWith('-') ? '▼' : '▲',
    amount: size === '1' ? 'one grade' : `${size} grades`,
    percent: null,
  };
}

const DIFFERENCE_WORDS: Record<Change['kind'], string> = {
  amount: 'changed',
  grade: 'regraded',
  state: 'changed',
  record: 'came or went',
  text: 'changed',
  unit: 'other unit',
  presence: 'shown or gone',
};

/** The rule that asked for it, in words; for the mail and the trail. */
export function describeAsked({ asked, labels = {}, field }: News, locale: string): string {
  if (asked === null) return 'no rule';
  return describeCondition(
    asked,
    namesOf((key) => (key === field.key ? field.label : (labels[key] ?? key)), locale),
  );
}
