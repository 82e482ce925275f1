import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compareDecimals, decimal, ordersApart, percentOf, subtract, type Decimal } from './decimal';
import { formatDifference, formatPercent, formatUnit, formatValue } from './format';
import { decimalMark, localeTag } from './locale';
import { money } from './parse';
import { ABSENT, compareMeasures, moveBetween, sameValue } from './value';

const exact = (text: string) => decimal(text) as Decimal;
const decimals = fc
  .tuple(fc.bigInt({ min: -(10n ** 15n), max: 10n ** 15n }), fc.integer({ min: 0, max: 6 }))
  .map(([units, places]) => {
    const sign = units < 0n ? '-' : '';
    const digits = String(units < 0n ? -units : units).padStart(places + 1, '0');
    return exact(places === 0 ? `${sign}${digits}` : `${sign}${digits.slice(0, -places)}.${digits.slice(-places)}`);
  });

describe('exact decimals', () => {
  it('do not go through a binary float', () => {
    expect(subtract(exact('0.3'), exact('0.1'))).toBe('0.2');
    expect(subtract(exact('24.00'), exact('21.5'))).toBe('2.50');
  });

  it('subtract to zero exactly when they are equal', () => {
    fc.assert(
      fc.property(decimals, decimals, (a, b) => (compareDecimals(a, b) === 0) === (Number(subtract(a, b)) === 0)),
    );
  });

  it('order against what they subtract to', () => {
    fc.assert(
      fc.property(decimals, decimals, (a, b) => compareDecimals(a, b) === compareDecimals(subtract(a, b), exact('0'))),
    );
  });

  it('refuse what is not canonical', () => {
    for (const text of ['', '1e5', '+1', '.5', '1.', 'NaN', '1'.repeat(65)]) expect(decimal(text)).toBeNull();
  });

  it('have no percent from zero, and a fall is negative even below zero', () => {
    expect(percentOf(exact('5'), exact('0'))).toBeNull();
    expect(percentOf(exact('-1'), exact('-10'))).toBe('-10.0');
    expect(percentOf(exact('-2.50'), exact('24.00'))).toBe('-10.4');
  });

  it('know how far apart they are', () => {
    expect(ordersApart(exact('2400'), exact('24'))).toBe(2);
    expect(ordersApart(exact('24'), exact('23'))).toBe(0);
    expect(ordersApart(exact('0'), exact('23'))).toBeNull();
  });
});

describe('values', () => {
  it('mean the same whatever zeros they end in', () => {
    expect(sameValue(money('24.0', 'GBP'), money('24.00', 'GBP'))).toBe(true);
    expect(sameValue(money('24.00', 'GBP'), money('24.00', 'EUR'))).toBe(false);
    expect(sameValue(ABSENT, ABSENT)).toBe(true);
    expect(sameValue(ABSENT, { kind: 'text', text: '' })).toBe(false);
  });

  it('are not subtracted or ordered when they are unlike', () => {
    expect(moveBetween(money('24.00', 'GBP'), money('21.00', 'EUR'))).toBeNull();
    expect(compareMeasures(money('24.00', 'GBP'), money('21.00', 'EUR'))).toEqual({ ok: false, error: 'unlike' });
    expect(moveBetween(money('24.00', 'GBP'), money('21.50', 'GBP'))).toEqual({
      difference: '-2.50',
      percent: '-10.4',
    });
  });
});

describe('writing values', () => {
  it('follows the reader and stays exact', () => {
    expect(formatValue(money('1249.00', 'EUR'), 'de-DE')).toBe('1.249,00\u00a0€');
    expect(formatValue(money('1249.00', 'EUR'), 'en-GB')).toBe('€1,249.00');
    expect(formatValue(money('12345678901234567.89', 'GBP'), 'en-GB')).toBe('£12,345,678,901,234,567.89');
    expect(formatValue({ kind: 'number', amount: exact('18.40'), unit: '°C' }, 'en-GB')).toBe('18.40 °C');
    expect(formatValue(ABSENT, 'en-GB')).toBe('absent');
  });

  it('leaves sign and currency out of a difference', () => {
    expect(formatDifference(exact('-2.50'), money('21.50', 'GBP'), 'en-GB')).toBe('2.50');
    expect(formatPercent(exact('-10.4'), 'de-DE')).toBe('10,4%');
    expect(formatUnit(money('1', 'GBP'), 'en-GB')).toBe('£');
  });
});

describe('locales', () => {
  it('are taken from what a page says, or not at all', () => {
    expect(localeTag('en_GB')).toBe('en-GB');
    expect(localeTag(' de ')).toBe('de');
    expect(localeTag('not a tag!')).toBeNull();
    expect([decimalMark('de-DE'), decimalMark('en-GB')]).toEqual([',', '.']);
  });
});
