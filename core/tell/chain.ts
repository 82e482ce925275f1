import type { StateName } from '../judge/memory';
import { unreachedWords, type ReachedBy } from './reach';
import { describeReason, type Reason } from '../judge/reason';
import { formatValue } from '../value/format';
import { cut } from '../value/sanitise';
import type { Value } from '../value/value';
import { formatDuration, formatRecent, type Place } from '../when/format';
import type { Instant } from '../when/interval';
import { countOf } from '../words';

/** What is known of a watch's chain at a moment. */
export interface ChainFacts {
  state: 'running' | 'paused';
  /** It is posted to, and not fetched. */
  posted: boolean;
  /** Its whole host is paused by hand. */
  hostPaused: { host: string; since: Instant } | null;
  /** All runs that its host allows in a day are made; until when. */
  looksSpent?: { host: string; most: number; until: Instant } | null;
  /** Null before the first run. */
  lastRun: { startedAt: Instant; tookMs: number } | null;
  nextDue: Instant | null;
  /** Which link the last run broke at, and why; null when it went well. */
  problem: { link: 'source' | 'value'; sentence: string } | null;
  failingSince: Instant | null;
  values: { label: string; value: Value; lastGoodAt: Instant }[];
  /** How many records are read; of one alone its values are told. */
  records: number;
  /**
   * Records that send nothing good while the rest is read, how many of them are called bad by their source, and since
   * when.
   */
  unheard: { count: number; bad: number; since: Instant } | null;
  /** Ways that no longer find a field, while others that agree do. */
  lost: { label: string; ways: string[]; framed: boolean }[];
  /** Without any it is only recorded. */
  rules: RuleFacts[];
  /** The reports that take some of them. */
  reports: string[];
  /** Who reads what takes its rules, and why somebody cannot be reached. */
  readers: ReachedBy[];
  lastDelivery: {
    state: string;
    person: string;
    at: Instant;
    response: string | null;
    nextAttemptAt: Instant | null;
  } | null;
}

/** What is known of a rule. */
export interface RuleFacts {
  /** The rule in words. */
  asked: string;
  state: StateName;
  /** It is kept, and not judged. */
  off: boolean;
  /** It is met, and does not count until it is left and met again. */
  waiting: boolean;
  since: Instant | null;
  lastReason: Reason | null;
  /** Some report takes it. */
  told: boolean;
  /** Why nothing that was read so far could have met it, in a sentence. */
  never?: string | null;
}

/** One link of the chain: whether it holds, and what there is to say. */
export interface Link {
  name: 'Source' | 'Value' | 'Rule' | 'Report' | 'Inbox';
  state: 'holds' | 'broken' | 'open';
  said: string;
  /** It holds, and there is something to mend all the same. */
  mendable?: true;
}

/** The five links of a watch at `now`, in order. A broken one says why, in the reader's own time. */
export function chainOf(facts: ChainFacts, now: Instant, place: Place): Link[] {
  return [
    sourceLink(facts, now, place),
    valueLink(facts, now, place),
    ruleLink(facts, now, place),
    reportLink(facts),
    inboxLink(facts, now, place),
  ];
}

function sourceLink(
  { state, posted, hostPaused, looksSpent = null, lastRun, nextDue, problem, failingSince }: ChainFacts,
  now: Instant,
  place: Place,
): Link {
  const name = 'Source';
  if (hostPaused !== null) {
    return {
      name,
      state: 'broken',
      said:
        `${hostPaused.host} is paused as a whole since ${formatRecent(hostPaused.since, now, place)}: nothing is ` +
        'fetched.',
    };
  }
  if (looksSpent !== null && looksSpent.until > now) {
    const { host, most, until } = looksSpent;
    return {
      name,
      state: 'broken',
      said:
        `the ${countOf(most, 'run')} a day that ${host} is allowed are made: the next is ` +
        `${formatRecent(until, now, place)}`,
    };
  }
  if (problem?.link === 'source') {
    const since = failingSince === null ? '' : ` Since ${formatRecent(failingSince, now, place)}.`;
    return { name, state: 'broken', said: `${problem.sentence}${since}` };
  }
  if (state === 'paused') return { name, state: 'open', said: 'paused; nothing is fetched' };
  if (lastRun === null) return { name, state: 'open', said: 'first run on its way' };
  const ago = formatAgo(lastRun.startedAt, now);
  if (posted) return { name, state: 'holds', said: `the last message came ${ago}` };
  const next = nextDue === null ? '' : nextDue <= now ? '; next now' : `; next in ${formatDuration(nextDue - now)}`;
  return { name, state: 'holds', said: `answered in ${formatDuration(lastRun.tookMs)}, ${ago}${next}` };
}

