import type { AlertId, ChangeId, ItemId, RecordId, SeriesId, SiteId, WatchId } from '../../id';
import type { Change } from '../../compare/compare';
import type { Role } from '../../read/role';
import type { Money, Polarity } from '../../value/value';
import type { ItemProperties } from '../definition';
import type { Instant } from '../../when/interval';

/** A record as an edition tells of it. */
export interface EditionRecord {
  watch: WatchId;
  /** Null of a watch as a whole. */
  id: RecordId | null;
  /** What people call it. */
  name: string;
  /** What its watch is called; the same where it reads one record. */
  subject: string;
  site: { id: SiteId; name: string; kind: 'own' | 'rival' | 'channel' | null };
  tags: string[];
  item: EditionItem | null;
  /** Which of several that one page offers. */
  variant?: string | null;
  /** The page that it was read from. */
  page: string;
}

/** An item of ours that records are offers of. */
export interface EditionItem {
  id: ItemId;
  reference: string;
  name: string;
  /** The agreed minimum in force at the cut. */
  minimum: Money | null;
  properties: ItemProperties;
  /** What it is listed as where we sell it. */
  listings?: string[];
}

/** A field as an edition tells of it. */
export interface EditionField {
  key: string;
  label: string;
  role: Role | null;
  polarity: Polarity;
}

export type MoveId = ChangeId | SeriesId;

/** One change of a stretch of the record, or a first reading. */
export interface Move {
  /** Of a first reading that of its series: no number is given twice. */
  id: MoveId;
  /** Its place in the order of commits. */
  seq: number;
  at: Instant;
  /** When the last good look before it was. */
  lookedBefore: Instant;
  record: EditionRecord;
  /** Null of a record that came or went. */
  field: EditionField | null;
  change: Change;
  /** It is the first that was read of its field. */
  first?: true | undefined;
  /** Alerts that it raised. */
  alerts: AlertId[];
}
