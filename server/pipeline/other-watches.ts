import type { RuleId, WatchId } from '#core/id';
import { asksOtherWatches, asksOfRule } from '#core/judge/rule';
import { keyOf } from '#core/judge/asked';
import { freshFor, type Latest } from '#core/judge/observation';
import { RuleJudging } from '#core/judge/judging';
import type { KnownRule, KnownWatch } from '#core/judge/known';
import { isInTime } from '#core/judge/placing';
import type { Instant } from '#core/when/interval';
import type { Db } from '../db/base/pool';
import type { RunContext } from './context';
import { loadItems } from '../db/item/known-items';
import { relatedRecords, touchedBy, withReadings } from './items';
import { loadSubjects } from './subjects';
import type { JudgedWatch } from './store/judged';
import type { WatchVerdict } from './store/states';

// Rules of other watches than those that a run reads, and rules that hear of a run that failed.

/** Judges the rules of other watches that ask something that was read now. */
export async function judgeOtherWatches(
  db: Db,
  { asking }: RunContext,
  judged: JudgedWatch[],
  at: Instant,
): Promise<WatchVerdict[]> {
  if (asking.length === 0 || !judged.some(({ outcome }) => outcome.good.some(isInTime))) return [];
  const records = await relatedRecords(
    db,
    asking,
    judged.map(({ watch }) => watch.id),
  );
  const watches = await loadSubjects(db, { rules: asking, records });
  const items = withReadings(await loadItems(db, watches, at), judged, at);
  return watches.flatMap((watch) => {
    const heard = readFor(watch, judged);
    const own = items.get(watch.id);
    const touched = touchedBy(own, judged);
    if (heard.size + touched.size === 0) return [];
    const judging = new RuleJudging(own === undefined ? watch : { ...watch, items: own }, at);
    return judging.hearElsewhere(heard, touched).map((verdict): WatchVerdict => ({ watch, verdict }));
  });
}

/** What was read of other watches, under the names by which the rules of a watch ask it. */
export function readFor({ rules }: Pick<KnownWatch, 'rules'>, judged: JudgedWatch[]): Map<string, Latest> {
  const heard = new Map<string, Latest>();
  for (const asked of rules.flatMap(({ definition }) => asksOfRule(definition))) {
    const read = judged.find(({ watch }) => watch.id === asked.watch);
    const good = read?.outcome.good.filter(isInTime) ?? [];
    const reading = good.findLast(
      ({ field, identity }) => field.key === asked.field && (asked.record === undefined || identity === asked.record),
    );
    if (reading !== undefined)
      heard.set(keyOf(asked), {
        value: reading.value,
        at: reading.at,
        goodFor: freshFor(read?.watch ?? { intervalMs: 0 }),
      });
  }
  return heard;
}

const OTHER_WATCHES = `
SELECT q.watch, q.record, q.field, w.interval_ms AS "intervalMs",
  -- Of a record that is gone there is nothing to hold anything against.
  CASE WHEN r.gone_since IS NULL THEN s.value ELSE '{"kind": "absent"}' END AS value,
  CASE WHEN r.gone_since IS NOT NULL THEN r.gone_since WHEN s.problem IS NULL
    THEN greatest(s.last_good_at, w.last_good_at) ELSE s.last_good_at END AS at
FROM jsonb_to_recordset($1) AS q(watch int, record text, field text)
JOIN watch w ON w.id = q.watch
JOIN LATERAL (
  SELECT r.id, r.gone_since FROM record r WHERE r.watch_id = w.id AND (q.record IS NULL OR r.identity = q.record)
  ORDER BY (r.gone_since IS NOT NULL), r.id LIMIT 1
) r ON true
JOIN series s ON s.record_id = r.id AND s.field = q.field`;

/**
 * The latest good values that rules ask of other watches, by the names under which they ask them; where none does,
 * nothing is asked here.
 */
export async function latestOfOtherWatches(db: Db, rules: readonly KnownRule[]): Promise<Map<string, Latest>> {
  const asked = rules.flatMap(({ definition }) => asksOtherWatches(definition));
  if (asked.length === 0) return new Map();
  const { rows } = await db.query<{ watch: number; record: string | null; field: string; intervalMs: number } & Latest>(
    OTHER_WATCHES,
    [JSON.stringify(asked)],
  );
  return new Map(
    rows.map(({ watch, record, field, intervalMs, value, at }) => [
      keyOf({ watch, field, ...(record === null ? {} : { record }) }),
      { value, at, goodFor: freshFor({ intervalMs }) },
    ]),
  );
}

const HEARING =
  'SELECT id FROM rule WHERE watch_id = ANY($1) AND hears_failures AND ended_at IS NULL AND begun_at IS NOT NULL';

/** Tells rules that hear of failed runs that one failed. */
export async function judgeFailedFetch(db: Db, { due }: RunContext, at: Instant): Promise<WatchVerdict[]> {
  const watches: WatchId[] = due.map(({ id }) => id);
  if (watches.length === 0) return [];
  const { rows } = await db.query<{ id: RuleId }>(HEARING, [watches]);
  if (rows.length === 0) return [];
  const loaded = await loadSubjects(db, { rules: rows.map(({ id }) => id), records: null });
  return loaded.flatMap((watch) =>
    new RuleJudging(watch, at).fails().map((verdict): WatchVerdict => ({ watch, verdict })),
  );
}
