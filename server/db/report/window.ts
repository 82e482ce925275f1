import type { AlertId, RuleId, ItemId, RecordId, ReportId, SeriesId, SiteId, WatchId } from '#core/id';
import type { Change } from '#core/compare/compare';
import type { StoodBefore } from '#core/compare/net';
import { minimumOn, type Minimum } from '#core/items/item';
import type { Role } from '#core/read/role';
import type { Cause } from '#core/tell/failure';
import { storedNews, type News } from '#core/tell/news';
import { alertLeftOutBy, leftOutBy } from '#core/tell/edition/choose';
import type { BrokenOf, EditionAlert } from '#core/tell/edition/gathered';
import type { Move, MoveId, EditionField, EditionItem, EditionRecord } from '#core/tell/edition/move';
import type { OfferNow, Stale } from '#core/tell/edition/offers';
import type { ItemProperties, ReportDefinition } from '#core/tell/definition';
import type { Polarity, Value } from '#core/value/value';
import { dayAt } from '#core/when/wall-clock';
import type { Instant } from '#core/when/interval';
import { lastShown, type LastShown } from './last-shown';
import { inOneTurn, instant, moment, theRow, type Db } from '../base/pool';

// What a stretch of the record holds that a report takes, as it stood at the end of it: by the order of commits, never
// by the clock.

/** A stretch of the record: after one place in the order of commits, up to another. */
export interface Span {
  fromSeq: number;
  toSeq: number;
  from: Instant;
  until: Instant;
}

/** An edition tells of so many moves at most, and says so where there are more. */
const MOST_MOVES = 200_000;

/** Of texts that are too long to be told whole their difference. */
const WHOLE = 4_000;
/** One side of a change `c`, in SQL. */
export const side = (which: 'was' | 'now') =>
  `CASE WHEN octet_length(c.${which}::text) < ${WHOLE} THEN c.${which} ELSE coalesce(c.${which}_shown, ` +
  `shown(c.${which})) END`;

const IN_SPAN = 'c.seq > $1 AND c.seq <= $2 AND ($3::int[] IS NULL OR c.watch_id = ANY($3))';

const CHANGE = `
SELECT c.id, c.seq, c.seen_at AS at, c.looked_before AS "lookedBefore", c.watch_id AS watch,
  coalesce(c.record_id, x.record_id) AS record, c.series_id AS series,
  c.field, c.kind, ${side('was')} AS "from", ${side('now')} AS "to", c.difference, c.percent, c.sense,
  to_jsonb(ARRAY(SELECT a.id FROM alert a WHERE a.change_id = c.id AND a.seq <= $2 ORDER BY a.id)) AS alerts
FROM change c JOIN watch w ON w.id = c.watch_id AND w.state <> 'deleted' LEFT JOIN series x ON x.id = c.series_id`;

const CHANGES = `${CHANGE} WHERE ${IN_SPAN} ORDER BY c.seq LIMIT $4`;

/** Moves of series before a stretch that their report has not shown. */
const UNSHOWN = `
${CHANGE} JOIN unnest($3::bigint[], $4::bigint[]) AS b(series, after) ON b.series = c.series_id
WHERE c.seq > b.after AND c.seq <= $1 ORDER BY c.seq LIMIT $5`;

/** What was first read in a stretch; of these series alone, where they are given. */
const FIRSTS = `
SELECT c.series_id AS id, c.seq, c.seen_at AS at, c.seen_at AS "lookedBefore", c.watch_id AS watch,
  x.record_id AS record, c.series_id AS series, x.field,
  'presence' AS kind, '{"kind": "absent"}'::jsonb AS "from", c.value AS "to", NULL AS difference, NULL AS percent,
    'neither' AS sense, '[]'::jsonb AS alerts, true AS first
FROM first_reading c JOIN watch w ON w.id = c.watch_id AND w.state <> 'deleted' JOIN series x ON x.id = c.series_id
WHERE ${IN_SPAN} AND ($4::bigint[] IS NULL OR c.series_id = ANY($4)) ORDER BY c.seq LIMIT $5`;

