import { describe, expect, it } from 'vitest';
import { money } from '../value/parse';
import type { Place } from '../when/format';
import { DAY, HOUR, MINUTE } from '../when/interval';
import { chainOf, firstBroken, formatAgo, type ChainFacts, type RuleFacts } from './chain';

const NOW = Date.UTC(2026, 10, 25, 12);
const PLACE: Place = { locale: 'en-GB', zone: 'UTC' };

const RULE: RuleFacts = {
  asked: 'price falls below £22.00',
  state: 'calm',
  off: false,
  waiting: false,
  since: NOW - DAY,
  lastReason: null,
  told: true,
};

const WELL: ChainFacts = {
  state: 'running',
  posted: false,
  hostPaused: null,
  lastRun: { startedAt: NOW - 5 * MINUTE, tookMs: 40 },
  nextDue: NOW + 2 * HOUR,
  problem: null,
  failingSince: null,
  values: [{ label: 'price', value: money('24.00', 'GBP'), lastGoodAt: NOW - 5 * MINUTE }],
  records: 1,
  unheard: null,
  lost: [],
  rules: [RULE],
  reports: ['Pricing, at once'],
  readers: [{ name: 'Ravi Oduya', kept: null }],
  lastDelivery: null,
};

const chain = (change: Partial<ChainFacts> = {}) => chainOf({ ...WELL, ...change }, NOW, PLACE);
const link = (name: string, change: Partial<ChainFacts> = {}) => chain(change).find((each) => each.name === name);

