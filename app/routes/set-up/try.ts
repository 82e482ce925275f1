import { findDraft } from '#server/db/drafts';
import { tryOn } from '../../parts/plan/try.server';
import { services } from '../../services.server';
import { signedIn } from '../../session.server';
import type { Route } from './+types/try';

export async function loader({ request, params, context }: Route.LoaderArgs) {
  const draft = await findDraft(services().pool, signedIn(context).id, Number(params.draft));
  return tryOn(draft?.body ?? '', request);
}
