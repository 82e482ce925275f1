import type { RecordId, RuleId, SeriesId, WatchId } from '#core/id';
import type { KnownRecord, KnownRule, KnownSeries } from '#core/judge/known';
import { storedMemory } from '#core/judge/memory';
import type { Choice } from '#core/judge/records';
import { storedRule } from '#core/judge/rule';
import type { Decimal } from '#core/value/decimal';
import type { Value } from '#core/value/value';
import type { Instant } from '#core/when/interval';

// What judging is given of the record, as rows of the database.

/** A series `s` of a record `r` of a watch `w`: a row a series, or one alone. */
export const RECORD_COLUMNS = `
  r.watch_id AS "watchId", r.id, r.identity, r.name, r.labels, r.first_seen AS "firstSeen", r.gone_since AS "goneSince",
    r.counters, s.id AS "seriesId", s.field, s.value,
  s.open_since AS "openSince", s.source_at AS "sourceAt", CASE WHEN s.problem IS NULL
    THEN greatest(s.last_good_at, w.last_good_at) ELSE s.last_good_at END AS "lastGoodAt"`;

/** A rule `u` in its present version `uv`. */
export const RULE_COLUMNS = `
  u.id, u.watch_id AS "watchId", u.version, u.judged_version AS "judgedVersion", u.judged_at AS "savedAt",
    u.baseline_at AS "baselineAt", u.choice, uv.definition`;

export interface RecordRow {
  watchId: WatchId;
  id: RecordId;
  identity: string;
  name: string | null;
  labels: Record<string, string>;
  firstSeen: Instant;
  goneSince: Instant | null;
  counters: Record<string, Decimal>;
  seriesId: SeriesId | null;
  field: string;
  value: Value;
  openSince: Instant;
  lastGoodAt: Instant;
  sourceAt: Instant | null;
}

export interface RuleRow {
  id: RuleId;
  watchId: WatchId;
  version: number;
  judgedVersion: number;
  savedAt: Instant;
  baselineAt: Instant | null;
  choice: Choice | null;
  definition: unknown;
  memories: Record<string, unknown> | null;
}

/** Records with their series, by watch and identity. */
export function recordsOf(rows: RecordRow[]): Map<WatchId, Map<string, KnownRecord>> {
  const found = new Map<WatchId, Map<string, KnownRecord & { series: Map<string, KnownSeries> }>>();
  for (const { watchId, id, identity, name, labels, firstSeen, goneSince, counters, ...series } of rows) {
    const own = found.get(watchId) ?? new Map<string, KnownRecord & { series: Map<string, KnownSeries> }>();
    const record = own.get(identity) ?? {
      id,
      identity,
      name,
      labels,
      firstSeen,
      goneSince,
      counters,
      series: new Map<string, KnownSeries>(),
    };
    const { seriesId, field, value, openSince, lastGoodAt, sourceAt } = series;
    if (seriesId !== null) record.series.set(field, { id: seriesId, value, openSince, lastGoodAt, sourceAt });
    found.set(watchId, own.set(identity, record));
  }
  return found;
}

/** Rules with what they remember. */
export const rulesOf = (rows: RuleRow[]): KnownRule[] =>
  rows.map(({ watchId: _watch, definition, memories, ...rule }) => ({
    ...rule,
    definition: storedRule.read(definition),
    memories: new Map(
      Object.entries(memories ?? {}).map(([identity, memory]) => [identity, storedMemory.read(memory)]),
    ),
  }));
