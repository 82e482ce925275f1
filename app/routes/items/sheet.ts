import { data } from 'react-router';
import { writeSheet } from '#core/items/sheet';
import { listChannels, listItems } from '#server/db/item/items';
import { services } from '../../services.server';
import { asks } from '../../session.server';
import type { Route } from './+types/sheet';

const MOST_ITEMS = 50_000;

/** All items as a file. */
export async function loader({ context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'item' });
  const { pool } = services();
  const [items, channels] = [
    await listItems(pool, { words: '', after: '', most: MOST_ITEMS + 1 }),
    await listChannels(pool),
  ];
  if (items.length > MOST_ITEMS)
    throw data(`A sheet holds at most ${MOST_ITEMS} items, and there are more.`, { status: 413 });
  return new Response(
    writeSheet(
      items,
      channels.map(({ name }) => name),
    ),
    {
      headers: {
        'content-type': 'text/csv; charset=utf-8',
        'content-disposition': 'attachment; filename="items.csv"',
        'x-content-type-options': 'nosniff',
      },
    },
  );
}
