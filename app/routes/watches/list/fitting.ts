import { listStanding } from '#server/db/watch/standings';
import { MOST_AT_ONCE, type Fitting } from '../../../parts/bulk/answer';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/fitting';
import { readAsked } from './asked.server';

/** All watches that a list has, beyond its page, as far as they can be meant at once. */
export async function loader({ request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'watch' });
  const { list } = readAsked(new URL(request.url).searchParams);
  const found = await listStanding(services().pool, { ...list, after: null, most: MOST_AT_ONCE + 1 });
  return Response.json({
    chosen: found.slice(0, MOST_AT_ONCE).map(({ id }) => ({ watch: id })),
    more: found.length > MOST_AT_ONCE,
  } satisfies Fitting);
}