interface ChangeRow extends Change {
  id: MoveId;
  seq: number;
  at: Instant;
  lookedBefore: Instant;
  watch: WatchId;
  record: RecordId | null;
  series: SeriesId | null;
  field: string;
  alerts: AlertId[];
  first?: true;
}

const WATCHES = `
SELECT w.id, v.definition->>'subject' AS subject, v.definition->'records'->>'from' = 'page' AS "isOne", w.tags,
  s.address AS page,
  jsonb_build_object('id', t.id, 'name', t.name, 'kind', t.kind) AS site,
  (SELECT
    jsonb_agg(jsonb_build_object('key', f->>'key', 'label', f->>'label', 'role', f->>'role', 'polarity',
    coalesce(f->>'polarity', 'neither')))
    FROM jsonb_array_elements(v.definition->'fields') f) AS fields
FROM watch w JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version JOIN source s ON s.id = w.source_id
JOIN site t ON t.id = s.site_id
WHERE w.id = ANY($1)`;

interface WatchRow {
  id: WatchId;
  subject: string;
  isOne: boolean;
  tags: string[];
  page: string;
  site: { id: SiteId; name: string; kind: EditionRecord['site']['kind'] };
  fields: { key: string; label: string; role: Role | null; polarity: Polarity }[] | null;
}

const LONGEST_NAME = 200;
const RECORDS = `SELECT r.id, left(coalesce(r.name, r.identity), ${LONGEST_NAME}) AS name,
  left(r.variant, ${LONGEST_NAME}) AS variant,
  r.watch_id AS watch, r.item_id AS item
  FROM record r
  WHERE r.id = ANY($1)`;

const ITEMS = `
SELECT i.id, i.reference, i.name, i.minimums, i.zone,
  jsonb_build_object('brand', i.brand, 'category', i.category, 'supplier', i.supplier) AS properties,
  to_jsonb(ARRAY(SELECT left(l.listing, 100) FROM listing l WHERE l.item_id = i.id AND l.listing <> ''
  ORDER BY l.site_id LIMIT 3)) AS listings
FROM item i WHERE i.id = ANY($1) AND i.ended_at IS NULL`;

interface ItemRow {
  id: ItemId;
  reference: string;
  name: string;
  minimums: Minimum[];
  zone: string;
  properties: ItemProperties;
  listings: string[];
}

interface KnownRow {
  id: RecordId;
  name: string;
  variant: string | null;
  watch: WatchId;
  item: ItemId | null;
}

/** Knows records by number: each is looked up once, with its watch and its item. */
class Records {
  readonly #watches = new Map<WatchId, WatchRow>();
  readonly #records = new Map<RecordId, KnownRow>();
  readonly #items = new Map<ItemId, EditionItem>();

  async learn(db: Db, watches: WatchId[], records: RecordId[], until: Instant): Promise<void> {
    const [watchRows, recordRows] = await inOneTurn(db, [
      { text: WATCHES, values: [[...new Set(watches)]] },
      { text: RECORDS, values: [[...new Set(records)]] },
    ]);
    for (const row of (watchRows?.rows ?? []) as WatchRow[]) this.#watches.set(row.id, row);
    const found = (recordRows?.rows ?? []) as KnownRow[];
    for (const row of found) this.#records.set(row.id, row);
    const { rows } = await db.query<ItemRow>(ITEMS, [[...new Set(found.flatMap(({ item }) => item ?? []))]]);
    for (const { zone, minimums, ...item } of rows)
      this.#items.set(item.id, { ...item, minimum: minimumOn({ minimums }, dayAt(until, zone)) });
  }

