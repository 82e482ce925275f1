import { fail, type Result } from '#core/result';
import type { Picked } from '#core/read/picking';
import type { Pressable } from '#core/read/inspect/wall';
import type { Listing } from '#core/read/listing/listing';
import { describeTaskProblem, type TaskProblem } from '#server/reading/pool';
import { readNumber } from '../../../ids.server';
import { readType } from '#server/shapes/plan';
import { services } from '../../../services.server';
import { asks, requireOwnPages } from '../../../session.server';
import { draftTexts } from './draft.server';
import type { Route } from './+types/pick';

/** What a pick brings: the place and how it is found; of two picks the records they have in common. */
export interface PickAnswer {
  picked: Result<Picked, string> | null;
  listing: Result<Listing, string> | null;
  /** What would be pressed there. */
  press: Pressable | null;
}

const MOST_PICKS = 50;

export async function loader({ request, params, context }: Route.LoaderArgs): Promise<PickAnswer> {
  requireOwnPages(request);
  const { draft, text, body, shown } = await draftTexts(
    asks(context, 'see', { kind: 'draft', maker: null }).id,
    params.draft,
  );
  if (shown === null)
    return { picked: fail('There is no picture of this page to pick on.'), listing: null, press: null };
  const asked = new URL(request.url).searchParams;
  const [numbers = [], not = []] = ['n', 'not'].map((name) => asked.getAll(name).slice(0, MOST_PICKS).map(readNumber));
  const { reading } = services();
  if (numbers.length > 1 || not.length > 0) {
    return {
      picked: null,
      listing: said(await reading.run('pick records', { shown: shown.body, numbers, not }, [shown.text])),
      press: null,
    };
  }
  const type = readType(asked.get('type'));
  const read = draft.way === 'rendered' ? shown : { text, body };
  const pick = { shown: shown.body, read: read.body, n: numbers[0] ?? -1, type: type.ok ? type.value : null };
  const picked = await reading.run('pick', pick, [shown.text, read.text]);
  const press = await reading.run('press', { shown: shown.body, n: pick.n }, [shown.text]);
  return { picked: said(picked), listing: null, press: press.ok ? press.value : null };
}

function said<T>(done: Result<Result<T, string>, TaskProblem>): Result<T, string> {
  return done.ok ? done.value : fail(describeTaskProblem(done.error, 'this page'));
}
