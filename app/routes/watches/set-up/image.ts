import { data } from 'react-router';
import { findPreviewImage } from '#server/db/source/previews';
import { imageResponse } from '../../../image.server';
import { readId, readNumber } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/image';

/** The picture of a preview, or of one of its steps. */
export async function loader({ request, params, context }: Route.LoaderArgs) {
  const step = new URL(request.url).searchParams.get('step');
  const image = await findPreviewImage(
    services().pool,
    asks(context, 'see', { kind: 'draft', maker: null }).id,
    readId(params.look),
    step === null ? null : readNumber(step),
  );
  if (image === null) throw data('There is no such picture.', { status: 404 });
  return imageResponse(image);
}
