import { fail, type Result } from '#core/result';
import type { Picked } from '#core/read/picking';
import type { Listing } from '#core/read/listing/listing';
import { describeTaskProblem, type TaskProblem } from '#server/reading/pool';
import { readNumber } from '../../ids.server';
import { readType } from '../../parts/plan/shape.server';
import { services } from '../../services.server';
import { asks, requireOwnPages } from '../../session.server';
import { draftTexts } from './draft.server';
import type { Route } from './+types/pick';

/** What a pick brings: the place and how it is found; of two picks the records they have in common. */
export interface PickAnswer {
  picked: Result<Picked, string> | null;
  listing: Result<Listing, string> | null;
}

const MOST_PICKS = 50;

export async function loader({ request, params, context }: Route.LoaderArgs): Promise<PickAnswer> {
  requireOwnPages(request);
  const { draft, text, body, shown } = await draftTexts(asks(context, 'see', { kind: 'draft', maker: null }).id, params.draft);
  if (shown === null) return { picked: fail('There is no picture of this page to pick on.'), listing: null };
  const asked = new URL(request.url).searchParams;
  const [numbers = [], not = []] = ['n', 'not'].map((name) => asked.getAll(name).slice(0, MOST_PICKS).map(readNumber));
  const { reading } = services();
  if (numbers.length > 1 || not.length > 0) {
    return { picked: null, listing: said(await reading.run('pick records', { shown: shown.body, numbers, not }, [shown.text])) };
  }
  const type = readType(asked.get('type'));
  const read = draft.way === 'rendered' ? shown : { text, body };
  const pick = { shown: shown.body, read: read.body, n: numbers[0] ?? -1, type: type.ok ? type.value : null };
  return { picked: said(await reading.run('pick', pick, [shown.text, read.text])), listing: null };
}

function said<T>(done: Result<Result<T, string>, TaskProblem>): Result<T, string> {
  return done.ok ? done.value : fail(describeTaskProblem(done.error, 'this page'));
}
