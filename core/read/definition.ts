import { storedAs } from '../versioned';
import type { Polarity } from '../value/value';
import type { Format } from './body';
import type { Guard } from './guard';
import type { Locator } from './locator';
import type { Naming } from './naming';
import { roleFor, type Role } from './role';
import type { Doubt, Frame, TableHeads } from './frame/types';

/** A state with the phrases that a source says it in; the first phrase that fits decides. */
export interface NamedState {
  name: string;
  phrases: string[];
}

/** What kind of value a field holds, and what reading it needs to know beside the text. */
export type FieldType =
  /** With the currency to assume where the source shows none. */
  | { kind: 'money'; currency: string | null }
  /** With the unit to assume; `increase` reads a running counter as what was added since the last run. */
  | { kind: 'number'; unit?: string | null; increase?: boolean }
  /** With patterns (RE2 syntax) whose matches are taken out before texts are compared. */
  | { kind: 'text'; masks?: string[] }
  /** Yes and no by the phrases that say so. */
  | { kind: 'flag'; yes: string[]; no: string[] }
  /** Whether a phrase stands in the visible text of the place. */
  | { kind: 'phrase'; phrase: string }
  | { kind: 'state'; states: NamedState[] }
  /** On a scale, the best first. */
  | { kind: 'grade'; scale: string[] }
  /** With the zone to read times in that state none. */
  | { kind: 'moment'; zone?: string }
  | { kind: 'link' }
  | { kind: 'picture' }
  /** As the source types it: a number with its unit, yes or no, or a text. */
  | { kind: 'stated' }
  /** Worked out from the record's other fields, and from other watches by name. */
  | { kind: 'computed'; formula: string }
  /** How many records there are: of all of them together (`all-records.ts`). */
  | { kind: 'count' };

/** One typed property of a record. */
export interface Field {
  /** Stable name within the watch; a series hangs on it. */
  key: string;
  /** What the analyst calls it. */
  label: string;
  type: FieldType;
  /** Stepwise: every move is a change. Measured: readings are kept, and only rules make news of them. */
  mode: 'stepwise' | 'measured';
  polarity: Polarity;
  /** BCP 47 tag that overrides the page's; null: as the page states. */
  locale: string | null;
  locators: Locator[];
  /** What it is, whatever it is called; absent where nothing says so. */
  role?: Role;
  /**
   * Phrases of the record's visible text that say the value is missing on purpose: then 'not found' reads as absent.
   */
  absentWhen?: string[];
  /**
   * What stood around it when it was chosen, and what she has accepted since; a value under another is in question. Of
   * a page's values alone.
   */
  frames?: Frame[];
  /** What may happen to it without a question, because she said that it does. */
  allowed?: Doubt[];
  /** Values that were doubtful, and which she said are right, in words; the last few. */
  believed?: string[];
  /** What around it differs in its digits from time to time, because she said that this is so: no question. */
  varying?: string[];
}

/** Whether a field stands at places of the body, and is not worked out from what was read there. */
export const isFound = ({ type }: Pick<Field, 'type'>): boolean => type.kind !== 'computed' && type.kind !== 'count';

/** Where records come from in a body, and how they are told apart. */
export type RecordSource =
  | { from: 'page' }
  /**
   * Each element that this CSS selector matches, or each row of the table that has these heads; fields are looked for
   * inside it.
   */
  | { from: 'rows'; rows: string; table?: TableHeads; around?: Frame[] }
  /** Each value that this JSONPath finds (RFC 9535). */
  | { from: 'json'; path: string }
  | { from: 'csv' }
  /** Each node that this XPath finds. */
  | { from: 'xml'; path: string }
  | { from: 'feed' }
  /** Each labelled sample; of one metric, where one is named. */
  | { from: 'metrics'; family: string | null }
  /** Each point; grouped, those whose names differ in their last part alone are fields of one record. */
  | { from: 'senml'; grouped?: true };

/**
 * How records come, by where they are read from. Of **one** there is always one. A **list** is whole at each read: what
 * is not on it has vanished. **Entries** go by names of their own, and only the latest stand there: none vanishes.
 * **Points** go by names of their own, too, and each comes when it comes.
 */
type Coming = 'one' | 'list' | 'entries' | 'points';

/** What holds of records by where they are read from; whoever asks, asks here. */
const SOURCES: Record<RecordSource['from'], { format: Format; come: Coming }> = {
  page: { format: 'html', come: 'one' },
  rows: { format: 'html', come: 'list' },
  json: { format: 'json', come: 'list' },
  csv: { format: 'csv', come: 'list' },
  xml: { format: 'xml', come: 'list' },
  feed: { format: 'feed', come: 'entries' },
  metrics: { format: 'metrics', come: 'points' },
  senml: { format: 'senml', come: 'points' },
};

