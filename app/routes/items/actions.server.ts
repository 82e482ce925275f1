import type { ItemId, RecordId } from '#core/id';
import { blankItem, cellText, withCell, type Cell, type Item } from '#core/items/item';
import { columnsOf } from '#core/items/sheet';
import {
  editItems,
  holdItems,
  itemsCalled,
  itemsOf,
  joinRecords,
  listChannels,
  undoEdits,
  type ItemEdit,
} from '#server/db/item/items';
import { inTransaction, inTransactionIfOk } from '#server/db/base/pool';
import type { Person } from '#server/db/person/people';
import { textIn } from '../../form.server';
import { readId, readLongId, readNumber } from '../../ids.server';
import { services } from '../../services.server';

/** What became of an edit: what was done, in words, with the number by which it is undone; or why it was not. */
export interface EditAnswer {
  said: string | null;
  problem: string | null;
  batch: number | null;
}

const problem = (sentence: string): EditAnswer => ({ said: null, problem: sentence, batch: null });
const GONE = 'This item is gone. Load the page again to see what there is.';
const TAKEN = 'Another item has this reference: each has its own.';

/** Does what a form asks of items: sets one cell, adds one, takes one away, or undoes what was done. */
export async function actOnItems(form: FormData, person: Person): Promise<EditAnswer> {
  switch (textIn(form, 'intent')) {
    case 'cell':
      return setCell(form, person);
    case 'add':
      return addItem(textIn(form, 'reference'), person);
    case 'end':
      return endItem(readId<ItemId>(form.get('item')), person);
    case 'join':
      return join(form, person);
    case 'undo':
      return undo(readNumber(form.get('batch')), person);
    default:
      return problem('Say what is to be done.');
  }
}

const editing = ({ id }: Person) => ({ person: id, at: services().clock() });

/** One transaction for an edit; a reference that another item took meanwhile is a sentence. */
async function keep(edit: ItemEdit, person: Person, said: string): Promise<EditAnswer> {
  const { pool } = services();
  const batch = await inTransaction(pool, async (db) => {
    await holdItems(db);
    const taken = edit.after === null ? [] : await itemsCalled(db, [edit.after.reference]);
    if (taken.some(({ id }) => id !== edit.id)) return 'taken' as const;
    if (edit.id !== null && (await isOtherwise(db, edit))) return 'otherwise' as const;
    return editItems(db, [edit], person.zone, editing(person));
  });
  if (batch === 'taken') return problem(TAKEN);
  if (batch === 'otherwise') return problem('Somebody changed this item meanwhile. Load the page again to see how.');
  return { said, problem: null, batch };
}

async function isOtherwise(db: Parameters<typeof itemsOf>[0], { id, before }: ItemEdit): Promise<boolean> {
  const [present] = id === null ? [] : await itemsOf(db, [id]);
  if (present === undefined || before === null) return true;
  return columnsOf(Object.keys({ ...before.listings, ...present.listings })).some(
    ({ cell }) => cellText(before, cell) !== cellText(present, cell),
  );
}

async function setCell(form: FormData, person: Person): Promise<EditAnswer> {
  const { pool } = services();
  const [head, text, was] = [textIn(form, 'head'), textIn(form, 'text'), textIn(form, 'was')];
  const channels = (await listChannels(pool)).map(({ name }) => name);
  const cell = columnsOf(channels).find((column) => column.head === head)?.cell;
  const item = await findItem(readId<ItemId>(form.get('item')));
  if (item === null) return problem(GONE);
  if (cell === undefined) return problem('There is no such column.');
  if (cellText(item, cell) !== was)
    return problem(`Somebody made it “${cellText(item, cell)}” meanwhile. Load the page again to see.`);
  const next = withCell(item, cell, text, person.locale);
  if (!next.ok) return problem(next.error);
  if (cellText(next.value, cell) === was) return { said: null, problem: null, batch: null };
  return keep({ id: item.id, before: item, after: next.value }, person, saidOf(item, head, cell, next.value));
}

const saidOf = (item: Item, head: string, cell: Cell, next: Item): string =>
  `${item.reference}: ${head} ${cellText(item, cell) || 'nothing'} → ${cellText(next, cell) || 'nothing'}`;

async function findItem(id: ItemId) {
  return (await itemsOf(services().pool, [id]))[0] ?? null;
}

async function addItem(reference: string, person: Person): Promise<EditAnswer> {
  const item = withCell(blankItem(''), { of: 'reference' }, reference, person.locale);
  return item.ok
    ? keep({ id: null, before: null, after: item.value }, person, `${item.value.reference} added`)
    : problem(item.error);
}

async function endItem(id: ItemId, person: Person): Promise<EditAnswer> {
  const item = await findItem(id);
  return item === null ? problem(GONE) : keep({ id, before: item, after: null }, person, `${item.reference} removed`);
}

const MOST_JOINED = 1_000;

/** Joins records to items that go by references, each to its own; an empty one takes a record from its item. */
async function join(form: FormData, person: Person): Promise<EditAnswer> {
  const { pool } = services();
  const records = form.getAll('record').map((id) => readLongId<RecordId>(id));
  const references = form.getAll('reference').map((text) => (typeof text === 'string' ? text.trim() : ''));
  if (records.length === 0 || records.length !== references.length)
    return problem('Say which record is an offer of which item.');
  if (records.length > MOST_JOINED) return problem(`At most ${MOST_JOINED} records are joined at once.`);
  const wanted = [...new Set(references.filter((text) => text !== ''))];
  const items = new Map((await itemsCalled(pool, wanted)).map((item) => [item.reference.toLowerCase(), item]));
  const missing = wanted.find((text) => !items.has(text.toLowerCase()));
  if (missing !== undefined) return problem(`No item has the reference “${missing.slice(0, 60)}”.`);
  const joinings = records.map((record, at) => ({
    record,
    item: items.get((references[at] ?? '').toLowerCase())?.id ?? null,
  }));
  const batch = await inTransaction(pool, (db) => joinRecords(db, joinings, editing(person)));
  if (batch === null) return { said: null, problem: null, batch: null };
  const [one] = references;
  const said =
    records.length > 1
      ? `${records.length} records joined to their items`
      : one === ''
        ? 'Taken from its item'
        : `Joined to ${one}`;
  return { said, problem: null, batch };
}

const NOT_UNDONE = {
  'undone already': 'This was undone already, or somebody else did it.',
  'changed since': 'It was changed since, and is not undone.',
  'reference taken': TAKEN,
};

async function undo(batch: number, person: Person): Promise<EditAnswer> {
  const undone = await inTransactionIfOk(services().pool, (db) => undoEdits(db, batch, person.zone, editing(person)));
  return undone.ok ? { said: 'Undone', problem: null, batch: undone.value } : problem(NOT_UNDONE[undone.error]);
}
