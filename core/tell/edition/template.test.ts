import fc from 'fast-check';
import { Liquid } from 'liquidjs';
import { describe, expect, it } from 'vitest';
import { DAY } from '../../when/interval';
import { blankDefinition, orderFault } from '../definition';
import { digestMail } from './digest-mail';
import { composeEdition } from './document';
import { fill, OUR_WORDS, wordsFault, type OwnWords } from './template';

const CUT = Date.UTC(2026, 10, 26, 7, 30);
const mailOf = (words: Partial<OwnWords>, report = 'Pricing, daily') => {
  const order = { ...blankDefinition('Europe/London', ['list:1']), words: { ...OUR_WORDS, ...words } };
  const coverage = {
    looks: 4,
    failed: 0,
    stale: [],
    staleCount: 0,
    watches: 2,
    leftOut: 0,
    tooMany: false,
    quietCuts: 0,
  };
  const found = {
    moves: [],
    stood: new Map(),
    offers: new Map(),
    priced: new Map(),
    since: new Map(),
    alerts: [],
    broken: [],
    coverage,
  };
  return digestMail({
    document: composeEdition(order, { from: CUT, until: CUT + DAY, missed: null }, found),
    report,
    edition: 212,
    readerName: 'Ravi Oduya',
    readerNumber: 87,
    made: CUT + DAY,
    reportLink: 'https://shrike.example/editions/9',
    home: 'https://shrike.example',
    place: { locale: 'en-GB', zone: 'Europe/London' },
    told: new Map(),
    next: null,
  });
};

describe('words of her own', () => {
  it('are filled, in the subject and the opening', () => {
    const mail = mailOf({
      subject: '{{ report }} since {{ since }}: {% if lines == 0 %}quiet{% else %}{{ news }}{% endif %}',
      opening: '{{ reader }}, {{ sentence | downcase }}',
    });
    expect(mail.subject).toBe('Pricing, daily since Thu 07:30: quiet');
    expect(mail.text).toContain('Ravi Oduya, nothing moved since thu 07:30, 1 d.');
  });

  it('are ours where hers come to nothing', () => {
    expect(mailOf({ subject: '{% if lines > 0 %}{{ news }}{% endif %}' }).subject).toMatch(
      /^Pricing, daily: nothing moved/,
    );
    expect(mailOf({}).subject).toMatch(/^Pricing, daily: nothing moved/);
  });

  it('break out of no place, whatever stands in them or fills them', () =>
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 60 }), (hostile) => {
        const mail = mailOf(
          {
            subject: 'A {{ report }} {% raw %}<b>\\r\\nBcc: x@y{% endraw %}',
            opening: '<script>{{ report }}</script>',
          },
          `${hostile}\r\nBcc: a@b.example`,
        );
        expect(mail.subject).not.toMatch(/[\r\n\u0000]/);
        expect(mail.html).not.toContain('<script>');
      }),
    ));
});

describe('words of her own are refused', () => {
  it.each<[string, Partial<OwnWords>]>([
    ['that name what there is not', { subject: '{{ price }}' }],
    ['that name what every object has', { subject: '{{ constructor }}' }],
    ['that name a part of a group in a subject', { subject: '{{ rows }}' }],
    ['that name the report in a heading', { heading: '{{ report }}' }],
    ['with a filter that there is not', { opening: '{{ news | shell }}' }],
    ['that are not closed', { subject: '{{ news' }],
    ['whose condition is not closed', { subject: '{% if lines %}' }],
    ['that load a file', { opening: '{% include "/etc/passwd" %}' }],
    ['that render another', { opening: '{% render "x" %}' }],
    ['that lay out', { opening: '{% layout "x" %}' }],
    ['that repeat', { opening: '{% for i in (1..1000000000) %}x{% endfor %}' }],
    ['that draw a table', { opening: '{% tablerow i in (1..9) %}x{% endtablerow %}' }],
    ['that count up', { opening: '{% increment x %}' }],
    ['that gather', { opening: '{% capture x %}{{ news }}{% endcapture %}' }],
    ['that go through all numbers', { opening: '{{ (1..1000000000) | size }}' }],
    ['that ask whether a number is among all', { opening: '{% if (1..99999999) contains 7 %}x{% endif %}' }],
    ['that write a condition of their own', { opening: '{{ "a b" | split: " " | where_exp: "x", "x == x" | join }}' }],
    ['that are too long', { subject: 'x'.repeat(501) }],
  ])('%s', (_what, words) => {
    expect(wordsFault({ ...OUR_WORDS, ...words })).toMatch(/cannot be filled/);
    expect(orderFault({ ...blankDefinition('Europe/London', ['list:1']), words: { ...OUR_WORDS, ...words } })).toMatch(
      /cannot be filled/,
    );
  });
  it('with every filter but those of words and numbers', () => {
    const left = Object.keys(new Liquid().filters).filter(
      (name) => wordsFault({ ...OUR_WORDS, opening: `{{ news | ${name}: 1, 1 }}` }) === null,
    );
    expect(left.length).toBeGreaterThan(10);
    for (const name of left) expect(name).not.toMatch(/split|join|sort|where|find|group|map|date|json|raw|_exp|concat/);
  });
  it('and do not grow without bound where they are made of themselves', () => {
    const doubled = `{% assign a = news %}${'{% assign a=a|append:a%}'.repeat(17)}{{a|replace:"x","xxxxxx"}}`;
    const filled = fill(doubled, { news: 'x'.repeat(2_000) });
    expect(filled.ok && filled.value.length).toBe(2_000);
  });
  it('and not these', () =>
    expect(
      wordsFault({
        subject: '{{ news | upcase }}',
        opening: '{% unless lines == 0 %}{{ lines }}{% endunless %}',
        heading: '{{ group }} ({{ reference }})',
      }),
    ).toBeNull());

  it('and none ends or holds up what fills it', () =>
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string({ maxLength: 200 }),
          fc
            .array(
              fc.constantFrom(
                '{{',
                '}}',
                '{%',
                '%}',
                ' news ',
                '|',
                'append:',
                '"',
                ' if ',
                ' endif ',
                'capture x',
                'endcapture',
                'times: 9',
              ),
              {
                maxLength: 40,
              },
            )
            .map((parts) => parts.join('')),
        ),
        (template) => {
          const filled = fill(template, { news: 'x' });
          expect(typeof (filled.ok ? filled.value : filled.error)).toBe('string');
        },
      ),
      { numRuns: 2_000 },
    ));
});
