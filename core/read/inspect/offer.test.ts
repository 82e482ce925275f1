import { describe, expect, it } from 'vitest';
import { formatValue } from '../../value/format';
import { offerOf, openAny } from './offer';

const offerIn = (body: string) =>
  offerOf(openAny(`<!doctype html><html lang="en-GB"><head><title>Shop</title></head><body>${body}</body></html>`, 0));
const found = (body: string) =>
  offerIn(body).candidates.map(({ label, type, value }) => `${label}: ${type.kind} ${formatValue(value, 'en-GB')}`);

describe('what a page offers by itself', () => {
  it.each([
    [
      'whether it is in stock',
      '<h1>Smoker</h1><p>£24.00</p><p class="stock">In stock</p>',
      'availability: state in stock',
    ],
    [
      'whether it is sold out, in another language',
      '<h1>Rauchgerät</h1><p>£24.00</p><p>Ausverkauft</p>',
      'availability: state sold out',
    ],
    ['how few are left', '<h1>Smoker</h1><p>£24.00</p><b>Only 3 left</b>', 'availability: state few left'],
    [
      'a date by its label',
      '<dl><dt>Next delivery</dt><dd>4 December 2026</dd></dl>',
      'next delivery: moment 4 Dec 2026',
    ],
    [
      'a date in its own element',
      '<p>Updated <time datetime="2026-11-21">21 November 2026</time></p>',
      'updated: moment 21 Nov 2026',
    ],
    [
      'a grade by its label',
      '<table><tr><th>Grade</th><td>B</td></tr><tr><th>Moisture</th><td>17 %</td></tr></table>',
      'grade: grade B',
    ],
    ['a rating by its label', '<dl><dt>Rating</dt><dd>4.3</dd></dl>', 'rating: number 4.3'],
  ])('%s', (_, body, said) => expect(found(body)).toContain(said));

  it.each([
    ['prose in which a thing is available', '<p>Also available in three sizes from our friends in the north.</p>'],
    ['a link to what is in stock', '<nav><a href="/stock">In stock</a></nav>'],
    ['a button', '<button>Available</button>'],
    ['what is hidden', '<p hidden>In stock</p>'],
    ['what is struck out', '<p><s>In stock</s></p>'],
    ['a year at the foot of the page', '<footer>© 2026 Shop</footer>'],
    ['a letter that is no grade', '<p>B</p>'],
    ['a number without any name', '<p>4.3</p>'],
    ['an empty page', ''],
  ])('but not %s', (_, body) => expect(found(body)).toEqual([]));

  it('in bounded number, prices first', () => {
    const many = Array.from({ length: 500 }, (_, at) => `<section><h3>Lot ${at}</h3><i>In stock</i></section>`).join(
      '',
    );
    const said = found(`${many}<p>Price £24.00</p>`);
    expect(said.length).toBeLessThanOrEqual(60);
    expect(said[0]).toMatch(/money £24\.00/);
  });
});

describe('a page of many', () => {
  const rows = (count: number) =>
    `<table><tr><th>Ref.</th><th>Article</th><th>Price</th></tr>${Array.from({ length: count }, (_, at) => `<tr><td>A-${at}</td><td>Jar ${at}</td><td>£${at + 1}.50</td></tr>`).join('')}</table>`;

  it('is one whose prices stand in records', () => {
    expect(offerIn(`<h1>All goods</h1>${rows(8)}`).many).toBe(true);
    expect(offerIn(`<h1>All goods</h1><p>Free carriage over £60.00</p>${rows(8)}`).many).toBe(true);
  });

  it('is none where one thing is sold and others are named beside it', () => {
    const offer =
      '<script ' +
      'type="application/ld+json">{"@type":"Product","name":"Smoker","offers":{"price":"24.00","priceCurrency":"GBP"}}</script>';
    expect(offerIn(`${offer}<h1>Smoker</h1><p>£24.00</p>${rows(6)}`).many).toBe(false);
    expect(offerIn('<h1>Smoker</h1><p>£24.00</p>').many).toBe(false);
    expect(offerIn('').many).toBe(false);
  });
});
