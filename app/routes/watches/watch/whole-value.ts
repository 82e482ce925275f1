import { data } from 'react-router';
import { findValueText } from '#server/db/reading/records';
import { readId, readLongId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { textResponse } from '../../../text.server';
import type { Route } from './+types/whole-value';

/** A long text as it stands now, whole. */
export async function loader({ params, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'watch' });
  const text = await findValueText(services().pool, readId(params.watch), readLongId(params.series));
  if (text === null) throw data('There is no such text.', { status: 404 });
  return textResponse(text);
}
