import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compareReadings } from '../compare/compare';
import { money } from '../value/parse';
import { ABSENT } from '../value/value';
import { HOUR } from '../when/interval';
import { chainOf, firstBroken, type ChainFacts } from './chain';
import { chooseAtOnce } from './choose';
import type { Begun } from './begun';
import { alertMail } from './mail';
import { headline, type News } from './news';

const NOW = Date.UTC(2026, 10, 21, 9, 12);
const PLACE = { locale: 'en-GB', zone: 'Europe/London' };
const was = money('24.00', 'GBP');
const is = money('21.50', 'GBP');

const news = (change: Partial<News> = {}): News => ({
  subject: 'Copper smoker',
  site: 'Skepwright',
  page: 'https://skepwright.example/p/smoker',
  field: { key: 'price', label: 'price', role: 'price' },
  value: is,
  previous: was,
  change: compareReadings(was, is, 'up is good'),
  asked: {
    kind: 'crossing',
    of: { asked: { field: 'price' } },
    limits: { is: 'below', limit: money('22.50', 'GBP'), inclusive: false },
  },
  seenAt: NOW,
  lookedBefore: NOW - 2 * HOUR,
  ...change,
});

const mail = (change: Partial<News> = {}): Parameters<typeof alertMail>[0] => ({
  report: 'Pricing, at once',
  edition: 41,
  readerName: 'Ravi',
  readerNumber: 87,
  made: NOW,
  alerts: [{ news: news(change), watch: 'https://shrike.example/watches/1' }],
  coverage: 'Edition 41 covers one run, which raised one alert.',
  reportLink: 'https://shrike.example/outbox',
  place: PLACE,
});

describe('comparing', () => {
  it('knows amount, unit, presence and text apart', () => {
    expect(compareReadings(was, is, 'up is good')).toMatchObject({
      kind: 'amount',
      difference: '-2.50',
      percent: '-10.4',
      sense: 'worse',
    });
    expect(compareReadings(was, is, 'up is bad')).toMatchObject({ sense: 'better' });
    expect(compareReadings(was, money('24.00', 'EUR'), 'up is good')).toMatchObject({
      kind: 'unit',
      difference: null,
      percent: null,
    });
    expect(compareReadings(was, ABSENT, 'up is good')).toMatchObject({ kind: 'presence', difference: null });
    expect(compareReadings({ kind: 'text', text: 'in' }, { kind: 'text', text: 'out' }, 'neither')).toMatchObject({
      kind: 'text',
    });
    expect(compareReadings(was, money('24', 'GBP'), 'up is good')).toBeNull();
  });
});

describe('a headline', () => {
  it('says what is so and what it means', () => {
    expect(headline(news(), 'en-GB')).toEqual({
      lead: 'Skepwright now asks £21.50 for Copper smoker',
      meaning: '£1.00 below your limit',
    });
    expect(headline(news({ asked: null }), 'en-GB').meaning).toBe('down £2.50 (10.4%)');
    // Raised at once though nothing moved.
    expect(headline(news({ asked: null, previous: is, change: null }), 'en-GB').meaning).toBe('');
    expect(alertMail(mail({ previous: is, change: null })).subject).toBe('Skepwright: Copper smoker price £21.50');
    const [sold, there] = ['Sold out', 'In stock'].map((state) => ({ kind: 'state' as const, state }));
    const regained = headline(
      news({ field: { key: 'stock', label: 'stock' }, value: there!, previous: sold!, change: null, asked: null }),
      'en-GB',
    );
    expect(regained).toEqual({
      lead: 'Copper smoker at Skepwright: stock is now “In stock”',
      meaning: 'was “Sold out”',
    });
    expect(headline(news({ value: ABSENT, change: null, asked: null }), 'en-GB').lead).toContain('shows no price');
  });
});

describe('the mail of an alert', () => {
  it('says how far apart two values are only where there is more to say than that they changed', () => {
    const [sold, there] = ['Sold out', 'In stock'].map((words) => ({ kind: 'text' as const, text: words }));
    const change = compareReadings(sold!, there!, 'neither');
    const { text, html } = alertMail(mail({ previous: sold!, value: there!, change, asked: null }));
    expect(text).toContain('Was: Sold out');
    expect(text).not.toContain('Difference:');
    expect(html).not.toContain('◇ changed');
    expect(alertMail(mail()).text).toContain('Difference: ');
  });

  it('tells everything, in both forms', () => {
    const { html, text, subject } = alertMail(mail());
    expect(subject).toBe('Skepwright: Copper smoker price £21.50, down £2.50 (10.4%)');
    for (const form of [html, text]) {
      for (const told of [
        '£24.00',
        '£21.50',
        '10.4%',
        '2.50',
        'price falls below £22.50',
        '09:12:00',
        '07:12:00',
        'https://skepwright.example/p/smoker',
        'https://shrike.example/watches/1',
        'mail 87',
      ]) {
        expect(form).toContain(told);
      }
    }
  });

  it('says at its end, where it is the first of its report, when that comes and whose it is', () => {
    const weekdays = { cut: 'weekly' as const, days: [1, 2, 3, 4, 5], at: 450, zone: 'Europe/London' };
    const said = (begun: Begun | null) => alertMail({ ...mail(), begun });
    const first = said({ owner: 'Inés <b>Calloway', cadence: weekdays });
    expect(first.text).toContain(
      'This is the first mail of this report to you. It comes each weekday at 07:30; Inés <b>Calloway set it up.',
    );
    expect(first.html).toContain('each weekday at 07:30; Inés &lt;b&gt;Calloway set it up.');
    expect(said({ owner: null, cadence: { cut: 'at once' } }).text).toContain('It comes at once; you set it up.');
    expect(said({ owner: null, cadence: { cut: 'never' } }).text).toContain(
      'It comes when somebody cuts it; you set it up.',
    );
    expect(said(null).text).not.toContain('first mail');
  });

  it('never lets a page write into its HTML or its header line', () => {
    fc.assert(
      fc.property(fc.string(), (hostile) => {
        const subjectText = `<script>x</script>\r\nBcc: all\u202e\u2066${hostile}`;
        const { html, subject } = alertMail(mail({ subject: subjectText, site: hostile || 'x' }));
        expect(html).not.toContain('<script');
        expect(subject).not.toMatch(/[\u0000-\u001f\u202a-\u202e\u2066-\u2069]/);
        expect(subject.length).toBeLessThanOrEqual(140);
      }),
    );
  });
});

