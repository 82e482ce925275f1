import { describe, expect, it } from 'vitest';
import { money } from '../value/parse';
import type { Place } from '../when/format';
import { DAY, HOUR, MINUTE } from '../when/interval';
import { chainOf, firstBroken, formatAgo, type ChainFacts } from './chain';

const NOW = Date.UTC(2026, 10, 25, 12);
const PLACE: Place = { locale: 'en-GB', zone: 'UTC' };

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
  rule: { asked: 'price falls below £22.00', state: 'calm', waiting: false, since: NOW - DAY, lastReason: null },
  reports: ['Pricing, at once'],
  readers: [{ name: 'Ravi Oduya', confirmed: true }],
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
    ['its host is paused', { hostPaused: { host: 'shop.example', since: NOW - HOUR } }, 'Source', /^shop\.example is paused as a whole since 11:00/],
    ['it is not fetched', { problem: { link: 'source', sentence: 'Not there (404).' }, failingSince: NOW - HOUR }, 'Source', /^Not there \(404\)\. Since 11:00\.$/],
    ['it is not read', { problem: { link: 'value', sentence: 'Nothing matches.' }, failingSince: NOW - HOUR }, 'Value', /^Nothing matches\. Last good: £24\.00, stale since 11:00\.$/],
    ['its source calls it bad', { unheard: { count: 1, bad: 1, since: NOW - HOUR } }, 'Value', /^It is called bad by its source\. Last good: 11:00\.$/],
    ['one of its records is silent', { records: 24, unheard: { count: 1, bad: 0, since: NOW - HOUR } }, 'Value', /^1 of 24 records sends nothing good\. Last good: 11:00\.$/],
    ['some of its records are bad', { records: 24, unheard: { count: 3, bad: 3, since: NOW - HOUR } }, 'Value', /^3 of 24 records are called bad by their source\./],
    ['a way is lost', { lost: [{ label: 'price', ways: ['Its id #price'] }] }, 'Value', /^£24\.00; found another way: price by its id #price no longer\.$/],
    ['its values are unlike its limit', { rule: { ...WELL.rule!, state: 'undecided', lastReason: 'unlike the limit' } }, 'Rule', /^price falls below £22\.00: /],
    ['no report takes it', { reports: [] }, 'Report', /^Nobody will hear: no report takes this rule\.$/],
    ['the report has no readers', { readers: [] }, 'Inbox', /^Nobody will hear: the report has no readers\.$/],
    ['its only reader has not confirmed', { readers: [{ name: 'Ravi Oduya', confirmed: false }] }, 'Inbox', /^Nobody will hear: Ravi Oduya has not confirmed the address\.$/],
    ['one of its readers has not', { readers: [...WELL.readers, { name: 'Tom Aske', confirmed: false }] }, 'Inbox', /^Tom Aske has not confirmed the address\.$/],
    ['its mail is refused', { lastDelivery: { state: 'refused', person: 'Ravi', at: NOW - HOUR, response: '550 no', nextAttemptAt: NOW + MINUTE } }, 'Inbox', /refuses the mail to Ravi \(“550 no”\)\. Tried again in 1 min\./],
    ['its mail is given up', { lastDelivery: { state: 'given up', person: 'Ravi', at: NOW - DAY, response: '421 later', nextAttemptAt: null } }, 'Inbox', /^The mail to Ravi was given up \(“421 later”\)\.$/],
    ['its mail waits long', { lastDelivery: { state: 'queued', person: 'Ravi', at: NOW - HOUR, response: null, nextAttemptAt: null } }, 'Inbox', /^The mail to Ravi waits since 11:00\.$/],
  ])('is broken where %s, and says so at that link', (_name, change, at, said) => {
    const broken = firstBroken(chain(change));
    expect(broken?.name).toBe(at);
    expect(broken?.said).toMatch(said);
  }); // prettier-ignore

  it.each<[string, Partial<ChainFacts>, string, string]>([
    ['before the first look', { lastRun: null }, 'Source', 'first look on its way'],
    ['while it is paused', { state: 'paused' }, 'Source', 'paused; nothing is fetched'],
    ['when it is only recorded', { rule: null }, 'Rule', 'no rule; it is only recorded'],
    ['while nothing was read', { values: [] }, 'Value', 'nothing read yet'],
  ])('is open %s, and that breaks nothing', (_name, change, at, said) => {
    expect(link(at, change)).toMatchObject({ state: 'open', said });
    expect(firstBroken(chain(change))).toBe(null);
  });

  it('tells many records by their number, and one alone by its values', () => {
    expect(link('Value', { records: 24 })?.said).toBe('24 records');
    expect(link('Value')?.said).toBe('£24.00');
  });

  it('of what is posted tells the last message and no next look', () => {
    expect(link('Source', { posted: true })?.said).toBe('the last message came 5 min ago');
  });

  it('says whether a raised rule waits to be left', () => {
    expect(link('Rule', { rule: { ...WELL.rule!, state: 'raised', waiting: true } })?.said).toContain('met already; waits to be left and met again');
    expect(link('Rule', { rule: { ...WELL.rule!, state: 'raised', since: NOW - HOUR } })?.said).toContain('raised since 11:00');
  });
});

describe('how long ago', () => {
  it.each([
    [500, 'just now'],
    [6 * MINUTE, '6 min ago'],
    [3 * HOUR, '3 h ago'],
  ])('%i ms is %s', (ms, said) => expect(formatAgo(NOW - ms, NOW)).toBe(said));
});
