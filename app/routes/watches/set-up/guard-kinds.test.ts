import { describe, expect, it } from 'vitest';
import { GUARD_KINDS, guardDraftOf, guardOf, type GuardDraft } from './guard-kinds';

const TEXTS: Record<GuardDraft['kind'], string> = {
  'text here': 'Copper smoker',
  says: 'Copper smoker',
  contains: 'smoker',
  'label beside': 'Our price',
  least: '3',
  most: '40',
  address: 'http://shop.example/p/1',
};

describe('a guard as it is written', () => {
  it.each(GUARD_KINDS.map(({ value }) => value))('that checks “%s” is written back as it was', (kind) => {
    const draft = { kind, text: TEXTS[kind] };
    const guard = guardOf(draft);
    expect(guard).not.toBe(null);
    expect(guard === null ? null : guardDraftOf(guard)).toEqual(draft);
  });

  it('is none until it is said, and a number of records is a whole one', () => {
    expect(guardOf({ kind: 'text here', text: '  ' })).toBe(null);
    for (const text of ['', 'many', '2.5', '-1']) expect(guardOf({ kind: 'least', text })).toBe(null);
    expect(guardOf({ kind: 'most', text: '0' })).toEqual({ check: 'count', least: null, most: 0 });
  });
});
