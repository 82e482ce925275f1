import { isTag, type AnyNode } from 'domhandler';
import { isCurrency } from '../value/currency';
import { parseMoment } from '../value/moment';
import { foldText } from '../value/parse';
import type { Body } from './body';
import { inRole, AVAILABILITY, type Field, type FieldType, type RecordSource } from './definition';
import type { Role } from './role';
import type { Found } from './found';
import { isObject, leafPaths, listPaths, queryJson, type JsonBody } from './formats/json';
import type { MetricsBody } from './formats/metrics';
import type { XmlBody } from './formats/xml';
import { selectElements, visibleText, type Document, type Element } from './html';
import { cellsOf, headsOf, type Locator } from './locator';
import { keptFor } from './order';
import { placeOf } from './pick';
import { localeOf } from './read';
import { rawRecords, type RawRecord } from './records';
import { parseAs } from './typed';
import { freeKey } from './keys';

/** Records that a body seems to hold, with fields proposed for them. */
export interface Listing {
  records: RecordSource;
  /** What it is, in words: `24 rows of a table`. */
  said: string;
  count: number;
  fields: Field[];
  identity: string[];
}

/** A field before it is typed: what to call it and where it stands in a record. */
interface Column {
  label: string;
  locator: Locator;
  mode?: Field['mode'];
}

const SAMPLED = 60;
const MOST_FIELDS = 24;
const MOST_LISTINGS = 8;

/** The listings of a body that are worth a look, the likeliest first; of a page its tables and its repeated blocks. */
export function listingsOf(body: Body): Listing[] {
  return everyListing(body).filter((listing) => body.format !== 'html' || !isMereText(listing));
}

/** All listings of a body, those included whose parts have no names. */
export function everyListing(body: Body): Listing[] {
  return sourcesIn(body)
    .slice(0, MOST_LISTINGS)
    .flatMap((source) => listingOf(body, source.records, source.columns) ?? []);
}

/** Rows of a page whose parts have no names are its layout, its facts about one thing, or its prose. */
function isMereText({ fields }: Listing): boolean {
  return fields.every(({ type, label }) => /^text \d+$/.test(label) || (type.kind === 'text' && label === 'name'));
}

/** The records that a source finds in a body, with fields proposed; null when it finds none. */
export function listingOf(body: Body, records: RecordSource, columns: Column[] = columnsFor(body, records)): Listing | null {
  const raw = rawRecords(body, records);
  if (!raw.ok || raw.value.length === 0) return null;
  const fields = proposeFields(raw.value.slice(0, SAMPLED), columns, localeOf(body));
  const own = raw.value.every((record) => record.identity !== null);
  return {
    records,
    said: sayListing(body, records, raw.value.length),
    count: raw.value.length,
    fields,
    identity: own ? [] : proposeIdentity(raw.value, fields),
  };
}

function sayListing(body: Body, records: RecordSource, count: number): string {
  const many = (one: string, several: string) => (count === 1 ? `one ${one}` : `${count.toLocaleString('en')} ${several}`);
  switch (records.from) {
    case 'rows':
      return /(^|[\s>])tr\b[^\s>]*$/.test(records.rows) ? many('row of a table', 'rows of a table') : many('block', 'blocks of one kind');
    case 'feed':
      return many('item', 'items');
    case 'metrics': {
      const family = records.family === null || body.format !== 'metrics' ? undefined : body.families[records.family];
      return `${records.family ?? 'all metrics'}: ${many('sample', 'samples')}${family === undefined || family.type === 'unknown' ? '' : `, a ${family.type}`}`;
    }
    case 'senml':
      return many('point', 'points');
    case 'json':
      return records.path === '$' ? 'the whole of it' : `${records.path}: ${many('record', 'records')}`;
    default:
      return many('record', 'records');
  }
}

interface Source {
  records: RecordSource;
  columns?: Column[];
}

