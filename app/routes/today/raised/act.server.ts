import { asks } from '../../../session.server';
import type { Route } from './+types/route';
import { actOnEpisodes } from './actions.server';

export async function action({ request, context }: Route.ActionArgs) {
  const person = asks(context, 'change', { kind: 'raised' });
  return actOnEpisodes(request, person);
}
