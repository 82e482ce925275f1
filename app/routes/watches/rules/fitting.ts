import { listRules } from '#server/db/rule/views/rules';
import { MOST_AT_ONCE, type Fitting } from '../../../parts/bulk/answer';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/fitting';
import { readAsked } from './asked.server';

/** All rules that a list has, beyond its page, as far as they can be meant at once. */
export async function loader({ request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'watch' });
  const { pool, clock } = services();
  const { sort, ...asked } = readAsked(new URL(request.url).searchParams, clock());
  const found = await listRules(pool, { ...asked, order: sort, skip: 0, most: MOST_AT_ONCE + 1 });
  const chosen = found.slice(0, MOST_AT_ONCE).map(({ id, watchId }) => ({ watch: watchId, rule: id }));
  return Response.json({ chosen, more: found.length > MOST_AT_ONCE } satisfies Fitting);
}
