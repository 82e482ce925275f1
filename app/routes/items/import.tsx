import { useState } from 'react';
import { Form, Link, redirect, useNavigation } from 'react-router';
import { columnsOf, readSheet, type SheetLine } from '#core/items/sheet';
import { editItems, heldItems, listChannels, listItems, type ItemNow } from '#server/db/items';
import { inTransaction } from '#server/db/pool';
import { readForm, writtenIn } from '../../form.server';
import { services } from '../../services.server';
import { asks } from '../../session.server';
import { Button } from '../../ui/button';
import { PageHead, Section } from '../../ui/page';
import { Table, type Column } from '../../ui/table';
import { useReader } from '../shell/reader';
import type { Route } from './+types/import';

export const meta: Route.MetaFunction = () => [{ title: 'Import items · Shrike' }];

export async function loader({ context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'item' });
  const channels = await listChannels(services().pool);
  return { heads: columnsOf(channels.map(({ name }) => name)).map(({ head }) => head) };
}

const MOST_ITEMS = 50_000;
const MOST_SHOWN = 500;

interface Tried {
  text: string;
  problem: string | null;
  counts: Record<SheetLine['does'], number>;
  lines: Omit<SheetLine, 'item'>[];
  more: number;
}

const NOTHING = { adds: 0, changes: 0, nothing: 0, refused: 0 };

export async function action({ request, context }: Route.ActionArgs): Promise<Tried | Response> {
  const person = asks(context, 'make', { kind: 'item' });
  const form = await readForm(request);
  const text = writtenIn(form, 'text');
  const { pool, clock } = services();
  const channels = (await listChannels(pool)).map(({ name }) => name);
  const known = await listItems(pool, { words: '', after: '', most: MOST_ITEMS });
  const read = readSheet(text, known, channels, person.locale);
  if (!read.ok) return { text, problem: read.error, counts: NOTHING, lines: [], more: 0 };
  if (form.get('intent') !== 'do') return triedOf(text, read.value);
  const edits = editsOf(read.value, known);
  const done = await inTransaction(pool, async (db) => {
    const held = await heldItems(db, edits.flatMap(({ id }) => id ?? [])); // prettier-ignore
    // Somebody changed one of them since it was looked through: what it would do is shown anew.
    if (held.some((item) => JSON.stringify(item) !== JSON.stringify(known.find(({ id }) => id === item.id)))) return false;
    await editItems(db, edits, person.zone, { person: person.id, at: clock() });
    return true;
  });
  return done ? redirect('/items') : { ...triedOf(text, read.value), problem: 'Somebody changed one of these items meanwhile: look through it again.' };
}

function editsOf(lines: SheetLine[], known: ItemNow[]) {
  const byReference = new Map(known.map((item) => [item.reference.toLowerCase(), item]));
  return lines.flatMap(({ does, item, reference }) => {
    if (item === null || does === 'nothing') return [];
    const before = byReference.get(reference.toLowerCase()) ?? null;
    return [{ id: before?.id ?? null, before, after: item }];
  });
}

function triedOf(text: string, all: SheetLine[]): Tried {
  const counts = { ...NOTHING };
  for (const { does } of all) counts[does] += 1;
  // What is refused comes first: nothing of it may go unseen.
  const order = ['refused', 'changes', 'adds', 'nothing'];
  const sorted = [...all].sort((one, other) => order.indexOf(one.does) - order.indexOf(other.does) || one.line - other.line);
  const lines = sorted.slice(0, MOST_SHOWN).map(({ line, reference, does, said }) => ({ line, reference, does, said }));
  return { text, problem: null, counts, lines, more: all.length - lines.length };
}

export default function ImportItems({ loaderData, actionData }: Route.ComponentProps) {
  const [text, setText] = useState(actionData?.text ?? '');
  const [name, setName] = useState<string | null>(null);
  const busy = useNavigation().state !== 'idle';
  const tried = actionData?.text === text ? actionData : null;
  const takes = (tried?.counts.adds ?? 0) + (tried?.counts.changes ?? 0);
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
      <div className="max-w-3xl pt-3">
        <p className="text-second">
          A CSV file with these columns, of which only the first is needed: <span className="text-ink">{loaderData.heads.join(', ')}</span>. Items are
          known by their reference. A column that is left out stays as it is; an empty cell empties. A minimum that does not always hold says when:{' '}
          <span className="text-ink">22.00 GBP 2026-11-20/2026-11-30</span>, several apart by a semicolon.
        </p>
        <Form method="post" className="mt-4">
          <label className="block text-glance text-third">
            A file
            <input
              type="file"
              accept=".csv,text/csv,text/plain"
              className="mt-1 block text-read text-ink"
              onChange={(event) => {
                const file = event.target.files?.[0];
                if (file === undefined) return;
                setName(file.name);
                void file.text().then(setText);
              }}
            />
          </label>
          <label className="mt-3 block text-glance text-third">
            {name === null ? 'Or its text' : `What ${name} says`}
            <textarea
              name="text"
              rows={7}
              spellCheck={false}
              value={text}
              className="mt-1 block w-full border border-rule bg-transparent p-2 font-mono text-glance text-ink focus:border-ink focus:outline-none"
              onChange={(event) => setText(event.target.value)}
            />
          </label>
          <p className="mt-3 flex items-center gap-3">
            <Button type="submit" name="intent" value="try" weight={takes > 0 ? 'plain' : 'strong'} disabled={text.trim() === '' || busy}>
              See what it would do
            </Button>
            {takes > 0 ? (
              <Button type="submit" name="intent" value="do" weight="strong" disabled={busy}>
                {doWords(tried)}
              </Button>
            ) : null}
          </p>
        </Form>
        {tried?.problem == null ? null : (
          <p role="alert" className="mt-3 font-medium text-chestnut">
            {tried.problem}
          </p>
        )}
      </div>
      {tried === null || tried.lines.length === 0 ? null : <Lines tried={tried} />}
    </>
  );
}

function doWords(tried: Tried | null): string {
  const { adds = 0, changes = 0 } = tried?.counts ?? {};
  return [adds === 0 ? '' : `Add ${adds}`, changes === 0 ? '' : `${adds === 0 ? 'Change' : 'change'} ${changes}`].filter((part) => part !== '').join(', ');
}

const DOES: Record<SheetLine['does'], string> = { adds: 'added', changes: 'changed', nothing: 'as it is', refused: 'refused' };

const COLUMNS: Column<Tried['lines'][number]>[] = [
  { head: 'Line', side: 'right', className: 'text-third', cell: ({ line }) => line },
  { head: 'Reference', className: 'font-medium', cell: ({ reference }) => reference || '–' },
  { head: 'Would be', className: ({ does }) => (does === 'refused' ? 'font-medium text-chestnut' : ''), cell: ({ does }) => DOES[does] },
  { head: 'What', cell: ({ said }) => said.join('; ') },
];

function Lines({ tried }: { tried: Tried }) {
  const { locale } = useReader();
  const { counts, lines, more } = tried;
  const said = (['adds', 'changes', 'nothing', 'refused'] as const).flatMap((does) => (counts[does] === 0 ? [] : `${counts[does].toLocaleString(locale)} ${DOES[does]}`));
  return (
    <Section title="What it would do" aside={said.join(', ')} className="mt-5">
      <Table name="lines" columns={COLUMNS} rows={lines} keyOf={({ line }) => line} />
      {more === 0 ? null : <p className="pt-2 text-glance text-third">and {more.toLocaleString(locale)} more lines</p>}
    </Section>
  );
}
