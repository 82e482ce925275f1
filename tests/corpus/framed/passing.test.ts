import { describe, expect, it } from 'vitest';
import { selectElements } from '#core/read/html';
import { documentOf } from '../../support/document';
import { reading, setUp } from './fate';
import { listingFateOf } from './listing-fate';
import { LISTED } from './listings';
import { filledWith, type Site } from './page';
import { ODD } from './sites/odd';
import { PUBLIC } from './sites/public';
import { SERVICES } from './sites/services';
import { SHOPS } from './sites/shops';

// What every site does on some day or other, done to all pages of the corpus at once.

const SITES = [...SHOPS, ...SERVICES, ...PUBLIC, ...ODD];

type Change = (html: string) => string;

/** How many of the sites are read on after a change, of how many that it can be made to. */
function readAfter(change: Change, before: Change = (html) => html): { read: string[]; of: number } {
  const read: string[] = [];
  let of = 0;
  for (const site of SITES) {
    const [then, now] = [before(site.html), change(site.html)];
    const made = now === then ? null : watchOn(site, then);
    if (made === null) continue;
    of += 1;
    if (reading(bodyOf(now, site.is), made).value !== null) read.push(site.kind);
  }
  return { read, of };
}

const bodyOf = (html: string, said: Site['is']) => ({
  format: 'html' as const,
  document: documentOf(filledWith(html, said)),
});

const known = new Map<string, ReturnType<typeof setUp>>();

/** A watch on a page as it was; null where what is picked is not there any more. */
function watchOn(site: Site, html: string): ReturnType<typeof setUp> {
  const name = `${site.kind} ${html}`;
  const before = known.get(name);
  if (before !== undefined) return before;
  const found = selectElements(documentOf(filledWith(html, site.was)), site.pick);
  const made = found.ok && found.value.length > 0 ? setUp({ ...site, html }, 'picked') : null;
  known.set(name, made);
  return made;
}

const strip =
  (said: string): Change =>
  (html) =>
    said === '' ? html : html.replace('<body>', `<body><div class="strip"><p>${said}</p></div>`);
const header =
  (said: string): Change =>
  (html) =>
    html.replace('<body>', `<body><header><span>${said}</span></header>`);
const dialog =
  (said: string): Change =>
  (html) =>
    html.replace(
      '</body>',
      `<div role="dialog"><h2>Hello</h2><p>${said}</p><button>No, thank you</button></div></body>`,
    );

const BANNERS = [
  'Summer sale: up to 50% off selected lines, ends Sunday!',
  'Free delivery for members',
  'Sign up and save 10%',
  'Trade customers: log in for trade prices',
  'Student discount available',
  'We buy used equipment',
  'Half price wax sheets this week',
  'Was £40, now £30: our winter smoker',
  'New: monthly honey box, from £12 a month',
  'Buy 2 get 1 free on jars',
];

describe('what is told to whoever comes by', () => {
  it.each(BANNERS)('puts no value in question: “%s”', (said) => {
    for (const place of [strip, header, dialog]) {
      const { read, of } = readAfter(place(said));
      expect(of).toBeGreaterThan(35);
      expect(read.length).toBeGreaterThanOrEqual(0.95 * of);
    }
  });

  it.each([
    ['Summer sale: up to 50% off', 'Black Friday: up to 70% off'],
    ['Open today until 17:00', 'Open today until 20:00'],
    ['Call us: 0113 496 0000', 'Call us: 0113 496 0001'],
    ['New: honey boxes', 'New: winter feeders'],
    ['Winter opening: Mon to Fri', 'Summer opening: Mon to Sat'],
  ])('nor does another such word: “%s”, then “%s”', (before, now) => {
    const { read, of } = readAfter(strip(now), strip(before));
    expect(read.length).toBeGreaterThanOrEqual(0.95 * of);
  });
});

describe('a list', () => {
  const fates = (change: Change) => {
    const changed = LISTED.map((site) => ({ site, html: change(site.html) })).filter(
      ({ site, html }) => html !== site.html,
    );
    return changed.map(
      ({ site, html }) =>
        listingFateOf(
          { ...site, html: site.html },
          { ...AS_IT_WAS, is: site.was, edits: [[EVERYTHING, literal(html)]] },
        ).fate,
    );
  };
  const end =
    (said: string): Change =>
    (html) =>
      html.replace('</body>', `<p>${said}</p></body>`);

  it.each(BANNERS)('is read on whatever is told to whoever comes by: “%s”', (said) => {
    for (const change of [strip(said), end(said)]) expect(new Set(fates(change))).toEqual(new Set(['right']));
  });

  it.each(['Prices exclude VAT', 'All prices are for members', 'Showing used copies', 'Rates for business customers'])(
    'is in question where it says of all its figures: “%s”',
    (said) => {
      for (const change of [strip(said), end(said)]) expect(new Set(fates(change))).toEqual(new Set(['left out']));
    },
  );
});

