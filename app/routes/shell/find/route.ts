import { sanitiseText } from '#core/value/sanitise';
import { listItems } from '#server/db/item/items';
import { findPeople } from '#server/db/person/readers';
import { findReports } from '#server/db/report/reports';
import { findWatches } from '#server/db/watch/standings';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';

const MOST_OF_EACH = 6;
const LONGEST = 200;

/** A few of the watches, reports, items and people that go by some words, each with where it is. */
export async function loader({ request, context }: Route.LoaderArgs) {
  for (const kind of ['watch', 'report', 'item', 'person'] as const) asks(context, 'see', { kind });
  const words = sanitiseText(new URL(request.url).searchParams.get('q') ?? '')
    .slice(0, LONGEST)
    .trim();
  if (words === '') return { words, found: [] };
  const { pool } = services();
  const [watches, reports, items, people] = await Promise.all([
    findWatches(pool, words, MOST_OF_EACH),
    findReports(pool, words, MOST_OF_EACH),
    listItems(pool, { words, after: '', most: MOST_OF_EACH }),
    findPeople(pool, words, MOST_OF_EACH),
  ]);
  return {
    words,
    found: [
      { of: 'Watches', all: watches.map(({ id, name, site }) => ({ to: `/watches/${id}`, name, beside: site })) },
      { of: 'Reports', all: reports.map(({ id, name }) => ({ to: `/reports/${id}`, name, beside: '' })) },
      {
        of: 'Items',
        all: items.map(({ id, reference, name }) => ({ to: `/items/${id}`, name, beside: reference })),
      },
      { of: 'People', all: people.map(({ id, name }) => ({ to: `/people/${id}`, name, beside: '' })) },
    ].filter(({ all }) => all.length > 0),
  };
}
