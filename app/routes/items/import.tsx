import { redirect } from 'react-router';
import { columnsOf } from '#core/items/sheet';
import { editItems, holdItems, listChannels } from '#server/db/item/items';
import { inTransaction } from '#server/db/base/pool';
import { readForm, writtenIn } from '../../form.server';
import { ImportForm } from '../../parts/bulk/import-form';
import { notAsSeen, type Tried } from '../../parts/bulk/tried.server';
import { services } from '../../services.server';
import { asks } from '../../session.server';
import { PageHead, Where } from '../../ui/page';
import { useReader } from '../shell/frame/reader';
import { lookThrough, MOST_SHEET } from './look-through.server';
import type { Route } from './+types/import';

export const meta: Route.MetaFunction = () => [{ title: 'Import items · Shrike' }];

export async function loader({ context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'item' });
  const channels = await listChannels(services().pool);
  return { heads: columnsOf(channels.map(({ name }) => name)).map(({ head }) => head) };
}

export async function action({ request, context }: Route.ActionArgs): Promise<Tried | Response> {
  const person = asks(context, 'make', { kind: 'item' });
  const form = await readForm(request, MOST_SHEET);
  const text = writtenIn(form, 'text');
  const { pool, clock } = services();
  if (form.get('intent') !== 'do') return (await lookThrough(pool, text, person.locale)).tried;
  const otherwise = await inTransaction(pool, async (db) => {
    await holdItems(db);
    const { tried, edits } = await lookThrough(db, text, person.locale);
    if (tried.problem !== null) return tried;
    const moved = notAsSeen(tried, writtenIn(form, 'seal'));
    if (moved === null && edits.length > 0) await editItems(db, edits, person.zone, { person: person.id, at: clock() });
    return moved;
  });
  return otherwise ?? redirect('/items');
}

export default function ImportItems({ loaderData, actionData }: Route.ComponentProps) {
  const { locale } = useReader();
  return (
    <>
      <PageHead>
        <Where within={[{ name: 'Items', to: '/items' }]}>
          <h1 className="inline">import</h1>
        </Where>
      </PageHead>
      <ImportForm head="Reference" accept=".csv,text/csv,text/plain" tried={actionData} locale={locale}>
        <p>
          A CSV file with these columns, of which only the first is needed:{' '}
          <span className="text-ink">{loaderData.heads.join(', ')}</span>. Items are known by their reference. A column
          that is left out stays as it is; an empty cell empties. A minimum that does not always hold says when:{' '}
          <span className="text-ink">22.00 GBP 2026-11-20/2026-11-30</span>, several apart by a semicolon.
        </p>
      </ImportForm>
    </>
  );
}