function sourcesIn(body: Body): Source[] {
  switch (body.format) {
    case 'html':
      return [...tablesIn(body.document), ...blocksIn(body.document)];
    case 'json':
      return [...listPaths(body), '$'].map((path) => ({ records: { from: 'json', path } as const }));
    case 'csv':
      return [{ records: { from: 'csv' } }];
    case 'xml':
      return repeatedIn(body).map((path) => ({ records: { from: 'xml', path } as const }));
    case 'feed':
      return [{ records: { from: 'feed' } }];
    case 'metrics':
      return familiesIn(body).map((family) => ({ records: { from: 'metrics', family } as const }));
    case 'senml':
      return [{ records: { from: 'senml' } }];
  }
}

function columnsFor(body: Body, records: RecordSource): Column[] {
  if (records.from === 'json' && body.format === 'json') return jsonColumns(body, records.path);
  if (records.from === 'csv' && body.format === 'csv') return body.columns.map((column) => ({ label: column, locator: { way: 'column', column } }));
  if (records.from === 'xml' && body.format === 'xml') return xmlColumns(body, records.path);
  if (records.from === 'feed')
    return ['title', 'published', 'link', 'summary', 'category', 'author'].map((part) => ({ label: part, locator: { way: 'part', part } }));
  if (records.from === 'metrics') return [{ label: records.family ?? 'value', locator: { way: 'part', part: 'value' }, mode: 'measured' }];
  if (records.from === 'senml') return [{ label: 'value', locator: { way: 'part', part: 'value' }, mode: 'measured' }];
  if (records.from === 'rows' && body.format === 'html') return rowColumns(body.document, records.rows);
  return [];
}

function jsonColumns(body: JsonBody, path: string): Column[] {
  const records = queryJson(body, path);
  const paths = records.ok ? records.value.slice(0, SAMPLED).flatMap((record) => (isObject(record.exact) ? leafPaths(record.exact) : [])) : [];
  return [...new Set(paths)].slice(0, MOST_FIELDS).map((each) => ({ label: labelOfPath(each), locator: { way: 'path', path: each } }));
}

function labelOfPath(path: string): string {
  const steps = path
    .replace(/\['([^']*)'\]/g, '.$1')
    .split('.')
    .slice(1);
  const last = steps.at(-1) ?? path;
  return words(/^(amount|value|name|id)$/i.test(last) && steps.length > 1 ? steps.slice(-2).join(' ') : last);
}

const words = (name: string) =>
  name
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/[_-]+/g, ' ')
    .toLowerCase();

function xmlColumns(body: XmlBody, path: string): Column[] {
  const name = path.split('/').at(-1) ?? '';
  const columns = new Map<string, Column>();
  const visit = (node: AnyNode): void => {
    if (!isTag(node)) return;
    if (localName(node) === name) {
      for (const attribute of Object.keys(node.attribs))
        columns.set(`@${attribute}`, { label: words(attribute), locator: { way: 'xpath', path: `@${attribute}` } });
      for (const child of node.children.filter(isTag)) {
        const own = localName(child);
        if (!child.children.some(isTag)) columns.set(own, { label: words(own), locator: { way: 'xpath', path: own } });
        for (const attribute of Object.keys(child.attribs)) {
          columns.set(`${own}/@${attribute}`, {
            label: `${words(own)} ${words(attribute)}`,
            locator: { way: 'xpath', path: `${own}/@${attribute}` },
          });
        }
      }
    }
    node.children.forEach(visit);
  };
  body.tree.children.forEach(visit);
  return [...columns.values()].slice(0, MOST_FIELDS);
}

const localName = (element: Element) => element.name.split(':').at(-1) ?? element.name;

/** Paths to elements that repeat under one parent, the most frequent first. */
function repeatedIn(body: XmlBody): string[] {
  const counts = new Map<string, number>();
  const visit = (node: AnyNode): void => {
    if (!isTag(node)) return;
    const names = node.children.filter(isTag).map(localName);
    for (const name of new Set(names)) {
      const same = names.filter((each) => each === name).length;
      if (same > 1) counts.set(name, Math.max(same, counts.get(name) ?? 0));
    }
    node.children.forEach(visit);
  };
  body.tree.children.forEach(visit);
  return [...counts].sort((a, b) => b[1] - a[1]).map(([name]) => `//${name}`);
}

