import type { Change } from '../compare/compare';
import type { RecordId, RuleId, SeriesId } from '../id';
import type { Field, WatchDefinition } from '../read/definition';
import type { Quality } from '../read/found';
import type { GuardCause } from '../read/guard';
import type { ReadProblem } from '../read/problem';
import type { WatchReading } from '../read/read';
import type { Decimal } from '../value/decimal';
import type { Value } from '../value/value';
import type { Instant } from '../when/interval';
import type { RuleMemory } from './memory';
import type { RuleDefinition } from './rule';
import type { Step } from './step';

// What judging is given of what was known, and what it makes of it. Things are told apart by their names (a record by its identity, a
// series by its record and field); an id that is not known yet is null, and is given when it is stored.

/** One field of one record as it stands. */
export interface KnownSeries {
  id: SeriesId | null;
  value: Value;
  openSince: Instant;
  lastGoodAt: Instant;
  /** The latest time the source itself gave; null where it gives none. */
  sourceAt: Instant | null;
}

/** One record as it stands. */
export interface KnownRecord {
  id: RecordId | null;
  identity: string;
  name: string | null;
  goneSince: Instant | null;
  /** The last raw state of its counters, by field. */
  counters: Record<string, Decimal>;
  series: ReadonlyMap<string, KnownSeries>;
}

/** A rule of a watch in its present version, with what it remembers of each record. */
export interface KnownRule {
  id: RuleId;
  version: number;
  definition: RuleDefinition;
  memories: ReadonlyMap<string, RuleMemory>;
}

/** What is known of a watch, as far as what came concerns it. */
export interface KnownWatch {
  definition: WatchDefinition;
  /** How often it is read, in ms. */
  intervalMs: number;
  version: number;
  /** The version under which its records were last read; null before the first. */
  readVersion: number | null;
  lastGoodAt: Instant | null;
  /** Those records that came, by identity. */
  records: ReadonlyMap<string, KnownRecord>;
  /** Those that were there before and did not come, of those that it follows. */
  missing: readonly KnownRecord[];
  rules: readonly KnownRule[];
}

/** A field that was read well: what became of its series. */
export interface GoodReading {
  field: Field;
  identity: string;
  recordName: string;
  value: Value;
  known: KnownSeries | null;
  /** A new reading opens; otherwise the open one is seen once more. */
  opens: boolean;
  change: Change | null;
  /** When it was so: by the source's own time, or the run's. */
  at: Instant;
  stamped: boolean;
  quality: Quality | null;
  /** It came after later points of its series: it takes its place there, and nothing more. */
  late: boolean;
}

/** A field that was not read: its last good value stands. */
export interface BadReading {
  field: Field;
  identity: string;
  problem: ReadProblem;
}

/** One rule's step on one record, by the reading that it looked at. */
export interface Verdict {
  rule: KnownRule;
  before: RuleMemory | null;
  step: Step;
  reading: GoodReading;
}

/** A record that was seen. */
export interface SeenRecord {
  identity: string;
  name: string;
  variant: string | null;
  labels: Record<string, string>;
  known: KnownRecord | null;
  counters: Record<string, Decimal>;
}

/** Everything that one reading of a watch means, worked out without touching the world. */
export interface WatchOutcome {
  good: GoodReading[];
  bad: BadReading[];
  verdicts: Verdict[];
  /** Why nothing at all was read; null when something was. */
  failure: ReadProblem | null;
  /** What the page seems to be, where something was not read and its words say so. */
  seems: GuardCause | null;
  /** What was wrong with some records while others were read. */
  problems: ReadProblem[];
  records: SeenRecord[];
  /** Records that came or went, as news. */
  moves: { record: KnownRecord | null; identity: string; change: Change }[];
  offered: WatchReading['offered'];
  /** Ways that no longer find a field, by field. */
  lost: Record<string, string[]>;
}
