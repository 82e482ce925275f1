import { describeReason, type Reason } from '../judge/step';
import { formatValue } from '../value/format';
import type { Value } from '../value/value';
import { formatDuration, formatRecent, type Place } from '../when/format';
import type { Instant } from '../when/interval';

/** What is known of a watch's chain at a moment. */
export interface ChainFacts {
  state: 'running' | 'paused';
  /** It is posted to, and not fetched. */
  posted: boolean;
  /** Its whole host is paused by hand. */
  hostPaused: { host: string; since: Instant } | null;
  /** Null before the first run. */
  lastRun: { startedAt: Instant; tookMs: number } | null;
  nextDue: Instant | null;
  /** Which link the last run broke at, and why; null when it went well. */
  problem: { link: 'source' | 'value'; sentence: string } | null;
  failingSince: Instant | null;
  values: { label: string; value: Value; lastGoodAt: Instant }[];
  /** How many records are read; of one alone its values are told. */
  records: number;
  /** Records that send nothing good while the rest is read, how many of them are called bad by their source, and since when. */
  unheard: { count: number; bad: number; since: Instant } | null;
  /** Ways that no longer find a field, while others that agree do. */
  lost: { label: string; ways: string[] }[];
  rule: { asked: string; state: string; waiting: boolean; since: Instant | null; lastReason: Reason | null } | null;
  reports: string[];
  readers: { name: string; confirmed: boolean }[];
  lastDelivery: { state: string; person: string; at: Instant; response: string | null; nextAttemptAt: Instant | null } | null;
}

/** One link of the chain: whether it holds, and what there is to say. */
export interface Link {
  name: 'Source' | 'Value' | 'Rule' | 'Report' | 'Inbox';
  state: 'holds' | 'broken' | 'open';
  said: string;
}

/** The five links of a watch at `now`, in order. A broken one says why, in the reader's own time. */
export function chainOf(facts: ChainFacts, now: Instant, place: Place): Link[] {
  return [sourceLink(facts, now, place), valueLink(facts, now, place), ruleLink(facts, now, place), reportLink(facts), inboxLink(facts, now, place)];
}

function sourceLink({ state, posted, hostPaused, lastRun, nextDue, problem, failingSince }: ChainFacts, now: Instant, place: Place): Link {
  const name = 'Source';
  if (hostPaused !== null) {
    return {
      name,
      state: 'broken',
      said: `${hostPaused.host} is paused as a whole since ${formatRecent(hostPaused.since, now, place)}: nothing is fetched.`,
    };
  }
  if (problem?.link === 'source') {
    const since = failingSince === null ? '' : ` Since ${formatRecent(failingSince, now, place)}.`;
    return { name, state: 'broken', said: `${problem.sentence}${since}` };
  }
  if (state === 'paused') return { name, state: 'open', said: 'paused; nothing is fetched' };
  if (lastRun === null) return { name, state: 'open', said: 'first look on its way' };
  const ago = formatAgo(lastRun.startedAt, now);
  if (posted) return { name, state: 'holds', said: `the last message came ${ago}` };
  const next = nextDue === null ? '' : nextDue <= now ? '; next now' : `; next in ${formatDuration(nextDue - now)}`;
  return { name, state: 'holds', said: `answered in ${formatDuration(lastRun.tookMs)}, ${ago}${next}` };
}

function valueLink({ problem, values, records, unheard, lost, failingSince }: ChainFacts, now: Instant, place: Place): Link {
  const name = 'Value';
  const said = records > 1 ? `${records} records` : values.map(({ value }) => formatValue(value, place.locale)).join(', ');
  const since = failingSince === null ? '' : ` since ${formatRecent(failingSince, now, place)}`;
  if (problem?.link === 'value') {
    return { name, state: 'broken', said: `${problem.sentence}${values.length === 0 ? '' : ` Last good: ${said}, stale${since}.`}` };
  }
  if (values.length === 0) return { name, state: 'open', said: 'nothing read yet' };
  if (problem !== null) return { name, state: 'open', said: `${said}, stale${since}` };
  if (lost.length > 0) return { name, state: 'broken', said: `${said}; found another way: ${lost.map(sayLost).join('; ')} no longer.` };
  if (unheard !== null) return { name, state: 'broken', said: sayUnheard(unheard, records, now, place) };
  return { name, state: 'holds', said };
}

