import type { LocatorTrial } from '#core/read/candidates';
import { findBody } from '#server/db/source/snapshots';
import { bodyOf } from '#server/reading/pool';
import { readId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { tryLocatorOn } from '../../../try-locator.server';
import type { Route } from './+types/try';

/** Tries a locator on a watch's last good page. */
export async function loader({ request, params, context }: Route.LoaderArgs): Promise<LocatorTrial> {
  asks(context, 'see', { kind: 'watch' });
  const found = await findBody(services().pool, readId(params.watch));
  const text = bodyOf(found?.body ?? '');
  return tryLocatorOn(request, text, { key: text.key, receivedAt: found?.takenAt ?? 0 });
}