  told(watch: WatchId, record: RecordId | null): EditionRecord | null {
    const of = this.#watches.get(watch);
    if (of === undefined) return null;
    const known = record === null ? undefined : this.#records.get(record);
    const item = known?.item == null ? null : (this.#items.get(known.item) ?? null);
    const { subject, isOne, tags, page, site } = of;
    return {
      watch,
      id: record,
      name: isOne ? subject : (known?.name ?? subject),
      subject,
      site,
      tags,
      item,
      variant: known?.variant ?? null,
      page,
    };
  }

  field(watch: WatchId, key: string): EditionField {
    const known = this.#watches.get(watch)?.fields?.find((each) => each.key === key);
    return known ?? { key, label: key, role: null, polarity: 'neither' };
  }
}

/** A watch as news of it bears it, whatever its records; null where there is none. */
export async function watchTold(db: Db, watch: WatchId, until: Instant): Promise<EditionRecord | null> {
  const records = new Records();
  await records.learn(db, [watch], [], until);
  return records.told(watch, null);
}

/**
 * What a stretch brought to a report: its moves, in the order of their commits; how many it does not take, and whether
 * there are more than it can.
 */
interface MovesIn {
  moves: Move[];
  leftOut: number;
  tooMany: boolean;
  /** The first move of each series that had no value before it. */
  firsts: Map<MoveId, SeriesId>;
  since: Map<MoveId, Instant>;
}

/**
 * The moves of a stretch that a report takes. `counted` names the report where it counts from what it showed last:
 * moves before the stretch that add up come first.
 */
export async function movesIn(
  db: Db,
  order: ReportDefinition,
  span: Span,
  followed: WatchId[] | null,
  { most = MOST_MOVES, counted = null }: { most?: number | undefined; counted?: ReportId | null } = {},
): Promise<MovesIn> {
  const bounds = [span.fromSeq, span.toSeq];
  const changed = (await db.query<ChangeRow>(CHANGES, [...bounds, followed, most + 1])).rows;
  const firstRead = await firstReadIn(db, order, { span, followed, most, changed });
  const rows = [...changed, ...firstRead].sort((one, other) => one.seq - other.seq);
  const takesFirsts = order.takes.sorts.includes('first readings');
  const all = theRow(await db.query<{ n: number }>(COUNTED, [...bounds, followed, takesFirsts])).n;
  const take = await taking(db, order, rows, span);
  const own = rows.slice(0, most).flatMap(take);
  const before =
    order.size.base === 'told' && counted !== null ? await unshown(db, counted, own, span, most) : NONE_BEFORE;
  const taken = [...before.rows.flatMap(take), ...own];
  const firsts = new Map<MoveId, SeriesId>();
  const since = new Map<MoveId, Instant>();
  const met = new Set<SeriesId>();
  for (const { series, move } of taken) {
    if (series === null || met.has(series)) continue;
    met.add(series);
    if (move.change.from.kind === 'absent' && move.first !== true) firsts.set(move.id, series);
    const shown = before.shown.get(series);
    if (shown !== undefined && shown.seq < span.fromSeq && move.first !== true) since.set(move.id, shown.at);
  }
  return {
    moves: taken.map(({ move }) => move),
    leftOut: Math.max(0, all - own.filter(({ move }) => takesFirsts || move.first !== true).length),
    tooMany: rows.length > most,
    firsts,
    since,
  };
}

/** What the watches of a report brought: of what it could take, the rest is left out. */
const COUNTED = `
SELECT (
  SELECT count(*) FROM change c WHERE c.seq > $1 AND c.seq <= $2 AND ($3::int[] IS NULL OR c.watch_id = ANY($3))
)::int + (
  SELECT count(*) FROM first_reading c
  WHERE $4 AND c.seq > $1 AND c.seq <= $2 AND ($3::int[] IS NULL OR c.watch_id = ANY($3))
)::int AS n`;

/** What was first read: all of it where that is taken, else of what moved since, whose net begins there. */
async function firstReadIn(
  db: Db,
  { takes, shows }: ReportDefinition,
  { span, followed, most, changed }: { span: Span; followed: WatchId[] | null; most: number; changed: ChangeRow[] },
): Promise<ChangeRow[]> {
  const all = takes.sorts.includes('first readings');
  const moved = [...new Set(changed.flatMap(({ series }) => series ?? []))];
  if (!all && (shows === 'each' || moved.length === 0)) return [];
  return (await db.query<ChangeRow>(FIRSTS, [span.fromSeq, span.toSeq, followed, all ? null : moved, most + 1])).rows;
}

interface Taken {
  series: SeriesId | null;
  move: Move;
}

/** What makes a move of a change, where the report takes it. */
async function taking(
  db: Db,
  order: ReportDefinition,
  rows: ChangeRow[],
  { until }: Span,
): Promise<(row: ChangeRow) => Taken[]> {
  const records = new Records();
  const watches = rows.map(({ watch }) => watch);
  await records.learn(
    db,
    watches,
    rows.flatMap(({ record }) => record ?? []),
    until,
  );
  const firstsTaken = order.takes.sorts.includes('first readings');
  return ({ watch, record, series, field: key, id, seq, at, lookedBefore, alerts, first, ...change }) => {
    const told = records.told(watch, record);
    const field = change.kind === 'record' ? null : records.field(watch, key);
    // One that is not taken for itself goes with what moved since.
    if (told === null || leftOutBy(order, { record: told, field, first: firstsTaken ? first : undefined }) !== null)
      return [];
    return [{ series, move: { id, seq, at, lookedBefore, record: told, field, change, alerts, first } satisfies Move }];
  };
}

const NONE_BEFORE: { rows: ChangeRow[]; shown: Map<SeriesId, LastShown> } = { rows: [], shown: new Map() };

/** Moves before a stretch of the series that moved in it, since the report showed them last. */
async function unshown(db: Db, report: ReportId, own: Taken[], span: Span, most: number): Promise<typeof NONE_BEFORE> {
  const moved = [...new Set(own.flatMap(({ series }) => series ?? []))];
  const shown = await lastShown(db, report, moved, span.fromSeq);
  const before = [...shown].filter(([, { seq }]) => seq < span.fromSeq);
  if (before.length === 0) return { rows: [], shown };
  const values = [span.fromSeq, span.toSeq, before.map(([series]) => series), before.map(([, { seq }]) => seq), most];
  return { rows: (await db.query<ChangeRow>(UNSHOWN, values)).rows, shown };
}

const STOOD = `
SELECT DISTINCT ON (c.series_id) f.first, ${side('was')} AS value, c.seen_at AS "absentSince"
FROM unnest($1::bigint[], $2::bigint[]) AS f(series, first) JOIN change m ON m.id = f.first
JOIN change c ON c.series_id = f.series AND c.seq < m.seq AND c.now->>'kind' = 'absent' AND c.was->>'kind' <> 'absent'
ORDER BY c.series_id, c.seq DESC`;

/** What series held before they had no value, of those that had none at their first move here. */
export async function stoodBefore(db: Db, firsts: ReadonlyMap<MoveId, SeriesId>): Promise<Map<MoveId, StoodBefore>> {
  if (firsts.size === 0) return new Map();
  const { rows } = await db.query<StoodBefore & { first: MoveId }>(STOOD, [[...firsts.values()], [...firsts.keys()]]);
  return new Map(rows.map(({ first, ...stood }) => [first, stood]));
}

/**
 * How a series `s` stood at a place in the order of commits, in SQL: what the first change after it found, else what it
 * holds.
 */
export const stoodAt = (seq: string): string =>
  `coalesce((SELECT c.was FROM change c WHERE c.series_id = s.id AND (c.seq > ${seq} OR c.seq IS NULL)
ORDER BY c.seq NULLS LAST, c.seen_at, c.id LIMIT 1), s.value)`;
/** When it had moved last by then. */
export const movedBefore = (seq: string): string =>
  `(SELECT max(c.seen_at) FROM change c WHERE c.series_id = s.id AND c.seq <= ${seq})`;

/** How series stood at the end of a stretch. */
const OFFERS = `
SELECT o.item_id AS item, o.watch_id AS watch, o.id AS record, f->>'role' AS role,
  ${stoodAt('$2')} AS value, ${movedBefore('$2')} AS "movedAt",
  CASE WHEN w.failing_since <= $3 THEN jsonb_build_object('since', ${instant('w.failing_since')}, 'cause', w.told_cause)
    WHEN s.problem IS NOT NULL THEN jsonb_build_object('since', ${instant('s.last_good_at')}, 'cause', NULL)
      END AS stale
FROM record o
JOIN watch w ON w.id = o.watch_id AND w.state <> 'deleted'
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
JOIN series s ON s.record_id = o.id
JOIN LATERAL jsonb_array_elements(v.definition->'fields') f ON f->>'key' = s.field
  AND f->>'role' IN ('price', 'shipping cost', 'availability')
WHERE o.item_id = ANY($1) AND o.gone_since IS NULL
ORDER BY o.id LIMIT ${50_000}`;

const TYPED = `
SELECT l.item_id AS item, l.price, jsonb_build_object('id', t.id, 'name', t.name, 'kind', t.kind) AS site
FROM listing l JOIN site t ON t.id = l.site_id
WHERE l.item_id = ANY($1) AND l.price IS NOT NULL AND t.kind IN ('own', 'channel')`;

interface OfferRow {
  item: ItemId;
  watch: WatchId;
  record: RecordId;
  role: string;
  value: Value;
  movedAt: Instant | null;
  stale: Stale | null;
}

/** Who offers items, as it stood at the end of a stretch. */
export async function offersAt(db: Db, items: ItemId[], { toSeq, until }: Span): Promise<Map<ItemId, OfferNow[]>> {
  const found = new Map<ItemId, OfferNow[]>(items.map((item) => [item, []]));
  if (items.length === 0) return found;
  const [offered, typed] = await inOneTurn(db, [
    { text: OFFERS, values: [items, toSeq, moment(until)] },
    { text: TYPED, values: [items] },
  ]);
  const rows = (offered?.rows ?? []) as OfferRow[];
  const records = new Records();
  await records.learn(
    db,
    rows.map(({ watch }) => watch),
    rows.map(({ record }) => record),
    until,
  );
  for (const { item, offer } of offersIn(rows, records)) found.get(item)?.push(offer);
  for (const { item, price, site } of (typed?.rows ?? []) as TypedRow[]) {
    const own = found.get(item) ?? [];
    // What is read there counts before what is typed.
    if (!own.some((offer) => offer.site.id === site.id))
      own.push({ record: null, site, price, shipping: null, stock: null, movedAt: null });
  }
  return found;
}

interface TypedRow {
  item: ItemId;
  price: Value;
  site: EditionRecord['site'];
}

const PART_OF: Record<string, 'price' | 'shipping' | 'stock'> = {
  price: 'price',
  'shipping cost': 'shipping',
  availability: 'stock',
};

/** The offers of rows, of which each is a field of one; of several fields of one kind the first counts. */
function offersIn(rows: OfferRow[], records: Records): { item: ItemId; offer: OfferNow }[] {
  const offers = new Map<RecordId, { item: ItemId; offer: OfferNow }>();
  for (const { item, watch, record, role, value, movedAt, stale } of rows) {
    const told = records.told(watch, record);
    const part = PART_OF[role];
    if (told === null || part === undefined) continue;
    const known = offers.get(record)?.offer ?? {
      record: told,
      site: told.site,
      price: null,
      shipping: null,
      stock: null,
      movedAt: null,
    };
    offers.set(record, {
      item,
      offer: {
        ...known,
        [part]: known[part] ?? value,
        movedAt: later(known.movedAt, movedAt),
        stale: known.stale ?? stale,
      },
    });
  }
  return [...offers.values()];
}

const later = (one: Instant | null, other: Instant | null): Instant | null =>
  one === null || (other !== null && other > one) ? other : one;

/** So many at most, and whether there were more. */
interface Bounded<T> {
  found: T[];
  more: boolean;
}

const NOTHING = { found: [], more: false };
const bounded = <T>(found: T[], most: number): Bounded<T> => ({
  found: found.slice(0, most),
  more: found.length > most,
});

const MOST_ALERTS = 10_000;

const ALERTS = `
SELECT c.id, c.watch_id AS watch, c.change_id AS move, c.rule_id AS rule, x.record_id AS record, c.news
FROM alert c JOIN watch w ON w.id = c.watch_id AND w.state <> 'deleted' LEFT JOIN series x ON x.id = c.series_id
WHERE ${IN_SPAN} ORDER BY c.seq LIMIT ${MOST_ALERTS + 1}`;

type AlertRow = Omit<EditionAlert, 'news' | 'record'> & { record: RecordId | null; news: unknown };

/** The alerts of a stretch that a report takes, how many it does not take, and whether there are more than it can. */
export async function alertsIn(
  db: Db,
  order: ReportDefinition,
  span: Span,
  followed: WatchId[] | null,
): Promise<Bounded<EditionAlert>> {
  if (!order.takes.sorts.includes('alerts')) return NOTHING;
  const { rows } = await db.query<AlertRow>(ALERTS, [span.fromSeq, span.toSeq, followed]);
  const records = new Records();
  await records.learn(
    db,
    rows.map(({ watch }) => watch),
    rows.flatMap(({ record }) => record ?? []),
    span.until,
  );
  const taken = rows.slice(0, MOST_ALERTS).flatMap(({ news: stored, record: id, ...alert }): EditionAlert[] => {
    const [news, record] = [storedNews.read(stored), records.told(alert.watch, id)];
    if (record === null) return [];
    const told = { ...alert, record, news };
    return alertLeftOutBy(order, saidOf(told)) === null ? [told] : [];
  });
  return { found: taken, more: rows.length > MOST_ALERTS };
}

/** What an alert says of itself by which it is taken or not. */
export const saidOf = ({
  record,
  rule,
  news,
}: Pick<EditionAlert, 'record' | 'rule' | 'news'>): Parameters<typeof alertLeftOutBy>[1] => ({
  record,
  rule,
  weight: news.weight ?? 'usual',
  fields: fieldsNamed(news),
});

/** The fields that an alert tells of. */
const fieldsNamed = ({ field, labels = {} }: News): Pick<EditionField, 'label' | 'role'>[] => [
  { label: field.label, role: field.role ?? null },
  ...Object.values(labels).map((label) => ({ label, role: null })),
];

/** What alerts say of themselves by which they are taken or not, of those that a move raised. */
export async function alertsOfMove(
  db: Db,
  { id, record }: Pick<Move, 'id' | 'record'>,
): Promise<Parameters<typeof alertLeftOutBy>[1][]> {
  const { rows } = await db.query<{ rule: RuleId; news: unknown }>(
    'SELECT rule_id AS rule, news FROM alert WHERE change_id = $1 ORDER BY id LIMIT 100',
    [id],
  );
  return rows.flatMap(({ rule, news: stored }) => {
    const news = storedNews.readKnown(stored);
    return news === null ? [] : [saidOf({ record, rule, news })];
  });
}

const MOST_BROKEN = 500;

/** Of each watch what was told of it last in the stretch. */
const BROKEN = `
SELECT DISTINCT ON (c.watch_id) c.watch_id AS watch, v.definition->>'subject' AS subject, t.name AS site,
  s.address AS page, c.kind, c.cause, c.sentence, c.since,
  min(c.made_at) OVER (PARTITION BY c.watch_id) AS at,
  (SELECT jsonb_build_object('label', f->>'label', 'value', x.value)
    FROM series x
    JOIN LATERAL jsonb_array_elements(v.definition->'fields') WITH ORDINALITY AS n(f, at) ON f->>'key' = x.field
    WHERE x.watch_id = w.id AND x.value->>'kind' <> 'absent' ORDER BY n.at, x.id LIMIT 1) AS "lastGood",
  jsonb_build_object('tags', w.tags, 'site', jsonb_build_object('name', t.name, 'kind', t.kind), 'items', coalesce((
    SELECT jsonb_agg(DISTINCT jsonb_build_object('brand', i.brand, 'category', i.category, 'supplier', i.supplier))
    FROM record mine JOIN item i ON i.id = mine.item_id WHERE mine.watch_id = w.id), '[]')) AS of,
  ARRAY(SELECT DISTINCT ot.name FROM record mine
  JOIN record o ON o.item_id = mine.item_id AND o.watch_id <> w.id AND o.gone_since IS NULL
    JOIN watch ow ON ow.id = o.watch_id AND ow.state = 'running' AND ow.failing_since IS NULL
    JOIN source os ON os.id = ow.source_id
    JOIN site ot ON ot.id = os.site_id AND ot.id <> s.site_id AND ot.kind IS DISTINCT FROM 'own'
    WHERE mine.watch_id = w.id AND mine.item_id IS NOT NULL ORDER BY ot.name LIMIT 5) AS elsewhere
FROM notice c JOIN watch w ON w.id = c.watch_id AND w.state <> 'deleted'
JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version
JOIN source s ON s.id = w.source_id JOIN site t ON t.id = s.site_id
WHERE ${IN_SPAN} AND c.kind IN ('failing', 'recovered') ORDER BY c.watch_id, c.seq DESC LIMIT ${MOST_BROKEN + 1}`;

/** What broke in a stretch, or was read again, and whether that was more than can be told. */
export async function brokenIn(
  db: Db,
  { takes }: ReportDefinition,
  { fromSeq, toSeq }: Span,
  followed: WatchId[] | null,
): Promise<Bounded<BrokenOf>> {
  if (!takes.sorts.includes('failures')) return NOTHING;
  const { rows } = await db.query<Omit<BrokenOf, 'cause'> & { cause: Cause | null }>(BROKEN, [
    fromSeq,
    toSeq,
    followed,
  ]);
  return bounded(
    rows.map(({ cause, ...rest }) => ({ ...rest, cause: cause ?? 'not readable' })),
    MOST_BROKEN,
  );
}

const STALE = `
SELECT v.definition->>'subject' AS subject, t.name AS site, w.failing_since AS since, count(*) OVER ()::int AS n
FROM watch w JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version JOIN source s ON s.id = w.source_id
JOIN site t ON t.id = s.site_id
WHERE w.state = 'running' AND w.failing_since <= $2 AND ($1::int[] IS NULL OR w.id = ANY($1))
ORDER BY w.failing_since, w.id LIMIT 3`;

const LOOKS = `
SELECT count(*)::int AS looks, count(*) FILTER (WHERE outcome = 'failed')::int AS failed FROM watch_run
WHERE started_at > $2 AND started_at <= $3 AND ($1::int[] IS NULL OR watch_id = ANY($1))`;

const WATCHED = `SELECT count(*)::int AS n
  FROM watch w
  WHERE w.state = 'running' AND ($1::int[] IS NULL OR w.id = ANY($1))`;

/** What the watches that are followed were read in a stretch, and which of them are not read at its end. */
export async function readingIn(db: Db, { from, until }: Span, followed: WatchId[] | null) {
  const looks = theRow(
    await db.query<{ looks: number; failed: number }>(LOOKS, [followed, moment(from), moment(until)]),
  );
  const { rows } = await db.query<{ subject: string; site: string; since: Instant; n: number }>(STALE, [
    followed,
    moment(until),
  ]);
  const watches = theRow(await db.query<{ n: number }>(WATCHED, [followed])).n;
  return {
    ...looks,
    watches,
    staleCount: rows[0]?.n ?? 0,
    stale: rows.map(({ subject, site, since }) => ({ subject, site, since })),
  };
}
