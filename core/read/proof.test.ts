import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { AVAILABILITY } from './definition';
import { selectElements, visibleText } from './html';
import { alteredFor, proveWays, withTextAt } from './proof';
import { parseAs } from './typed';
import { documentOf } from '../../tests/support/document';

const TYPING = { locale: 'en-GB', address: null };
const PAGE = documentOf(
  '<html lang="en-GB"><body><h1>Smoker</h1><p>Our price <b id="a"><i>£</i>24<i>.00</i></b></p><p ' +
    'id="p24">x</p></body></html>',
);

describe('a proof', () => {
  it('is that a way finds the place blanked, and reads the other value there', () => {
    const proofs = proveWays(
      PAGE,
      {
        type: { kind: 'money', currency: null },
        locators: [
          { way: 'label', label: 'Our price' },
          { way: 'css', selector: '#a' },
        ],
      },
      TYPING,
    );
    expect(proofs.map(({ blanked, altered }) => [blanked, altered])).toEqual([
      [true, true],
      [true, true],
    ]);
  });

  it('fails a way that leans on the value itself, and one that finds nothing', () => {
    const proofs = proveWays(
      PAGE,
      {
        type: { kind: 'money', currency: null },
        locators: [
          { way: 'pattern', pattern: '(£24\\.00)' },
          { way: 'css', selector: '#none' },
        ],
      },
      TYPING,
    );
    expect(proofs.map(({ altered }) => altered)).toEqual([false, false]);
  });
});

describe('another value to try', () => {
  it('of digits changes every one of them, and is another number', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 99_999_999 }), (pence) => {
        const text = `£${(pence / 100).toFixed(2)}`;
        const other = alteredFor({ kind: 'money', currency: null }, text);
        expect(other).toHaveLength(text.length);
        expect(other).not.toBe(text);
        expect(parseAs({ kind: 'money', currency: null }, { text: other, currency: null }, TYPING).ok).toBe(true);
      }),
    );
  });

  it('of a scale or of states is another one of them', () => {
    expect(alteredFor({ kind: 'grade', scale: ['A', 'B'] }, 'A')).toBe('B');
    const state = { kind: 'state', states: AVAILABILITY } as const;
    const [was, is] = ['In stock', alteredFor(state, 'In stock')].map((text) =>
      parseAs(state, { text, currency: null }, TYPING),
    );
    expect(was?.ok && is?.ok && was.value.value).not.toEqual(is?.ok && is.value.value);
  });

  it.each(['20/11/2026', '01/11/2026', '2026-11-25', '3 November 2026, 10:15'])(
    'of the moment “%s” is another moment',
    (text) => {
      const [was, is] = [text, alteredFor({ kind: 'moment' }, text)].map((each) =>
        parseAs({ kind: 'moment' }, { text: each, currency: null }, TYPING),
      );
      expect(was?.ok && is?.ok).toBe(true);
      expect(was?.ok && was.value.value).not.toEqual(is?.ok && is.value.value);
    },
  );

  it('is put in its place on a copy of the page, its markup kept', () => {
    const found = selectElements(PAGE, '#a');
    const [element] = found.ok ? found.value : [];
    if (element === undefined) throw new Error('nothing is at #a');
    const copy = withTextAt(PAGE, element, '£9');
    const there = selectElements(copy, '#a');
    expect(there.ok && there.value[0] && visibleText(there.value[0])).toBe('£9');
    expect(visibleText(element)).toBe('£24.00');
  });
});
