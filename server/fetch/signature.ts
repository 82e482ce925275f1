import { createHmac, timingSafeEqual } from 'node:crypto';
import { fail, ok, type Result } from '#core/result';
import { MINUTE, SECOND, type Instant } from '#core/when/interval';

/** The headers of a signed message. */
export const HEADERS = { id: 'shrike-message-id', time: 'shrike-time', signature: 'shrike-signature' } as const;

/** How far the clocks of both sides may be apart. */
const MOST_APART = 5 * MINUTE;
const LONGEST_ID = 200;

/** A message as it came. */
export interface SignedMessage {
  id: string | null;
  /** Seconds since the epoch, as text. */
  time: string | null;
  signature: string | null;
  body: Buffer;
}

/** The signature of a message: HMAC-SHA256 (RFC 2104) over `id.time.body`, in hexadecimal after `sha256=`. */
function signatureOf(secret: string, id: string, time: string, body: Buffer | string): string {
  return `sha256=${createHmac('sha256', secret).update(`${id}.${time}.`).update(body).digest('hex')}`;
}

/** The headers that sign a message: what is posted to others is signed as what others post to us. */
export const signed = (secret: string, id: string, seconds: number, body: string): Record<string, string> => ({
  [HEADERS.id]: id,
  [HEADERS.time]: String(seconds),
  [HEADERS.signature]: signatureOf(secret, id, String(seconds), body),
});

/** Checks that a message is signed with the secret, and of now. The error is a sentence for whoever posts. */
export function checkSignature(
  secret: string,
  { id, time, signature, body }: SignedMessage,
  now: Instant,
): Result<string, string> {
  if (id === null || id === '' || id.length > LONGEST_ID)
    return fail(`State the message’s own id in ${HEADERS.id}, of at most ${LONGEST_ID} characters.`);
  if (time === null || !/^\d{1,12}$/.test(time))
    return fail(`State the time in ${HEADERS.time}, in seconds since 1970.`);
  if (Math.abs(Number(time) * SECOND - now) > MOST_APART)
    return fail('The stated time is more than five minutes from ours.');
  const expected = Buffer.from(signatureOf(secret, id, time, body));
  const given = Buffer.from(signature ?? '');
  return given.length === expected.length && timingSafeEqual(given, expected)
    ? ok(id)
    : fail('The signature does not fit the message.');
}
