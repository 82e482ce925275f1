import type { ItemId, RecordId, SiteId, WatchId } from '#core/id';
import { gtinKey, isGtin, type Item } from '#core/items/item';
import { differences } from '#core/items/sheet';
import type { Money } from '#core/value/value';
import { fail, ok, type Result } from '#core/result';
import { noteEdits, takeBatch, type Edited, type Editing } from '../watch/edits';
import { moment, type Db } from '../base/pool';

/** A place where we sell. */
export interface Channel {
  id: SiteId;
  name: string;
}

/** An item that is kept, with how many records are offers of it. */
export interface ItemNow extends Item {
  id: ItemId;
  offers: number;
}

/** Our channels, our own shop first. */
export async function listChannels(db: Db): Promise<Channel[]> {
  const { rows } = await db.query<Channel>(
    `SELECT id, name FROM site WHERE kind IN ('own', 'channel') ORDER BY kind = 'channel', id LIMIT ${MOST_CHANNELS}`,
  );
  return rows;
}

const MOST_CHANNELS = 12;

const LISTINGS = `
  SELECT jsonb_object_agg(s.name, jsonb_build_object('listing', l.listing, 'variant', l.variant, 'price', l.price))
  FROM listing l JOIN site s ON s.id = l.site_id WHERE l.item_id = i.id`;

const ITEMS = `
SELECT i.id, i.reference, i.name, i.brand, i.category, i.supplier, i.gtin, i.minimums,
  coalesce((${LISTINGS}), '{}') AS listings,
  (SELECT count(*)::int FROM record r WHERE r.item_id = i.id AND r.gone_since IS NULL) AS offers
FROM item i WHERE i.ended_at IS NULL`;

const HOLDS =
  `AND strpos(lower(concat_ws(' ', i.reference, i.name, i.brand, i.category, ` + 'i.supplier, i.gtin)), lower($1)) > 0';

/** Items whose properties hold some words, by reference; those after one, at most so many. */
export async function listItems(
  db: Db,
  { words, after, most }: { words: string; after: string; most: number },
): Promise<ItemNow[]> {
  const { rows } = await db.query<ItemNow>(
    `${ITEMS} ${HOLDS} AND lower(i.reference) > lower($2) ORDER BY lower(i.reference) LIMIT $3`,
    [words, after, most],
  );
  return rows;
}

/** How many items there are. */
export async function countItems(db: Db): Promise<number> {
  const { rows } = await db.query<{ count: number }>('SELECT count(*) AS count FROM item WHERE ended_at IS NULL');
  return rows[0]?.count ?? 0;
}

/** Whether there was an item, though it was taken away. */
export async function wasItem(db: Db, id: ItemId): Promise<boolean> {
  return (await db.query('SELECT FROM item WHERE id = $1', [id])).rows.length > 0;
}

/** Some items, by their numbers. */
export async function itemsOf(db: Db, ids: readonly ItemId[]): Promise<ItemNow[]> {
  if (ids.length === 0) return [];
  return (await db.query<ItemNow>(`${ITEMS} AND i.id = ANY($1) ORDER BY lower(i.reference)`, [ids])).rows;
}

/** Items by their references, whatever the case of these. */
export async function itemsCalled(db: Db, references: readonly string[]): Promise<ItemNow[]> {
  if (references.length === 0) return [];
  const { rows } = await db.query<ItemNow>(`${ITEMS} AND lower(i.reference) = ANY($1)`, [
    references.map((each) => each.toLowerCase()),
  ]);
  return rows;
}

/** Items that go by one of some texts: by their reference, their GTIN, or what a channel calls them. */
export async function itemsSaying(db: Db, texts: readonly string[]): Promise<ItemNow[]> {
  if (texts.length === 0) return [];
  const { rows } = await db.query<ItemNow>(
    `${ITEMS} AND (lower(i.reference) = ANY($1) OR (i.gtin <> '' AND lpad(i.gtin, 14, '0') = ANY($2))
       OR i.id IN (SELECT l.item_id FROM listing l WHERE l.listing <> '' AND lower(l.listing) = ANY($1)))`,
    [texts.map((text) => text.toLowerCase()), texts.filter(isGtin).map(gtinKey)],
  );
  return rows;
}

/**
 * Holds all items until the end: whoever edits them does so one after another, and what is checked here is so when it
 * is written.
 */