function familiesIn(body: MetricsBody): (string | null)[] {
  const named = [...new Set(body.samples.map((sample) => sample.family))];
  return named.length > 1 ? [...named, null] : named;
}

function tablesIn(document: Document): Source[] {
  const tables = selectElements(document, 'table');
  if (!tables.ok) return [];
  return tables.value.slice(0, MOST_TABLES).flatMap((table) => {
    const heads = headsOf(table);
    const rows = `${placeOf(document, table)} tr:has(td)`;
    const found = selectElements(document, rows);
    if (!found.ok || found.value.length < 3 || heads.length < 2) return [];
    const named = isHeaded(table) && new Set(heads).size === heads.length && heads.every((head) => head !== '');
    const columns = named
      ? heads.map((column): Column => ({ label: column.toLowerCase(), locator: { way: 'column', column } }))
      : rowColumns(document, rows);
    return [{ records: { from: 'rows', rows } as const, columns }];
  });
}

/** Whether a table says which of its rows is its head. */
function isHeaded(table: Element): boolean {
  const [thead, rows] = ['thead', 'tr'].map((name) => selectElements(table, name));
  if (thead?.ok && thead.value.length > 0) return true;
  const isHead = (row: Element) => cellsOf(row).some((cell) => cell.name === 'th');
  return rows?.ok === true && rows.value.some((row) => isHead(row) && followedByRow(row));
}

function followedByRow(row: Element): boolean {
  for (let at = row.next; at !== null; at = at.next) if (isTag(at) && at.name === 'tr') return true;
  return false;
}

const MOST_TABLES = 40;
const LEAST_BLOCKS = 3;

/** Blocks of one tag and one set of classes that repeat under one parent and hold more than one text. */
function blocksIn(document: Document): Source[] {
  const found = new Map<string, { count: number; element: Element }>();
  const visit = (node: AnyNode): void => {
    if (!isTag(node) || node.name === 'table' || node.name === 'select' || node.name === 'nav') return;
    const groups = new Map<string, Element[]>();
    for (const child of node.children.filter(isTag)) {
      const kind = selectorOfKind(child);
      const group = groups.get(kind);
      if (group === undefined) groups.set(kind, [child]);
      else group.push(child);
    }
    for (const [kind, members] of groups) {
      const [first] = members;
      if (members.length < LEAST_BLOCKS || first === undefined || textsIn(first).length < 2) continue;
      const known = found.get(kind);
      found.set(kind, { count: members.length + (known?.count ?? 0), element: known?.element ?? first });
    }
    node.children.forEach(visit);
  };
  document.children.forEach(visit);
  return [...found]
    .sort((a, b) => b[1].count - a[1].count)
    .map(([kind, { element }]) => ({ records: { from: 'rows', rows: rowsLike(element, kind) } as const }));
}

/** The selector of the blocks that are like a picked one: of its tag and its classes, under the nearest named ancestor. */
export function rowsLike(element: Element, kind: string = selectorOfKind(element)): string {
  if (kind.includes('.')) return kind;
  const parent = element.parent !== null && isTag(element.parent) ? element.parent : null;
  return parent === null ? kind : `${selectorOfKind(parent)} > ${kind}`;
}

function selectorOfKind(element: Element): string {
  const classes = (element.attribs.class ?? '').split(/\s+/).filter((name) => /^[A-Za-z][\w-]*$/.test(name));
  return `${element.name}${classes
    .slice(0, 2)
    .map((name) => `.${name}`)
    .join('')}`;
}

/** The smallest elements of a block that hold text of their own. */
function textsIn(block: Element): Element[] {
  const found: Element[] = [];
  const visit = (node: AnyNode): boolean => {
    if (!isTag(node)) return false;
    const inner = node.children.map(visit).some(Boolean);
    const text = inner ? '' : visibleText(node);
    if (text !== '' && /[\p{L}\p{N}]/u.test(text)) found.push(node);
    return inner || text !== '';
  };
  block.children.forEach(visit);
  return found;
}

