import { fail, ok, type Result } from '../result';
import { counted, isAllRecords } from './all-records';
import type { FieldReading, ReadRecord, WatchReading } from './reading';
import { wordsOf, isMeasure, unitOf, type Value } from '../value/value';
import type { Body } from './body';
import type { Field, WatchDefinition } from './definition';
import { evaluateFormula, type FormulaScope } from './formula';
import { nameInFormula } from './formula-name';
import { failedGuard, seemingCause, type GuardCause } from './guard';
import { frameAround } from './frame/frame';
import { isDocument, pageFacts } from './html';
import { spokenName } from './naming';
import type { ReadProblem } from './problem';
import { rawRecords, WHOLE, type RawRecord } from './records';
import type { Typing } from './typed';
import { leastChanges, readField } from './agree';
import { cut } from '../value/sanitise';
import type { Frame, FrameChange } from './frame/types';

/** What reading needs beside the body. */
export interface ReadContext {
  /** The address after redirects. */
  address: string | null;
  latest: FormulaScope['latest'];
}

const SHOWN_TEXT = 80;
/** Characters in all that are read of one body: records that hold one another would have its words many times over. */
const MOST_TEXT = 20_000_000;

/** Reads every record of a watch. The error is why none could be read: the guards, the format, nothing there. */
export function readBody(
  body: Body,
  definition: WatchDefinition,
  context: ReadContext,
): Result<WatchReading, ReadProblem> {
  const raw = rawRecords(body, definition.records);
  if (!raw.ok) return fail({ reason: 'another format', said: raw.error });
  const failure = failedGuard(definition.guards, { body, address: context.address, records: raw.value.length });
  if (failure !== null) return fail({ reason: 'guard', failure });
  if (raw.value.length === 0) return fail({ reason: 'no records' });
  const reader = readerOf(definition, { locale: localeOf(body), address: context.address }, context.latest);
  const around = changesAround(body, definition, raw.value);
  const problems = new Map<string, ReadProblem>();
  const read: ReadRecord[] = [];
  let size = 0;
  for (const record of raw.value) {
    const found = readFields(record, reader);
    const fields = around === null ? found : found.map((field) => questioned(field, definition, around));
    for (const { outcome } of fields) size += outcome.ok ? outcome.value.text.length : 0;
    if (size > MOST_TEXT) return fail({ reason: 'too much text', most: MOST_TEXT });
    const made = recordOf(record, fields, reader);
    if (made.ok) read.push(made.value);
    else problems.set(JSON.stringify(made.error), made.error);
  }
  return ok(counted(tellApart(read, problems, definition), definition));
}

/** What changed around all records of a page since they were chosen; null where nothing did. */
function changesAround(
  body: Body,
  { records }: WatchDefinition,
  [first]: RawRecord[],
): { changes: FrameChange[]; frame: Frame } | null {
  if (
    body.format !== 'html' ||
    records.from !== 'rows' ||
    records.around === undefined ||
    first?.scope == null ||
    isDocument(first.scope)
  )
    return null;
  const frame = frameAround(body.document, first.scope);
  const changes = leastChanges(records.around, frame);
  return changes.length === 0 ? null : { changes, frame };
}

/** A value among others around which something changed for all of them. What only tells records apart stays. */
function questioned(
  { field, outcome }: FieldReading,
  { identity }: WatchDefinition,
  { changes, frame }: { changes: FrameChange[]; frame: Frame },
): FieldReading {
  if (!outcome.ok || identity.includes(field)) return { field, outcome };
  const { text, value } = outcome.value;
  return { field, outcome: fail({ reason: 'in question', text, value, changes, frame, around: true }) };
}

/** The locale a body states; none, but in a page. */
export function localeOf(body: Body): string | null {
  return body.format === 'html' ? pageFacts(body.document).locale : null;
}

/** What a page seems to be where it is read and nothing is found; null for other bodies. */
export function seemsInstead(body: Body): GuardCause | null {
  return body.format === 'html' ? seemingCause(body.document) : null;
}

