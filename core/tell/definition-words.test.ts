import { describe, expect, it } from 'vitest';
import type { ItemId, RuleId, SiteId, WatchId } from '../id';
import type { Decimal } from '../value/decimal';
import { money } from '../value/parse';
import { atOnceSentence, orderNames, orderSentence, sizeWords } from './definition-words';
import { blankDefinition, type ReportDefinition } from './definition';

const ZONE = 'Europe/London';
const names = orderNames({
  sites: [
    [3, 'Skepwright'],
    [4, 'Nectarine Row'],
  ],
  watches: [[9, 'Copper smoker']],
  items: [[5, 'Oak hive']],
  rules: [[2, 'Below ours']],
});
const order = (change: Partial<ReportDefinition> = {}): ReportDefinition => ({
  ...blankDefinition(ZONE, ['list:1']),
  ...change,
});
const { takes } = order();
const said = (change: Partial<ReportDefinition>) => orderSentence(order(change), 'Pricing', names, ZONE);

describe('a standing order', () => {
  it.each<[string, Partial<ReportDefinition>]>([
    ['Each weekday at 07:30, tell Pricing what moved everywhere since the last edition, by item.', {}],
    [
      'Each weekday at 07:30, tell Pricing what moved at rivals since the last edition, by item.',
      { takes: { ...takes, only: { ...takes.only, kinds: ['rival'] } } },
    ],
    [
      'Each day at 06:05, tell Pricing prices and stock out and back at Skepwright on watches tagged jars but ' +
        'our own shop and Nectarine Row since the last edition, in one list.',
      {
        cadence: { cut: 'daily', at: 365, zone: ZONE },
        by: 'none',
        takes: {
          sorts: ['stock', 'prices'],
          only: { ...takes.only, sites: [3 as SiteId], tags: ['jars'] },
          not: { watches: [], sites: [4 as SiteId], ours: true },
        },
      },
    ],
    [
      'Each weekday at 07:30, tell Pricing what moved of Copper smoker and no. 12 since the last edition, by item.',
      { takes: { ...takes, only: { ...takes.only, watches: [9 as WatchId, 12 as WatchId] } } },
    ],
    [
      'Each weekday at 07:30, tell Pricing alerts of Oak hive of Larkmead supplied by Oxney in price of high ' +
        'weight under Below ours since the last edition, by item.',
      {
        takes: {
          ...takes,
          sorts: ['alerts'],
          only: {
            ...takes.only,
            items: [5 as ItemId],
            brand: ['Larkmead'],
            supplier: ['Oxney'],
            fields: ['price'],
            weights: ['high'],
            rules: [2 as RuleId],
          },
        },
      },
    ],
    [
      'By hand only, tell Pricing what moved everywhere since the last edition, by item.',
      { cadence: { cut: 'never' } },
    ],
    [
      'Every 6 hours from 06:00 (Pacific/Auckland), tell Pricing what moved everywhere since the last edition, ' +
        'by item.',
      { cadence: { cut: 'every', hours: 6, from: 360, zone: 'Pacific/Auckland' } },
    ],
  ])('%s', (sentence, change) => expect(said(change)).toBe(sentence));

  it('of a report that tells at once', () => {
    expect(atOnceSentence('Pricing', 22)).toBe('At once, tell Pricing when one of its 22 rules is met.');
    expect(atOnceSentence('Inés', 0)).toBe('At once, tell Inés what nobody else is told of.');
  });

  it('says how far prices must move', () => {
    expect(sizeWords(order(), 'en-GB')).toBe('of any size');
    expect(
      sizeWords(
        order({ size: { ...order().size, falls: { is: 'percent', least: '5' as Decimal }, rises: { is: 'off' } } }),
        'en-GB',
      ),
    ).toBe('falls of at least 5%, rises not at all');
    expect(
      sizeWords(order({ size: { ...order().size, rises: { is: 'amount', least: money('0.20', 'GBP') } } }), 'en-GB'),
    ).toBe('falls of any size, rises of at least £0.20');
    expect(sizeWords(order({ size: { ...order().size, prices: 'below ours', base: 'told' } }), 'en-GB')).toBe(
      'of any size, only those that end below ours, counted from what was shown last',
    );
  });
});
