import type { LocatorTrial } from '#core/read/candidates';
import { asks } from '../../../session.server';
import { draftTexts } from './draft.server';
import { tryLocatorOn } from '../../../try-locator.server';
import type { Route } from './+types/try';

/** Tries a locator of the analyst's own on the draft's page. */
export async function loader({ request, params, context }: Route.LoaderArgs): Promise<LocatorTrial> {
  const { text, body } = await draftTexts(asks(context, 'see', { kind: 'draft', maker: null }).id, params.draft);
  return tryLocatorOn(request, text, body);
}