/** What repeats in blocks alike: each text by its class or its place within the block, and where the first link leads. */
function rowColumns(document: Document, rows: string): Column[] {
  const found = selectElements(document, rows);
  const [sample] = found.ok ? found.value : [];
  if (sample === undefined) return [];
  const cells = cellsOf(sample);
  const texts = cells.length > 0 ? cells : textsIn(sample);
  const columns = texts.slice(0, MOST_FIELDS).map((element, at): Column => {
    const name = (element.attribs.itemprop ?? element.attribs.class ?? '').split(/\s+/)[0] ?? '';
    const own = /^[A-Za-z][\w-]*$/.test(name) ? `.${name}` : '';
    const unique = own !== '' && only(sample, own);
    return { label: columnLabel(element, name, at), locator: { way: 'css', selector: unique ? own : placeOf(sample, element) } };
  });
  return columns;
}

function only(block: Element, selector: string): boolean {
  const found = selectElements(block, selector);
  return found.ok && found.value.length === 1;
}

function columnLabel(element: Element, name: string, at: number): string {
  if (/^h[1-6]$/.test(element.name) || element.name === 'a') return 'name';
  const last = words(name).split(' ').at(-1) ?? '';
  return last.length > 1 ? last : `text ${at + 1}`;
}

/** Types fields from the texts that stand in them in the first records. */
function proposeFields(records: RawRecord[], columns: Column[], locale: string | null): Field[] {
  const keys: string[] = [];
  const stated = statedCurrency(records, columns);
  return columns.flatMap((column) => {
    const samples = records.flatMap((record) => {
      const found = record.find(column.locator);
      return found.ok && foldText(found.value.text) !== '' ? found.value : [];
    });
    if (samples.length === 0) return [];
    const type = column.mode === 'measured' ? measuredType(records, samples) : typeOfSamples(column.label, samples, locale, stated);
    const key = freeKey(column.label, keys);
    keys.push(key);
    return [
      inRole({
        key,
        label: column.label,
        type,
        mode: column.mode ?? 'stepwise',
        polarity: 'neither',
        locale: commaDecimal(type, samples, locale),
        locators: [column.locator],
      }),
    ];
  });
}