/** What is the same for every record of a body, worked out once: a feed may have tens of thousands. */
interface Reader {
  definition: WatchDefinition;
  /** The fields that each record has. */
  fields: Field[];
  typing: Typing;
  latest: FormulaScope['latest'];
  computes: boolean;
  /**
   * Where among a record's fields those stand that identify it, in their order, and those that name it and its variant;
   * -1 for none.
   */
  identityAt: number[];
  nameAt: number;
  variantAt: number;
}

function readerOf(definition: WatchDefinition, typing: Typing, latest: FormulaScope['latest']): Reader {
  const { identity, variant } = definition;
  const fields = definition.fields.filter(({ type }) => type.kind !== 'count');
  return {
    definition,
    fields,
    typing,
    latest,
    computes: fields.some(({ type }) => type.kind === 'computed'),
    identityAt: identity.map((key) => fields.findIndex((field) => field.key === key)),
    nameAt: fields.findIndex(({ role, type }) => role === 'name' && type.kind === 'text'),
    variantAt: fields.findIndex((field) => field.key === variant),
  };
}

/** A reading a field, in the order of the definition. */
function readFields(raw: RawRecord, { fields, typing, computes, latest }: Reader): FieldReading[] {
  const stated =
    raw.states === undefined
      ? fields
      : fields.filter((field) => field.locators.every((locator) => raw.states?.(locator) !== false));
  if (!computes) return stated.map((field) => ({ field: field.key, outcome: readField(raw, field, typing) }));
  const found = stated
    .filter((field) => field.type.kind !== 'computed')
    .map((field): FieldReading => ({ field: field.key, outcome: readField(raw, field, typing) }));
  return withComputed(found, fields, latest);
}

function recordOf(raw: RawRecord, fields: FieldReading[], reader: Reader): Result<ReadRecord, ReadProblem> {
  const identity = identityOf(raw, fields, reader);
  if (!identity.ok) return identity;
  const name = spokenBy(reader, raw, identity.value, fields) ?? calledBySource(reader, raw, identity.value, fields);
  return ok({
    identity: identity.value,
    name,
    variant: variantOf(fields[reader.variantAt]),
    labels: raw.labels,
    marks: raw.marks,
    fields,
  });
}

/** What a record is called by those who follow it; null where they have said nothing of it. */
function spokenBy(
  { definition: { names, fields } }: Reader,
  { labels }: RawRecord,
  identity: string,
  read: FieldReading[],
): string | null {
  if (names === undefined) return null;
  const textOf = (label: string) => {
    const key = fields.find((field) => field.label === label)?.key;
    const outcome = read.find((each) => each.field === key)?.outcome;
    return outcome?.ok ? (wordsOf(outcome.value.value) ?? outcome.value.text) : null;
  };
  return spokenName(names, { identity, labels, textOf });
}

function calledBySource(
  { definition, nameAt }: Reader,
  raw: RawRecord,
  identity: string,
  fields: FieldReading[],
): string {
  return raw.name ?? (identity === WHOLE ? definition.subject : (calledBy(fields[nameAt]) ?? identity));
}

function withComputed(found: FieldReading[], fields: Field[], latest: FormulaScope['latest']): FieldReading[] {
  const read = new Map(found.map((reading) => [reading.field, reading]));
  for (const field of fields) {
    if (field.type.kind !== 'computed') continue;
    const value = evaluateFormula(field.type.formula, { field: (name) => namedField(fields, read, name), latest });
    const outcome: FieldReading['outcome'] = value.ok
      ? ok({ value: value.value, text: '', byLocale: false, lost: [] })
      : fail({ reason: 'not computed', said: value.error });
    read.set(field.key, { field: field.key, outcome });
  }
  return fields.flatMap((field) => read.get(field.key) ?? []);
}

function namedField(fields: Field[], read: Map<string, FieldReading>, name: string): Result<Value, string> | undefined {
  const field = fields.find((each) => nameInFormula(each.label) === name || each.key === name);
  const reading = field === undefined ? undefined : read.get(field.key);
  if (field === undefined || reading === undefined) return undefined;
  return reading.outcome.ok ? ok(reading.outcome.value.value) : fail(`${field.label} was not read.`);
}

