import type { Polarity } from '../value/value';
import type { Locator } from './locator';

/** What kind of value a field holds, with the currency to assume where the page shows none. */
export type FieldType = { kind: 'money'; currency: string | null } | { kind: 'number' } | { kind: 'text' };

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
}

/** How a watch reads a page: one record a page, with these fields. */
export interface WatchDefinition {
  /** What is followed, as she names it: "Copper smoker". */
  subject: string;
  fields: Field[];
}
