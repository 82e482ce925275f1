import { data } from 'react-router';
import { findChangeText } from '#server/db/reading/views/changes';
import { readId, readLongId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { textResponse } from '../../../text.server';
import type { Route } from './+types/whole-change';

/** A long text as it was before a change, or after it, whole. */
export async function loader({ params, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'watch' });
  const side = params.side === 'before' ? 'was' : 'now';
  const text = await findChangeText(services().pool, readId(params.watch), readLongId(params.change), side);
  if (text === null) throw data('There is no such text.', { status: 404 });
  return textResponse(text);
}
