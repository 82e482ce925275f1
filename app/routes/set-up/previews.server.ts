import { openBody, sniffFormat, type Body } from '#core/read/body';
import { describeGuardFailure } from '#core/read/guard';
import { describeProblem } from '#core/read/problem';
import { readBody, type ReadContext } from '#core/read/read';
import { alteredFor, withTextAt } from '#core/read/proof';
import type { FieldType } from '#core/read/definition';
import { parseHtml, selectElements, type Document } from '#core/read/html';
import { placesOf, type Scope } from '#core/read/locator';
import { maskText } from '#core/read/pattern';
import { volatileParts } from '#core/read/volatile';
import { formatInstant, type Place } from '#core/when/format';
import { findEarlierBody } from '#server/db/snapshots';
import type { PlanDraft } from '../../parts/plan/plan';
import { services } from '../../services.server';
import type { OpenDraft } from './draft.server';
import type { RecordsPreview } from './value/records';
import type { Trial } from './value/try-it';
import type { Volatile } from './value/words';

const MOST_ROWS = 200;

/** The records as the plan reads them now, with what could not be read. */
export function previewRecords({ body, draft, latest }: OpenDraft, plan: PlanDraft, place: Place): RecordsPreview {
  const outcome = readBody(body, { ...plan, chosen: null }, { address: draft.finalAddress, latest });
  if (!outcome.ok) return { count: 0, rows: [], problems: [describeProblem(outcome.error)] };
  const { records, problems } = outcome.value;
  const rows = records.slice(0, MOST_ROWS).map(({ identity, name, marks, fields }) => ({
    identity,
    name,
    at: marks.at === null ? null : formatInstant(marks.at, 'exact', place),
    quality: marks.quality,
    cells: Object.fromEntries(
      fields.map(({ field, outcome: cell }) => [
        field,
        cell.ok ? { value: cell.value.value, problem: null } : { value: null, problem: describeProblem(cell.error) },
      ]),
    ),
  }));
  return { count: records.length, rows, problems: [...new Set(problems.map(describeProblem))].slice(0, 3) };
}

/** The plan's reading on this page, with its values altered, on an earlier snapshot, and wherever else she tried it. */
export async function trialsOf(open: OpenDraft, plan: PlanDraft, place: Place): Promise<Trial[]> {
  if (plan.fields.length === 0) return [];
  const { draft, body, looks, latest } = open;
  const here = { address: draft.finalAddress, latest };
  const trials = [trialOn('This page', body, plan, here)];
  if (body.format === 'html') {
    trials.push(trialOn('Its values altered', { format: 'html', document: changedPage(body.document, plan, alteredFor) }, plan, here));
    trials.push(trialOn('Its values blanked', { format: 'html', document: changedPage(body.document, plan, () => '') }, plan, here));
  }
  const earlier = await findEarlierBody(services().pool, draft.address, draft.way);
  if (earlier !== null)
    trials.push(
      trialOnText(`Snapshot of ${formatInstant(earlier.takenAt, 'moment', place)}`, earlier.body, plan, { address: earlier.address, latest }),
    );
  for (const look of looks.filter((each) => each.purpose === 'other').reverse()) {
    if (look.state === 'asked') trials.push({ where: look.address, pending: true, values: [], note: null });
    else if (look.body === null) trials.push({ where: look.address, pending: false, values: [], note: look.problem });
    else trials.push(trialOnText(look.address, look.body, plan, { address: look.finalAddress, latest }));
  }
  return trials;
}

/** What differs in the draft's texts between the page and the same page fetched once more. */
export function volatileIn({ body, looks }: OpenDraft, plan: PlanDraft): Volatile {
  const again = looks.find((look) => look.purpose === 'again');
  if (again === undefined || again.state !== 'done' || again.body === null || body.format !== 'html') {
    return { state: again?.state ?? 'none', problem: again?.problem ?? null, parts: {} };
  }
  const second = parseHtml(again.body);
  const parts = plan.fields.flatMap((field) => {
    const [locator] = field.locators;
    if (field.type.kind !== 'text' || locator === undefined) return [];
    const [was, is] = [body.document, second].map((document) => {
      const places = placesOf(document, locator);
      return places.ok ? maskText(places.value[0]?.text ?? '', field.type.kind === 'text' ? (field.type.masks ?? []) : []) : '';
    });
    return [[field.key, volatileParts(was ?? '', is ?? '')] as const];
  });
  return { state: 'done', problem: null, parts: Object.fromEntries(parts) };
}

/** The page with the text at each field's place replaced; of many records in the first, and not what it is known by. */
function changedPage(document: Document, plan: PlanDraft, change: (type: FieldType, text: string) => string): Document {
  const fields = plan.fields.filter((field) => !plan.identity.includes(field.key));
  return fields.reduce((page, field) => {
    const scope = firstRecord(page, plan);
    for (const locator of scope === null ? [] : field.locators) {
      const places = placesOf(scope ?? page, locator);
      const [only] = places.ok ? places.value : [];
      if (only !== undefined && only.element !== null) return withTextAt(page, only.element, change(field.type, only.text));
    }
    return page;
  }, document);
}

/** What the first record of a plan is read from: the page, or the first of its rows. */
function firstRecord(page: Document, { records }: PlanDraft): Scope | null {
  if (records.from !== 'rows') return page;
  const rows = selectElements(page, records.rows);
  return (rows.ok ? rows.value[0] : undefined) ?? null;
}

function trialOnText(where: string, text: string, plan: PlanDraft, context: ReadContext): Trial {
  const opened = openBody(text, sniffFormat(text), 0);
  return opened.ok ? trialOn(where, opened.value, plan, context) : { where, pending: false, values: [], note: opened.error };
}

function trialOn(where: string, body: Body, plan: PlanDraft, context: ReadContext): Trial {
  const outcome = readBody(body, plan, context);
  const trial = { where, pending: false, values: [] };
  if (!outcome.ok)
    return { ...trial, note: outcome.error.reason === 'guard' ? describeGuardFailure(outcome.error.failure) : describeProblem(outcome.error) };
  const [first] = outcome.value.records;
  const values = plan.fields.map((field) => {
    const cell = first?.fields.find((each) => each.field === field.key)?.outcome;
    if (cell === undefined) return { label: field.label, value: null, problem: null };
    return { label: field.label, value: cell.ok ? cell.value.value : null, problem: cell.ok ? null : describeProblem(cell.error) };
  });
  const problem = values.find((value) => value.problem !== null)?.problem ?? null;
  const many = plan.records.from === 'page' ? null : `${outcome.value.records.length} records`;
  return { ...trial, values, note: problem ?? many };
}
