import type { Weight } from '../judge/rule';

/** How an edition goes to somebody. */
export const CHANNELS = ['mail', 'text', 'webhook'] as const;
export type Channel = (typeof CHANNELS)[number];

/** By which channels somebody hears of what matters how much; at least one each. */
export type Channels = Record<Weight, Channel[]>;

/** Where somebody can be reached beside her mail address. */
export interface Reached {
  /** E.164: `+447700900123`. */
  phone: string | null;
  /** An address to which editions are posted. */
  webhook: string | null;
  routes: Channels;
}

interface ChannelKind {
  words: string;
  /** The same beside a box to tick. */
  label: string;
  /** The column of a person with the address to which it leads. */
  column: 'email' | 'phone' | 'webhook';
  leadsTo: (to: Pick<Reached, 'phone' | 'webhook'> & { email: string }) => string | null;
  /** What to do where it is chosen and leads nowhere; null of what leads to everybody. */
  lacks: string | null;
  /** It bears the thread of an episode, and an edition's files. */
  isLetter: boolean;
  /** What is behind at an address waits for what is before it. */
  inOrder: boolean;
  /** Whoever takes it knows by its identity that it came before: to send it twice does no harm. */
  isIdempotent: boolean;
}

/** All that there is to know of a channel; how it sends is said in `server/deliver/channels.ts`. */
export const CHANNEL: Record<Channel, ChannelKind> = {
  mail: {
    words: 'mail',
    label: 'mail',
    column: 'email',
    leadsTo: ({ email }) => email,
    lacks: null,
    isLetter: true,
    inOrder: false,
    isIdempotent: false,
  },
  text: {
    words: 'a short text',
    label: 'short text',
    column: 'phone',
    leadsTo: ({ phone }) => phone,
    lacks: 'A short text needs a phone number: write it, or choose another channel.',
    isLetter: false,
    inOrder: false,
    isIdempotent: false,
  },
  webhook: {
    words: 'a webhook',
    label: 'webhook',
    column: 'webhook',
    leadsTo: ({ webhook }) => webhook,
    lacks: 'A webhook needs an address: write it, or choose another channel.',
    isLetter: false,
    inOrder: true,
    isIdempotent: true,
  },
};

/** `by a short text`; nothing of a mail, which is what all expect. */
export const byChannel = (channel: Channel, mark = ''): string =>
  channel === 'mail' ? '' : `${mark}by ${CHANNEL[channel].words}`;

/** By mail alone. */
export const BY_MAIL: Channels = { low: ['mail'], usual: ['mail'], high: ['mail'] };

const chosenFor = ({ routes, ...reached }: Reached, weight: Weight | null): Channel[] =>
  CHANNELS.filter(
    (channel) =>
      routes[weight ?? 'usual'].includes(channel) && CHANNEL[channel].leadsTo({ email: '', ...reached }) !== null,
  );

/**
 * The channels of what matters so much, the first of which is its own; what has no weight, as a digest of no alert,
 * goes like what is usual.
 */
export function channelsOf(reached: Reached, weight: Weight | null): Channel[] {
  const chosen = chosenFor(reached, weight);
  return chosen.length > 0 ? chosen : ['mail'];
}

/** The same while her address refuses mail: those beside it; there may be none. */
export const channelsBesideMail = (reached: Reached, weight: Weight | null): Channel[] =>
  chosenFor(reached, weight).filter((channel) => channel !== 'mail');

/** What is wrong with somebody's channels, as a sentence; null where nothing is. */
export function channelsFault({ routes, ...reached }: Reached): string | null {
  const all = Object.entries(routes);
  const without = all.find(([, chosen]) => chosen.length === 0);
  if (without !== undefined) return `Nothing of ${without[0]} weight would come: choose a channel for it.`;
  const lacking = CHANNELS.find(
    (channel) =>
      CHANNEL[channel].leadsTo({ email: '', ...reached }) === null &&
      all.some(([, chosen]) => chosen.includes(channel)),
  );
  return lacking === undefined ? null : CHANNEL[lacking].lacks;
}

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
