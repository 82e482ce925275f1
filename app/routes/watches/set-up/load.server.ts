import { listAudiences, placeOf } from '#server/db/person/people';
import { readNumber } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';
import { openDraft } from './draft.server';
import { mendingOf, presentOf } from './mending.server';
import { rowsOn, shownPage, sourceFacts, takenOn, wallBefore } from './page.server';
import { previewRecords, trialsOf, volatileIn } from './previews.server';

export async function loader({ request, params, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'draft', maker: null });
  const open = await openDraft(person.id, params.draft);
  const { draft, offer, site, shown } = open;
  const plan = draft.content;
  const many = plan.records.from !== 'page';
  const place = placeOf(person);
  const mending = await mendingOf(open, plan);
  const rowsPage = readNumber(new URL(request.url).searchParams.get('rows'));
  const [facts, present, preview, trials, volatile, rows, wall, taken, audiences] = await Promise.all([
    sourceFacts(open),
    presentOf(open, plan),
    // Where nothing is read any more, what the mending would read.
    many ? previewRecords(open, { ...plan, ...mending?.definition }, rowsPage, place) : null,
    trialsOf(open, plan, place),
    volatileIn(open, plan),
    rowsOn(open, plan),
    wallBefore(open),
    takenOn(open, plan),
    listAudiences(services().pool),
  ]);
  return {
    id: draft.id,
    edited: draft.watchId === null ? null : { watch: draft.watchId, version: draft.watchVersion ?? 0 },
    mending,
    address: draft.address,
    plan,
    updatedAt: draft.updatedAt,
    revision: draft.revision,
    facts,
    site,
    many,
    isPage: offer.format === 'html',
    unread: offer.problem,
    readerName: person.name,
    present,
    candidates: many ? [] : offer.candidates,
    listings: offer.listings,
    preview,
    trials,
    volatile,
    words: offer.words,
    shown: shownPage(open, place),
    rows,
    wall,
    taken,
    ofMany: offer.many,
    title: offer.facts.title,
    rendered: shown !== null,
    audiences,
  };
}
