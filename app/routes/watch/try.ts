import { findBody } from '#server/db/watch-page';
import { tryOn } from '../../parts/plan/try.server';
import { services } from '../../services.server';
import { signedIn } from '../../session.server';
import type { Route } from './+types/try';

export async function loader({ request, params, context }: Route.LoaderArgs) {
  signedIn(context);
  const found = await findBody(services().pool, Number(params.watch));
  return tryOn(found?.body ?? '', request);
}
