import { fail, ok, type Result } from '../result';
import type { Body } from './body';
import type { RecordSource } from './definition';
import { plainText, type Found, type LocateProblem, type SourceMarks } from './found';
import { locateJson, queryJson, type JsonNode } from './formats/json';
import { sampleIdentity, type MetricsBody, type Sample } from './formats/metrics';
import type { Point } from './formats/senml';
import { queryXml, textOfNode } from './formats/xml';
import { findTables, isAdvertised, recordRows, type TableProblem } from './frame/tables';
import type { Instant } from '../when/interval';
import { selectElements, visibleText, type Element } from './html';
import { locate, type Locator, type Scope } from './locator';
import type { TableHeads } from './frame/types';

/** One record before it is typed. */
export interface RawRecord {
  /** Its identity, where the source itself has one. */
  identity: string | null;
  /** What a reader may call it, where the source says so. */
  name: string | null;
  labels: Record<string, string>;
  marks: SourceMarks;
  find: (locator: Locator) => Result<Found, LocateProblem>;
  /** All its visible text; empty for formats without any. */
  text: () => string;
  /** The part of a page it is; null for other formats. */
  scope: Scope | null;
  /**
   * Whether it states something at all; absent where every record of its kind states everything. What is not stated is
   * no failure.
   */
  states?: (locator: Locator) => boolean;
}

/** The identity of the one record that a whole body is. */
export const WHOLE = 'page';

const MOST_RECORDS = 50_000;
const NO_MARKS: SourceMarks = { at: null, quality: null };
const NOT_HERE = fail({ reason: 'not here' } as const);
const NO_MATCH = fail({ reason: 'no match' } as const);

/** Every record of a body, as it comes. The error is a sentence: what is wrong with where they are looked for. */
export function rawRecords(body: Body, source: RecordSource): Result<RawRecord[], string> {
  const read: Record<RecordSource['from'], () => Result<RawRecord[], string> | null> = {
    page: () => (body.format === 'html' ? ok([pageRecord(body.document)]) : null),
    rows: () => (body.format === 'html' && source.from === 'rows' ? rowRecords(body.document, source) : null),
    json: () => (body.format === 'json' && source.from === 'json' ? jsonRecords(body, source.path) : null),
    csv: () => (body.format === 'csv' ? ok(body.rows.map((row) => cellRecord(body.columns, row))) : null),
    xml: () => (body.format === 'xml' && source.from === 'xml' ? xmlRecords(body.document, source.path) : null),
    feed: () =>
      body.format === 'feed'
        ? ok(body.items.map(({ identity, parts }) => partsRecord(identity, parts.title ?? null, parts)))
        : null,
    metrics: () =>
      body.format === 'metrics' && source.from === 'metrics' ? ok(sampleRecords(body, source.family)) : null,
    senml: () =>
      body.format === 'senml' && source.from === 'senml'
        ? ok(pointRecords(body.points, source.grouped === true))
        : null,
  };
  return read[source.from]() ?? fail('The source came in another format than this watch reads.');
}

/** A page, or an element of it, as one record. */
export function pageRecord(scope: Scope, identity: string | null = WHOLE): RawRecord {
  return {
    identity,
    name: null,
    labels: {},
    marks: NO_MARKS,
    find: (locator) => locate(scope, locator),
    text: () => visibleText(scope),
    scope,
  };
}

function rowRecords(
  document: Scope,
  { rows, table }: Extract<RecordSource, { from: 'rows' }>,
): Result<RawRecord[], string> {
  if (table !== undefined) return tableRecords(document, table);
  const elements = selectElements(document, rows);
  if (!elements.ok) return fail(`The selector for its records cannot be used: ${elements.error}`);
  return bounded(
    elements.value.filter((element) => !isAdvertised(element)).map((element: Element) => pageRecord(element, null)),
  );
}

