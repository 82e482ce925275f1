import { data } from 'react-router';
import { findPictureImage } from '#server/db/pictures';
import { imageResponse } from '../../image.server';
import { services } from '../../services.server';
import type { Route } from './+types/picture';

/** The picture of a page as a run saw it. */
export async function loader({ params }: Route.LoaderArgs) {
  const image = await findPictureImage(services().pool, Number(params.watch) || 0, Number(params.snapshot) || 0);
  if (image === null) throw data('This picture is not kept.', { status: 404 });
  return imageResponse(image);
}