export async function holdItems(db: Db): Promise<void> {
  await db.query(`SELECT pg_advisory_xact_lock(hashtext('shrike items'))`);
}

/** What is to become of an item: it is added, changed, or ended. */
export interface ItemEdit {
  id: ItemId | null;
  before: Item | null;
  after: Item | null;
}

const itemIn = ({ reference, name, brand, category, supplier, gtin, minimums, listings }: Item): Item => ({
  reference,
  name,
  brand,
  category,
  supplier,
  gtin,
  minimums,
  listings,
});

/**
 * Adds, changes and ends items at one go, all or none; watches whose records are offers of them are judged anew at
 * their next run. Days of minimums are those of a zone. Returns the number by which it is undone.
 */
export async function editItems(
  db: Db,
  edits: readonly ItemEdit[],
  zone: string,
  editing: Editing,
): Promise<number | null> {
  const at = moment(editing.at);
  await endItems(
    db,
    edits.flatMap(({ id, after }) => (after === null && id !== null ? id : [])),
    at,
  );
  const changed = edits.flatMap(({ id, after }) => (after !== null && id !== null ? { ...after, id } : []));
  await changeItems(db, changed, zone);
  const made = await addItems(
    db,
    edits.flatMap(({ id, after }) => (after !== null && id === null ? after : [])),
    zone,
    at,
  );
  const kept = edits.map(({ id, after }) => id ?? (made.get(after?.reference ?? '') as ItemId));
  await writeListings(
    db,
    edits.flatMap(({ after }, n) => (after === null ? [] : { id: kept[n] as ItemId, listings: after.listings })),
  );
  await judgeAnew(db, kept);
  return noteEdits(
    db,
    edits.map((edit, n) => notedOf(edit, kept[n] as ItemId)),
    editing,
  );
}

function notedOf({ before, after }: ItemEdit, thing: ItemId): Edited {
  const [was, is] = [before === null ? null : itemIn(before), after === null ? null : itemIn(after)];
  const what = was === null ? ['added'] : is === null ? ['removed'] : differences(was, is);
  return { kind: 'item', thing, name: (after ?? before)?.reference ?? '', what, before: was, after: is };
}

async function endItems(db: Db, ids: readonly ItemId[], at: string): Promise<void> {
  if (ids.length > 0) await db.query('UPDATE item SET ended_at = $2 WHERE id = ANY($1)', [ids, at]);
}

/** The columns that are said of an item, as rows of JSON bear them. */
const SAID = `jsonb_to_recordset($1) AS n(id int, reference text, name text, brand text, category text, supplier text,
  gtin text, minimums jsonb)`;

/** A reference that goes from one item to another is taken from both before either has it. */
async function changeItems(db: Db, items: readonly (Item & { id: ItemId })[], zone: string): Promise<void> {
  if (items.length === 0) return;
  const said = JSON.stringify(items);
  await db.query(
    `UPDATE item i SET reference = chr(1) || i.id FROM ${SAID}
      WHERE i.id = n.id AND lower(i.reference) <> lower(n.reference)`,
    [said],
  );
  await db.query(
    `UPDATE item i
      SET reference = n.reference, name = n.name, brand = n.brand, category = n.category, supplier = n.supplier,
        gtin = n.gtin, minimums = n.minimums, zone = $2, ended_at = NULL
      FROM ${SAID} WHERE i.id = n.id`,
    [said, zone],
  );
}

/** The new ones by their references. */
async function addItems(db: Db, items: readonly Item[], zone: string, at: string): Promise<Map<string, ItemId>> {
  if (items.length === 0) return new Map();
  const { rows } = await db.query<{ id: ItemId; reference: string }>(
    `INSERT INTO item (reference, name, brand, category, supplier, gtin, minimums, zone, made_at)
      SELECT n.reference, n.name, n.brand, n.category, n.supplier, n.gtin, n.minimums, $2, $3 FROM ${SAID}
      RETURNING id, reference`,
    [JSON.stringify(items), zone, at],
  );
  return new Map(rows.map(({ id, reference }) => [reference, id]));
}

/**
 * By the name of the site, whether that is a channel still or not: what an item was called there is not lost by another
 * edit.
 */
