import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { WatchDefinition } from '../definition';
import { listingsOf } from '../listing/listing';
import { readBody } from '../read';
import { proposeMending } from './mend';
import type { FormerRecord } from './mending';
import { documentOf } from '../../../tests/support/document';

interface Offer {
  ref: string;
  name: string;
  price: string;
  stock: string;
}

const OFFERS: Offer[] = Array.from({ length: 9 }, (_, at) => ({
  ref: `CL-${4100 + at * 17}`,
  name: ['Smoker', 'Hive', 'Suit', 'Veil', 'Frame', 'Feeder', 'Jar', 'Tool', 'Press'][at] ?? '',
  price: `£${(12 + at * 7.35).toFixed(2)}`,
  stock: at % 3 === 0 ? 'Sold out' : 'In stock',
}));

const page = (content: string) => `<html lang="en-GB"><body><h1>All goods</h1>${content}</body></html>`;
const table = (offers: Offer[]) =>
  page(
    `<table><tr><th>Ref.</th><th>Article</th><th>Price</th><th>Stock</th></tr>${offers.map((each) => `<tr><td>${each.ref}</td><td>${each.name}</td><td>${each.price}</td><td>${each.stock}</td></tr>`).join('')}</table>`,
  );
const cards = (offers: Offer[], order: (keyof Offer)[] = ['name', 'price', 'ref', 'stock']) =>
  page(
    '<div ' +
      `class="wall">${offers.map((each) => `<article class="card">${order.map((part) => `<span class="x-${order.indexOf(part)}">${each[part]}</span>`).join('')}</article>`).join('')}</div>`,
  );

const bodyOf = (html: string) => ({ format: 'html', document: documentOf(html) }) as const;

function setUp(): { definition: WatchDefinition; known: FormerRecord[] } {
  const [listing] = listingsOf(bodyOf(table(OFFERS)));
  if (listing === undefined) throw new Error('no listing was found');
  const definition: WatchDefinition = {
    subject: 'All goods',
    records: listing.records,
    identity: listing.identity,
    variant: null,
    chosen: null,
    leftOut: [],
    fields: listing.fields,
    guards: [],
  };
  return { definition, known: recordsIn(table(OFFERS), definition) };
}

/** What a definition reads in a page, as a watch would know it. */
function recordsIn(html: string, definition: WatchDefinition): FormerRecord[] {
  const read = readBody(bodyOf(html), definition, { address: null, latest: () => undefined });
  return (read.ok ? read.value.records : []).map(({ identity, fields }) => ({
    identity,
    fields: Object.fromEntries(
      fields.flatMap(({ field, outcome }) => (outcome.ok ? [[field, outcome.value.value]] : [])),
    ),
  }));
}

const { definition, known } = setUp();
const mend = (html: string) => proposeMending(bodyOf(html), definition, known, null);

describe('mending a listing', () => {
  it('finds nothing to do while it is read, whatever its order and whoever left', () => {
    expect(mend(table(OFFERS))).toBe(null);
    expect(mend(table([...OFFERS].reverse().slice(2)))).toBe(null);
  });

  it('finds the records again in blocks of another kind, and each field by what it was', () => {
    const mending = mend(cards(OFFERS));
    expect(mending?.rows?.said).toMatch(/9 blocks of one kind .*: 9 of the 9 known ones are there/);
    expect(
      mending?.definition === null || mending === null ? null : recordsIn(cards(OFFERS), mending.definition),
    ).toEqual(known);
  });

  it('takes a price that moved in most records for the same field, where its column is called as before', () => {
    const moved = OFFERS.map((each) => ({ ...each, price: `£${(Number(each.price.slice(1)) * 1.08).toFixed(2)}` }));
    const rebuilt = page(
      '<section><table ' +
        `class="new"><thead><tr><th>Price</th><th>Ref.</th><th>Stock</th><th>Article</th></tr></thead><tbody>${moved.map((each) => `<tr><td>${each.price}</td><td>${each.ref}</td><td>${each.stock}</td><td>${each.name}</td></tr>`).join('')}</tbody></table></section>`,
    );
    const mending = mend(rebuilt);
    // The columns are still called what they were: nothing is lost by a table that is only ordered otherwise.
    const read = recordsIn(rebuilt, mending?.definition ?? definition);
    expect(read.map((each) => each.fields.price)).toEqual(
      recordsIn(table(moved), definition).map((each) => each.fields.price),
    );
  });

  it('proposes no price where all of them are other numbers, under another name', () => {
    const others = OFFERS.map((each, at) => ({ ...each, price: `£${(900 - at * 31).toFixed(2)}` }));
    const mending = mend(cards(others));
    expect(mending?.fields.find(({ key }) => key === 'price')?.proposal).toEqual({
      ok: false,
      error: 'nothing like it',
    });
    expect(mending?.definition).toBe(null);
  });

  it('proposes nothing on a page of other goods', () => {
    const others = OFFERS.map((each, at) => ({ ...each, ref: `ZZ-${at}`, name: `Other ${at}` }));
    expect(mend(cards(others))?.definition ?? null).toBe(null);
  });

  it('finds nothing to do while she changes what tells the records apart, or before any was known', () => {
    expect(proposeMending(bodyOf(table(OFFERS)), { ...definition, identity: ['article'] }, known, null)).toBe(null);
    expect(proposeMending(bodyOf(table(OFFERS)), definition, [], null)).toBe(null);
  });

  it('waits where a consent wall stands before it', () => {
    expect(mend('<h1>Before you go on</h1><p>We use cookies.</p><button>Accept all</button>')).toBe(null);
  });

  it('never reads a field wrong by what it proposes, however the parts are shuffled and the prices moved', () => {
    const shuffled = fc.shuffledSubarray(['name', 'price', 'ref', 'stock'] as (keyof Offer)[], { minLength: 4 });
    const factor = fc.double({ min: 0.5, max: 2, noNaN: true });
    const moves = fc.array(fc.oneof(fc.constant(1), factor), { minLength: OFFERS.length, maxLength: OFFERS.length });
    fc.assert(
      fc.property(shuffled, moves, fc.nat(4), (order, by, gone) => {
        const now = OFFERS.slice(gone).map((each, at) => ({
          ...each,
          price: `£${(Number(each.price.slice(1)) * (by[at] ?? 1)).toFixed(2)}`,
        }));
        const mended = mend(cards(now, order))?.definition ?? null;
        if (mended !== null) expect(recordsIn(cards(now, order), mended)).toEqual(recordsIn(table(now), definition));
      }),
    );
  });
});