function sayUnheard({ count, bad, since }: NonNullable<ChainFacts['unheard']>, records: number, now: Instant, place: Place): string {
  const who = records > 1 ? `${count} of ${records} records` : 'It';
  const [are, their, send] = count > 1 ? ['are', 'their', 'send'] : ['is', 'its', 'sends'];
  const does = bad === count ? `${are} called bad by ${their} source` : `${send} nothing good`;
  return `${who} ${does}. Last good: ${formatRecent(since, now, place)}.`;
}

function sayLost({ label, ways }: ChainFacts['lost'][number]): string {
  return `${label} by ${ways.map((way) => way.charAt(0).toLowerCase() + way.slice(1)).join(', ')}`;
}

function ruleLink({ rule }: ChainFacts, now: Instant, place: Place): Link {
  const name = 'Rule';
  if (rule === null) return { name, state: 'open', said: 'no rule; it is only recorded' };
  const since = rule.since === null ? '' : ` since ${formatRecent(rule.since, now, place)}`;
  if (rule.state === 'raised') {
    return {
      name,
      state: 'holds',
      said: rule.waiting ? `${rule.asked}: met already; waits to be left and met again` : `${rule.asked}: raised${since}`,
    };
  }
  if (rule.state === 'calm') return { name, state: 'holds', said: `${rule.asked}: calm${since}` };
  if (rule.lastReason === 'unlike the limit') return { name, state: 'broken', said: `${rule.asked}: ${describeReason(rule.lastReason)}` };
  return { name, state: 'open', said: `${rule.asked}: undecided` };
}

function reportLink({ rule, reports }: ChainFacts): Link {
  const name = 'Report';
  if (rule === null) return { name, state: 'open', said: 'none needed' };
  if (reports.length === 0) return { name, state: 'broken', said: 'Nobody will hear: no report takes this rule.' };
  return { name, state: 'holds', said: reports.join('; ') };
}

function inboxLink({ rule, reports, readers, lastDelivery }: ChainFacts, now: Instant, place: Place): Link {
  const name = 'Inbox';
  if (rule === null || reports.length === 0) return { name, state: 'open', said: 'nobody to tell' };
  const unconfirmed = readers.filter((reader) => !reader.confirmed).map((reader) => reader.name);
  if (readers.length === 0) return { name, state: 'broken', said: 'Nobody will hear: the report has no readers.' };
  const trouble = deliveryTrouble(lastDelivery, now, place);
  if (trouble !== null) return { name, state: 'broken', said: trouble };
  if (unconfirmed.length > 0) {
    const nobody = unconfirmed.length === readers.length ? 'Nobody will hear: ' : '';
    return {
      name,
      state: 'broken',
      said: `${nobody}${unconfirmed.join(' and ')} ${unconfirmed.length === 1 ? 'has' : 'have'} not confirmed the address.`,
    };
  }
  if (lastDelivery === null) return { name, state: 'holds', said: `${readers.map((reader) => reader.name).join(', ')}; nothing sent yet` };
  return { name, state: 'holds', said: `${lastDelivery.person} has the last one, ${formatRecent(lastDelivery.at, now, place)}` };
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

const QUEUE_PATIENCE = 60_000;

/** How long ago a moment was: `6 min ago`, `just now`. */
export function formatAgo(at: Instant, now: Instant): string {
  return now - at < 2000 ? 'just now' : `${formatDuration(now - at)} ago`;
}

/** The first broken link, which is what a list has room to say; null when the chain holds. */
export function firstBroken(chain: Link[]): Link | null {
  return chain.find((link) => link.state === 'broken') ?? null;
}
