import type { RecordsPreview, Trial } from '#core/read/inspect/trial';
import { formatInstant, type Place } from '#core/when/format';
import { findEarlierBody } from '#server/db/source/snapshots';
import { describeTaskProblem } from '#server/reading/pool';
import type { ReadAsked } from '#server/reading/tasks';
import type { PlanDraft } from '#core/plan/plan';
import { services } from '../../../services.server';
import { asBody, readAsked, type OpenDraft } from './draft.server';
import type { Volatile } from './value/words';

/** One page of the records as the plan reads them now, with what could not be read. */
export async function previewRecords(
  open: OpenDraft,
  plan: PlanDraft,
  page: number,
  place: Place,
): Promise<RecordsPreview> {
  const done = await services().reading.run('preview', { ...readAsked(open, plan), page, place }, [open.text]);
  return done.ok
    ? done.value
    : {
        count: 0,
        page: 0,
        size: 1,
        rows: [],
        problems: [describeTaskProblem(done.error, 'reading this page so')],
        parts: [],
      };
}

/** The plan's reading on this page, with its values altered, on an earlier snapshot, and wherever else she tried it. */
export async function trialsOf(open: OpenDraft, plan: PlanDraft, place: Place): Promise<Trial[]> {
  if (plan.fields.length === 0) return [];
  const { reading } = services();
  const asked = await framedAsked(open, plan);
  const here = await reading.run('try here', asked, [open.text]);
  const trials = here.ok ? here.value : [given('This page', describeTaskProblem(here.error, 'reading this page so'))];
  return [...trials, ...(await Promise.all((await elsewhereOf(open, place)).map((each) => tryElsewhere(asked, each))))];
}

/** What is tried, with what stands around its values on this page: elsewhere it may be another. */
async function framedAsked(open: OpenDraft, plan: PlanDraft): Promise<ReadAsked> {
  const asked = readAsked(open, plan);
  const done = await services().reading.run('frame', { body: asked.body, definition: asked.definition }, [open.text]);
  return done.ok ? { ...asked, definition: done.value } : asked;
}

const given = (where: string, note: string | null, pending = false): Trial => ({ where, pending, values: [], note });

interface Elsewhere {
  where: string;
  body: string | null;
  address: string | null;
  pending: boolean;
  problem: string | null;
}

/** An earlier snapshot, and the pages that she tried, the first of them first. */
async function elsewhereOf({ draft, looks }: OpenDraft, place: Place): Promise<Elsewhere[]> {
  const earlier = await findEarlierBody(services().pool, draft.address, draft.way);
  const before =
    earlier === null ? [] : [{ ...earlier, where: `Snapshot of ${formatInstant(earlier.takenAt, 'moment', place)}` }];
  const tried = looks.filter((each) => each.purpose === 'other').reverse();
  return [
    ...before.map((each) => ({ ...each, pending: false, problem: null })),
    ...tried.map((look) => ({
      where: look.address,
      body: look.body,
      address: look.finalAddress,
      pending: look.state === 'asked',
      problem: look.problem,
    })),
  ];
}

async function tryElsewhere(
  { definition, latest }: ReadAsked,
  { where, body, address, pending, problem }: Elsewhere,
): Promise<Trial> {
  if (pending || body === null) return given(where, pending ? null : problem, pending);
  const there = asBody(body, 0);
  const done = await services().reading.run('try elsewhere', { where, body: there.body, address, definition, latest }, [
    there.text,
  ]);
  return done.ok ? done.value : given(where, describeTaskProblem(done.error, 'reading this page so'));
}

/** What differs in the draft's texts between the page and the same page fetched once more. */
export async function volatileIn(open: OpenDraft, plan: PlanDraft): Promise<Volatile> {
  const again = open.looks.find((look) => look.purpose === 'again');
  if (again === undefined || again.state !== 'done' || again.body === null) {
    return { state: again?.state ?? 'none', problem: again?.problem ?? null, parts: {} };
  }
  const second = asBody(again.body, 0);
  const asked = { body: open.body, again: second.body, definition: readAsked(open, plan).definition };
  const done = await services().reading.run('volatile', asked, [open.text, second.text]);
  if (!done.ok) return { state: 'failed', problem: describeTaskProblem(done.error, 'comparing the two'), parts: {} };
  return { state: 'done', problem: null, parts: done.value };
}
