import { shownValue } from '../../compare/shown';
import { formatInstant, type Place } from '../../when/format';
import type { Value } from '../../value/value';
import type { Body } from '../body';
import type { FieldType, WatchDefinition } from '../definition';
import { describeGuardFailure } from '../guard';
import { selectElements, type Document } from '../html';
import { placesOf, type Scope } from '../locator';
import { namingParts, type NamingPart } from '../naming';
import { maskText } from '../pattern';
import { describeProblem } from '../problem';
import { alteredFor, withTextAt } from '../proof';
import { isAllRecords } from '../all-records';
import { readBody, type ReadContext } from '../read';
import type { ReadRecord } from '../reading';
import { volatileParts, type VolatilePart } from '../volatile';

/** What is read of the first record now, by field, and of how many records. */
export interface PresentReading {
  present: Record<string, Value>;
  records: number;
}

/** The first of the records as a definition reads them now. */
export interface RecordsPreview {
  count: number;
  /** Which of the pages of rows this is, from nought. */
  page: number;
  /** How many rows a page has. */
  size: number;
  rows: {
    identity: string;
    name: string;
    at: string | null;
    quality: string | null;
    cells: Record<string, { value: Value | null; problem: string | null }>;
  }[];
  problems: string[];
  /** What a pattern for their names can be made of. */
  parts: NamingPart[];
}

/** What a definition reads somewhere: a value for each field, or why not. */
export interface Trial {
  where: string;
  pending: boolean;
  values: { label: string; value: Value | null; problem: string | null }[];
  note: string | null;
}

/** How many records are shown at once. */
const ROWS_A_PAGE = 200;
const MOST_PROBLEMS = 3;
/** Fields whose words can be part of a name. */
const NAMING: ReadonlySet<FieldType['kind']> = new Set(['text', 'state', 'grade']);

/** What a definition reads on a body now. */
export function presentIn(body: Body, definition: WatchDefinition, context: ReadContext): PresentReading {
  const read = readBody(body, definition, context);
  if (!read.ok) return { present: {}, records: 0 };
  const [one, all] = apart(read.value.records);
  const fields = [...(one[0]?.fields ?? []), ...(all[0]?.fields ?? [])];
  const present = fields.flatMap(({ field, outcome }) =>
    outcome.ok ? [[field, shownValue(outcome.value.value)] as const] : [],
  );
  return { present: Object.fromEntries(present), records: one.length };
}

/** The records, and apart from them what stands for all of them. */
const apart = (records: ReadRecord[]) =>
  [records.filter((record) => !isAllRecords(record)), records.filter(isAllRecords)] as const;

/** One page of the records as a definition reads them now, with what could not be read. */
export function previewRecords(
  body: Body,
  definition: WatchDefinition,
  context: ReadContext,
  page: number,
  place: Place,
): RecordsPreview {
  const outcome = readBody(body, { ...definition, chosen: null }, context);
  if (!outcome.ok)
    return { count: 0, page: 0, size: ROWS_A_PAGE, rows: [], problems: [describeProblem(outcome.error)], parts: [] };
  const { problems } = outcome.value;
  const [records] = apart(outcome.value.records);
  const at = Math.min(page, Math.max(0, Math.ceil(records.length / ROWS_A_PAGE) - 1));
  const rows = records.slice(at * ROWS_A_PAGE, (at + 1) * ROWS_A_PAGE).map(({ identity, name, marks, fields }) => ({
    identity,
    name,
    at: marks.at === null ? null : formatInstant(marks.at, 'exact', place),
    quality: marks.quality,
    cells: Object.fromEntries(
      fields.map(({ field, outcome: cell }) => [
        field,
        cell.ok
          ? { value: shownValue(cell.value.value), problem: null }
          : { value: null, problem: describeProblem(cell.error) },
      ]),
    ),
  }));
  const sentences = [...new Set(problems.map(describeProblem))].slice(0, MOST_PROBLEMS);
  const texts = definition.fields
    .filter(({ type }) => NAMING.has(type.kind))
    .map(({ label }) => ({ part: `{${label}}`, as: '' }));
  return {
    count: records.length,
    page: at,
    size: ROWS_A_PAGE,
    rows,
    problems: sentences,
    parts: [...namingParts(records), ...texts],
  };
}

/** A definition's reading on a body, and on a page also with its values altered and blanked. */
export function trialsHere(body: Body, definition: WatchDefinition, context: ReadContext): Trial[] {
  const here = trialOn('This page', body, definition, context);
  if (body.format !== 'html') return [here];
  const altered: Body = { format: 'html', document: changedPage(body.document, definition, alteredFor) };
  const blanked: Body = { format: 'html', document: changedPage(body.document, definition, () => '') };
  return [
    here,
    trialOn('Its values altered', altered, definition, context),
    trialOn('Without the value', blanked, definition, context),
  ];
}

/** A definition's reading on one body. */
export function trialOn(where: string, body: Body, definition: WatchDefinition, context: ReadContext): Trial {
  const outcome = readBody(body, definition, context);
  const trial = { where, pending: false, values: [] };
  if (!outcome.ok)
    return {
      ...trial,
      note:
        outcome.error.reason === 'guard' ? describeGuardFailure(outcome.error.failure) : describeProblem(outcome.error),
    };
  const [first] = outcome.value.records;
  const values = definition.fields.map((field) => {
    const cell = first?.fields.find((each) => each.field === field.key)?.outcome;
    if (cell === undefined) return { label: field.label, value: null, problem: null };
    return {
      label: field.label,
      value: cell.ok ? shownValue(cell.value.value) : null,
      problem: cell.ok ? null : describeProblem(cell.error),
    };
  });
  const problem = values.find((value) => value.problem !== null)?.problem ?? null;
  const many = definition.records.from === 'page' ? null : `${apart(outcome.value.records)[0].length} records`;
  return { ...trial, values, note: problem ?? many };
}

/** The page with the text at each field's place replaced; of many records in the first, and not what it is known by. */
function changedPage(
  document: Document,
  definition: WatchDefinition,
  change: (type: FieldType, text: string) => string,
): Document {
  const fields = definition.fields.filter((field) => !definition.identity.includes(field.key));
  return fields.reduce((page, field) => {
    const scope = firstRecord(page, definition);
    for (const locator of scope === null ? [] : field.locators) {
      const places = placesOf(scope ?? page, locator);
      const [only] = places.ok ? places.value : [];
      if (only !== undefined && only.element !== null)
        return withTextAt(page, only.element, change(field.type, only.text));
    }
    return page;
  }, document);
}

/** What the first record of a definition is read from: the page, or the first of its rows. */
function firstRecord(page: Document, { records }: WatchDefinition): Scope | null {
  if (records.from !== 'rows') return page;
  const rows = selectElements(page, records.rows);
  return (rows.ok ? rows.value[0] : undefined) ?? null;
}

/** What differs in a definition's texts between a page and the same page fetched once more, by field. */
export function volatileBetween(
  first: Document,
  second: Document,
  { fields }: WatchDefinition,
): Record<string, VolatilePart[]> {
  const parts = fields.flatMap(({ key, type, locators: [locator] }) => {
    if (type.kind !== 'text' || locator === undefined) return [];
    const [was = '', is = ''] = [first, second].map((document) => {
      const places = placesOf(document, locator);
      return places.ok ? maskText(places.value[0]?.text ?? '', type.masks ?? []) : '';
    });
    return [[key, volatileParts(was, is)] as const];
  });
  return Object.fromEntries(parts);
}
