import { tryLocator, type LocatorTrial } from '#core/read/candidates';
import { readLocator, readType } from '../../parts/plan/shape.server';
import { signedIn } from '../../session.server';
import { openDraft } from './draft.server';
import type { Route } from './+types/try';

/** Tries a locator of the analyst's own on the draft's page. */
export async function loader({ request, params, context }: Route.LoaderArgs): Promise<LocatorTrial> {
  const { body } = await openDraft(signedIn(context).id, params.draft);
  const asked = new URL(request.url).searchParams;
  const [locator, type] = [readLocator(asked.get('locator')), readType(asked.get('type'))];
  if (!locator.ok || !type.ok) return { count: 0, samples: [], suggestion: null, problem: 'This is not whole yet.' };
  if (body.format !== 'html') return { count: 0, samples: [], suggestion: null, problem: 'This source is no page.' };
  return tryLocator(body.document, locator.value, type.value);
}