async function writeListings(db: Db, items: readonly (Pick<Item, 'listings'> & { id: ItemId })[]): Promise<void> {
  if (items.length === 0) return;
  const rows = items.flatMap(({ id, listings }) =>
    Object.entries(listings).map(([channel, each]) => ({ item: id, channel, ...each })),
  );
  await db.query('DELETE FROM listing WHERE item_id = ANY($1)', [items.map(({ id }) => id)]);
  if (rows.length === 0) return;
  await db.query(
    `INSERT INTO listing (item_id, site_id, listing, variant, price)
     SELECT n.item, s.id, n.listing, n.variant, nullif(n.price, 'null')
     FROM jsonb_to_recordset($1) AS n(item int, channel text, listing text, variant text, price jsonb)
     JOIN site s ON s.name = n.channel`,
    [JSON.stringify(rows)],
  );
}

/** Watches whose records are offers of items are read at their next run, whatever it brings. */
async function judgeAnew(db: Db, items: readonly ItemId[]): Promise<void> {
  await db.query(
    'UPDATE watch SET settled = false WHERE settled AND id IN (SELECT watch_id FROM record WHERE item_id = ANY($1))',
    [items],
  );
}

/** Which record is to be an offer of which item; of none where that is null. */
export interface Joining {
  record: RecordId;
  item: ItemId | null;
}

/** Joins records to items, or takes them from those. Returns the number by which that is undone. */
export async function joinRecords(db: Db, joinings: readonly Joining[], editing: Editing): Promise<number | null> {
  // Of a record that is named twice the last holds.
  const asked = [...new Map(joinings.map(({ record, item }) => [record, item]))];
  const { rows } = await db.query<JoinedRecord>(JOINED, [
    asked.map(([record]) => record),
    asked.map(([, item]) => item),
  ]);
  const moved = rows.filter(({ item, is, before }) => before !== item && (item === null || is !== null));
  if (moved.length === 0) return null;
  await db.query(
    `UPDATE record r SET item_id = n.item, joined_by = $3, joined_at = $4
      FROM unnest($1::bigint[], $2::int[]) AS n(record, item) WHERE r.id = n.record`,
    [moved.map(({ record }) => record), moved.map(({ item }) => item), editing.person, moment(editing.at)],
  );
  await db.query('UPDATE watch SET settled = false WHERE id = ANY($1) AND settled', [moved.map(({ watch }) => watch)]);
  return noteEdits(db, moved.map(joinedAs), editing);
}

interface JoinedRecord extends Joining {
  name: string;
  watch: WatchId;
  before: ItemId | null;
  was: string | null;
  is: string | null;
}

const JOINED = `
SELECT r.id AS record, n.item, coalesce(r.name, r.identity) AS name, r.item_id AS before, r.watch_id AS watch,
  b.reference AS was, a.reference AS is
FROM unnest($1::bigint[], $2::int[]) AS n(record, item)
JOIN record r ON r.id = n.record
LEFT JOIN item b ON b.id = r.item_id
LEFT JOIN item a ON a.id = n.item AND a.ended_at IS NULL
ORDER BY r.id FOR UPDATE OF r`;

const joinedAs = ({ record, item, name, before, was, is }: JoinedRecord): Edited => ({
  kind: 'offer',
  thing: record,
  name,
  what: [is === null ? `no longer an offer of ${was ?? 'an item'}` : `an offer of ${is}`],
  before: { item: before },
  after: { item },
});

/** An offer of an item as it stands. */
export interface OfferNow {
  record: RecordId;
  watch: WatchId;
  name: string;
  site: string;
  kind: 'own' | 'rival' | 'channel' | null;
  gone: boolean;
  price: Money | null;
  lastGoodAt: number | null;
}

/** The offers of an item: of each the first money that it reads as its price. */
export async function offersOf(db: Db, item: ItemId, most: number): Promise<OfferNow[]> {
  const { rows } = await db.query<OfferNow>(
    `SELECT r.id AS record, r.watch_id AS watch, coalesce(r.name, r.identity) AS name, t.name AS site, t.kind,
      r.gone_since IS NOT NULL AS gone,
       s.value AS price, CASE WHEN s.problem IS NULL THEN greatest(s.last_good_at, w.last_good_at) ELSE s.last_good_at
         END AS "lastGoodAt"
     FROM record r
     JOIN watch w ON w.id = r.watch_id AND w.state <> 'deleted'
     JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
     JOIN source c ON c.id = w.source_id
     JOIN site t ON t.id = c.site_id
     LEFT JOIN LATERAL (
       SELECT s.* FROM series s
       JOIN LATERAL jsonb_array_elements(v.definition->'fields') WITH ORDINALITY f(field, at) ON
         f.field->>'key' = s.field
       WHERE s.record_id = r.id AND f.field->>'role' = 'price' AND s.value->>'kind' = 'money' ORDER BY f.at LIMIT 1
     ) s ON true
     WHERE r.item_id = $1 ORDER BY t.kind IS DISTINCT FROM 'own', t.kind IS DISTINCT FROM 'channel', t.name, r.id
     LIMIT $2`,
    [item, most],
  );
  return rows;
}

