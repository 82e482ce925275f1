import { fail, ok, type Result } from '../../result';
import { sameValue, type Value } from '../../value/value';
import type { HtmlBody } from '../body';
import { isFound, type Field, type RecordSource, type WatchDefinition } from '../definition';
import { describeLocator } from '../describe';
import type { GuardedPage } from '../guard';
import { pageFacts, type Document } from '../html';
import { foldLabel } from '../lines';
import { placesOf } from '../locator';
import { placeOf } from '../pick';
import { everyListing, listingOf, type Listing } from '../listing/listing';
import { describeProblem } from '../problem';
import { readField } from '../agree';
import { identityFrom, readBody } from '../read';
import type { ReadRecord } from '../reading';
import { rawRecords, type RawRecord } from '../records';
import type { Typing } from '../typed';
import { mendGuards } from './guards';
import { mendingOf, type FieldMending, type FormerRecord, type Mending } from './mending';
import { isNear, type Proposal } from './propose';

/** A place is taken for where the known records went when this part of them is there. */
const ENOUGH = 0.5;
const LEAST_RECORDS = 2;
/** A column has to be this much likelier than the next one that reads otherwise. */
const MARGIN = 0.15;

/**
 * Where the records of a listing went, and which part of each holds which field, told by what the records were: their
 * identities, and the values that they last had. What a part is called adds to that, and never stands alone.
 */
export function mendListing(
  body: HtmlBody,
  definition: WatchDefinition,
  knownBefore: FormerRecord[],
  page: GuardedPage,
): Mending | null {
  const { document } = body;
  const known = knownBefore.filter((record) => isKnownSo(record, definition));
  const read = readBody(
    body,
    { ...definition, guards: [], chosen: null },
    { address: page.address, latest: () => undefined },
  );
  const records = read.ok ? read.value.records : [];
  const stands =
    known.length === 0
      ? records.length > 0
      : enough(known, (each) => records.some(({ identity }) => identity === each.identity));
  const lost = definition.fields.filter((field) => isFound(field) && (!stands || isLost(field, records)));
  if (lost.length === 0)
    return mendingOf(definition, { rows: null, fields: [], guards: mendGuards(document, definition, page, []) });
  const problem = read.ok ? null : describeProblem(read.error);
  const found = placesFor(body, definition, stands)
    .flatMap((listing) => matchListing(document, listing, definition, known, page.address) ?? [])
    .sort((a, b) => b.matched.length - a.matched.length)[0];
  const fields = lost.map((field) => mendField(document, field, found ?? null, problem ?? problemOf(field, records)));
  const rows =
    stands || found === undefined
      ? null
      : { records: found.records, rows: found.records.rows, said: sayRows(found, known) };
  const there = rows === null ? page : { ...page, records: found?.count ?? 0 };
  return mendingOf(definition, { rows, fields, guards: mendGuards(document, definition, there, fields) });
}

/** Whether a record was told apart as the definition does it now: while that is changed, nothing can be compared. */
function isKnownSo({ identity, fields }: FormerRecord, definition: WatchDefinition): boolean {
  return identityFrom(definition.identity.flatMap((key) => fields[key] ?? [])) === identity;
}

const enough = (known: FormerRecord[], isThere: (record: FormerRecord) => boolean): boolean => {
  const there = known.filter(isThere).length;
  return there >= Math.min(LEAST_RECORDS, known.length) && there >= ENOUGH * known.length && there > 0;
};

function isLost(field: Field, records: ReadRecord[]): boolean {
  return !records.some((record) => record.fields.some((reading) => reading.field === field.key && reading.outcome.ok));
}

function problemOf(field: Field, records: ReadRecord[]): string {
  const problems = records.flatMap((record) =>
    record.fields.flatMap((each) => (each.field === field.key && !each.outcome.ok ? each.outcome.error : [])),
  );
  const [first] = problems;
  return first === undefined ? 'No record has it any more.' : describeProblem(first);
}

function placesFor(body: HtmlBody, { records }: WatchDefinition, stands: boolean): Listing[] {
  const here = stands ? listingOf(body, records) : null;
  return stands ? (here === null ? [] : [here]) : everyListing(body);
}

/** One record as it stands in a listing now, with what was known of it. */
interface Matched {
  raw: RawRecord;
  known: FormerRecord;
}

interface MatchedListing {
  records: Extract<RecordSource, { from: 'rows' }>;
  count: number;
  said: string;
  columns: Field[];
  /** The part that holds each identifying field. */
  identifying: Map<string, Field>;
  matched: Matched[];
  typing: Typing;
}

/** A listing with its records told apart as the watch does it; null where too few of the known ones are there. */
function matchListing(
  document: Document,
  { records, fields: columns, said }: Listing,
  definition: WatchDefinition,
  known: FormerRecord[],
  address: string | null,
): MatchedListing | null {
  const raw = rawRecords({ format: 'html', document }, records);
  if (!raw.ok || records.from !== 'rows') return null;
  const typing = { locale: pageFacts(document).locale, address };
  const identifying = new Map<string, Field>();
  const identityFields = definition.identity.flatMap(
    (key) => definition.fields.find((field) => field.key === key) ?? [],
  );
  for (const field of identityFields) {
    const column = columnThatHolds(raw.value, field, columns, known, typing);
    if (column !== null) identifying.set(field.key, column);
  }
  const byIdentity = new Map(known.map((each) => [each.identity, each]));
  const matched = raw.value.flatMap((each): Matched[] => {
    const values = identityFields.flatMap((field) => valueIn(each, field, identifying.get(field.key), typing) ?? []);
    const identity = values.length === definition.identity.length ? identityFrom(values) : null;
    const was = identity === null ? undefined : byIdentity.get(identity);
    return was === undefined ? [] : [{ raw: each, known: was }];
  });
  const there = new Set(matched.map((each) => each.known));
  return enough(known, (each) => there.has(each))
    ? { records, count: raw.value.length, said, columns, identifying, matched, typing }
    : null;
}