function measuredType(records: RawRecord[], samples: Found[]): FieldType {
  const numbers = samples.every((sample) => sample.stated === 'number');
  const counter = records.some((record) => record.name !== null && /_total(\{|$)/.test(record.name));
  return numbers ? { kind: 'number', ...(counter ? { increase: true } : {}) } : { kind: 'stated' };
}

const STATES = /avail|stock|status|lager|bestand|verfüg/i;
const AMOUNTS = /price|preis|amount|cost|revenue|total|minimum|fee|spend|refund|wert/i;

/** The first type, of those that a column of this name may have, that all its samples can be read as. */
function typeOfSamples(label: string, samples: Found[], locale: string | null, stated: string | null): FieldType {
  const every = (type: FieldType) => samples.every((sample) => parseAs(type, sample, { locale, address: 'http://relative.example/' }).ok);
  const texts = samples.map((sample) => foldText(sample.text));
  const currency = currencyBy(label) ?? (AMOUNTS.test(label) ? stated : null);
  const states: FieldType = { kind: 'state', states: AVAILABILITY };
  const tests: [FieldType, () => boolean][] = [
    [{ kind: 'money', currency }, () => currency !== null && every({ kind: 'money', currency })],
    [{ kind: 'flag', yes: [], no: [] }, () => samples.every((sample) => sample.stated === 'flag')],
    [linkType(texts), () => texts.every((text) => /^https?:\/\//.test(text))],
    [{ kind: 'moment' }, () => texts.every((text) => LIKE_A_DAY.test(text) && parseMoment(text, locale ?? 'en-GB') !== null)],
    [{ kind: 'money', currency: null }, () => every({ kind: 'money', currency: null })],
    [states, () => STATES.test(label) && every(states)],
    [{ kind: 'number' }, () => texts.every((text) => NUMERIC.test(text)) && readAsNumbers(samples, locale, every)],
    [{ kind: 'grade', scale: GRADES }, () => texts.length > 1 && texts.every((text) => /^[A-F][+-]?$/.test(text))],
  ];
  return tests.find(([, fits]) => fits())?.[0] ?? { kind: 'text' };
}

const LIKE_A_DAY = /\d{4}|\d{1,2}[./]\d{1,2}/;
const NUMERIC = /^[-+]?[\d.,\s]*\d[\d.,\s]*\s?(%|°?[A-Za-z]{0,3})$/;
const GRADES = ['A', 'B', 'C', 'D', 'E', 'F'];

function linkType([first = '']: string[]): FieldType {
  return { kind: /\.(png|jpe?g|webp|gif|svg)(\?|$)/i.test(first) ? 'picture' : 'link' };
}

function readAsNumbers(samples: Found[], locale: string | null, every: (type: FieldType) => boolean): boolean {
  return every({ kind: 'number' }) || commaDecimal({ kind: 'number' }, samples, locale) !== null;
}

/** The one currency that the records themselves state, in a column of its own. */
function statedCurrency(records: RawRecord[], columns: Column[]): string | null {
  for (const { locator } of columns) {
    const texts = new Set(
      records.flatMap((record) => {
        const found = record.find(locator);
        return found.ok && found.value.text !== '' ? found.value.text : [];
      }),
    );
    const [only] = texts;
    if (texts.size === 1 && only !== undefined && isCurrency(only)) return only;
  }
  return null;
}

/** `price_gbp` and `spend (EUR)` say their currency. */
function currencyBy(label: string): string | null {
  const code = /(?:^|[\s_(])([a-z]{3})\)?$/i.exec(label)?.[1]?.toUpperCase();
  return code !== undefined && isCurrency(code) ? code : null;
}

/** A table without a stated language whose decimals follow a comma is read as such. */
function commaDecimal(type: FieldType, samples: Found[], locale: string | null): string | null {
  if (locale !== null || (type.kind !== 'number' && type.kind !== 'money')) return null;
  const texts = samples.filter((sample) => sample.stated === 'text').map((sample) => foldText(sample.text));
  const comma = texts.some((text) => /\d,\d{1,2}(?!\d)/.test(text)) && !texts.some((text) => /\d\.\d{1,2}(?!\d)/.test(text));
  return comma ? 'de-DE' : null;
}

/** What tells records apart, the surest first. */
const IDENTIFYING: readonly (Role | undefined)[] = ['identifier', 'name', 'day'];

/** The field, or the few, whose values tell the records apart: named like a key first, then any text, then pairs. */
function proposeIdentity(records: RawRecord[], fields: Field[]): string[] {
  const ranked = fields.filter((field) => rank(field) < MEASURES).sort((a, b) => rank(a) - rank(b));
  const columnOf = keptFor((field: Field) => records.map((record) => textIn(record, field)));
  const isFull = (field: Field) => columnOf(field).every((text) => text !== '');
  const distinct = (keys: Field[]) => areDistinct(keys.map(columnOf));
  const one = ranked.find((field) => isFull(field) && distinct([field]));
  if (one !== undefined) return [one.key];
  const full = ranked.filter(isFull);
  for (const [at, first] of full.entries()) {
    const second = full.slice(at + 1).find((field) => distinct([first, field]));
    if (second !== undefined) return [first.key, second.key];
  }
  return [];
}

/** Whether no two rows of some columns are the same. */
function areDistinct([first = [], second]: string[][]): boolean {
  const seen = new Set<string>();
  return first.every((text, at) => {
    const row = second === undefined ? text : `${text}\u0000${second[at] ?? ''}`;
    if (seen.has(row)) return false;
    seen.add(row);
    return true;
  });
}

/** Measures tell nothing apart: two records may cost the same. */
const MEASURES = 10;

function rank(field: Field): number {
  const named = IDENTIFYING.indexOf(field.role);
  if (named >= 0) return named;
  return field.type.kind === 'text' ? 5 : field.type.kind === 'link' || field.type.kind === 'moment' ? 6 : MEASURES;
}

function textIn(record: RawRecord, field: Field): string {
  const [locator] = field.locators;
  const found = locator === undefined ? null : record.find(locator);
  return found?.ok ? foldText(found.value.text) : '';
}
