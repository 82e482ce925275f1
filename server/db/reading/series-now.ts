import type { RecordId, SeriesId } from '#core/id';
import { POINT_SOURCES } from '#core/read/definition';
import type { Quality } from '#core/read/found';
import type { Value } from '#core/value/value';
import { HOUR, MINUTE, type Instant } from '#core/when/interval';
import { instant } from '../base/pool';

/** A problem as it was kept. */
export interface StoredProblem {
  link: 'source' | 'value';
  reason: string;
  sentence: string;
}

/** One field of a record as it stands. */
export interface SeriesNow {
  id: SeriesId;
  recordId: RecordId;
  field: string;
  value: Value;
  openSince: Instant;
  lastGoodAt: Instant;
  /** Since when it sends nothing good while the rest is read; null while it is heard of. */
  unheardSince: Instant | null;
  /** How its source vouches for it now, where it says. */
  quality: Quality | null;
  problem: StoredProblem | null;
}

/**
 * A point that so many runs have not brought, and for so long, is taken for silent: many report by the hour and are
 * polled by the minute.
 */
const QUIET_RUNS = 4;
const QUIET_MS = 2 * HOUR;
/** One that is there and called bad says more, but a single bad point is no trouble yet. */
const BAD_RUNS = 1.5;
const BAD_MS = 5 * MINUTE;

const POINTS = POINT_SOURCES.map((from) => `'${from}'`).join(', ');
/** Whether a watch in its version `v` reads points. */
export const HAS_POINTS = `v.definition->'records'->>'from' IN (${POINTS})`;

/**
 * Whether a series `s` of a watch `w` in its version `v` is unheard: sensors and metrics come point by point, and some
 * may fall silent, or be called bad, while the rest is read.
 */
export const IS_SILENT = `(
  s.problem IS NULL AND ${HAS_POINTS}
  AND s.last_good_at < w.last_good_at - interval '1 ms' * CASE
    WHEN s.quality = 'bad' THEN greatest(${BAD_RUNS} * w.interval_ms, ${BAD_MS})
    ELSE greatest(${QUIET_RUNS} * w.interval_ms, ${QUIET_MS}) END)`;

const LAST_GOOD = 'CASE WHEN s.problem IS NULL THEN greatest(s.last_good_at, w.last_good_at) ELSE s.last_good_at END';

/** The series of a record as JSON, by a condition on a series `s`; of a watch `w` in its version `v`. */
export const seriesWhere = (condition: string): string => `
  SELECT jsonb_agg(jsonb_build_object(
    'id', s.id,
    'recordId', s.record_id,
    'field', s.field,
    'value', shown(s.value),
    'openSince', ${instant('s.open_since')},
    'problem', s.problem,
    'quality', s.quality,
    'unheardSince', ${instant(`CASE WHEN ${IS_SILENT} THEN s.last_good_at END`)},
    'lastGoodAt', ${instant(LAST_GOOD)}
  ) ORDER BY s.id)
  FROM series s
  WHERE ${condition}`;
