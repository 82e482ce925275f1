import { sanitiseText } from '#core/value/sanitise';
import { listItems } from '#server/db/item/items';
import { services } from '../../services.server';
import { asks } from '../../session.server';
import type { Route } from './+types/find';

const MOST = 8;
const MOST_WORDS = 100;

/** A few items that go by some words. */
export async function loader({ request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'item' });
  const words = sanitiseText(new URL(request.url).searchParams.get('q') ?? '')
    .slice(0, MOST_WORDS)
    .trim();
  const found = await listItems(services().pool, { words, after: '', most: MOST });
  return { found: found.map(({ reference, name }) => ({ reference, name })) };
}
