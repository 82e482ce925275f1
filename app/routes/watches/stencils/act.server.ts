import type { StencilId } from '#core/id';
import { redirect } from 'react-router';
import { inTransaction } from '#server/db/base/pool';
import { endStencil, findStencil } from '#server/db/watch/stencils';
import { readForm } from '../../../form.server';
import { readId } from '../../../ids.server';
import type { BulkAnswer } from '../../../parts/bulk/answer';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';
import { bringUp, change, putOn } from './actions.server';

export async function action({ request, params, context }: Route.ActionArgs): Promise<BulkAnswer | Response> {
  const person = asks(context, 'change', { kind: 'watch' });
  const form = await readForm(request);
  const id = readId<StencilId>(params.stencil);
  switch (form.get('intent')) {
    case 'put on':
      return putOn(form, id, person);
    case 'bring up':
      return bringUp(form, id, person);
    case 'end': {
      const { pool, clock } = services();
      const stencil = await findStencil(pool, id);
      if (stencil !== null)
        await inTransaction(pool, (db) => endStencil(db, stencil, { person: person.id, at: clock() }));
      return redirect('/stencils');
    }
    default:
      return change(form, id, person);
  }
}
