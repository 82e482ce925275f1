/** How a delivery can stand. */
export const DELIVERY_STATES = ['queued', 'kept back', 'sending', 'sent', 'refused', 'given up'] as const;
export type DeliveryState = (typeof DELIVERY_STATES)[number];

/** Why a delivery is kept back, or never comes. */
export const DELIVERY_REASONS = {
  unconfirmed: { said: 'the address is not confirmed', never: '' },
  paused: { said: 'the address refused mail for good', never: '' },
  'quiet hours': { said: 'held by quiet hours', never: '' },
  'mail hour': { said: 'held for the mail hour', never: '' },
  allowance: { said: 'held: as many mails have gone out as may', never: '' },
  'stands in': { said: 'stands in for a mail that never came', never: '' },
  'told already': {
    said: 'all of it was told through another report meanwhile',
    never: 'was told through another report',
  },
  'too old': {
    said: 'older than 30 days when the address was confirmed',
    never: 'was too old when you could be reached',
  },
  deleted: { said: 'the report was deleted', never: 'was cancelled with the report' },
  left: { said: 'cancelled, since the reader left the report', never: 'was cancelled when you left' },
  removed: { said: 'cancelled, since the reader was taken out', never: 'was cancelled when you were taken out' },
  'asked anew': { said: 'another mail that asks took its place', never: '' },
  'taken back': { said: 'the invitation was taken back', never: '' },
  'route gone': { said: 'its phone number or address was taken off', never: 'had nowhere to go' },
  'unknown outcome': {
    said: 'it may have arrived, and is not sent again',
    never: 'may have arrived: its server never said',
  },
  folded: {
    said: 'goes with what is kept back until the address works',
    never: 'was not taken, and is in a mail of what was kept back',
  },
} as const;

type DeliveryReason = keyof typeof DELIVERY_REASONS;

/** Whether a stored reason is one of ours. */
export const isReason = (reason: string): reason is DeliveryReason => Object.hasOwn(DELIVERY_REASONS, reason);

/** A stored reason in words. */
export const describeReasonOf = (reason: string): string => (isReason(reason) ? DELIVERY_REASONS[reason].said : reason);