function identityOf(
  raw: RawRecord,
  fields: FieldReading[],
  { definition, identityAt }: Reader,
): Result<string, ReadProblem> {
  if (identityAt.length === 0)
    return raw.identity === null ? fail({ reason: 'no identity', field: 'none' }) : bounded(raw.identity);
  const values: Value[] = [];
  for (const [place, at] of identityAt.entries()) {
    const outcome = fields[at]?.outcome;
    if (outcome === undefined || !outcome.ok || outcome.value.value.kind === 'absent') {
      return fail({ reason: 'no identity', field: definition.identity[place] ?? '' });
    }
    values.push(outcome.value.value);
  }
  return bounded(identityFrom(values));
}

/** In UTF-16 units; what an index of the database can hold in any script. */
const LONGEST_IDENTITY = 800;

function bounded(identity: string): Result<string, ReadProblem> {
  if (isAllRecords({ identity })) return fail({ reason: 'same identity', identity, count: 2 });
  return identity.length > LONGEST_IDENTITY
    ? fail({ reason: 'long identity', begins: cut(identity, SHOWN_TEXT) })
    : ok(identity);
}

/** The identity that the values of a record's key fields make, in their order. */
export function identityFrom(values: Value[]): string {
  return values.map(identityWords).join(' · ');
}

function identityWords(value: Value): string {
  return isMeasure(value) ? [value.amount, unitOf(value)].filter(Boolean).join(' ') : (wordsOf(value) ?? '');
}

/** What a reader would call a record: the text of the field that is its name. */
function calledBy(naming: FieldReading | undefined): string | null {
  const value = naming?.outcome.ok ? naming.outcome.value.value : null;
  return value?.kind === 'text' ? value.text || null : null;
}

function variantOf(reading: FieldReading | undefined): string | null {
  return reading?.outcome.ok ? identityWords(reading.outcome.value.value) : null;
}

/** Keeps the records that can be told apart, and of these the chosen. */
function tellApart(
  read: ReadRecord[],
  problems: Map<string, ReadProblem>,
  { chosen, leftOut }: WatchDefinition,
): WatchReading {
  const distinct = namedApart(distinctOf(read, problems));
  if (chosen === null) return { records: distinct, offered: [], problems: [...problems.values()] };
  const [taken, passed] = [new Set(chosen), new Set([...chosen, ...leftOut])];
  const offered = new Map(
    distinct
      .filter(({ identity }) => !passed.has(identity))
      .map(({ identity, name }) => [identity, { identity, name }]),
  );
  return {
    records: distinct.filter(({ identity }) => taken.has(identity)),
    offered: [...offered.values()],
    problems: [...problems.values()],
  };
}

/** The records that are there once. Points of one name are one record seen at several times. */
function distinctOf(records: ReadRecord[], problems: Map<string, ReadProblem>): ReadRecord[] {
  if (new Set(records.map(({ identity }) => identity)).size === records.length) return records;
  const keys = records.map(({ identity, marks }) => (marks.at === null ? identity : `${identity} at ${marks.at}`));
  const counts = new Map<string, number>();
  for (const key of keys) counts.set(key, (counts.get(key) ?? 0) + 1);
  return records.filter(({ identity }, at) => {
    const count = counts.get(keys[at] ?? '') ?? 1;
    if (count > 1) problems.set(`same ${identity}`, { reason: 'same identity', identity, count });
    return count === 1;
  });
}

/** Records of one name are told apart by what identifies them. */
function namedApart(records: ReadRecord[]): ReadRecord[] {
  const [first, shared] = [new Map<string, string>(), new Set<string>()];
  for (const { name, identity } of records) {
    const known = first.get(name);
    if (known === undefined) first.set(name, identity);
    else if (known !== identity) shared.add(name);
  }
  return shared.size === 0
    ? records
    : records.map((record) =>
        shared.has(record.name) ? { ...record, name: `${record.name}, ${record.identity}` } : record,
      );
}
