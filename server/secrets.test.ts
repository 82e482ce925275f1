import { createCipheriv, createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { Secrets, type Purpose } from './secrets';

const secrets = new Secrets('a key for tests');
const PURPOSES: Purpose[] = [
  'request',
  'posting',
  'known browser',
  'take on',
  'confirm',
  'invite',
  'leave',
  'own page',
  'feed',
];
const sealed = (text: string, purpose: Purpose = 'request', about = 'shop.example') => {
  const result = secrets.seal(text, purpose, about);
  if (!result.ok) throw new Error(result.error);
  return result.value;
};

/** As it was done before there were purposes. */
function sealedFormerly(text: string, about: string) {
  const [key, nonce] = [createHash('sha256').update('a key for tests').digest(), Buffer.alloc(12, 7)];
  const cipher = createCipheriv('aes-256-gcm', key, nonce).setAAD(Buffer.from(about));
  const body = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()]);
  return { sealed: Buffer.concat([nonce, cipher.getAuthTag(), body]).toString('base64') };
}

describe('a sealed secret', () => {
  it('opens for its host, and shows nothing of itself', () => {
    expect(secrets.open(sealed('hush hush'), 'request', 'shop.example')).toBe('hush hush');
    expect(sealed('hush hush').sealed).not.toContain('hush');
    expect(sealed('same').sealed).not.toBe(sealed('same').sealed);
  });

  it('opens for no other host, under no other key, and not when it was touched', () => {
    const { sealed: text } = sealed('hush hush');
    expect(secrets.open({ sealed: text }, 'request', 'other.example')).toBe(null);
    expect(new Secrets('another key').open({ sealed: text }, 'request', 'shop.example')).toBe(null);
    const bytes = Buffer.from(text, 'base64');
    for (let at = 0; at < bytes.length; at += 1) {
      const touched = Buffer.from(bytes);
      touched[at] = (touched[at] ?? 0) ^ 1;
      expect(secrets.open({ sealed: touched.toString('base64') }, 'request', 'shop.example')).toBe(null);
    }
    expect(secrets.open({ sealed: 'nonsense' }, 'request', 'shop.example')).toBe(null);
    expect(secrets.open({ sealed: '' }, 'request', 'shop.example')).toBe(null);
  });

  it('opens for no other purpose, whatever it was sealed about', () => {
    for (const purpose of PURPOSES)
      for (const other of PURPOSES)
        for (const about of ['', purpose, other])
          expect(secrets.open(sealed('x', purpose, about), other, about)).toBe(purpose === other ? 'x' : null);
  });

  it('of before there were purposes opens where it is stored, and as no link', () => {
    const former = sealedFormerly('hush', 'shop.example');
    expect(secrets.open(former, 'request', 'shop.example')).toBe('hush');
    expect(secrets.open(former, 'request', 'other.example')).toBe(null);
    const link = sealedFormerly('[3]', 'confirm');
    expect(secrets.open(link, 'confirm', '')).toBe(null);
    expect([secrets.openFormerLink(link, 'confirm'), secrets.openFormerLink(link, 'leave')]).toEqual(['[3]', null]);
    expect(secrets.openFormerLink(sealed('[3]', 'request', 'confirm'), 'confirm')).toBe(null);
  });

  it('cannot be made without a key, and says what to set', () => {
    expect(new Secrets(null).seal('x', 'request', 'shop.example')).toMatchObject({
      ok: false,
      error: expect.stringContaining('SHRIKE_SECRET_KEY') as string,
    });
  });
});
