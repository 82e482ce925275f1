import { data } from 'react-router';
import { findPictureImage } from '#server/db/source/views/pictures';
import { imageResponse } from '../../../image.server';
import { readId, readLongId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/picture';

/** The picture of a page as a run saw it. */
export async function loader({ params, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'watch' });
  const image = await findPictureImage(services().pool, readId(params.watch), readLongId(params.snapshot));
  if (image === null) throw data('This picture is not kept.', { status: 404 });
  return imageResponse(image);
}
