import { describe, expect, it } from 'vitest';
import { everyListing, listingsOf, type Listing } from './listing';
import { readBody } from '../read';
import { documentOf } from '../../../tests/support/document';

const bodyOf = (content: string) =>
  ({ format: 'html', document: documentOf(`<html lang="en-GB"><body>${content}</body></html>`) }) as const;
const table = (heads: string[], rows: string[][]) =>
  `<table><tr>${heads.map((head) => `<th>${head}</th>`).join('')}</tr>${rows.map((cells) => `<tr>${cells.map((cell) => `<td>${cell}</td>`).join('')}</tr>`).join('')}</table>`;

const firstOf = (content: string): Listing => {
  const [listing] = listingsOf(bodyOf(content));
  if (listing === undefined) throw new Error('no listing was found');
  return listing;
};
const typesOf = (listing: Listing) => Object.fromEntries(listing.fields.map(({ label, type }) => [label, type.kind]));

function valuesOf(content: string, listing: Listing): string[] {
  const definition = {
    subject: 'x',
    records: listing.records,
    identity: listing.identity,
    variant: null,
    chosen: null,
    leftOut: [],
    fields: listing.fields,
    guards: [],
  };
  const read = readBody(bodyOf(content), definition, { address: null, latest: () => undefined });
  return read.ok ? read.value.records.map(({ identity }) => identity) : [];
}

const LOTS = table(
  ['Lot', 'Goods', 'Grade', 'Weight', 'Price per kg', 'Packed', 'Stock'],
  [
    ['L1', 'Wax', 'A', '50 kg', '£5.40', '01/11/2026', 'In stock'],
    ['L2', 'Wax', 'C', '150 kg', '£6.15', '02/11/2026', 'Sold out'],
    ['L3', 'Honey', 'B', '1,250 kg', '£7.00', '13/11/2026', 'In stock'],
  ],
);

describe('a table', () => {
  it('has its fields named by its heads and typed by what stands under them', () => {
    const listing = firstOf(LOTS);
    expect(listing.said).toBe('3 rows of a table');
    expect(typesOf(listing)).toEqual({
      lot: 'text',
      goods: 'text',
      grade: 'grade',
      weight: 'number',
      'price per kg': 'money',
      packed: 'moment',
      stock: 'state',
    });
  });

  it('is told apart by what is named like a key, before any other text', () => {
    expect(firstOf(LOTS).identity).toEqual(['lot']);
    expect(valuesOf(LOTS, firstOf(LOTS))).toEqual(['L1', 'L2', 'L3']);
  });

  it('is told apart by two fields where no one does it', () => {
    const offers = table(
      ['Item', 'Size', 'Price'],
      [
        ['Suit', 'M', '£90'],
        ['Suit', 'L', '£95'],
        ['Veil', 'M', '£20'],
      ],
    );
    expect(firstOf(offers).identity).toEqual(['item', 'size']);
    expect(valuesOf(offers, firstOf(offers))).toEqual(['Suit · M', 'Suit · L', 'Veil · M']);
  });

  it('is never told apart by what it costs', () => {
    const prices = table(
      ['Price', 'Was'],
      [
        ['£1', '£3'],
        ['£2', '£4'],
        ['£5', '£6'],
      ],
    );
    expect(firstOf(prices).identity).toEqual([]);
  });

  it('of two rows is a layout, and no listing', () => {
    expect(listingsOf(bodyOf(table(['A', 'B'], [['1', '2']])))).toEqual([]);
  });
});

describe('repeated blocks', () => {
  const card = (name: string, price: string) =>
    `<article class="pot"><h3>${name}</h3><span class="tag">${price}</span><em class="have">Available</em></article>`;
  const cards = `<div>${card('Smoker', '£24.00')}${card('Hive', '£169.00')}${card('Suit', '£90.50')}</div>`;

  it('are a listing, each field by its class', () => {
    const listing = firstOf(cards);
    expect(listing.said).toBe('3 blocks of one kind');
    expect(typesOf(listing)).toMatchObject({ name: 'text', tag: 'money' });
    expect(listing.identity).toEqual(['name']);
    expect(valuesOf(cards, listing)).toEqual(['Smoker', 'Hive', 'Suit']);
  });

  it('are found whatever their order, and one more is one more record', () => {
    const more = cards.replace('<div>', `<div>${card('Veil', '£20.00')}`);
    expect(valuesOf(more, firstOf(cards))).toEqual(['Veil', 'Smoker', 'Hive', 'Suit']);
  });

  it('without names are prose, that is offered to nobody and found when it is looked for', () => {
    const prose = bodyOf(
      '<ul><li><b>One</b> <i>two</i></li><li><b>Three</b> <i>four</i></li><li><b>Five</b> <i>six</i></li></ul>',
    );
    expect(listingsOf(prose)).toEqual([]);
    expect(everyListing(prose)).toHaveLength(1);
  });

  it('of a menu or of choices are none', () => {
    expect(
      everyListing(bodyOf('<nav><p><a>A</a><b>1</b></p><p><a>B</a><b>2</b></p><p><a>C</a><b>3</b></p></nav>')),
    ).toEqual([]);
  });
});
