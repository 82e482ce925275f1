import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isAddress, MOST_PASTED, readAddresses } from './addresses';

const emails = (text: string) => readAddresses(text).people.map(({ email }) => email);

describe('addresses that are pasted', () => {
  it.each([
    ['ravi@heatherlow.example', [['Ravi', 'ravi@heatherlow.example']]],
    [
      'ravi.oduya@heatherlow.example, tom-aske@heatherlow.example',
      [
        ['Ravi Oduya', 'ravi.oduya@heatherlow.example'],
        ['Tom Aske', 'tom-aske@heatherlow.example'],
      ],
    ],
    [
      'Ravi Oduya <ravi@heatherlow.example>; Tom <tom@heatherlow.example>',
      [
        ['Ravi Oduya', 'ravi@heatherlow.example'],
        ['Tom', 'tom@heatherlow.example'],
      ],
    ],
    [
      '"Aske, Tom" <tom@heatherlow.example>\nravi@heatherlow.example\r\n',
      [
        ['Tom Aske', 'tom@heatherlow.example'],
        ['Ravi', 'ravi@heatherlow.example'],
      ],
    ],
    ['  <mailto:ravi@heatherlow.example> ,,; ;', [['Ravi', 'ravi@heatherlow.example']]],
    ['Inés Calloway <INES@Heatherlow.Example>', [['Inés Calloway', 'ines@heatherlow.example']]],
    ['ravi+shrike@heatherlow.example', [['Ravi', 'ravi+shrike@heatherlow.example']]],
  ])('%j', (text, people) => {
    expect(readAddresses(text)).toEqual({ people: people.map(([name, email]) => ({ name, email })), strange: [] });
  });

  it('are there once, however often they are written', () => {
    expect(emails('ravi@heatherlow.example, RAVI@heatherlow.example; Ravi <ravi@heatherlow.example>')).toEqual([
      'ravi@heatherlow.example',
    ]);
  });

  it.each([
    'ravi',
    'ravi@',
    '@heatherlow.example',
    'ravi@@heatherlow.example',
    'ravi@heatherlow',
    'ra vi@heatherlow.example',
    'ravi@heatherlow.example.',
    'ravi@-heatherlow.example',
    'ravi@heather..low',
    '.ravi@heatherlow.example',
    'ravi@[127.0.0.1]',
    '"ravi"@heatherlow.example',
    'ravi@heatherlow.example\0',
    `${'r'.repeat(65)}@heatherlow.example`,
    `ravi@${'h'.repeat(64)}.example`,
    `ravi@${'h.'.repeat(200)}example`,
    'ravi@heatherlow.example>',
    'Ravi <ravi@heatherlow.example',
    'ravi@heatherlow.example\r\nBcc: all@heatherlow.example',
  ])('refuses %j', (text) => {
    expect(readAddresses(text).strange.length).toBeGreaterThan(0);
    expect(isAddress(text)).toBe(false);
  });

  it('are so many at most, and the rest is not dropped in silence', () => {
    const many = Array.from({ length: MOST_PASTED + 3 }, (_, at) => `reader${at}@heatherlow.example`).join('\n');
    expect(readAddresses(many).people).toHaveLength(MOST_PASTED);
    expect(readAddresses(many).strange).toHaveLength(3);
  });

  it('are read in time whatever is pasted, and only what is an address is taken', () => {
    const piece = fc.constantFrom(
      '"',
      '<',
      '>',
      ',',
      ';',
      '\n',
      '@',
      '.',
      'a',
      'ravi@heatherlow.example',
      ' ',
      '\\',
      'é',
      '\u202e',
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 400 }), (pieces) => {
        for (const { name, email } of readAddresses(pieces.join('')).people) {
          expect(isAddress(email)).toBe(true);
          expect(name).not.toMatch(/[\r\n]/);
        }
      }),
    );
    for (const hostile of [
      '"'.repeat(500_000),
      '<'.repeat(500_000),
      'a@'.repeat(250_000),
      `${'a.'.repeat(250_000)}@x.example`,
      'a'.repeat(900_000),
    ])
      readAddresses(hostile);
  });
});
