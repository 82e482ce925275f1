import type { StencilId } from '#core/id';
import { data } from 'react-router';
import { sanitiseText } from '#core/value/sanitise';
import { calledIn } from '#server/actions/bulk';
import { listAudiences } from '#server/db/person/people';
import { findStencil, watchesMadeBy } from '#server/db/watch/stencils';
import { watchesOf } from '#server/db/watch/views/watch-now';
import { readId } from '../../../ids.server';
import { listPage, namesNow } from '../../../parts/watch-list.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';
import { rulesMade, wouldMake } from './pressed.server';

const MOST_MADE = 500;

const MOST_SHOWN = 200;

const MOST_WORDS = 200;

export async function loader({ request, params, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'watch' });
  const { pool } = services();
  const stencil = await findStencil(pool, readId<StencilId>(params.stencil));
  if (stencil === null) throw data('There is no such stencil.', { status: 404 });
  const said = new URL(request.url).searchParams;
  const [q, site, tag] = ['q', 'site', 'tag'].map((name) =>
    sanitiseText(said.get(name) ?? '').slice(0, MOST_WORDS),
  ) as [string, string, string];
  const [found, names, audiences, called] = await Promise.all([
    listPage({ filter: 'all', words: q, site, tag }, null, MOST_SHOWN),
    namesNow(),
    listAudiences(pool),
    calledIn(pool, person.locale),
  ]);
  const makers = await watchesOf(pool, await watchesMadeBy(pool, stencil.id, MOST_MADE));
  return {
    stencil,
    audiences,
    names,
    asked: { q, site, tag },
    more: found.next !== null,
    would: wouldMake(stencil, found.watches, person.locale),
    made: rulesMade(stencil, makers, called),
  };
}
