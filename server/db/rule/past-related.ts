import type { ItemId, SeriesId, WatchId } from '#core/id';
import { keyOf } from '#core/judge/asked';
import { freshFor } from '#core/judge/observation';
import {
  NOTHING_RELATED,
  type History,
  type PastRelated,
  type PastItem,
  type PastOffer,
  type StoredReading,
} from '#core/judge/past';
import type { KnownItem } from '#core/judge/offers';
import type { WatchDefinition } from '#core/read/definition';
import type { AskedRelated } from '#core/judge/rule';
import { historiesOf, readingsIn } from '../reading/histories';
import type { Span } from '../base/span';
import { loadItemsOf, type OfferedField } from '../item/known-items';
import type { Db } from '../base/pool';
import type { WatchNow } from '../watch/views/watch-now';

// What stood beside the records of a watch: the offers of their items, and what was read of other watches.

/** So many series beside a watch are looked at, and so many readings of them. */
const MOST_SERIES = 600;
const MOST_READINGS = 20_000;
const MOST_OF_ONE = 4_000;

const OFFERED = `
SELECT o.item_id AS item, o.watch_id AS watch, o.identity, w.interval_ms AS "intervalMs", t.id AS site, t.kind,
  coalesce(f.field->>'role', s.field) AS role, s.id AS series
FROM record o
JOIN watch w ON w.id = o.watch_id AND w.state <> 'deleted'
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
JOIN source c ON c.id = w.source_id
JOIN site t ON t.id = c.site_id
JOIN LATERAL jsonb_array_elements(v.definition->'fields') WITH ORDINALITY f(field, at) ON true
JOIN series s ON s.record_id = o.id AND s.field = f.field->>'key'
WHERE o.item_id IN (SELECT item_id FROM record WHERE watch_id = $1 AND item_id IS NOT NULL)
  AND f.field->'type'->>'kind' IN ('money', 'number', 'computed', 'state', 'flag', 'phrase', 'grade')
ORDER BY o.id, f.at LIMIT ${MOST_SERIES + 1}`;

const OTHER_WATCHES = `
SELECT q.watch, q.record, q.field, w.interval_ms AS "intervalMs", s.id AS series
FROM jsonb_to_recordset($1) AS q(watch int, record text, field text)
JOIN watch w ON w.id = q.watch
JOIN LATERAL (
  SELECT r.id FROM record r WHERE r.watch_id = w.id AND (q.record IS NULL OR r.identity = q.record)
  ORDER BY (r.gone_since IS NOT NULL), r.id LIMIT 1
) r ON true
JOIN series s ON s.record_id = r.id AND s.field = q.field`;

interface OfferedRow extends OfferedField {
  series: SeriesId;
}

interface OtherWatchRow {
  watch: number;
  record: string | null;
  field: string;
  intervalMs: number;
  series: SeriesId;
}

/**
 * What rules of a watch are tried on: what was read of it in a span, and of what they ask beside it; `whole` where
 * nothing was left out.
 */
export async function pastOf(
  db: Db,
  { id, definition }: Pick<WatchNow, 'id' | 'definition'>,
  asked: AskedRelated,
  span: Span,
) {
  const past = await historiesOf(db, id, definition, span);
  const { beside, whole } = await pastRelated(db, id, definition, asked, span);
  const histories = past.histories.map((history): History => {
    const item = beside.items[history.identity]?.item;
    return item === undefined ? history : { ...history, item };
  });
  return { histories, beside: { ...beside, runs: past.runs }, whole: past.whole && whole };
}

/**
 * What was read in a span beside the records of a watch, as far as a rule asks it; bounded, and says whether something
 * was left out.
 */
async function pastRelated(
  db: Db,
  watch: WatchId,
  { fields }: WatchDefinition,
  asked: AskedRelated,
  span: Span,
): Promise<{ beside: PastRelated; whole: boolean }> {
  const { rows: offered } = asked.items ? await db.query<OfferedRow>(OFFERED, [watch]) : { rows: [] };
  const { rows: others } =
    asked.elsewhere.length > 0
      ? await db.query<OtherWatchRow>(OTHER_WATCHES, [JSON.stringify(asked.elsewhere)])
      : { rows: [] };
  const known = offered.slice(0, MOST_SERIES);
  const series = [...new Set([...known, ...others].map((row) => row.series))];
  const most = Math.max(50, Math.min(MOST_OF_ONE, Math.floor(MOST_READINGS / Math.max(1, series.length))));
  const readings =
    series.length === 0 ? new Map<SeriesId, StoredReading[]>() : (await readingsIn(db, series, span, most)).readings;
  const of = (id: SeriesId) => readings.get(id) ?? [];
  return {
    beside: {
      ...NOTHING_RELATED,
      watch,
      roles: Object.fromEntries(fields.flatMap(({ key, role }) => (role === undefined ? [] : [[key, role]]))),
      items: asked.items
        ? itemsWith(watch, (await loadItemsOf(db, [watch], span.until)).get(watch)?.of ?? new Map(), known, of)
        : {},
      elsewhere: Object.fromEntries(
        others.map((row) => [nameOf(row), { readings: of(row.series), goodFor: freshFor(row) }]),
      ),
    },
    whole: offered.length <= MOST_SERIES && [...readings.values()].every((own) => own.length < most),
  };
}

const nameOf = ({ watch, record, field }: OtherWatchRow) =>
  keyOf({ watch, field, ...(record === null ? {} : { record }) });

/** Items by the identity of the record of a watch that is an offer of each, with what was read of all their offers. */
function itemsWith(
  watch: WatchId,
  items: ReadonlyMap<string, KnownItem>,
  rows: readonly OfferedRow[],
  readingsOf: (series: SeriesId) => StoredReading[],
): Record<string, PastItem> {
  const offers = offersIn(rows, readingsOf);
  const itemOf = new Map(rows.filter((row) => row.watch === watch).map(({ identity, item }) => [identity, item]));
  return Object.fromEntries(
    [...items].map(([identity, { item, zone, offers: now }]): [string, PastItem] => {
      const id = itemOf.get(identity);
      return [
        identity,
        { item, zone, offers: [...now.flatMap(typed), ...(id === undefined ? [] : (offers.get(id) ?? []))] },
      ];
    }),
  );
}

/** Offers by their item, with what was read of each. */
function offersIn(
  rows: readonly OfferedRow[],
  readingsOf: (series: SeriesId) => StoredReading[],
): Map<ItemId, PastOffer[]> {
  const offers = new Map<string, PastOffer & { readings: Record<string, StoredReading[]> }>();
  const byItem = new Map<ItemId, PastOffer[]>();
  for (const { item, watch, identity, intervalMs, site, kind, role, series } of rows) {
    const key = `${watch} ${identity}`;
    const known = offers.get(key);
    const offer = known ?? {
      watch,
      identity,
      site,
      intervalMs,
      whose: kind === 'own' || kind === 'channel' ? kind : 'other',
      readings: {},
    };
    if (known === undefined) byItem.set(item, [...(byItem.get(item) ?? []), offer]);
    offers.set(key, offer);
    // Of several fields of one kind the first one counts.
    offer.readings[role] ??= readingsOf(series);
  }
  return byItem;
}

/** A price that is typed and not read stands as it does now: what it was before nobody knows. */
function typed({ values, ...offer }: KnownItem['offers'][number]): PastOffer[] {
  if (offer.watch !== null) return [];
  const readings = [...values].map(([role, { value, at }]) => [role, [{ at: 0, until: at, runs: 1, value }]]);
  return [{ ...offer, readings: Object.fromEntries(readings) as PastOffer['readings'] }];
}