const EVERYTHING = /^[\s\S]*$/;
const literal = (html: string) => html.replaceAll('$', '$$$$');
const AS_IT_WAS = { sort: 'rebuilt' as const, what: 'something is said around it', plain: true };

describe('what is said of all figures of a page', () => {
  it.each([
    ['Your region: Scotland', 'Your region: Wales'],
    ['Delivering to Leeds', 'Delivering to York'],
    ['Prices include VAT', 'Prices exclude VAT'],
    ['Prices for: public', 'Prices for: trade'],
    ['Showing prices in GBP', 'Showing prices in EUR'],
    ['Plan: basic', 'Plan: plus'],
    ['Customer type: private', 'Customer type: business'],
    ['Viewing: new', 'Viewing: used'],
    ['', 'Prices exclude VAT'],
    ['', 'All prices are for members'],
    ['', 'Showing used copies'],
  ])('puts every value in question: “%s”, then “%s”', (before, now) => {
    const { read, of } = readAfter(strip(now), strip(before));
    expect(of).toBeGreaterThan(35);
    expect(read).toEqual([]);
  });
});

/** Words that change what a number is; the sites that say them of theirs anyway read on. */
const SENSES: [string, string[]][] = [
  ['for members', []],
  ['ex VAT', []],
  ['deposit', []],
  ['was', []],
  ['save', []],
  ['from', []],
  ['up to', ['subscription']],
  ['per week', []],
  ['each when you buy 2', []],
  ['refurbished', []],
  ['per kg', []],
  ['forecast', []],
  ['pro Monat', ['subscription', 'phone contract', 'property to let']],
  ['ohne MwSt.', []],
  ['au lieu de', []],
  ['sin IVA', []],
  ['会員価格', []],
  ['税抜', []],
];

const BESIDE: Record<string, (said: string) => Change> = {
  'before it': (said) => (html) => html.replace('{v}', `${said} {v}`),
  'after it': (said) => (html) => html.replace('{v}', `{v} ${said}`),
  'in an element before it': (said) => (html) => html.replace('{v}', `<span>${said}</span> {v}`),
  'in an element after it': (said) => (html) => html.replace('{v}', `{v} <small>${said}</small>`),
};

describe('a word beside a value that changes its sense', () => {
  it.each(SENSES)('is never passed over: “%s”', (said, except) => {
    for (const [where, change] of Object.entries(BESIDE)) {
      const { read } = readAfter(change(said));
      expect([where, ...read.filter((kind) => !except.includes(kind))]).toEqual([where]);
    }
  });
});

describe('a page built anew in small things', () => {
  it.each<[string, Change]>([
    ['its ids are gone', (html) => html.replace(/ id="[^"]+"/g, '')],
    [
      'its elements carry marks of a builder',
      (html) => html.replace(/<(p|span|td|b|strong|div)(?=[ >])/g, '<$1 data-v-7ba5bd90'),
    ],
    ['divisions are sections', (html) => html.replace(/<div/g, '<section').replace(/<\/div>/g, '</section>')],
    [
      'all is wrapped',
      (html) => html.replace('<body>', '<body><div class="app"><div>').replace('</body>', '</div></div></body>'),
    ],
    [
      'crumbs lead to it',
      (html) => html.replace('<h1', '<nav aria-label="crumbs"><a href="/">Home</a> › <a href="/x">All</a></nav><h1'),
    ],
    [
      'what was seen before is shown',
      (html) => html.replace('</body>', '<section><h2>Seen before</h2><p>Hive tool <b>£9.90</b></p></section></body>'),
    ],
    ['it says when it was made', (html) => html.replace('</body>', '<p>Page made 27 November 2026 07:41</p></body>')],
    ['an empty element stands in the value', (html) => html.replace('{v}', '{v}<span></span>')],
  ])('is read on: %s', (_, change) => {
    const { read, of } = readAfter(change);
    expect(read.length).toBeGreaterThanOrEqual(0.9 * of);
  });

  it('is not where another thing stands under its heading', () => {
    expect(readAfter((html) => html.replace(/(<h1[^>]*>)[\s\S]*?(<\/h1>)/, '$1Beeswax polish, 200 ml$2')).read).toEqual(
      [],
    );
  });
});
