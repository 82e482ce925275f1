import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decimal } from './decimal';
import { formatValue } from './format';
import { foldText, money, parseLimit, parsePrice, parseQuantity, type Refusal } from './parse';
import { sameValue } from './value';

/** What a price text means in a locale: an amount with its currency, or the reason it is refused. */
const PRICES: [text: string, locale: string | null, expected: string | Refusal][] = [
  ['1.249,00 €', null, '1249.00 EUR'],
  ['£1,249', null, '1249 GBP'],
  ['1 249,00 kr', 'sv-SE', '1249.00 SEK'],
  ['1 249,00 kr', 'nb-NO', '1249.00 NOK'],
  ['1 249,00 kr', null, 'unclear currency'],
  ["CHF 1'249.50", null, '1249.50 CHF'],
  ['CHF 1’249.50', 'de-CH', '1249.50 CHF'],
  ['₹1,24,999', null, '124999 INR'],
  ['£24 .99', null, '24.99 GBP'],
  ['£ 24 . 99', 'en-GB', '24.99 GBP'],
  ['from £24.99', 'en-GB', 'a starting price'],
  ['ab 24,99 €', 'de-DE', 'a starting price'],
  ['2 for £30', 'en-GB', 'a price for several'],
  ['3 x £10', 'en-GB', 'a price for several'],
  ['was £40 now £32', 'en-GB', '32 GBP'],
  ['£40 £32', 'en-GB', 'several numbers'],
  ['£19–£24', 'en-GB', 'a range'],
  ['£19 - £24', 'en-GB', 'a range'],
  ['99p', null, '0.99 GBP'],
  ['−3,5 %', null, 'a percentage'],
  ['£12k', null, '12000 GBP'],
  ['1.249 €', null, 'ambiguous'],
  ['1.249 €', 'de-DE', '1249 EUR'],
  ['1.249 €', 'en-GB', '1.249 EUR'],
  ['24,99 €', 'en-GB', '24.99 EUR'],
  ['0,125 €', null, '0.125 EUR'],
  ['12.34.56 €', null, 'malformed'],
  ['Price: £24.00 inc. VAT (2 left)', 'en-GB', '24.00 GBP'],
  ['US$ 1,299.00', null, '1299.00 USD'],
  ['$5.00', null, 'unclear currency'],
  ['$5.00', 'en-CA', '5.00 CAD'],
  ['-£3.20', null, '-3.20 GBP'],
  ['EUR 12,50', null, '12.50 EUR'],
  ['24.99', 'en-GB', 'no currency'],
  ['Sold out', 'en-GB', 'no number'],
  ['   ', 'en-GB', 'empty'],
];

function outcomeOf(text: string, locale: string | null): string {
  const read = parsePrice(text, { locale });
  return read.ok ? `${read.value.value.amount} ${read.value.value.currency}` : read.error;
}

describe('a price as shops write it', () => {
  it.each(PRICES)('%s in %s', (text, locale, expected) => {
    expect(outcomeOf(text, locale)).toBe(expected);
  });

  it('says when only the locale could tell', () => {
    const ambiguous = parsePrice('1.249 €', { locale: 'de-DE' });
    const plain = parsePrice('1.249,00 €', { locale: 'de-DE' });
    expect([ambiguous.ok && ambiguous.value.byLocale, plain.ok && plain.value.byLocale]).toEqual([true, false]);
  });

  it('reads back every amount it writes, in every locale it is written in', () => {
    const amounts = fc.tuple(fc.integer({ min: 0, max: 99_999_999 }), fc.integer({ min: 0, max: 99 }));
    const places = fc.constantFrom('en-GB', 'de-DE', 'fr-FR', 'de-CH', 'en-IN', 'sv-SE');
    fc.assert(
      fc.property(amounts, places, ([units, cents], locale) => {
        const value = money(`${units}.${String(cents).padStart(2, '0')}`, 'EUR');
        const read = parsePrice(formatValue(value, locale), { locale });
        expect(read.ok && sameValue(read.value.value, value)).toBe(true);
      }),
    );
  });

  it('never throws, and never makes a number that is not a decimal', () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom(..."0123456789.,'’ £€$%–-kpx\u00a0from") }), (text) => {
        const read = parsePrice(text, { locale: 'en-GB' });
        expect(!read.ok || decimal(read.value.value.amount) !== null).toBe(true);
      }),
    );
  });
});

describe('a number with its unit', () => {
  it.each([
    ['−3,5 %', '-3.5 %'],
    ['18.4 °C', '18.4 °C'],
    ['12k', '12000 null'],
    ['1 249', '1249 null'],
    ['12 kg', '12 kg'],
    ['2 to 3 m', 'a range'],
    ['none', 'no number'],
  ])('%s', (text, expected) => {
    const read = parseQuantity(text, { locale: 'en-GB' });
    expect(read.ok ? `${read.value.value.amount} ${read.value.value.unit}` : read.error).toBe(expected);
  });
});

describe('a limit as typed', () => {
  it.each([
    ['24', 'en-GB', '24'],
    ['£24.00', 'en-GB', '24.00'],
    ['1,249', 'en-GB', '1249'],
    ['1.249', 'de-DE', '1249'],
    ['-2.5', 'en-GB', '-2.5'],
    ['twenty', 'en-GB', 'no number'],
    ['-£5', 'en-GB', '-5'],
    ['£-5', 'en-GB', '-5'],
    ['-£-5', 'en-GB', 'no number'],
    ['1e3', 'en-GB', 'no number'],
    ['5 €', 'de-DE', '5'],
    ['', 'en-GB', 'empty'],
  ])('%s in %s', (text, locale, expected) => {
    const read = parseLimit(text, locale);
    expect(read.ok ? read.value : read.error).toBe(expected);
  });
});

describe('a text that is folded', () => {
  it.each([
    ['one line of many words', 'word ', ''],
    ['words with something else at their end', 'ab ', '\u00e9'],
    ['one word', 'x', ''],
    ['words far apart', 'a \n b', ''],
  ])('may be of any length: %s', (_what, unit, end) => {
    const folded = foldText(`${unit.repeat(8_000_000)}${end}`);
    expect(folded.length).toBeGreaterThan(7_000_000);
    expect(folded.slice(0, 40)).not.toMatch(/^\s|\s{2}|\n/);
  });

  it('says the same whether it had to be folded or not', () => {
    const words = fc
      .array(fc.constantFrom('a', 'B', '7', '.', '-', ' ', '\n', '\u00a0', '\u2212', '\u200e', '\u00e9'), {
        maxLength: 400,
      })
      .map((each) => each.join(''));
    fc.assert(
      fc.property(words, (text) => {
        const folded = foldText(text);
        expect(foldText(folded)).toBe(folded);
        expect(folded).not.toMatch(/^\s|\s$|\s{2}|[\u2212\u200e\u00a0\n]/u);
        expect(folded.replace(/ /g, '')).toBe(text.replace(/[\s\u00a0\u200e]/g, '').replace(/\u2212/g, '-'));
      }),
    );
  });
});