describe('who hears', () => {
  const ravi = { id: 1, kept: null } as const;
  const tom = { id: 2, kept: 'unconfirmed' } as const;

  it('is told once, and the other reports stand back', () => {
    const tellings = chooseAtOnce([
      { id: 8, readers: [ravi], alerts: [5] },
      { id: 7, readers: [ravi, tom], alerts: [5, 6] },
    ]);
    expect(tellings[1]).toContainEqual({ report: 7, person: 1, alert: 5, decision: 'told', inFavourOf: null });
    expect(tellings[0]).toContainEqual({ report: 8, person: 1, alert: 5, decision: 'stood back', inFavourOf: 7 });
    expect(tellings[1]).toContainEqual({ report: 7, person: 2, alert: 6, decision: 'kept back', inFavourOf: null });
  });

  it('is decided once where two editions of one report tell it to one reader', () => {
    const tellings = chooseAtOnce([
      { id: 7, readers: [ravi, tom], alerts: [5] },
      { id: 7, readers: [ravi, tom], alerts: [5, 6] },
    ]);
    expect(tellings.map((part) => part.map(({ person, alert, decision }) => `${person} ${alert} ${decision}`))).toEqual(
      [
        ['1 5 told', '2 5 kept back'],
        ['1 6 told', '2 6 kept back'],
      ],
    );
  });

  it('decides on every reader and alert, and tells nobody twice', () => {
    const reader = fc.record({ id: fc.integer({ min: 1, max: 4 }), kept: fc.constant(null) });
    const report = fc.record({
      readers: fc.uniqueArray(reader, { selector: (each) => each.id }),
      alerts: fc.uniqueArray(fc.integer({ min: 1, max: 5 })),
    });
    fc.assert(
      fc.property(fc.array(report, { maxLength: 4 }), (given) => {
        const reports = given.map((each, id) => ({ ...each, id }));
        const tellings = chooseAtOnce(reports).flat();
        expect(tellings).toHaveLength(reports.reduce((sum, each) => sum + each.readers.length * each.alerts.length, 0));
        const told = tellings
          .filter((telling) => telling.decision === 'told')
          .map((telling) => `${telling.person} ${telling.alert}`);
        expect(new Set(told).size).toBe(told.length);
      }),
    );
  });
});

describe('the chain', () => {
  const whole: ChainFacts = {
    state: 'running',
    posted: false,
    hostPaused: null,
    lastRun: { startedAt: NOW - 60_000, tookMs: 400 },
    nextDue: NOW + HOUR,
    problem: null,
    failingSince: null,
    values: [{ label: 'price', value: is, lastGoodAt: NOW }],
    records: 1,
    unheard: null,
    lost: [],
    rules: [
      {
        asked: 'price falls below £22.50',
        state: 'raised',
        off: false,
        waiting: false,
        since: NOW - HOUR,
        lastReason: { code: 'met' },
        told: true,
      },
    ],
    reports: ['Pricing, at once'],
    readers: [{ name: 'Ravi Oduya', kept: null }],
    lastDelivery: { state: 'sent', person: 'Ravi Oduya', at: NOW - HOUR, response: '250 kept', nextAttemptAt: null },
  };
  const broken = (change: Partial<ChainFacts>) => firstBroken(chainOf({ ...whole, ...change }, NOW, PLACE));

  it('holds when every link does', () => {
    expect(broken({})).toBeNull();
    expect(chainOf(whole, NOW, PLACE).map((link) => link.state)).toEqual(Array(5).fill('holds'));
  });

  it('says at which link it breaks, and why', () => {
    const problem = (link: 'source' | 'value') => ({
      problem: { link, sentence: 'The page is not there (404).' },
      failingSince: NOW - HOUR,
    });
    expect(broken(problem('source'))).toMatchObject({
      name: 'Source',
      said: 'The page is not there (404). Since 08:12.',
    });
    expect(broken(problem('value'))).toMatchObject({
      name: 'Value',
      said: expect.stringContaining('Last good: £21.50, stale') as string,
    });
    expect(broken({ reports: [], rules: whole.rules.map((rule) => ({ ...rule, told: false })) })).toMatchObject({
      name: 'Report',
      said: expect.stringContaining('Nobody will hear') as string,
    });
    expect(broken({ readers: [{ name: 'Tom Aske', kept: 'unconfirmed' }] })?.said).toBe(
      'Nobody will hear: Tom Aske has not confirmed the address.',
    );
    const refused = {
      state: 'refused',
      person: 'Ravi Oduya',
      at: NOW,
      response: '550 no',
      nextAttemptAt: NOW + 30_000,
    };
    expect(broken({ lastDelivery: refused })?.said).toBe(
      'The mail server refuses the mail to Ravi Oduya (“550 no”). Tried again in 30 s.',
    );
  });
});
