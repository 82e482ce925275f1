import { createHmac } from 'node:crypto';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { MINUTE } from '#core/when/interval';
import { checkSignature, type SignedMessage } from './signature';

const NOW = Date.UTC(2026, 5, 1);
const SECRET = 'shared with the sender alone';

/** Signs as the documentation tells a sender to, with nothing of ours. */
function signed(body: string, { id = 'message 1', at = NOW, secret = SECRET } = {}): SignedMessage {
  const time = String(Math.floor(at / 1000));
  const signature = `sha256=${createHmac('sha256', secret).update(`${id}.${time}.${body}`).digest('hex')}`;
  return { id, time, signature, body: Buffer.from(body) };
}

describe('a posted message', () => {
  it('is taken when it is signed with the secret, whatever it says', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), fc.string({ minLength: 1, maxLength: 200 }), (body, id) => {
        expect(checkSignature(SECRET, signed(body, { id }), NOW)).toEqual({ ok: true, value: id });
      }),
    );
  });

  it('is refused when anything of it was changed on its way', () => {
    const message = signed('{"v":1}');
    const changes: Partial<SignedMessage>[] = [
      { id: 'message 2' },
      { time: String(NOW / 1000 + 1) },
      { body: Buffer.from('{"v":2}') },
    ];
    for (const change of changes) expect(checkSignature(SECRET, { ...message, ...change }, NOW).ok).toBe(false);
    expect(checkSignature(SECRET, signed('{"v":1}', { secret: 'another' }), NOW).ok).toBe(false);
  });

  it('is refused with a signature that is short, long or of another shape', () => {
    const message = signed('{}');
    for (const signature of [
      '',
      'sha256=',
      `${message.signature}0`,
      message.signature?.slice(7) ?? '',
      message.signature?.toUpperCase() ?? '',
    ]) {
      expect(checkSignature(SECRET, { ...message, signature }, NOW)).toEqual({
        ok: false,
        error: 'The signature does not fit the message.',
      });
    }
  });

  it.each([
    [4 * MINUTE, true],
    [-4 * MINUTE, true],
    [6 * MINUTE, false],
    [-6 * MINUTE, false],
  ])('of %i ms from now: taken is %s', (apart, taken) => {
    expect(checkSignature(SECRET, signed('{}', { at: NOW + apart }), NOW).ok).toBe(taken);
  });

  it('says what is missing to whoever posts it', () => {
    const message = signed('{}');
    expect(checkSignature(SECRET, { ...message, id: '' }, NOW)).toMatchObject({
      error: expect.stringContaining('shrike-message-id') as string,
    });
    expect(checkSignature(SECRET, { ...message, id: 'x'.repeat(201) }, NOW)).toMatchObject({
      error: expect.stringContaining('200') as string,
    });
    expect(checkSignature(SECRET, { ...message, time: null }, NOW)).toMatchObject({
      error: expect.stringContaining('seconds since 1970') as string,
    });
  });
});
