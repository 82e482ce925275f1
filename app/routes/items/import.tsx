import { Link, redirect } from 'react-router';
import { columnsOf, readSheet, type SheetLine } from '#core/items/sheet';
import { editItems, holdItems, itemsOf, listChannels, listItems, type ItemNow } from '#server/db/items';
import { inTransaction } from '#server/db/pool';
import { readForm, writtenIn } from '../../form.server';
import { ImportForm } from '../../parts/bulk/import-form';
import { notTried, triedOf, type Tried } from '../../parts/bulk/tried';
import { services } from '../../services.server';
import { asks } from '../../session.server';
import { PageHead } from '../../ui/page';
import { useReader } from '../shell/reader';
import type { Route } from './+types/import';

export const meta: Route.MetaFunction = () => [{ title: 'Import items · Shrike' }];

export async function loader({ context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'item' });
  const channels = await listChannels(services().pool);
  return { heads: columnsOf(channels.map(({ name }) => name)).map(({ head }) => head) };
}

const MOST_ITEMS = 50_000;
const MOST_EDITS = 10_000;
const MOST_BYTES = 20_000_000;

export async function action({ request, context }: Route.ActionArgs): Promise<Tried | Response> {
  const person = asks(context, 'make', { kind: 'item' });
  const form = await readForm(request, MOST_BYTES);
  const text = writtenIn(form, 'text');
  const { pool, clock } = services();
  const channels = (await listChannels(pool)).map(({ name }) => name);
  const known = await listItems(pool, { words: '', after: '', most: MOST_ITEMS });
  const read = readSheet(text, known, channels, person.locale);
  if (!read.ok) return notTried(text, read.error);
  const lines = read.value.map((line) => ({ ...line, name: line.reference }));
  if (form.get('intent') !== 'do') return triedOf(text, lines);
  const edits = editsOf(read.value, known);
  if (edits.length > MOST_EDITS)
    return triedOf(text, lines, `At most ${MOST_EDITS.toLocaleString(person.locale)} items are changed at once: split the file.`);
  const done = await inTransaction(pool, async (db) => {
    await holdItems(db);
    const held = await itemsOf(db, edits.flatMap(({ id }) => id ?? [])); // prettier-ignore
    // Somebody changed one of them since it was looked through: what it would do is shown anew.
    if (held.some((item) => JSON.stringify(item) !== JSON.stringify(known.find(({ id }) => id === item.id)))) return false;
    await editItems(db, edits, person.zone, { person: person.id, at: clock() });
    return true;
  });
  return done ? redirect('/items') : triedOf(text, lines, 'Somebody changed one of these items meanwhile: look through it again.');
}

function editsOf(lines: SheetLine[], known: ItemNow[]) {
  const byReference = new Map(known.map((item) => [item.reference.toLowerCase(), item]));
  return lines.flatMap(({ does, item, reference }) => {
    if (item === null || does === 'nothing') return [];
    const before = byReference.get(reference.toLowerCase()) ?? null;
    return [{ id: before?.id ?? null, before, after: item }];
  });
}

export default function ImportItems({ loaderData, actionData }: Route.ComponentProps) {
  const { locale } = useReader();
  return (
    <>
      <PageHead>
        <nav aria-label="Where this is" className="text-second">
          <Link className="link" to="/items">
            Items
          </Link>{' '}
          / <h1 className="inline">import</h1>
        </nav>
      </PageHead>
      <ImportForm head="Reference" accept=".csv,text/csv,text/plain" tried={actionData} locale={locale}>
        <p>
          A CSV file with these columns, of which only the first is needed: <span className="text-ink">{loaderData.heads.join(', ')}</span>. Items are
          known by their reference. A column that is left out stays as it is; an empty cell empties. A minimum that does not always hold says when:{' '}
          <span className="text-ink">22.00 GBP 2026-11-20/2026-11-30</span>, several apart by a semicolon.
        </p>
      </ImportForm>
    </>
  );
}
