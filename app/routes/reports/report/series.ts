import type { WatchId } from '#core/id';
import { seriesOf } from '#server/db/report/present';
import { readId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/series';

const MOST = 300;

/** What of a watch can be shown as it stands. */
export async function loader({ request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'report' });
  const watch = readId<WatchId>(new URL(request.url).searchParams.get('watch'));
  return { series: await seriesOf(services().pool, watch, MOST) };
}
