import { createCipheriv, createHash } from 'node:crypto';
import { expect, it } from 'vitest';
import { Links } from './links';
import { Secrets } from './secrets';

const NOW = Date.UTC(2026, 11, 2);
const AFTER = Date.UTC(2027, 2, 2);
const at = (now: number) => new Links(new Secrets('a key for tests'), 'https://shrike.example', () => now);

/** The key of a link as it was sealed before each kind had a key of its own: with whatever text. */
function formerToken(text: string, about: string): string {
  const [key, nonce] = [createHash('sha256').update('a key for tests').digest(), Buffer.alloc(12, 7)];
  const cipher = createCipheriv('aes-256-gcm', key, nonce).setAAD(Buffer.from(about));
  const body = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
  return Buffer.concat([nonce, cipher.getAuthTag(), body]).toString('base64url');
}

it('a link of before opens until its date, and not after', () => {
  const token = formerToken('[7,3]', 'leave');
  expect(at(NOW).openLeave(token)).toEqual({ report: 7, person: 3, page: 1 });
  expect(at(AFTER).openLeave(token)).toBeNull();
});

it.each(['hush hush hush', '{"length":2}', 'null', '"ab"', '[1]', ''])(
  'what was sealed before as %j for a host called leave opens nothing, and throws nothing',
  (text) => expect(at(NOW).openLeave(formerToken(text, 'leave'))).toBeNull(),
);
