import { describe, expect, it } from 'vitest';
import { Secrets } from './secrets';

describe('a sealed secret', () => {
  const secrets = new Secrets('a key for tests');
  const sealed = (text: string, host = 'shop.example') => {
    const result = secrets.seal(text, host);
    if (!result.ok) throw new Error(result.error);
    return result.value;
  };

  it('opens for its host, and shows nothing of itself', () => {
    expect(secrets.open(sealed('hush hush'), 'shop.example')).toBe('hush hush');
    expect(sealed('hush hush').sealed).not.toContain('hush');
    expect(sealed('same').sealed).not.toBe(sealed('same').sealed);
  });

  it('opens for no other host, under no other key, and not when it was touched', () => {
    const { sealed: text } = sealed('hush hush');
    expect(secrets.open({ sealed: text }, 'other.example')).toBe(null);
    expect(new Secrets('another key').open({ sealed: text }, 'shop.example')).toBe(null);
    expect(secrets.open({ sealed: `${text.slice(0, -6)}AAAA==` }, 'shop.example')).toBe(null);
    expect(secrets.open({ sealed: 'nonsense' }, 'shop.example')).toBe(null);
  });

  it('cannot be made without a key, and says what to set', () => {
    expect(new Secrets(null).seal('x', 'shop.example')).toMatchObject({
      ok: false,
      error: expect.stringContaining('SHRIKE_SECRET_KEY') as string,
    });
  });
});
