import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { readConfig } from './config';

describe('the configuration', () => {
  it('has a default for everything', () => {
    expect(readConfig({})).toMatchObject({ port: 4600, admitted: [], signInAs: null, fetchMostBytes: 5_000_000 });
  });

  it('names every variable at fault at once', () => {
    expect(() => readConfig({ SHRIKE_PORT: 'many', SHRIKE_LOG_LEVEL: 'loud' })).toThrow(
      /SHRIKE_PORT.*SHRIKE_LOG_LEVEL/,
    );
  });

  it('splits the admitted hosts', () => {
    expect(readConfig({ SHRIKE_ADMITTED: '*.localhost:4610, shop.internal:80' }).admitted).toEqual([
      '*.localhost:4610',
      'shop.internal:80',
    ]);
  });

  it('is documented, each variable of it', () => {
    const source = readFileSync(new URL('config.ts', import.meta.url), 'utf8');
    const documented = readFileSync(new URL('../docs/configuration.md', import.meta.url), 'utf8');
    for (const [variable] of source.matchAll(/SHRIKE_[A-Z_]+/g)) expect(documented).toContain(variable);
  });
});
