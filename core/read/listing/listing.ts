import type { Body } from '../body';
import type { Field, RecordSource } from '../definition';
import { framedRecords } from '../frame/take';
import { localeOf } from '../read';
import { proposeNaming, type Naming } from '../naming';
import { rawRecords, type RawRecord } from '../records';
import { SAMPLED, type Column } from './column';
import { proposeFields } from './fields';
import { proposeIdentity } from './identity';
import { columnsFor, originsIn } from './origins';

/** Records that a body seems to hold, with fields proposed for them. */
export interface Listing {
  records: RecordSource;
  /** What it is, in words: `24 rows of a table`. */
  said: string;
  count: number;
  fields: Field[];
  identity: string[];
  /** What its records are called, where their source calls them as programs do. */
  names?: Naming;
}

const MOST_LISTINGS = 8;

/** The listings of a body that are worth a look, the likeliest first; of a page its tables and its repeated blocks. */
export function listingsOf(body: Body): Listing[] {
  return everyListing(body).filter((listing) => body.format !== 'html' || !isMereText(listing));
}

/** All listings of a body, those included whose parts have no names. */
export function everyListing(body: Body): Listing[] {
  return originsIn(body)
    .slice(0, MOST_LISTINGS)
    .flatMap(({ records, columns }) => listingOf(body, records, columns) ?? []);
}

/** Rows of a page whose parts have no names are its layout, its facts about one thing, or its prose. */
function isMereText({ fields }: Listing): boolean {
  return fields.every(({ type, label }) => /^text \d+$/.test(label) || (type.kind === 'text' && label === 'name'));
}

/** The records that a source finds in a body, with fields proposed; null when it finds none. */
export function listingOf(
  body: Body,
  records: RecordSource,
  columns: Column[] = columnsFor(body, records),
): Listing | null {
  const raw = rawRecords(body, records);
  if (!raw.ok || raw.value.length === 0) return null;
  // Of a page what does not fit the head of its table tells nothing of the others.
  const found = records.from === 'rows' ? raw.value.filter(({ scope }) => scope !== null) : raw.value;
  const fields = proposeFields(found.slice(0, SAMPLED), columns, localeOf(body));
  const own = found.every((record) => record.identity !== null);
  const count =
    records.from === 'senml' && records.grouped === true
      ? new Set(found.map((record) => record.identity)).size
      : found.length;
  const identity = own ? [] : proposeIdentity(found, fields);
  const names = namesFor(found, fields, identity);
  return {
    records: framedRecords(body, records, found),
    said: sayListing(body, records, count),
    count,
    fields,
    identity,
    ...(names === null ? {} : { names }),
  };
}

/**
 * What records are called that have no name of their own: of those that are told apart by a number, what they are goes
 * before it.
 */
function namesFor(found: RawRecord[], fields: Field[], identity: string[]): Naming | null {
  if (identity.length === 0)
    return proposeNaming(found.map((record) => ({ identity: record.identity ?? '', labels: record.labels })));
  const [keys, [what]] = [
    fields.filter(({ key }) => identity.includes(key)),
    fields.filter(({ key, type }) => type.kind === 'text' && !identity.includes(key)),
  ];
  if (what === undefined || fields.some(({ role }) => role === 'name') || keys.some(({ role }) => role === 'day'))
    return null;
  const labels = [what, ...keys].map(({ label }) => label);
  return labels.some((label) => /[{}]/.test(label))
    ? null
    : { pattern: labels.map((label) => `{${label}}`).join(', ') };
}

function sayListing(body: Body, records: RecordSource, count: number): string {
  const many = (one: string, several: string) =>
    count === 1 ? `one ${one}` : `${count.toLocaleString('en')} ${several}`;
  switch (records.from) {
    case 'rows':
      return /(^|[\s>])tr\b[^\s>]*$/.test(records.rows)
        ? many('row of a table', 'rows of a table')
        : many('block', 'blocks of one kind');
    case 'feed':
      return many('item', 'items');
    case 'metrics': {
      const family = records.family === null || body.format !== 'metrics' ? undefined : body.families[records.family];
      return (
        `${records.family ?? 'all metrics'}: ` +
        `${many('sample', 'samples')}${family === undefined || family.type === 'unknown' ? '' : `, a ${family.type}`}`
      );
    }
    case 'senml':
      if (records.grouped === true)
        return many('record with its points as fields', 'records with their points as fields');
      return many('point', 'points');
    case 'json':
      return records.path === '$' ? 'the whole of it' : `${records.path}: ${many('record', 'records')}`;
    default:
      return many('record', 'records');
  }
}
