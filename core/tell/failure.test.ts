import { describe, expect, it } from 'vitest';
import { CAUSES, causeOfFetch, causeOfReading, isForGood, type Cause } from './failure';
import { noticeMail } from './notice-mail';

describe('the cause of a failure', () => {
  it.each<[string, number | null, Cause]>([
    ['status', 404, 'gone'],
    ['status', 410, 'gone'],
    ['status', 403, 'refused us'],
    ['status', 429, 'refused us'],
    ['status', 503, 'not answering'],
    ['timed out', null, 'not answering'],
    ['unknown host', null, 'not answering'],
    ['robots', null, 'refused us'],
    ['bad certificate', null, 'refused us'],
    ['step', null, 'something in the way'],
    ['not text', null, 'not readable'],
  ])('%s %s is: %s', (reason, status, cause) => {
    expect(causeOfFetch(reason, status)).toBe(cause);
  });

  it('of a page that is not read is what the page seems, before how it was built', () => {
    const lost = { reason: 'no match', where: 'Its class .price' } as const;
    expect(causeOfReading(lost, null)).toBe('rebuilt');
    expect(causeOfReading(lost, 'consent wall')).toBe('something in the way');
    expect(causeOfReading(lost, 'retired page')).toBe('discontinued');
    expect(causeOfReading({ reason: 'not computed', said: '' }, null)).toBe('not readable');
  });

  it('is settled by one run where the site says it is for good', () => {
    expect([isForGood('gone', 410), isForGood('gone', 404), isForGood('discontinued', null)]).toEqual([
      true,
      false,
      true,
    ]);
  });
});

describe('the mail about a watch that is not read', () => {
  const mail = (kind: 'failing' | 'recovered', change: Partial<{ subject: string; site: string }> = {}) =>
    noticeMail({
      report: 'Pricing, at once',
      edition: 4,
      readerNumber: 2,
      readerName: 'Ravi',
      made: Date.UTC(2026, 10, 23, 9),
      reportLink: 'http://shrike.example/outbox',
      place: { locale: 'en-GB', zone: 'Europe/London' },
      notices: [
        {
          kind,
          cause: 'rebuilt',
          subject: 'Copper smoker',
          site: 'Skepwright',
          sentence: 'Price: nothing matches.',
          since: Date.UTC(2026, 10, 22, 9),
          lastGoodAt: Date.UTC(2026, 10, 22, 8),
          page: 'http://shop.example/p',
          watch: 'http://shrike.example/watches/1',
          ...change,
        },
      ],
    });

  it('says what happened, since when, what stands meanwhile, and what to do', () => {
    const { subject, text, html } = mail('failing');
    expect(subject).toBe('Not read: Skepwright, Copper smoker');
    for (const told of [
      CAUSES.rebuilt.happened,
      'Price: nothing matches.',
      'Sun 22 Nov',
      'nothing is called a change',
      'Mend it',
      'http://shrike.example/watches/1',
    ])
      expect(text).toContain(told);
    expect(html).toContain('edition 4');
    expect(mail('recovered').subject).toBe('Read again: Skepwright, Copper smoker');
    expect(mail('recovered').text).toContain('is read again');
  });

  it('escapes what the outside says, and keeps it off the header lines', () => {
    const { subject, html } = mail('failing', {
      subject: '<img src=x onerror=alert(1)>\r\nBcc: all@example.com',
      site: 'A & B',
    });
    expect(html).not.toContain('<img');
    expect(html).toContain('A &amp; B');
    expect(subject).not.toMatch(/[\r\n]/);
  });
});