function tableRecords(document: Scope, wanted: TableHeads): Result<RawRecord[], string> {
  const tables = findTables(document, wanted);
  if (!tables.ok) return fail(sayTableProblem(tables.error, wanted));
  const found = tables.value.map(recordRows);
  // A row that does not fit its head has nothing that could be read: it is told, and no record is said to be gone for
  // it.
  const odd = found.flatMap((each) => each.odd.map(bare));
  return bounded([...found.flatMap(({ rows }) => rows.map((row) => pageRecord(row, null))), ...odd]);
}

function sayTableProblem(problem: TableProblem, { heads }: TableHeads): string {
  const table = `the table with ${heads
    .slice(0, 4)
    .map((head) => `“${head}”`)
    .join(', ')}`;
  switch (problem.reason) {
    case 'no table':
      return `The page has no table any more whose heads are those of ${table}.`;
    case 'another heading':
      return (
        `${table.charAt(0).toUpperCase()}${table.slice(1)} stands under “${problem.is}” now; before, it stood ` +
        `under “${problem.was}”.`
      );
  }
}

function jsonRecords(body: JsonNode, path: string): Result<RawRecord[], string> {
  const nodes = queryJson(body, path);
  if (!nodes.ok) return fail(`The path to its records cannot be used: ${nodes.error}`);
  return bounded(
    nodes.value.map((node) => ({
      ...bare(),
      identity: path.trim() === '$' ? WHOLE : null,
      find: (locator) => (locator.way === 'path' ? locateJson(node, locator.path) : NOT_HERE),
    })),
  );
}

function xmlRecords(document: Parameters<typeof queryXml>[0], path: string): Result<RawRecord[], string> {
  const nodes = queryXml(document, path);
  if (!nodes.ok) return fail(`The path to its records cannot be used: ${nodes.error}`);
  return bounded(
    nodes.value.map((node) => ({
      ...bare(),
      find: (locator) => (locator.way === 'xpath' ? locateXml(node, locator.path) : NOT_HERE),
    })),
  );
}

function locateXml(node: Parameters<typeof queryXml>[0], path: string): Result<Found, LocateProblem> {
  const found = queryXml(node, path);
  if (!found.ok) return fail({ reason: 'bad selector', detail: found.error });
  const [first] = found.value;
  if (first === undefined) return NO_MATCH;
  return found.value.length > 1
    ? fail({ reason: 'several matches', count: found.value.length })
    : ok(plainText(textOfNode(first)));
}

const bare = (): RawRecord => ({
  identity: null,
  name: null,
  labels: {},
  marks: NO_MARKS,
  find: () => NOT_HERE,
  text: () => '',
  scope: null,
});

function cellRecord(columns: string[], row: string[]): RawRecord {
  const find = (locator: Locator): Result<Found, LocateProblem> => {
    if (locator.way !== 'column') return NOT_HERE;
    const cell = row[columns.indexOf(locator.column)];
    return cell === undefined ? NO_MATCH : ok(plainText(cell));
  };
  return { ...bare(), find };
}

function partsRecord(identity: string, name: string | null, parts: Record<string, string>): RawRecord {
  const find = (locator: Locator): Result<Found, LocateProblem> => {
    if (locator.way !== 'part') return NOT_HERE;
    const part = parts[locator.part];
    return part === undefined ? NO_MATCH : ok(plainText(part));
  };
  return { ...bare(), identity, name, find };
}

function sampleRecords(body: MetricsBody, family: string | null): RawRecord[] {
  const samples = family === null ? body.samples : body.samples.filter((sample) => sample.family === family);
  return samples.map((sample) => new SampleRecord(sample, body.families[sample.family]?.unit ?? null));
}

const LABEL = 'label:';
const NO_LABELS: Record<string, string> = {};

/**
 * A record that is one value with its name. A class, since a feed has tens of thousands: nothing is made for one but
 * itself.
 */
abstract class PartRecord implements RawRecord {
  readonly scope = null;
  abstract readonly identity: string;
  abstract readonly name: string;
  abstract readonly labels: Record<string, string>;
  abstract readonly marks: SourceMarks;

  protected abstract value(): Found;
  protected abstract part(name: string): string | undefined;