/** Why something was not undone. */
type UndoProblem = 'undone already' | 'changed since' | 'reference taken';

/**
 * Undoes what was done to items or offers at one go, if nothing of it was changed since. Returns the number by which
 * that is undone in turn.
 */
export async function undoEdits(
  db: Db,
  batch: number,
  zone: string,
  editing: Editing,
): Promise<Result<number | null, UndoProblem>> {
  await holdItems(db);
  const edits = await takeBatch(db, batch, editing.person, ['item', 'offer']);
  if (edits === null) return fail('undone already');
  const of = (kind: 'item' | 'offer') => edits.filter((edit) => edit.kind === kind);
  return of('offer').length > 0 ? undoJoinings(db, of('offer'), editing) : undoItems(db, of('item'), zone, editing);
}

async function undoItems(
  db: Db,
  edits: readonly Edited[],
  zone: string,
  editing: Editing,
): Promise<Result<number | null, UndoProblem>> {
  const present = new Map(
    (
      await itemsOf(
        db,
        edits.map(({ thing }) => thing as ItemId),
      )
    ).map((item) => [item.id as number, item]),
  );
  const isAsLeft = ({ thing, after }: Edited) => {
    const item = present.get(thing);
    return after === null ? item === undefined : item !== undefined && differences(after as Item, item).length === 0;
  };
  if (!edits.every(isAsLeft)) return fail('changed since');
  const references = edits.flatMap(({ before }) => (before === null ? [] : (before as Item).reference));
  const taken = (await itemsCalled(db, references)).some(({ id }) => !edits.some(({ thing }) => thing === id));
  if (taken) return fail('reference taken');
  const back = edits.map(({ thing, before, after }) => ({
    id: thing as ItemId,
    before: after as Item | null,
    after: before as Item | null,
  }));
  return ok(await editItems(db, back, zone, editing));
}

async function undoJoinings(
  db: Db,
  edits: readonly Edited[],
  editing: Editing,
): Promise<Result<number | null, UndoProblem>> {
  const joined = (side: unknown) => (side as { item: ItemId | null }).item;
  const { rows } = await db.query<{ id: number; item: ItemId | null }>(
    'SELECT id, item_id AS item FROM record WHERE id = ANY($1) ORDER BY id FOR UPDATE',
    [edits.map(({ thing }) => thing)],
  );
  const present = new Map(rows.map(({ id, item }) => [id, item]));
  if (!edits.every(({ thing, after }) => present.get(thing) === joined(after))) return fail('changed since');
  return ok(
    await joinRecords(
      db,
      edits.map(({ thing, before }) => ({ record: thing as RecordId, item: joined(before) })),
      editing,
    ),
  );
}

/** What our channels ask for items where a watch reads it, by the name of the channel. */
export async function readPrices(
  db: Db,
  items: readonly ItemId[],
): Promise<{ item: ItemId; site: string; price: Money }[]> {
  if (items.length === 0) return [];
  const { rows } = await db.query<{ item: ItemId; site: string; price: Money }>(
    `SELECT DISTINCT ON (r.item_id, t.name) r.item_id AS item, t.name AS site, s.value AS price
     FROM record r
     JOIN watch w ON w.id = r.watch_id AND w.state <> 'deleted'
     JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
     JOIN source c ON c.id = w.source_id
     JOIN site t ON t.id = c.site_id AND t.kind IN ('own', 'channel')
     JOIN series s ON s.record_id = r.id AND s.value->>'kind' = 'money'
     JOIN LATERAL jsonb_array_elements(v.definition->'fields') f ON f->>'key' = s.field AND f->>'role' = 'price'
     WHERE r.item_id = ANY($1) AND r.gone_since IS NULL
     ORDER BY r.item_id, t.name, r.id`,
    [items],
  );
  return rows;
}