/** The part in which most of a field's known values stand. */
function columnThatHolds(
  raw: RawRecord[],
  field: Field,
  columns: Field[],
  known: FormerRecord[],
  typing: Typing,
): Field | null {
  const values = known.flatMap((each) => each.fields[field.key] ?? []);
  const hits = columns.map((column) => {
    const read = raw.flatMap((each) => valueIn(each, field, column, typing) ?? []);
    return { column, count: values.filter((value) => read.some((each) => sameValue(each, value))).length };
  });
  const [best] = hits.sort((a, b) => b.count - a.count);
  return best !== undefined && best.count >= ENOUGH * values.length && best.count > 0 ? best.column : null;
}

function valueIn(raw: RawRecord, field: Field, column: Field | undefined, typing: Typing): Value | null {
  if (column === undefined) return null;
  // What stands around it in its new place is told apart from what it reads.
  const read = readField(
    raw,
    { ...field, locale: field.locale ?? column.locale, locators: column.locators, frames: [] },
    typing,
  );
  return read.ok ? read.value.value : null;
}

interface Held {
  column: Field;
  /** Shares of the matched records: read at all, as before, and near to it. */
  read: number;
  same: number;
  near: number;
  values: (Value | null)[];
  called: boolean;
}

function mendField(document: Document, field: Field, listing: MatchedListing | null, problem: string): FieldMending {
  const lost = field.locators.map(describeLocator);
  const chosen = listing === null ? fail('nothing like it' as const) : columnFor(field, listing);
  if (listing === null || !chosen.ok)
    return {
      key: field.key,
      label: field.label,
      problem,
      lost,
      proposal: chosen.ok ? fail('nothing like it') : chosen,
      locators: [],
    };
  const { column } = chosen.value;
  return {
    key: field.key,
    label: field.label,
    problem,
    lost,
    proposal: proposalOf(document, chosen.value, listing),
    locators: column.locators,
  };
}

/**
 * The part of each record that holds a field: it reads as it last did in most records, or near that under the same
 * name.
 */
function columnFor(field: Field, listing: MatchedListing): Result<Held, 'nothing like it' | 'several alike'> {
  const identifying = listing.identifying.get(field.key);
  const columns = identifying === undefined ? listing.columns : [identifying];
  const likely = columns
    .map((column) => heldBy(field, column, listing))
    .filter((held) => held.same >= ENOUGH || (held.called && held.read >= 1 - MARGIN && held.near >= ENOUGH))
    .sort((a, b) => scoreOf(b) - scoreOf(a));
  const [best] = likely;
  if (best === undefined) return fail('nothing like it');
  const rival = likely.slice(1).find((held) => scoreOf(best) - scoreOf(held) <= MARGIN && !sameColumn(best, held));
  return rival === undefined ? ok(best) : fail('several alike');
}

const scoreOf = ({ same, near, called }: Held) => same + near / 2 + (called ? 0.5 : 0);

const sameColumn = (one: Held, other: Held) =>
  one.values.every((value, at) => {
    const against = other.values[at] ?? null;
    return value === null || against === null ? value === against : sameValue(value, against);
  });

function heldBy(field: Field, column: Field, { matched, typing }: MatchedListing): Held {
  const values = matched.map(({ raw }) => valueIn(raw, field, column, typing));
  const share = (holds: (value: Value, was: Value) => boolean) => {
    const known = matched.flatMap(({ known: { fields } }, at) => {
      const [value, was] = [values[at] ?? null, fields[field.key]];
      return was === undefined ? [] : [value !== null && holds(value, was)];
    });
    return known.length === 0 ? 0 : known.filter(Boolean).length / known.length;
  };
  const read = values.filter((value) => value !== null).length / Math.max(1, values.length);
  const names = [field.label, ...field.locators.flatMap((locator) => (locator.way === 'column' ? locator.column : []))];
  const called = names.some((name) => foldLabel(name) === foldLabel(column.label));
  return { column, read, same: share(sameValue), near: share(isNear), values, called };
}

function proposalOf(
  document: Document,
  { column, same, near, values, called }: Held,
  { matched }: MatchedListing,
): Result<Proposal, 'nothing like it'> {
  const at = values.findIndex((value) => value !== null);
  const [value, record] = [values[at] ?? null, matched[at]];
  const [locator] = column.locators;
  const places = locator === undefined || record?.raw.scope == null ? null : placesOf(record.raw.scope, locator);
  const element = places?.ok ? places.value[0]?.element : undefined;
  if (value === null || record === undefined || element == null) return fail('nothing like it');
  const count = (share: number) => Math.round(share * matched.length);
  const because = [
    `${count(same)} of ${matched.length} records read as they last did`,
    ...(near > same ? [`${count(near)} are near it`] : []),
    ...(called ? [`it is called “${column.label}”, as before`] : []),
  ];
  return ok({
    selector: placeOf(document, element),
    text: '',
    value,
    because,
    locators: column.locators,
    frames: column.frames ?? [],
  });
}

function sayRows({ said, records, matched }: MatchedListing, known: FormerRecord[]): string {
  return (
    `Its records are now ${said} (${records.rows}): ${matched.length} of ` + `the ${known.length} known ones are there.`
  );
}
