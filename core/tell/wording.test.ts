import { describe, expect, it } from 'vitest';
import { compareReadings } from '../compare/compare';
import { money } from '../value/parse';
import { alertMail } from './mail';
import type { News } from './news';
import { checkWords, ownWords } from './wording';

const [was, now] = [money('24.00', 'GBP'), money('21.50', 'GBP')];

const news = (change: Partial<News> = {}): News => ({
  subject: 'Copper smoker',
  site: 'Skepwright',
  page: 'https://skepwright.example/p',
  field: { key: 'price', label: 'price', role: 'price' },
  value: now,
  previous: was,
  change: compareReadings(was, now, 'up is good'),
  asked: { kind: 'change', asked: { field: 'price' } },
  rule: 'Low prices',
  seenAt: 0,
  lookedBefore: null,
  ...change,
});

describe('words of her own', () => {
  it('name what they name', () => {
    const own = { line: '{record} at { site }: {field} {move}, {before} → {value} ({rule})' };
    expect(ownWords(news({ own }), 'line', 'en-GB')).toBe(
      'Copper smoker at Skepwright: price down £2.50 (10.4%), £24.00 → £21.50 (Low prices)',
    );
  });

  it.each<[string, RegExp | null]>([
    ['{record} is {value}', null],
    ['plain words', null],
    ['{ value }', null],
    ['{price}', /“\{price\}” is no name/],
    ['{constructor}', /is no name/],
    ['{{value}}', /stands alone/],
    ['{value', /stands alone/],
    ['}', /stands alone/],
  ])('%s', (words, because) => {
    const checked = checkWords(words);
    if (because === null) expect(checked.ok).toBe(true);
    else expect(checked.ok ? '' : checked.error).toMatch(because);
  });

  it('stand in the mail in place of ours, and nothing in them breaks out', () => {
    const hostile = 'Smoker</td><script>alert(1)</script>\r\nBcc: all@x.example';
    const own = { subject: '{record} fell', line: 'Now {value} for {record}' };
    const mail = alertMail({
      report: 'Pricing',
      edition: 1,
      readerName: 'Inés',
      readerNumber: 1,
      made: 0,
      alerts: [{ news: news({ own, subject: hostile }), watch: '#' }],
      coverage: '',
      reportLink: '#',
      place: { locale: 'en-GB', zone: 'UTC' },
    });
    expect(mail.subject).not.toMatch(/[\r\n]/);
    expect(mail.subject).toMatch(/fell$/);
    expect(mail.html).toContain('Now £21.50 for Smoker');
    expect(mail.html).not.toContain('<script>');
  });

  it('are ours where she says none, and for what is told later', () => {
    expect(ownWords(news({ own: { subject: ' ' } }), 'subject', 'en-GB')).toBeNull();
    expect(ownWords(news({ own: { subject: 'x' }, told: { what: 'over' } }), 'subject', 'en-GB')).toBeNull();
    expect(ownWords(news(), 'line', 'en-GB')).toBeNull();
  });
});