describe('a chain', () => {
  it('that holds has five links in order, and no broken one', () => {
    expect(chain().map(({ name, state }) => [name, state])).toEqual([
      ['Source', 'holds'],
      ['Value', 'holds'],
      ['Rule', 'holds'],
      ['Report', 'holds'],
      ['Inbox', 'holds'],
    ]);
    expect(firstBroken(chain())).toBe(null);
    expect(link('Source')?.said).toBe('answered in 40 ms, 5 min ago; next in 2 h');
  });

  it.each<[string, Partial<ChainFacts>, string, RegExp]>([
    [
      'its host is paused',
      { hostPaused: { host: 'shop.example', since: NOW - HOUR } },
      'Source',
      /^shop\.example is paused as a whole since 11:00/,
    ],
    [
      'it is not fetched',
      { problem: { link: 'source', sentence: 'Not there (404).' }, failingSince: NOW - HOUR },
      'Source',
      /^Not there \(404\)\. Since 11:00\.$/,
    ],
    [
      'it is not read',
      { problem: { link: 'value', sentence: 'Nothing matches.' }, failingSince: NOW - HOUR },
      'Value',
      /^Nothing matches\. Last good: £24\.00, stale since 11:00\.$/,
    ],
    [
      'its source calls it bad',
      { unheard: { count: 1, bad: 1, since: NOW - HOUR } },
      'Value',
      /^It is called bad by its source\. Last good: 11:00\.$/,
    ],
    [
      'one of its records is silent',
      { records: 24, unheard: { count: 1, bad: 0, since: NOW - HOUR } },
      'Value',
      /^1 of 24 records sends nothing good\. Last good: 11:00\.$/,
    ],
    [
      'some of its records are bad',
      { records: 24, unheard: { count: 3, bad: 3, since: NOW - HOUR } },
      'Value',
      /^3 of 24 records are called bad by their source\./,
    ],
    [
      'a way is lost',
      { lost: [{ label: 'price', ways: ['Its id #price'], framed: false }] },
      'Value',
      /^£24\.00; found another way: price by its id #price no longer\.$/,
    ],
    [
      'its values are unlike its limit',
      { rules: [{ ...RULE, state: 'undecided', lastReason: { code: 'unlike' } }] },
      'Rule',
      /^price falls below £22\.00: /,
    ],
    [
      'no report takes it',
      { reports: [], rules: [{ ...RULE, told: false }] },
      'Report',
      /^Nobody will hear: no report takes this rule\.$/,
    ],
    ['the report has no readers', { readers: [] }, 'Inbox', /^Nobody will hear: the report has no readers\.$/],
    [
      'its only reader has not confirmed',
      { readers: [{ name: 'Ravi Oduya', kept: 'unconfirmed' }] },
      'Inbox',
      /^Nobody will hear: Ravi Oduya has not confirmed the address\.$/,
    ],
    [
      'one of its readers has not',
      { readers: [...WELL.readers, { name: 'Tom Aske', kept: 'unconfirmed' }] },
      'Inbox',
      /^Tom Aske has not confirmed the address\.$/,
    ],
    [
      'an address refused mail for good',
      { readers: [...WELL.readers, { name: 'Tom Aske', kept: 'paused' }] },
      'Inbox',
      /^Tom Aske cannot be reached, since the address refused mail for good\.$/,
    ],
    [
      'its mail is refused',
      {
        lastDelivery: {
          state: 'refused',
          person: 'Ravi',
          at: NOW - HOUR,
          response: '550 no',
          nextAttemptAt: NOW + MINUTE,
        },
      },
      'Inbox',
      /refuses the mail to Ravi \(“550 no”\)\. Tried again in 1 min\./,
    ],
    [
      'its mail is given up',
      {
        lastDelivery: { state: 'given up', person: 'Ravi', at: NOW - DAY, response: '421 later', nextAttemptAt: null },
      },
      'Inbox',
      /^The mail to Ravi was given up \(“421 later”\)\.$/,
    ],
    [
      'its mail waits long',
      { lastDelivery: { state: 'queued', person: 'Ravi', at: NOW - HOUR, response: null, nextAttemptAt: null } },
      'Inbox',
      /^The mail to Ravi waits since 11:00\.$/,
    ],
  ])('is broken where %s, and says so at that link', (_name, change, at, said) => {
    const broken = firstBroken(chain(change));
    expect(broken?.name).toBe(at);
    expect(broken?.said).toMatch(said);
  });

  it('holds where a way is lost and all around the value is as it was, and says what can be mended', () => {
    const lost = [{ label: 'price', ways: ['Its id #price'], framed: true }];
    expect(link('Value', { lost })).toMatchObject({ state: 'holds', mendable: true });
    expect(link('Value', { lost })?.said).toBe('£24.00; all around as it was, but price by its id #price no longer');
    expect(firstBroken(chain({ lost }))).toBe(null);
  });

  it.each<[string, Partial<ChainFacts>, string, string]>([
    ['before the first run', { lastRun: null }, 'Source', 'first run on its way'],
    ['while it is paused', { state: 'paused' }, 'Source', 'paused; nothing is fetched'],
    ['when it is only recorded', { rules: [] }, 'Rule', 'no rule; it is only recorded'],
    ['while nothing was read', { values: [] }, 'Value', 'nothing read yet'],
  ])('is open %s, and that breaks nothing', (_name, change, at, said) => {
    expect(link(at, change)).toMatchObject({ state: 'open', said });
    expect(firstBroken(chain(change))).toBe(null);
  });

  it('tells many records by their number, and one alone by its values', () => {
    expect(link('Value', { records: 24 })?.said).toBe('24 records');
    expect(link('Value')?.said).toBe('£24.00');
    const five = Array.from({ length: 5 }, (_, at) => ({
      label: `v${at}`,
      value: money(`${at}.00`, 'GBP'),
      lastGoodAt: NOW,
    }));
    expect(link('Value', { values: five })?.said).toBe('£0.00, £1.00, £2.00, £3.00 and 1 more');
  });

  it('tells of a long text its beginning', () => {
    const page = {
      label: 'text',
      value: { kind: 'text' as const, text: 'All apiaries are to be inspected. '.repeat(60) },
      lastGoodAt: NOW,
    };
    for (const problem of [null, { link: 'value' as const, sentence: 'Nothing matches.' }])
      expect(link('Value', { values: [page], problem })?.said.length).toBeLessThan(120);
  });

  it('tells twenty rules by how they stand, and the one of them that cannot be judged', () => {
    const twenty = Array.from({ length: 20 }, (_, at): RuleFacts => ({
      ...RULE,
      state: at < 2 ? 'raised' : at < 5 ? 'undecided' : 'calm',
      since: NOW - at * HOUR,
    }));
    expect(link('Rule', { rules: twenty })).toMatchObject({
      state: 'holds',
      said: '20 rules: 2 raised since 12:00, 15 calm, 3 undecided',
    });
    const odd: RuleFacts = { ...RULE, asked: 'stock changes', state: 'undecided', lastReason: { code: 'unlike' } };
    expect(link('Rule', { rules: [...twenty, odd] })?.said).toMatch(/^stock changes: the value and the limit/);
    expect(firstBroken(chain({ rules: [...twenty, odd] }))?.name).toBe('Rule');
  });

  it('says which of several rules nobody hears of', () => {
    const untold = { ...RULE, asked: 'stock changes', told: false };
    expect(link('Report', { rules: [RULE, untold] })).toMatchObject({
      state: 'broken',
      said: 'Nobody hears when stock changes: no report takes that.',
    });
  });

  it('of what is posted tells the last message and no next run', () => {
    expect(link('Source', { posted: true })?.said).toBe('the last message came 5 min ago');
  });

  it('says whether a raised rule waits to be left', () => {
    expect(link('Rule', { rules: [{ ...RULE, waiting: true }] })?.said).toContain(
      'met already; waits to be left and met again',
    );
    expect(link('Rule', { rules: [{ ...RULE, state: 'raised', since: NOW - HOUR }] })?.said).toContain(
      'raised since 11:00',
    );
  });
});

describe('how long ago', () => {
  it.each([
    [500, 'just now'],
    [6 * MINUTE, '6 min ago'],
    [3 * HOUR, '3 h ago'],
  ])('%i ms is %s', (ms, said) => expect(formatAgo(NOW - ms, NOW)).toBe(said));
});
