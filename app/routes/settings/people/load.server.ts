import type { PersonId } from '#core/id';
import { data } from 'react-router';
import { listDeliveries } from '#server/db/delivery/deliveries';
import { findReaderNow } from '#server/db/person/readers';
import { INVITED_LASTS } from '#server/links';
import { webhookPurpose } from '#server/deliver/channels';
import { readId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';

const MOST_MAILS = 30;

export async function loader({ params, context }: Route.LoaderArgs) {
  const asker = asks(context, 'see', { kind: 'person' });
  const { pool } = services();
  const reader = await findReaderNow(pool, readId<PersonId>(params.person));
  if (reader === null) throw data('There is nobody of this number.', { status: 404 });
  return {
    reader,
    own: asker.id === reader.id,
    invitedUntil: reader.invitedAt === null ? null : reader.invitedAt + INVITED_LASTS,
    secret: reader.webhook === null ? null : services().secrets.derive(webhookPurpose(reader.id, reader.webhook)),
    mails: await listDeliveries(pool, { person: reader.id }, MOST_MAILS),
    zones: Intl.supportedValuesOf('timeZone'),
  };
}
