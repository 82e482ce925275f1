import type { DraftId, PersonId } from '#core/id';
import { data, redirect } from 'react-router';
import { definitionOf, type WatchDefinition } from '#core/read/definition';
import type { LatestValue } from '#core/read/formula';
import { NO_OFFER, type Offer } from '#core/read/inspect/offer';
import type { PresentReading } from '#core/read/inspect/trial';
import type { Result } from '#core/result';
import { doneAs, findDraft, type Draft } from '#server/db/watch/drafts';
import { latestOf } from '#server/db/reading/latest';
import { listPreviews, type Preview } from '#server/db/source/previews';
import { siteCalled } from '#server/db/source/sites';
import { bodyOf, describeTaskProblem, type TaskProblem } from '#server/reading/pool';
import type { BodyAsked, ReadAsked, TextBody } from '#server/reading/tasks';
import type { PlanDraft } from '#core/plan/plan';
import { siteNameOf } from '#core/plan/site-name';
import { readId } from '../../../ids.server';
import { services } from '../../../services.server';

/** A draft with the texts that its watch would read, and that the browser shows. */
export interface DraftTexts {
  draft: Draft;
  looks: Preview[];
  /** What is read, in the way the draft has chosen. */
  text: TextBody;
  body: BodyAsked;
  /** The page as the browser last showed it. */
  shown: { look: Preview; text: TextBody; body: BodyAsked } | null;
}

/** A draft with what its body offers. */
export interface OpenDraft extends DraftTexts {
  offer: Offer;
  host: string;
  site: string;
  /** What its formulas ask of other watches. */
  latest: LatestValue[];
}

/** One of a person's own drafts with its texts, or the answer that there is none. */
export async function draftTexts(personId: PersonId, id: string): Promise<DraftTexts> {
  const { pool } = services();
  const draft = await findDraft(pool, personId, readId(id));
  if (draft === null) throw await instead(personId, readId(id));
  const looks = await listPreviews(pool, draft.id);
  const look = looks.find((each) => each.purpose === 'page' && each.state === 'done');
  const shown = look?.body == null ? null : { look, ...asBody(look.body, 0) };
  const { text, body } =
    draft.way === 'rendered' && shown !== null ? shown : asBody(draft.body ?? '', draft.fetchedAt ?? 0);
  return { draft, looks, text, body, shown };
}

/** Where somebody is led whose draft is not there: to the watch that it became, or nowhere. */
async function instead(personId: PersonId, id: DraftId) {
  const watch = await doneAs(services().pool, personId, id);
  return watch === null ? data('There is no such draft.', { status: 404 }) : redirect(`/watches/${watch}`);
}

/** A text as tasks are asked for it. */
export function asBody(text: string, receivedAt: number): { text: TextBody; body: BodyAsked } {
  const made = bodyOf(text);
  return { text: made, body: { key: made.key, receivedAt } };
}

/** Opens one of a person's own drafts, or answers that there is none. */
export async function openDraft(personId: PersonId, id: string): Promise<OpenDraft> {
  const { pool, reading } = services();
  const texts = await draftTexts(personId, id);
  const { draft, text, body } = texts;
  const offered = await reading.run('offer', { body }, [text]);
  const offer = offered.ok ? offered.value : { ...NO_OFFER, problem: describeTaskProblem(offered.error, 'this page') };
  const host = new URL(draft.address).host;
  const named =
    siteNameOf(offer.facts.siteName ?? '') ??
    siteNameOf(host.replace(/^www\./, '').replace(/\.localhost:\d+$/, '')) ??
    host;
  const site = draft.way === 'posted' ? 'posted' : await siteCalled(pool, named);
  return { ...texts, offer, host, site, latest: await latestOf(pool, [draft.content]) };
}

/** What a task is asked that reads a draft's own body by a definition. */
export function readAsked({ draft, body, latest }: OpenDraft, definition: WatchDefinition): ReadAsked {
  return { body, definition: definitionOf(definition), address: draft.finalAddress ?? draft.address, latest };
}

/** What a plan reads on the draft's body now. */
export async function presentIn(open: OpenDraft, plan: PlanDraft): Promise<Result<PresentReading, TaskProblem>> {
  return services().reading.run('present', readAsked(open, plan), [open.text]);
}
