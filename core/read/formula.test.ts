import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { money } from '../value/parse';
import { ABSENT, type Value } from '../value/value';
import { evaluateFormula, watchesAsked } from './formula';
import { nameInFormula } from './formula-name';
import { ok } from '../result';

const number = (amount: string, unit: string | null = null): Value => ({
  kind: 'number',
  amount: amount as never,
  unit,
});
const FIELDS: Record<string, Value> = {
  price: money('0.10', 'GBP'),
  shipping: money('0.20', 'GBP'),
  other: money('5', 'EUR'),
  orders: number('7'),
  visits: number('3'),
  weight: number('4', 'kg'),
  nought: number('0'),
  gone: ABSENT,
};
const work = (formula: string) =>
  evaluateFormula(formula, {
    field: (name) => (FIELDS[name] === undefined ? undefined : ok(FIELDS[name])),
    latest: (watch, field) => (watch === 'Ours' && field === 'price' ? money('24.00', 'GBP') : undefined),
  });

describe('a formula', () => {
  it.each<[string, Value]>([
    ['price + shipping', money('0.30', 'GBP')],
    ['price * 3', money('0.3', 'GBP')],
    ['orders / visits', number('2.333333333333')],
    ['round(orders / visits, 2)', number('2.33')],
    ['price / shipping', number('0.5')],
    ['weight / orders', number('0.571428571429', 'kg')],
    ['-price', money('-0.10', 'GBP')],
    ['latest("Ours", "price") - price', money('23.90', 'GBP')],
    ['min(price, shipping)', money('0.10', 'GBP')],
    ['price + gone', ABSENT],
    ['max(gone, price)', ABSENT],
  ])('%s is exact', (formula, expected) => {
    expect(work(formula)).toEqual({ ok: true, value: expected });
  });

  it.each([
    ['price + other', 'GBP and EUR cannot be added or subtracted.'],
    ['price + orders', 'GBP and a bare number cannot be added or subtracted.'],
    ['price / weight', 'GBP cannot be divided by kg.'],
    ['orders / nought', 'It would divide by nought.'],
    ['colour + 1', 'There is no field called colour.'],
    ['latest("Theirs", "price")', 'There is no good value of “price” on a watch called “Theirs”.'],
    ['process.exit()', 'Only + - * /, names, numbers and a few functions are understood in a formula.'],
    ['price ? 1 : 2', 'Only + - * /, names, numbers and a few functions are understood in a formula.'],
    ['price +', 'This is not a formula'],
    ['', 'The formula is empty.'],
    ['1+'.repeat(200), 'A formula may have at most 300 characters.'],
  ])('%s is refused with a sentence', (formula, said) => {
    const outcome = work(formula);
    expect(!outcome.ok && outcome.error).toContain(said);
  });

  it.each([
    'round(price, price)',
    'round(price, 0 - 3)',
    'round(price, 1.5)',
    'round(price, 99)',
    'round(price, orders / 3)',
  ])('%s is refused, and never throws', (formula) => {
    const outcome = work(formula);
    expect(!outcome.ok && outcome.error).toContain('round needs a number of places');
  });

  it('never throws, whatever is written', () => {
    const word = fc.constantFrom(
      'price',
      'orders',
      'gone',
      'round',
      'min',
      'abs',
      'latest',
      '(',
      ')',
      '+',
      '-',
      '*',
      '/',
      ',',
      '1',
      '0',
      '9e9',
      '"Ours"',
      '.',
      '[',
      ']',
      '!',
      '**',
      '?',
      ':',
      'this',
      '`${x}`',
    );
    fc.assert(
      fc.property(fc.array(word, { maxLength: 40 }), (words) => {
        const outcome = work(words.join(' '));
        return outcome.ok || outcome.error.length > 0;
      }),
      { numRuns: 5000 },
    );
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 320 }), (formula) => (work(formula), true)),
      { numRuns: 2000 },
    );
  });

  it('names the watches it leans on, and fields by their words', () => {
    expect(watchesAsked('round(price - latest("Ours", "price"), 2)')).toEqual([{ watch: 'Ours', field: 'price' }]);
    expect(nameInFormula('Landed price, £')).toBe('landed_price_');
  });
});
