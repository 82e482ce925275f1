import { fail, type Result } from '#core/result';
import { listingOfPicks, pickAt, type Picked } from '#core/read/picking';
import type { Listing } from '#core/read/preview';
import { readType } from '../../parts/plan/shape.server';
import { signedIn } from '../../session.server';
import { openDraft } from './draft.server';
import type { Route } from './+types/pick';

/** What a pick brings: the place and how it is found; of two picks the records they have in common. */
export interface PickAnswer {
  picked: Result<Picked, string> | null;
  listing: Result<Listing, string> | null;
}

export async function loader({ request, params, context }: Route.LoaderArgs): Promise<PickAnswer> {
  const { draft, body, shown } = await openDraft(signedIn(context).id, params.draft);
  const asked = new URL(request.url).searchParams;
  if (body.format !== 'html' || shown === null) return { picked: fail('There is no picture of this page to pick on.'), listing: null };
  const numbers = asked.getAll('n').map(Number);
  const not = asked.getAll('not').map(Number);
  if (numbers.length > 1 || not.length > 0) return { picked: null, listing: listingOfPicks(shown.document, numbers, not) };
  const type = readType(asked.get('type'));
  const read = draft.way === 'rendered' ? shown.document : body.document;
  return { picked: pickAt(shown.document, read, numbers[0] ?? -1, type.ok ? type.value : null), listing: null };
}
