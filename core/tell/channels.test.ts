import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cloudEvent } from './cloud-event';
import { BY_MAIL, readPhone, channelsFault, channelsBesideMail, channelsOf, type Reached } from './channels';
import { sanitiseText } from '../value/sanitise';
import { segmentOf, shortText } from './short-text';

describe('a phone number', () => {
  it.each([
    ['+447700900123', '+447700900123'],
    [' +44 7700 900-123 ', '+447700900123'],
    ['0049 (30) 901820', '+4930901820'],
    ['+1.212.555.0100', '+12125550100'],
  ])('%s is %s', (text, phone) => expect(readPhone(text)).toBe(phone));
  it.each([
    '',
    '07700 900123',
    '+0447700900123',
    '+44',
    '+12345678901234567',
    'phone',
    '+44 7700 900123 ext 4',
    '+44\r\nBcc: a@b.example',
    '+447700900123@x',
    '+'.repeat(9_999),
  ])('is not %j', (text) => expect(readPhone(text)).toBeNull());
});

describe('routes', () => {
  const reached = (change: Partial<Reached>): Reached => ({
    phone: '+447700900123',
    webhook: 'https://hook.example/',
    routes: BY_MAIL,
    ...change,
  });
  it('go by weight, what has none like what is usual', () => {
    const routes = { low: ['mail'], usual: ['webhook', 'mail'], high: ['text'] } satisfies Reached['routes'];
    expect([
      channelsOf(reached({ routes }), 'high'),
      channelsOf(reached({ routes }), null),
      channelsOf(reached({ routes }), 'low'),
    ]).toEqual([['text'], ['mail', 'webhook'], ['mail']]);
  });
  it('go by mail where a number was taken off since', () =>
    expect(channelsOf(reached({ phone: null, routes: { ...BY_MAIL, high: ['text'] } }), 'high')).toEqual(['mail']));
  it('go beside mail while the address refuses that, or nowhere', () => {
    const routes = { ...BY_MAIL, high: ['mail', 'text'] } satisfies Reached['routes'];
    expect([channelsBesideMail(reached({ routes }), 'high'), channelsBesideMail(reached({ routes }), 'low')]).toEqual([
      ['text'],
      [],
    ]);
  });
  it('are refused that lead nowhere', () => {
    expect(channelsFault(reached({ routes: { ...BY_MAIL, low: [] } }))).toMatch(/low weight/);
    expect(channelsFault(reached({ phone: null, routes: { ...BY_MAIL, high: ['text'] } }))).toMatch(/phone number/);
    expect(channelsFault(reached({ webhook: null, routes: { ...BY_MAIL, high: ['webhook'] } }))).toMatch(/address/);
    expect(channelsFault(reached({}))).toBeNull();
  });
});

describe('a short text', () => {
  const link = 'https://shrike.example/m/abcdefghijkl';
  it.each<[string, string]>([
    ['Smoker £22.00, down 8.3%', `Smoker £22.00, down 8.3% ${link}`],
    ['Copper “smoker” – now £22', `Copper "smoker" - now £22 ${link}`],
    ['Škoda', `Skoda ${link}`],
    ['a\r\nb\tc', `a b c ${link}`],
  ])('%j is %j', (news, text) => expect(shortText(news, link)).toBe(text));

  it('counts what takes two septets, and knows when it is none of the basic alphabet', () => {
    expect(segmentOf('a€[]')).toEqual({ in: 'GSM 03.38', length: 7, most: 160 });
    expect(segmentOf('蜂蜜')).toEqual({ in: 'UCS-2', length: 2, most: 70 });
    expect(segmentOf('a'.repeat(160))).toMatchObject({ length: 160 });
  });

  it('is cut to one segment, with its link whole', () => {
    const long = shortText('Copper smoker '.repeat(40), link);
    expect([segmentOf(long).length > 150, long.endsWith(` ${link}`), long.includes('...')]).toEqual([true, true, true]);
    const wide = shortText('蜂蜜燻煙器'.repeat(40), link);
    expect([segmentOf(wide).length <= 70, wide.endsWith(` ${link}`)]).toEqual([true, true]);
  });

  it('leaves out a link that does not fit', () =>
    expect(shortText('News', `https://${'x'.repeat(200)}.example/`)).toBe('News'));

  it('is one segment, one line and whole characters, whatever it is made of', () =>
    fc.assert(
      fc.property(
        fc.oneof(fc.string({ unit: 'binary', maxLength: 400 }), fc.string({ unit: 'grapheme', maxLength: 400 })),
        (news) => {
          const text = shortText(news, link);
          const { length, most } = segmentOf(text);
          expect(length).toBeLessThanOrEqual(most);
          expect(text).toContain(link);
          expect(text).not.toMatch(/[\r\n]/);
          if (sanitiseText(news) === news) expect(sanitiseText(text)).toBe(text);
        },
      ),
      { numRuns: 1_000 },
    ));
});

describe('an event', () => {
  it('is CloudEvents 1.0 in JSON, and holds hostile words as words', () =>
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 200 }), (words) => {
        const event = JSON.parse(
          cloudEvent({
            id: '7.a@heatherlow.example',
            source: 'https://shrike.example',
            made: 0,
            report: { id: 3, name: words },
            edition: { id: 9, number: 41 },
            number: 87,
            weight: null,
            subject: words,
            text: words,
            facts: [],
          }),
        ) as Record<string, unknown>;
        expect(event).toMatchObject({
          specversion: '1.0',
          type: 'shrike.edition.v1',
          subject: 'reports/3/editions/41',
          time: '1970-01-01T00:00:00.000Z',
        });
        expect((event.data as { subject: string }).subject).toBe(words);
      }),
    ));
});
