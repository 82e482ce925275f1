import { segmentOf } from '#core/tell/short-text';

/** Mail to a number at this domain becomes a text on that phone. */
export const TEXTS_DOMAIN = 'texts.example';

/** Whether mail to an address is for a phone. */
export const isText = (address: string): boolean => address.endsWith(`@${TEXTS_DOMAIN}`);

/** Why the gateway takes no text: it sends one segment, and not several. */
export function objectionToText(text: string): string | null {
  const { in: alphabet, length, most } = segmentOf(text.trim());
  return length <= most ? null : `5.6.0 more than one segment: ${length} of ${most} in ${alphabet}`;
}
