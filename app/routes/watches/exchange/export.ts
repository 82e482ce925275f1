import type { WatchId } from '#core/id';
import { data } from 'react-router';
import { writeExchange } from '#core/plan/exchange';
import { namesHere, writtenWatches } from '#server/actions/exchange';
import { readId } from '../../../ids.server';
import { writeExchangeCsv } from '#server/shapes/exchange';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/export';

const MOST = 2_000;

/** Watches with their rules as a file: those that are named, or all. */
export async function loader({ request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'watch' });
  const { pool, clock } = services();
  const asked = new URL(request.url).searchParams;
  const ids = asked
    .getAll('watch')
    .slice(0, MOST + 1)
    .map((id) => readId<WatchId>(id));
  const watches = await writtenWatches(pool, ids.length === 0 ? null : ids, MOST + 1);
  if (watches.length > MOST)
    throw data(`A document holds at most ${MOST} watches: choose fewer of them in the list, and export those.`, {
      status: 413,
    });
  const document = writeExchange(watches, await namesHere(pool), clock());
  const isCsv = asked.get('as') === 'csv';
  return new Response(isCsv ? writeExchangeCsv(document) : `${JSON.stringify(document, null, 2)}\n`, {
    headers: {
      'content-type': isCsv ? 'text/csv; charset=utf-8' : 'application/json; charset=utf-8',
      'content-disposition': `attachment; filename="watches.${isCsv ? 'csv' : 'json'}"`,
      'x-content-type-options': 'nosniff',
    },
  });
}
