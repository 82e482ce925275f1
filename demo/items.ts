import type { ItemId, PersonId, RecordId } from '#core/id';
import { blankItem, type Item } from '#core/items/item';
import type { Clause } from '#core/judge/clause';
import type { RuleDefinition } from '#core/judge/rule';
import type { Decimal } from '#core/value/decimal';
import { money } from '#core/value/parse';
import { HOUR, type Instant } from '#core/when/interval';
import { editItems, joinRecords, listItems } from '#server/db/item/items';
import { inTransaction, type Pool } from '#server/db/base/pool';
import { reference } from '#standins/shops/wholesale';
import { ITEMS, type Item as Sold } from '#standins/world/items';

// What Heatherlow sells, and which records of its watches are offers of it.

/** Those that may not be advertised below a price, as a share of what they usually cost. */
const MINIMUMS: Record<string, number> = {
  'copper-smoker-large': 0.92,
  'copper-smoker-small': 0.9,
  'cedar-hive-six': 0.93,
  'extractor-four': 0.95,
  'ventilated-suit-m': 0.9,
  'jars-340-72': 0.96,
};
const BRANDS: Record<Sold['kind'], string> = {
  Hives: 'Ling & Bell',
  Clothing: 'Fairweather',
  Smokers: 'Ling & Bell',
  Extraction: 'Vennor',
  Jars: 'Tarn Glass',
  'Wax and feed': 'Heatherlow',
};
const SUPPLIERS: Record<Sold['kind'], string> = {
  Hives: 'Marlbrook Joinery',
  Clothing: 'Fairweather',
  Smokers: 'Ashdown Metal',
  Extraction: 'Ashdown Metal',
  Jars: 'Tarn Glass',
  'Wax and feed': 'Penrose Wax',
};

const TRADE_SHARE = 0.78;
const WHOLESALE = 'Wholesale';

/** Made-up GTINs of 13 digits, each with its check digit. */
function gtinOf(at: number): string {
  const digits = `5099999${String(10_000 + at)}`;
  const sum = [...digits]
    .reverse()
    .reduce((total, digit, place) => total + Number(digit) * (place % 2 === 0 ? 3 : 1), 0);
  return digits + String((10 - (sum % 10)) % 10);
}

const pounds = (pence: number) => money((pence / 100).toFixed(2), 'GBP');

function itemOf(sold: Sold, at: number): Item {
  const share = MINIMUMS[sold.slug];
  const always =
    share === undefined ? [] : [{ price: pounds(Math.round((sold.base * share) / 5) * 5), from: null, until: null }];
  const trade = {
    listing: `W-${reference(sold).slice(3)}`,
    variant: '',
    price: pounds(Math.round(sold.base * TRADE_SHARE)),
  };
  return {
    ...blankItem(reference(sold)),
    name: sold.name,
    brand: BRANDS[sold.kind],
    category: sold.kind,
    supplier: SUPPLIERS[sold.kind],
    gtin: gtinOf(at),
    minimums: always,
    listings: { [WHOLESALE]: trade },
  };
}

/** Enters the items of Heatherlow. */
export async function enterItems(pool: Pool, owner: PersonId, now: Instant): Promise<void> {
  const edits = ITEMS.map((sold, at) => ({ id: null, before: null, after: itemOf(sold, at) }));
  await inTransaction(pool, (db) => editItems(db, edits, 'Europe/London', { person: owner, at: now }));
}

/**
 * Joins the records that are offers of items: those on an item's own page by its address, the others by what they are
 * called.
 */
export async function joinOffers(pool: Pool, owner: PersonId, now: Instant): Promise<void> {
  const known = new Map(
    (await listItems(pool, { words: '', after: '', most: ITEMS.length })).map(({ id, reference: called }) => [
      called,
      id,
    ]),
  );
  const { rows } = await pool.query<{ record: RecordId; identity: string; name: string | null; address: string }>(
    `SELECT r.id AS record, r.identity, r.name, s.address
      FROM record r
      JOIN watch w ON w.id = r.watch_id
      JOIN source s ON s.id = w.source_id
      WHERE r.item_id IS NULL`,
  );
  const joinings = rows.flatMap(({ record, identity, name, address }) => {
    const sold = ITEMS.find(
      (each) => address.endsWith(`/${each.slug}`) || identity === reference(each) || name === each.name,
    );
    const item: ItemId | undefined = sold === undefined ? undefined : known.get(reference(sold));
    return item === undefined ? [] : [{ record, item }];
  });
  await inTransaction(pool, (db) => joinRecords(db, joinings, { person: owner, at: now }));
}

const asked = { asked: { field: 'price' } };
const nothing = { by: 'percent' as const, percent: '0' as Decimal };

export const BELOW_OURS: RuleDefinition = {
  when: {
    kind: 'against',
    ...asked,
    other: { field: 'price', item: 'ours' },
    is: 'below',
    by: { by: 'percent', percent: '4' as Decimal },
    inclusive: false,
  },
  whenAlreadyMet: 'wait',
  tellsEnd: true,
};

export const UNDER_MINIMUM: RuleDefinition = {
  when: {
    kind: 'against',
    ...asked,
    other: { field: 'price', item: 'minimum' },
    is: 'below',
    by: nothing,
    inclusive: false,
  },
  whenAlreadyMet: 'raise',
  weight: 'high',
  steps: [{ after: 6 * HOUR, audiences: ['marta'] }],
  note: 'Our agreement with the maker: we write to them the same day.',
};

export const CHEAPEST: Clause = { kind: 'place', ...asked, among: 'offers', end: 'lowest', how: 'takes' };