function valueLink(
  { problem, values, records, unheard, lost, failingSince }: ChainFacts,
  now: Instant,
  place: Place,
): Link {
  const name = 'Value';
  const said = records > 1 ? `${records} records` : sayValues(values, place.locale);
  const since = failingSince === null ? '' : ` since ${formatRecent(failingSince, now, place)}`;
  if (problem?.link === 'value') {
    return {
      name,
      state: 'broken',
      said: `${problem.sentence}${values.length === 0 ? '' : ` Last good: ${said}, stale${since}.`}`,
    };
  }
  if (values.length === 0) return { name, state: 'open', said: 'nothing read yet' };
  if (problem !== null) return { name, state: 'open', said: `${said}, stale${since}` };
  const unsure = lost.filter(({ framed }) => !framed);
  if (unsure.length > 0)
    return { name, state: 'broken', said: `${said}; found another way: ${unsure.map(sayLost).join('; ')} no longer.` };
  if (unheard !== null) return { name, state: 'broken', said: sayNotNotified(unheard, records, now, place) };
  if (lost.length === 0) return { name, state: 'holds', said };
  // What stands around it proves what it is: that it is found by fewer ways is for a quiet hour.
  return {
    name,
    state: 'holds',
    said: `${said}; all around as it was, but ${lost.map(sayLost).join('; ')} no longer`,
    mendable: true,
  };
}

const MOST_VALUES = 4;
const MOST_WORDS = 60;

/** The values of a record, of many the first few, of a long text its beginning. */
function sayValues(values: ChainFacts['values'], locale: string): string {
  const said = values.slice(0, MOST_VALUES).map(({ value }) => formatValue(value, locale));
  const short = said.map((text) => (text.length > MOST_WORDS ? `${cut(text, MOST_WORDS - 1)}…` : text)).join(', ');
  return values.length > MOST_VALUES ? `${short} and ${values.length - MOST_VALUES} more` : short;
}

function sayNotNotified(
  { count, bad, since }: NonNullable<ChainFacts['unheard']>,
  records: number,
  now: Instant,
  place: Place,
): string {
  const who = records > 1 ? `${count} of ${records} records` : 'It';
  const [are, their, send] = count > 1 ? ['are', 'their', 'send'] : ['is', 'its', 'sends'];
  const does = bad === count ? `${are} called bad by ${their} source` : `${send} nothing good`;
  return `${who} ${does}. Last good: ${formatRecent(since, now, place)}.`;
}

function sayLost({ label, ways }: ChainFacts['lost'][number]): string {
  return `${label} by ${ways.map((way) => way.charAt(0).toLowerCase() + way.slice(1)).join(', ')}`;
}

function ruleLink({ rules }: ChainFacts, now: Instant, place: Place): Link {
  const name = 'Rule';
  const [only] = rules;
  if (only === undefined) return { name, state: 'open', said: 'no rule; it is only recorded' };
  const judged = rules.map((rule) => ({ rule, ...judgedWords(rule, now, place) }));
  const broken = judged.filter(({ state }) => state === 'broken');
  const [first] = broken.length > 0 ? broken : judged;
  if (rules.length === 1 || first === undefined)
    return {
      name,
      state: first?.state ?? 'open',
      said: `${only.asked}: ${first?.said ?? 'undecided'}${neverWords(only)}`,
    };
  const others = broken.length > 1 ? `, and ${broken.length - 1} more` : '';
  if (broken.length > 0) return { name, state: 'broken', said: `${first.rule.asked}: ${first.said}${others}` };
  return {
    name,
    state: judged.every(({ state }) => state === 'open') ? 'open' : 'holds',
    said: sayMany(rules, now, place),
  };
}

const neverWords = ({ never, state }: RuleFacts): string => (never == null || state === 'raised' ? '' : `. ${never}`);

/** `20 rules: 1 raised since 09:00, 17 calm, 2 undecided`. */
function sayMany(rules: RuleFacts[], now: Instant, place: Place): string {
  const inState = (state: StateName) => rules.filter((rule) => rule.state === state);
  const raised = inState('raised');
  const latest = Math.max(...raised.map(({ since }) => since ?? 0));
  const words = (['raised', 'holding', 'calm', 'undecided'] as const).flatMap((state) => {
    const count = inState(state).length;
    if (count === 0) return [];
    return [`${count} ${state}${state === 'raised' && latest > 0 ? ` since ${formatRecent(latest, now, place)}` : ''}`];
  });
  const never = rules.filter((rule) => rule.never != null && rule.state !== 'raised');
  const [first] = never;
  const more = never.length > 1 ? ` (and ${never.length - 1} more like it)` : '';
  return (
    `${rules.length} rules: ` +
    `${words.join(', ')}${first === undefined ? '' : `. ${first.asked}: ${first.never ?? ''}${more}`}`
  );
}

