import type { WatchId } from '#core/id';
import { data } from 'react-router';
import { DAY } from '#core/when/interval';
import { historiesOf } from '#server/db/histories';
import { pastBeside } from '#server/db/past-beside';
import { findWatch } from '#server/db/watch-now';
import { readAsked } from '../../parts/plan/shape.server';
import { readId, readNumber } from '../../ids.server';
import { services } from '../../services.server';
import { asks } from '../../session.server';
import type { Route } from './+types/history';

const MOST_DAYS = 400;

/** What a rule of a watch is tried on: what was read of it, and of what that rule asks beside it. */
export async function loader({ params, request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'watch' });
  const { pool, clock } = services();
  const watch = await findWatch(pool, readId<WatchId>(params.watch));
  if (watch === null) throw data('There is no such watch.', { status: 404 });
  const asking = new URL(request.url).searchParams;
  const days = Math.min(MOST_DAYS, Math.max(1, readNumber(asking.get('days'))));
  const now = clock();
  const since = now - days * DAY;
  const past = await historiesOf(pool, watch.id, watch.definition, since);
  const elsewhere = readAsked(asking.get('elsewhere') ?? '[]');
  if (!elsewhere.ok) throw data('What this rule asks of other watches cannot be read.', { status: 400 });
  const wanted = { items: asking.get('items') !== null, elsewhere: elsewhere.value.filter(({ watch: other }) => other !== undefined) };
  const { beside, whole } = await pastBeside(pool, watch.id, watch.definition, wanted, { since, now });
  const histories = past.histories.map((history) => ({ ...history, item: beside.items[history.identity]?.item }));
  return Response.json({ histories, beside, whole: past.whole && whole });
}
