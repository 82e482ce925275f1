import type { Weight } from '../judge/rule';

/** How an edition goes to somebody. */
export const CHANNELS = ['mail', 'text', 'webhook'] as const;
export type Channel = (typeof CHANNELS)[number];

/** By which routes somebody hears of what matters how much; at least one each. */
export type Channels = Record<Weight, Channel[]>;

/** Where somebody can be reached beside her mail address. */
export interface Reached {
  /** E.164: `+447700900123`. */
  phone: string | null;
  /** An address to which editions are posted. */
  webhook: string | null;
  routes: Channels;
}

/** By mail alone. */
export const BY_MAIL: Channels = { low: ['mail'], usual: ['mail'], high: ['mail'] };

/**
 * The routes of what matters so much, the first of which is its own; what has no weight, as a digest of no alert, goes
 * like what is usual. While her address refuses mail, those beside it; there may be none.
 */
export function channelsOf({ routes, phone, webhook }: Reached, weight: Weight | null, mailPaused = false): Channel[] {
  const leads: Record<Channel, boolean> = { mail: !mailPaused, text: phone !== null, webhook: webhook !== null };
  const open = CHANNELS.filter((route) => routes[weight ?? 'usual'].includes(route) && leads[route]);
  return open.length > 0 || mailPaused ? open : ['mail'];
}

/** What is wrong with somebody's routes, as a sentence; null where nothing is. */
export function channelsFault({ routes, phone, webhook }: Reached): string | null {
  const all = Object.entries(routes);
  const without = all.find(([, chosen]) => chosen.length === 0);
  if (without !== undefined) return `Nothing of ${without[0]} weight would come: choose a route for it.`;
  if (phone === null && all.some(([, chosen]) => chosen.includes('text')))
    return 'A short text needs a phone number: write it, or choose another route.';
  if (webhook === null && all.some(([, chosen]) => chosen.includes('webhook')))
    return 'A webhook needs an address: write it, or choose another route.';
  return null;
}

/** A route in words. */
export const CHANNEL_WORDS: Record<Channel, string> = { mail: 'mail', text: 'a short text', webhook: 'a webhook' };

/**
 * Reads a phone number with its country code: `+44 7700 900123` is `+447700900123`; `0044 …` too. Null of what is none
 * as E.164 has it: a plus, and 7 to 15 digits that do not begin with a nought.
 */
export function readPhone(text: string): string | null {
  if (text.length > 40) return null;
  const digits = text
    .trim()
    .replace(/[\s().\-/]/g, '')
    .replace(/^00/, '+');
  return /^\+[1-9]\d{6,14}$/.test(digits) ? digits : null;
}
