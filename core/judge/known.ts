import type { Change } from '../compare/compare';
import type { RecordId, RuleId, SeriesId, WatchId } from '../id';
import type { Field, WatchDefinition } from '../read/definition';
import type { Quality } from '../read/found';
import type { GuardCause } from '../read/guard';
import type { ReadProblem } from '../read/problem';
import type { WatchReading } from '../read/reading';
import type { Decimal } from '../value/decimal';
import type { Value } from '../value/value';
import type { Instant } from '../when/interval';
import type { RuleMemory } from './memory';
import type { Latest } from './observation';
import type { KnownItem } from './offers';
import type { Reason } from './reason';
import type { Choice } from './records';
import type { RuleDefinition } from './rule';
import type { Turn } from './subject';

// What judging is given of what was known, and what it makes of it. Things are told apart by their names (a record by
// its identity, a series by its record and field); an id that is not known yet is null, and is given when it is stored.

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
  labels: Record<string, string>;
  firstSeen: Instant;
  goneSince: Instant | null;
  /** The last raw state of its counters, by field. */
  counters: Record<string, Decimal>;
  series: ReadonlyMap<string, KnownSeries>;
}

/** A rule of a watch in its present version, with what it remembers of each record. */
export interface KnownRule {
  id: RuleId;
  version: number;
  /** The version with which its states began: what was said otherwise since then moves none of them. */
  judgedVersion: number;
  /** When that one was saved, and when its baseline was judged; null before. */
  savedAt: Instant;
  baselineAt: Instant | null;
  definition: RuleDefinition;
  memories: ReadonlyMap<string, RuleMemory>;
  /** The records that it chose, where it runs for the highest or lowest of them. */
  choice?: Choice | null;
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
  /** Points, by their names, that its series have already, though they are older than the latest. */
  repeated?: ReadonlySet<string>;
  /** What is known of other watches, by the names under which rules ask it. */
  elsewhere?: ReadonlyMap<string, Latest>;
  /** The items that its records are offers of, by the identity of the record; where no rule asks them, none. */
  items?: { watch: WatchId; of: ReadonlyMap<string, KnownItem> };
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

/** What a verdict is about: a field of its record as it stood then. */
export interface About {
  field: Field;
  value: Value;
  previous: Value | null;
  change: Change | null;
  at: Instant;
  lookedBefore: Instant | null;
  /** The reading of this run; null where the clock, a deed or something else moved the rule. */
  reading: GoodReading | null;
  seriesId: SeriesId | null;
}

/** One turn of one rule on one record, with what it is about; null where it asks no field, or none was ever read. */
export interface Verdict {
  rule: KnownRule;
  identity: string;
  recordName: string;
  before: RuleMemory;
  turn: Turn;
  reason: Reason;
  about: About | null;
  /** Fields that are shown with what is told. */
  carried: { field: Field; value: Value }[];
  /** Who opened its episode by hand, and with what words. */
  opener?: { by: string; note: string | null };
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
  /** What rules chose to run for, where that is not what they chose before. */
  choices: { rule: RuleId; choice: Choice }[];
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