/** The places that points are read from, by the names under which definitions are stored. */
export const POINT_SOURCES: readonly string[] = Object.entries(SOURCES)
  .filter(([, { come }]) => come === 'points')
  .map(([from]) => from);

/** The format that records of a kind are read from. */
export const formatOf = ({ from }: RecordSource): Format => SOURCES[from].format;

/** Whether records are points or samples, each of which comes when it comes. */
export const arePoints = ({ from }: RecordSource): boolean => SOURCES[from].come === 'points';

/** Whether a record that is not read has vanished. */
export const canVanish = ({ from }: RecordSource): boolean => SOURCES[from].come === 'list';

/** Whether it is one record, and no more: a page, or a document as a whole. */
export const isOne = (records: RecordSource): boolean =>
  SOURCES[records.from].come === 'one' || ('path' in records && records.path.trim() === '$');

/** Whether records bear names of their own, and need no fields to tell them apart. */
export const haveOwnNames = (records: RecordSource): boolean => isOne(records) || SOURCES[records.from].come !== 'list';

/** How a watch reads a body. */
export interface WatchDefinition {
  /** What is followed, as she names it: "Copper smoker". */
  subject: string;
  records: RecordSource;
  /**
   * The fields whose values together identify a record; empty where the source itself does (a page, a point, a feed's
   * item).
   */
  identity: string[];
  /** The field that names one variant among records that share the rest of their identity. */
  variant: string | null;
  /** The identities she chose, or null for all that there are. */
  chosen: string[] | null;
  /** Identities she was offered and left out. */
  leftOut: string[];
  fields: Field[];
  guards: Guard[];
  /** What its records are called, where that is not what their source calls them. */
  names?: Naming;
}

/** A definition alone, of what says more than that. */
export function definitionOf({
  subject,
  records,
  identity,
  variant,
  chosen,
  leftOut,
  fields,
  guards,
  names,
}: WatchDefinition): WatchDefinition {
  return {
    subject,
    records,
    identity,
    variant,
    chosen,
    leftOut,
    fields,
    guards,
    ...(names === undefined ? {} : { names }),
  };
}

/** How a watch's definition is stored. */
export const storedDefinition = storedAs<WatchDefinition>('a watch', (unnumbered) => unnumbered, withRoles);

/** Fields had no role: what they are was told by the letters of their labels, each time. */
function withRoles(older: unknown): unknown {
  const { fields, ...rest } = older as WatchDefinition;
  return { ...rest, fields: fields.map(inRole) };
}

/** A field with the role that it seems to have, unless it has one already. */
export function inRole(field: Field): Field {
  const role = field.role ?? roleFor(field);
  return role === null ? field : { ...field, role };
}

/** A definition of one record a page, without guards. */
export function pageDefinition(subject: string, fields: Field[], guards: Guard[] = []): WatchDefinition {
  return { subject, records: { from: 'page' }, identity: [], variant: null, chosen: null, leftOut: [], fields, guards };
}

/** The grades that goods are commonly sorted by, the best first. */
export const GRADES = ['A', 'B', 'C', 'D', 'E', 'F'];

/** The states that shops say an offer is in, ready to use (schema.org/ItemAvailability, and what shops write). */
export const AVAILABILITY: NamedState[] = [
  {
    name: 'sold out',
    phrases: [
      'outofstock',
      'soldout',
      'sold out',
      'out of stock',
      'currently unavailable',
      'unavailable',
      'none left',
      'ausverkauft',
      'nicht verfügbar',
      'nicht lieferbar',
      'épuisé',
      'slutsåld',
    ],
  },
  {
    name: 'discontinued',
    phrases: ['discontinued', 'no longer available', 'no longer sold', 'nicht mehr im sortiment'],
  },
  {
    name: 'to order',
    phrases: ['preorder', 'pre-order', 'backorder', 'back order', 'made to order', 'vorbestellbar', 'auf bestellung'],
  },
  { name: 'few left', phrases: ['limitedavailability', 'few left', 'low stock', 'only', 'last ones', 'nur noch'] },
  {
    name: 'in stock',
    phrases: [
      'instock',
      'in stock',
      'instoreonly',
      'onlineonly',
      'available',
      'ready to send',
      'auf lager',
      'lieferbar',
      'sofort verfügbar',
      'en stock',
      'i lager',
    ],
  },
];
