import type { WatchId } from '#core/id';
import { data } from 'react-router';
import { DAY } from '#core/when/interval';
import { pastOf } from '#server/db/rule/past-related';
import { findWatch } from '#server/db/watch/views/watch-now';
import { readAsked } from '#server/shapes/plan';
import { readId, readNumber } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
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
  const elsewhere = readAsked(asking.get('elsewhere') ?? '[]');
  if (!elsewhere.ok) throw data('What this rule asks of other watches cannot be read.', { status: 400 });
  const asked = {
    items: asking.get('items') !== null,
    elsewhere: elsewhere.value.filter(({ watch: other }) => other !== undefined),
  };
  return Response.json(await pastOf(pool, watch, asked, { since: now - days * DAY, until: now }));
}
