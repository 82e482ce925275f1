import { describe, expect, it } from 'vitest';
import { isAvailable } from './availability';
import { money } from './parse';
import { ABSENT, type Value } from './value';

const text = (words: string): Value => ({ kind: 'text', text: words });

describe('whether something can be had', () => {
  it.each<[string, boolean | null]>([
    ['In stock', true],
    ['InStock', true],
    ['https://schema.org/InStock', true],
    ['Available now', true],
    ['Auf Lager', true],
    ['Only 3 left', true],
    ['In stock, sent in 2 days', true],
    ['Disponible', true],
    ['på lager', true],
    ['Sold out', false],
    ['SoldOut', false],
    ['Out of stock', false],
    ['http://schema.org/OutOfStock', false],
    ['Ausverkauft', false],
    ['zurzeit nicht lieferbar', false],
    ['Épuisé', false],
    ['Currently unavailable', false],
    ['Not in stock', false],
    ['Discontinued', false],
    ['No longer available', false],
    // What does not say so is not guessed at.
    ['', null],
    ['in two weeks', null],
    ['Available from 3 December', null],
    ['PreOrder', null],
    ['instocked', null],
    ['stock', null],
    ['£24.00', null],
  ])('%s', (words, said) => expect(isAvailable(text(words))).toBe(said));

  it('of a flag, a count and a state', () => {
    expect(isAvailable({ kind: 'flag', is: false } as Value)).toBe(false);
    expect(isAvailable({ kind: 'number', amount: '0', unit: null } as Value)).toBe(false);
    expect(isAvailable({ kind: 'number', amount: '4', unit: null } as Value)).toBe(true);
    expect(isAvailable({ kind: 'state', state: 'sold out' })).toBe(false);
  });

  it('is not said by a price, nor by what is missing', () => {
    expect(isAvailable(money('24.00', 'GBP'))).toBeNull();
    expect(isAvailable(ABSENT)).toBeNull();
  });
});
