import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { describeNet } from './net-words';
import { money } from '../value/parse';
import { ABSENT, sameValue, type Value } from '../value/value';
import { HOUR } from '../when/interval';
import { hasNews, isReturn, netOf, type StoodBefore } from '../compare/net';

const pounds = (amount: number) => money(amount.toFixed(2), 'GBP');
const euros = (amount: number) => money(amount.toFixed(2), 'EUR');
const stood = (value: Value | null, absentSince: number | null = null): StoodBefore => ({ value, absentSince });
/** Moves an hour apart, the first an hour after the stretch began. */
const moving = (...values: Value[]) => values.map((to, n) => ({ at: (n + 1) * HOUR, to }));
const UNTIL = 10 * HOUR;
const words = (before: StoodBefore, ...values: Value[]) => {
  const net = netOf(before, moving(...values));
  return net === null ? null : describeNet(net, 'en-GB', UNTIL);
};

describe('the net move of a series', () => {
  it.each<[string, StoodBefore, Value[], string | null]>([
    ['that came back', stood(pounds(24)), [pounds(22), pounds(23), pounds(24)], 'returned to £24.00 after 3 moves'],
    [
      'that went down in two steps',
      stood(pounds(24)),
      [pounds(22), pounds(21)],
      '£24.00 → £21.00, ▼3.00 12.5%, 2 moves',
    ],
    ['that moved once', stood(pounds(20)), [pounds(22)], '£20.00 → £22.00, ▲2.00 10.0%'],
    [
      'that was away, and came back lower',
      stood(pounds(24)),
      [ABSENT, ABSENT, pounds(23)],
      '£24.00 → £23.00, ▼1.00 4.2%, away 2 h',
    ],
    ['that was away, and came back as it was: no move', stood(pounds(24)), [ABSENT, pounds(24)], '£24.00, away 1 h'],
    ['that is away', stood(pounds(24)), [pounds(22), ABSENT], '£24.00 → £22.00, ▼2.00 8.3%, no value for 8 h'],
    [
      'that was away before, too: held against the one before',
      stood(pounds(24), -2 * HOUR),
      [pounds(18)],
      '£24.00 → £18.00, ▼6.00 25.0%, away 3 h',
    ],
    ['that was first read', stood(null), [pounds(24)], 'first read at £24.00'],
    ['that was first read, and moved', stood(null), [pounds(24), pounds(22)], 'first read at £24.00, £22.00 now'],
    [
      'that was first read, left and came back',
      stood(null),
      [pounds(24), pounds(22), pounds(24)],
      'first read at £24.00, £24.00 again after 2 moves',
    ],
    ['in another currency', stood(pounds(24)), [euros(28)], '£24.00, then €28.00'],
    [
      'in another currency, and moved there',
      stood(pounds(24)),
      [euros(28), euros(27)],
      '£24.00, then €28.00 → €27.00, ▼1.00 3.6%',
    ],
    [
      'in another currency and back: each is a part of its own',
      stood(pounds(24)),
      [pounds(22), euros(28), pounds(22)],
      '£24.00 → £22.00, ▼2.00 8.3%, then €28.00, then £22.00',
    ],
    ['from nought: no percent', stood(pounds(0)), [pounds(5)], '£0.00 → £5.00, ▲5.00'],
    [
      'of words',
      stood({ kind: 'state', state: 'in stock' }),
      [{ kind: 'state', state: 'sold out' }],
      'in stock → sold out',
    ],
    ['that nothing is known of', stood(null), [ABSENT], null],
    ['that did nothing', stood(pounds(24)), [], '£24.00'],
  ])('%s', (_what, before, values, said) => expect(words(before, ...values)).toBe(said));

  it('is news where something became of it, and a return where it only came back', () => {
    const net = (before: StoodBefore, ...values: Value[]) =>
      netOf(before, moving(...values)) ?? { parts: [], isFirst: false, awayMs: 0, absentSince: null };
    expect(hasNews(net(stood(pounds(24))))).toBe(false);
    expect(hasNews(net(stood(pounds(24)), pounds(24)))).toBe(false);
    expect(hasNews(net(stood(null), pounds(24)))).toBe(true);
    expect(hasNews(net(stood(pounds(24)), ABSENT))).toBe(true);
    expect(hasNews(net(stood(pounds(24)), euros(24)))).toBe(true);
    expect(isReturn(net(stood(pounds(24)), pounds(22), pounds(24)))).toBe(true);
    expect(isReturn(net(stood(pounds(24)), ABSENT, pounds(24)))).toBe(false);
    expect(isReturn(net(stood(pounds(24)), euros(20), pounds(24)))).toBe(false);
  });

  it('falls in two at any cut: what the one ends at the other begins at', () => {
    const value = fc.oneof(
      { weight: 6, arbitrary: fc.integer({ min: 1, max: 4 }).map(pounds) as fc.Arbitrary<Value> },
      { weight: 1, arbitrary: fc.constantFrom<Value>(ABSENT, euros(1), euros(2)) },
    );
    fc.assert(
      fc.property(value, fc.array(value, { maxLength: 12 }), fc.nat(12), (first, values, cut) => {
        const before = stood(first.kind === 'absent' ? null : first);
        const moves = moving(...values);
        const [one, all] = [netOf(before, moves.slice(0, cut)), netOf(before, moves)];
        const at = one?.parts.at(-1)?.to ?? null;
        const two = netOf(stood(at, one?.absentSince ?? null), moves.slice(cut));
        const end = (net: typeof all) => net?.parts.at(-1)?.to ?? null;
        expect(end(two) ?? at).toEqual(end(all));
        const moved = (net: typeof all) => (net?.parts ?? []).reduce((sum, part) => sum + part.moves, 0);
        expect(moved(one) + moved(two)).toBe(moved(all));
        // What a part begins and ends at is alike, and of no part is anything subtracted that is not.
        for (const { from, to } of all?.parts ?? []) expect(sameValue(from, to) || from.kind === to.kind).toBe(true);
      }),
      { numRuns: 500 },
    );
  });
});
