import type { WatchId } from '#core/id';
import { data } from 'react-router';
import type { Field } from '#core/read/definition';
import type { Value } from '#core/value/value';
import { likeWatches } from '#server/db/watch/views/like-watches';
import { findWatch } from '#server/db/watch/views/watch-now';
import { readId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/like';

const MOST_FIELDS = 8;

/** Of which kind the values of a field are; of one that is read as it comes that is not known before. */
const KINDS: Partial<Record<Field['type']['kind'], Value['kind']>> = {
  money: 'money',
  number: 'number',
  text: 'text',
  flag: 'flag',
  phrase: 'flag',
  state: 'state',
  grade: 'grade',
  moment: 'moment',
  link: 'link',
};

/** Watches that read the same as this one does, on whose history its rules can be tried. */
export async function loader({ params, request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'watch' });
  const { pool, clock } = services();
  const watch = await findWatch(pool, readId<WatchId>(params.watch));
  if (watch === null) throw data('There is no such watch.', { status: 404 });
  const asked = new Set(new URL(request.url).searchParams.getAll('field').slice(0, MOST_FIELDS));
  const fields = watch.definition.fields.flatMap(({ key, type }) => {
    const kind = KINDS[type.kind];
    return asked.has(key) && kind !== undefined ? [{ field: key, kind }] : [];
  });
  return Response.json(fields.length < asked.size ? [] : await likeWatches(pool, watch.id, fields, clock()));
}