  find(locator: Locator): Result<Found, LocateProblem> {
    if (locator.way !== 'part') return NOT_HERE;
    if (locator.part === 'value') return ok(this.value());
    const part = this.part(locator.part);
    return part === undefined ? NO_MATCH : ok(plainText(part));
  }

  text(): string {
    return '';
  }
}

class SampleRecord extends PartRecord {
  readonly identity: string;
  readonly name: string;
  readonly labels: Record<string, string>;
  readonly marks: SourceMarks;

  constructor(
    private readonly sample: Sample,
    private readonly unit: string | null,
  ) {
    super();
    this.identity = this.name = sampleIdentity(sample);
    this.labels = sample.labels;
    this.marks = sample.at === null ? NO_MARKS : { at: sample.at, quality: null };
  }

  protected value(): Found {
    return { text: this.sample.value, currency: null, stated: 'number', unit: this.unit };
  }

  protected part(name: string): string | undefined {
    if (name === 'name') return this.sample.name;
    return name.startsWith(LABEL) ? this.labels[name.slice(LABEL.length)] : undefined;
  }
}

class PointRecord extends PartRecord {
  readonly identity: string;
  readonly name: string;
  readonly labels = NO_LABELS;
  readonly marks: SourceMarks;

  constructor(private readonly point: Point) {
    super();
    this.identity = this.name = point.name;
    this.marks = { at: point.at, quality: point.quality };
  }

  protected value(): Found {
    return this.point.found;
  }

  protected part(name: string): string | undefined {
    return name === 'name' ? this.name : undefined;
  }
}

function pointRecords(points: Point[], grouped: boolean): RawRecord[] {
  if (!grouped) return points.map((point) => new PointRecord(point));
  const groups = new Map<string, GroupRecord>();
  const times = new Map<string, number>();
  for (const point of points) {
    const { group, part } = groupOf(point);
    // What is stated twice for one moment makes a second record of the same identity, which is refused as such.
    const time = times.get(`${point.at} ${point.name}`) ?? 0;
    times.set(`${point.at} ${point.name}`, time + 1);
    const key = `${point.at} ${time} ${group}`;
    const record = groups.get(key) ?? new GroupRecord(group, point.at);
    groups.set(key, record);
    record.add(part, point);
  }
  return [...groups.values()];
}

/** What a point is a part of, and which: what stands before and after the last slash or colon of its name. */
export function groupOf({ name }: Point): { group: string; part: string } {
  const at = Math.max(name.lastIndexOf('/'), name.lastIndexOf(':'));
  return at <= 0 ? { group: name, part: '' } : { group: name.slice(0, at), part: name.slice(at + 1) };
}

const PART = 'value:';

/** Several points of one moment as one record: its fields are the last parts of their names. */
class GroupRecord implements RawRecord {
  readonly name: string;
  readonly labels = NO_LABELS;
  readonly marks: SourceMarks;
  readonly scope = null;
  readonly #points = new Map<string, Point>();

  constructor(
    readonly identity: string,
    at: Instant,
  ) {
    this.name = identity;
    this.marks = { at, quality: null };
  }

  add(part: string, point: Point): void {
    this.#points.set(part, point);
  }

  states(locator: Locator): boolean {
    return (
      locator.way !== 'part' || !locator.part.startsWith(PART) || this.#points.has(locator.part.slice(PART.length))
    );
  }

  find(locator: Locator): Result<Found, LocateProblem> {
    if (locator.way !== 'part') return NOT_HERE;
    if (locator.part === 'name') return ok(plainText(this.identity));
    const point = locator.part.startsWith(PART) ? this.#points.get(locator.part.slice(PART.length)) : undefined;
    return point === undefined ? NO_MATCH : ok({ ...point.found, quality: point.quality });
  }

  text(): string {
    return '';
  }
}

function bounded(records: RawRecord[]): Result<RawRecord[], string> {
  return records.length > MOST_RECORDS
    ? fail(`There are more than ${MOST_RECORDS.toLocaleString('en')} records here.`)
    : ok(records);
}
