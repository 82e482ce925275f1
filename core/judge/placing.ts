import { compareReadings } from '../compare/compare';
import { formatOf, type Field } from '../read/definition';
import { doubtsOf } from '../read/frame/doubts';
import { oddTime } from '../read/problem';
import type { ReadValue } from '../read/agree';
import type { FieldReading, ReadRecord } from '../read/reading';
import { fail } from '../result';
import { sameValue, type Value } from '../value/value';
import type { Instant } from '../when/interval';
import type { GoodReading, KnownRecord, KnownSeries, KnownWatch, SeenRecord, WatchOutcome } from './known';
import { counted, placeInTime } from './place';

/** What one record brought: its fields that were read well. */
export interface Placed {
  identity: string;
  name: string;
  labels: Record<string, string>;
  known: KnownRecord | null;
  good: GoodReading[];
}

/** What a watch knows moves on while several points of one series are judged, one after another. */
export class Placing {
  readonly #fields: ReadonlyMap<string, Field>;
  readonly #seen = new Map<string, SeenRecord>();
  /** What a page shows may be another thing than before; what a program states under a name is what it states. */
  readonly #doubts: boolean;
  readonly #series = new Map<string, KnownSeries>();
  readonly #late = new Set<string>();

  constructor(
    private readonly watch: KnownWatch,
    private readonly outcome: WatchOutcome,
    private readonly now: Instant,
  ) {
    this.#fields = new Map(watch.definition.fields.map((field) => [field.key, field]));
    this.#doubts = formatOf(watch.definition.records) === 'html';
  }

  /** How a series stands by now. */
  readonly series = (identity: string, field: string): KnownSeries | null =>
    this.#series.get(seriesKey(identity, field)) ?? this.watch.records.get(identity)?.series.get(field) ?? null;

  /** Takes one record, or one point of several series. */
  take(record: ReadRecord): Placed {
    const seen = this.#see(record);
    const odd = record.marks.at === null ? null : oddTime(record.marks.at, this.now);
    const good = record.fields.flatMap(
      (read) => this.#read(seen, record, odd === null ? read : { ...read, outcome: fail(odd) }) ?? [],
    );
    this.outcome.good.push(...good);
    return { identity: record.identity, name: record.name, labels: record.labels, known: seen.known, good };
  }

  moveOn(readings: GoodReading[]): void {
    for (const reading of readings) if (isInTime(reading)) this.#moveOn(reading);
  }

  #see({ identity, name, variant, labels }: ReadRecord): SeenRecord {
    const before = this.#seen.get(identity);
    if (before !== undefined) return before;
    const known = this.watch.records.get(identity) ?? null;
    const seen = { identity, name, variant, labels, known, counters: { ...known?.counters } };
    this.#seen.set(identity, seen);
    this.outcome.records.push(seen);
    return seen;
  }

  #read(seen: SeenRecord, record: ReadRecord, read: FieldReading): GoodReading | null {
    const field = this.#fields.get(read.field);
    if (field === undefined) return null;
    if (!read.outcome.ok) {
      this.outcome.bad.push({ field, identity: record.identity, problem: read.outcome.error });
      return null;
    }
    if (read.outcome.value.lost.length > 0) this.outcome.lost[field.key] = read.outcome.value.lost;
    const known = this.series(record.identity, field.key);
    const { at, stamped, order } = placeInTime(field, record, known, {
      now: this.now,
      records: this.watch.definition.records,
    });
    if (order === 'again' || (order === 'late' && this.#isTaken(field, record.identity, at))) return null;
    const value = counted(field, seen, read.outcome.value.value);
    if (value === null) return null;
    if (known !== null && this.#isDoubtful(record.identity, field, known, { text: read.outcome.value.text, value }))
      return null;
    const quality = qualityOf(record, read.outcome.value);
    const late = order === 'late';
    const opens = known === null || late || quality === 'bad' || !sameValue(known.value, value);
    const change =
      known !== null && field.mode === 'stepwise' && !late ? compareReadings(known.value, value, field.polarity) : null;
    return {
      field,
      identity: record.identity,
      recordName: record.name,
      value,
      known,
      opens,
      change,
      at,
      stamped,
      quality,
      late,
    };
  }

  /** A late point is taken once; of a running counter none is: what it added is in the next one that is known. */
  #isTaken(field: Field, identity: string, at: Instant): boolean {
    const name = pointName(identity, field.key, at);
    if (
      (field.type.kind === 'number' && field.type.increase === true) ||
      this.watch.repeated?.has(name) === true ||
      this.#late.has(name)
    )
      return true;
    this.#late.add(name);
    return false;
  }

  /** Whether a value does by itself what is to be asked about first; then it is set aside. */
  #isDoubtful(
    identity: string,
    field: Field,
    known: KnownSeries,
    { text, value }: { text: string; value: Value },
  ): boolean {
    const changes = this.#doubts ? doubtsOf(known.value, value, field) : [];
    if (changes.length > 0)
      this.outcome.bad.push({ field, identity, problem: { reason: 'in question', text, value, changes } });
    return changes.length > 0;
  }

  #moveOn({ identity, field, known, value, opens, at, stamped }: GoodReading): void {
    const openSince = opens || known === null ? at : known.openSince;
    this.#series.set(seriesKey(identity, field.key), {
      id: known?.id ?? null,
      value,
      openSince,
      lastGoodAt: this.now,
      sourceAt: stamped ? at : (known?.sourceAt ?? null),
    });
  }
}

/** How far the source vouches for a value: for it by itself, or for its whole record. */
const qualityOf = ({ marks }: ReadRecord, { quality }: ReadValue) => (quality === undefined ? marks.quality : quality);

/** A good reading that is judged; of bad quality is none, and a late one only takes its place. */
export const isInTime = ({ quality, late }: GoodReading): boolean => quality !== 'bad' && !late;

/** What tells one point from another. */
export const pointName = (identity: string, field: string, at: Instant): string => `${field} ${at} ${identity}`;

const seriesKey = (identity: string, field: string) => `${field} ${identity}`;
