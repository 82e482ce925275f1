import type { DeliveryId } from '#core/id';
import { data } from 'react-router';
import { findSentMail } from '#server/db/delivery/deliveries';
import { illustrated } from '#server/deliver/channels';
import { mailFile } from '#server/deliver/mail';
import { readLongId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/file';

/** A mail as it went out, as a file that mail programs open. */
export async function loader({ params, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'outbox' });
  const { pool, config, pictures } = services();
  const id = readLongId<DeliveryId>(params.delivery);
  const sent = await findSentMail(pool, id);
  if (sent === null)
    throw data('There is no such mail, it has not gone out, or its words were let go.', { status: 404 });
  const mail = await illustrated(pictures, sent.mail);
  return new Response(new Uint8Array(await mailFile(config.mailFrom, mail, sent.sentAt)), {
    headers: {
      'content-type': 'message/rfc822',
      'content-disposition': `attachment; filename="mail-${id}.eml"`,
      'x-content-type-options': 'nosniff',
    },
  });
}