function judgedWords(rule: RuleFacts, now: Instant, place: Place): Pick<Link, 'state' | 'said'> {
  const since = rule.since === null ? '' : ` since ${formatRecent(rule.since, now, place)}`;
  if (rule.off) return { state: 'open', said: 'switched off' };
  if (rule.waiting) return { state: 'holds', said: 'met already; waits to be left and met again' };
  if (rule.state === 'raised') return { state: 'holds', said: `raised${since}` };
  if (rule.state === 'holding') return { state: 'holds', said: `met${since}, not yet for long enough` };
  if (rule.state === 'calm') return { state: 'holds', said: `calm${since}` };
  if (rule.lastReason?.code === 'unlike') return { state: 'broken', said: describeReason(rule.lastReason, place) };
  return { state: 'open', said: 'undecided' };
}

function reportLink({ rules, reports }: ChainFacts): Link {
  const name = 'Report';
  if (rules.length === 0) return { name, state: 'open', said: 'none needed' };
  const untold = rules.filter(({ told }) => !told);
  if (untold.length === rules.length)
    return {
      name,
      state: 'broken',
      said: `Nobody will hear: no report takes ${rules.length === 1 ? 'this rule' : 'these rules'}.`,
    };
  if (untold.length > 0)
    return {
      name,
      state: 'broken',
      said: `Nobody hears when ${untold.map(({ asked }) => asked).join(', or ')}: no report takes that.`,
    };
  return { name, state: 'holds', said: reports.join('; ') };
}

function inboxLink({ rules, reports, readers, lastDelivery }: ChainFacts, now: Instant, place: Place): Link {
  const name = 'Inbox';
  if (rules.length === 0 || reports.length === 0) return { name, state: 'open', said: 'nobody to tell' };
  if (readers.length === 0) return { name, state: 'broken', said: 'Nobody will hear: the report has no readers.' };
  const trouble = deliveryTrouble(lastDelivery, now, place);
  if (trouble !== null) return { name, state: 'broken', said: trouble };
  const unreached = unreachedWords(readers);
  if (unreached.length > 0) {
    const nobody = readers.every(({ kept }) => kept !== null) ? 'Nobody will hear: ' : '';
    return { name, state: 'broken', said: `${nobody}${unreached.join('; ')}.` };
  }
  if (lastDelivery === null)
    return { name, state: 'holds', said: `${readers.map((reader) => reader.name).join(', ')}; nothing sent yet` };
  return {
    name,
    state: 'holds',
    said: `${lastDelivery.person} has the last one, ${formatRecent(lastDelivery.at, now, place)}`,
  };
}

function deliveryTrouble(delivery: ChainFacts['lastDelivery'], now: Instant, place: Place): string | null {
  if (delivery === null || delivery.state === 'sent' || delivery.state === 'sending') return null;
  const words = delivery.response === null ? '' : ` (“${delivery.response.trim()}”)`;
  const again =
    delivery.nextAttemptAt === null
      ? ''
      : ` Tried again ${delivery.nextAttemptAt <= now ? 'now' : `in ${formatDuration(delivery.nextAttemptAt - now)}`}.`;
  if (delivery.state === 'given up') return `The mail to ${delivery.person} was given up${words}.`;
  if (delivery.state === 'refused') return `The mail server refuses the mail to ${delivery.person}${words}.${again}`;
  if (delivery.response !== null) return `The mail server does not answer${words}.${again}`;
  return delivery.state === 'queued' && now - delivery.at > QUEUE_PATIENCE
    ? `The mail to ${delivery.person} waits since ${formatRecent(delivery.at, now, place)}.`
    : null;
}

/** A mail that waits for longer is in trouble, in milliseconds. */
export const QUEUE_PATIENCE = 60_000;

/** How long ago a moment was: `6 min ago`, `just now`. */
export function formatAgo(at: Instant, now: Instant): string {
  return now - at < 2000 ? 'just now' : `${formatDuration(now - at)} ago`;
}

/** The first broken link, which is what a list has room to say; null when the chain holds. */
export function firstBroken(chain: Link[]): Link | null {
  return chain.find((link) => link.state === 'broken') ?? null;
}
