import type { WatchId } from '#core/id';
import { data } from 'react-router';
import { DAY } from '#core/when/interval';
import { historiesOf } from '#server/db/histories';
import { findWatch } from '#server/db/watch-now';
import { readId, readNumber } from '../../ids.server';
import { services } from '../../services.server';
import { asks } from '../../session.server';
import type { Route } from './+types/history';

const MOST_DAYS = 400;

/** What a rule of a watch is tried on. */
export async function loader({ params, request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'watch' });
  const { pool, clock } = services();
  const watch = await findWatch(pool, readId<WatchId>(params.watch));
  if (watch === null) throw data('There is no such watch.', { status: 404 });
  const days = Math.min(MOST_DAYS, Math.max(1, readNumber(new URL(request.url).searchParams.get('days'))));
  return Response.json(await historiesOf(pool, watch.id, watch.definition, clock() - days * DAY));
}
