import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cut, sanitiseEscapes, sanitiseText, withoutDirections } from './sanitise';

const isSound = (text: string) => !text.includes('\0') && Buffer.from(text, 'utf8').toString('utf8') === text;

describe('the strings of a JSON text', () => {
  it.each<[string, string]>([
    ['"a\\u0000b"', 'a\ufffdb'],
    ['"a\\ud83d\\udc1db"', 'a🐝b'],
    ['"a\\uD83Db"', 'a\ufffdb'],
    ['"\\udc1d\\ud83d"', '\ufffd\ufffd'],
    ['"\\ud83d\\ud83d\\udc1d"', '\ufffd🐝'],
    ['"a\\\\u0000b"', 'a\\u0000b'],
    ['"a\\\\\\u0000b"', 'a\\\ufffdb'],
    ['"caf\\u00e9 \\n"', 'café \n'],
  ])('%s holds whole characters', (json, expected) => {
    expect(JSON.parse(sanitiseEscapes(json))).toBe(expected);
  });

  it('are left as they are where they are sound, and are sound where they were not', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'binary' }),
        fc.string({ unit: fc.constantFrom('\ud83d', '\udc1d', '\0', 'a', '\\', '"') }),
        (whole, broken) => {
          const escaped = JSON.stringify(whole).replace(
            /[^\x20-\x7e]/g,
            (unit) => `\\u${unit.charCodeAt(0).toString(16).padStart(4, '0')}`,
          );
          if (isSound(whole)) expect(JSON.parse(sanitiseEscapes(escaped))).toBe(whole);
          const read = JSON.parse(sanitiseEscapes(JSON.stringify(broken))) as string;
          expect(isSound(read)).toBe(true);
          expect(read).toHaveLength(broken.length);
        },
      ),
    );
  });
});

describe('a text that is cut', () => {
  it('keeps its characters whole', () => {
    expect([cut('ab🐝c', 2), cut('ab🐝c', 3), cut('ab🐝c', 4), cut('ab', 9)]).toEqual(['ab', 'ab', 'ab🐝', 'ab']);
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), fc.nat(20), (text, most) => {
        const short = cut(text, most);
        expect(text.startsWith(short)).toBe(true);
        expect(short.length).toBeLessThanOrEqual(most);
        expect(isSound(short)).toBe(isSound(text) || !short.includes('\0'));
      }),
    );
  });
});

describe('a text that somebody typed, or a server said', () => {
  it('holds whole characters, whatever came', () => {
    const units = fc.string({ unit: fc.constantFrom('\ud83d', '\udc1d', '\0', 'a', '🐝') });
    fc.assert(fc.property(units, (text) => isSound(sanitiseText(text)) && sanitiseText(text).length === text.length));
    expect(sanitiseText('caf\u00e9 🐝')).toBe('café 🐝');
  });

  it('is shown in the order in which it stands', () => {
    expect(withoutDirections('invoice\u202efdp.exe')).toBe('invoicefdp.exe');
    expect(withoutDirections('\u2066a\u2069\u200fb')).toBe('ab');
    expect(withoutDirections('שלום')).toBe('שלום');
  });
});
