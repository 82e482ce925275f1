import type { AlertId, WatchId } from '../../id';
import { compareReadings, type Change } from '../../compare/compare';
import type { Net } from '../../compare/net';
import { compareDecimals, magnitude, type Decimal } from '../../value/decimal';
import { isMeasure, type Measure, type Value } from '../../value/value';
import type { Instant } from '../../when/interval';
import { capital } from '../../words';
import { greatest } from '../hold';
import type { News } from '../news';
import { WEIGHTS, type Sorting, type SplitBy, type ReportDefinition } from '../definition';
import type { Gathered, EditionAlert } from './gathered';
import { countKinds, recordKey, type FieldLine, type Line, type LineKind, type Presence } from './lines';
import type { MoveId, EditionField, EditionRecord } from './move';
import { bearingOf, valuesBorne, WITHOUT } from './share';
import { landed, placeAmong, toOurs, type OfferNow, type Stale } from './offers';

/** A row of an edition: one field of a record, or an offer of an item with its price. */
export interface Row {
  record: EditionRecord | null;
  site: EditionRecord['site'];
  /** Null of an offer as a whole, whose price it is. */
  field: EditionField | null;
  was: Value | null;
  now: Value | null;
  change: Change | null;
  /** Shipping is in it; how much, where that is known. */
  shipped: boolean;
  shipping?: Value | null;
  /** What became of its value on the way; of an offer that of its price. Null where that did not move. */
  net: Net | null;
  /** Since when its move is counted, where that is longer than the stretch. */
  since?: Instant;
  /** What the line of this row tells; null where nothing moved, and on its further rows. */
  kind: LineKind | null;
  /** That its record came or went, where its line tells something else before that. */
  presence?: Presence;
  stock: Value | null;
  /** The stock moved in this stretch. */
  stockMoved: boolean;
  toOurs: Measure | null;
  /** It was not below ours before, and is now. */
  wentBelow: boolean;
  movedAt: Instant | null;
  /** Its offer is not read now. */
  stale?: Stale | null;
  moved: boolean;
  alerts: { id: AlertId; news: News }[];
  changes: MoveId[];
  /** A move of the series that its value is of, where that can be drawn. */
  drawn?: MoveId;
}

/** Rows that stand together under one head. */
export interface Group {
  /** What is an item's has its sellers as rows. */
  of: 'item' | 'site' | 'kind' | 'watch' | 'value' | 'all';
  title: string;
  /** Our reference of an item. */
  note: string;
  /** What it is listed as where we sell it. */
  listings?: string[];
  place: { now: { place: number; of: number }; was: { place: number; of: number } | null } | null;
  rows: Row[];
  /** How many offers of it that did not move are left out. */
  unmoved: number;
  /** How many of its lines are cut off. */
  beyond: number;
}

/** Of how many groups something is cut off, with those of which most is. */
export interface BeyondGroups {
  count: number;
  largest: (Pick<Group, 'of' | 'title'> & { lines: number })[];
}

/** A line with the group that it stands in. */
export interface GroupedLine {
  group: Pick<Group, 'of' | 'title'>;
  line: Line;
}

/** Every line in the order in which the groups of an edition would have them. */
export const linesInOrder = (
  order: ReportDefinition,
  lines: readonly Line[],
  { alerts }: Pick<Gathered, 'alerts'>,
): GroupedLine[] =>
  grouped(order, lines, weighing(alerts)).flatMap(({ key, lines: own }) => own.map((line) => ({ group: key, line })));

/**
 * Groups in the order that is asked, with at most so many lines in all; what is cut off is counted by kind, and by
 * group where there are groups (13).
 */
export function groupsOf(
  order: ReportDefinition & { most: number },
  lines: readonly Line[],
  gathered: Pick<Gathered, 'offers' | 'alerts'>,
): { groups: Group[]; beyond: Partial<Record<LineKind, number>>; beyondGroups: BeyondGroups } {
  const sorted = grouped(order, lines, weighing(gathered.alerts));
  const cutOff: Line[] = [];
  const cutGroups: BeyondGroups['largest'] = [];
  let left = order.most;
  const groups = sorted.flatMap(({ key, lines: own }): Group[] => {
    const shown = own.slice(0, left);
    left -= shown.length;
    cutOff.push(...own.slice(shown.length));
    if (shown.length < own.length && sorted.length > 1)
      cutGroups.push({ of: key.of, title: key.title, lines: own.length - shown.length });
    return shown.length === 0 ? [] : [groupOf(order, key, shown, own.length - shown.length, gathered)];
  });
  return { groups, beyond: countKinds(cutOff), beyondGroups: beyondGroupsOf(cutGroups) };
}

/** All groups that were cut off as they are told. */
export const beyondGroupsOf = (all: readonly BeyondGroups['largest'][number][]): BeyondGroups => ({
  count: all.length,
  largest: [...all].sort((one, other) => other.lines - one.lines).slice(0, MOST_NAMED),
});

/** So many groups of which something is cut off are named. */
const MOST_NAMED = 12;

interface GroupKey {
  of: Group['of'];
  key: string;
  title: string;
}

/** Where a line stands: what is no offer of an item stands with what else its site has. */
function keyOf(order: ReportDefinition, { record, kind }: Line): GroupKey {
  const { by } = order;
  const { item, site, watch, subject } = record;
  if (by === 'item' && item !== null)
    return { of: 'item', key: `item ${item.id}`, title: item.name === '' ? item.reference : item.name };
  if (by === 'kind') return { of: 'kind', key: kind, title: kind };
  if (by !== 'item' && by !== 'site' && by !== 'none' && by !== 'watch') return valueKey(by, order, record);
  if (by === 'watch') return { of: 'watch', key: `watch ${watch}`, title: `${subject}, ${site.name}` };
  return by === 'none' ? { of: 'all', key: '', title: '' } : { of: 'site', key: `site ${site.id}`, title: site.name };
}

/** A line stands once: of several tags under the first by name of those that the report asks for, else of all. */
function valueKey(
  by: Exclude<SplitBy, 'site'>,
  { takes: { only } }: ReportDefinition,
  record: EditionRecord,
): GroupKey {
  const borne = valuesBorne(by, bearingOf(record)).toSorted((one, other) => byWords(one ?? '', other ?? ''));
  const value = borne.find((each) => by === 'tag' && only.tags.includes(each ?? '')) ?? borne[0] ?? null;
  return { of: 'value', key: JSON.stringify(value), title: value ?? capital(WITHOUT[by]) };
}

/** How much the weightiest alert of a line matters; null of one that raised none. */
type Weighing = (line: Line) => Decimal | null;

function weighing(alerts: readonly EditionAlert[]): Weighing {
  const weights = new Map(alerts.map(({ id, news }) => [id, news.weight ?? 'usual']));
  return ({ alerts: own }) => {
    const weight = greatest(own.flatMap((id) => weights.get(id) ?? []));
    return weight === null ? null : (String(WEIGHTS.length - WEIGHTS.indexOf(weight)) as Decimal);
  };
}

function grouped(order: ReportDefinition, lines: readonly Line[], weigh: Weighing): { key: GroupKey; lines: Line[] }[] {
  const groups = new Map<string, { key: GroupKey; lines: Line[] }>();
  for (const line of lines) {
    const key = keyOf(order, line);
    const group = groups.get(key.key) ?? { key, lines: [] };
    group.lines.push(line);
    groups.set(key.key, group);
  }
  const inGroup = sorting(order.sort.lines, weigh);
  const all = [...groups.values()].map(({ key, lines: own }) => ({ key, lines: [...own].sort(inGroup) }));
  const among = sorting(order.sort.groups, weigh);
  // A group stands where the first of its lines by that order would.
  const heads = new Map(all.map((group) => [group, [...group.lines].sort(among)[0]]));
  return all.sort((one, other) => {
    if (order.sort.groups.by === 'name') return directed(byWords(one.key.title, other.key.title), order.sort.groups);
    const [first, second] = [heads.get(one), heads.get(other)];
    return first === undefined || second === undefined
      ? 0
      : among(first, second) || byWords(one.key.title, other.key.title);
  });
}

/** Names stand in one order for every reader of an edition. */
const byWords = new Intl.Collator('en').compare;

const directed = (order: number, { down }: Sorting): number => (down ? -order : order);

/** Compares lines; what has no such size comes last either way, and what is equal goes by name. */
function sorting(asked: Sorting, weigh: Weighing): (one: Line, other: Line) => number {
  const byName = (one: Line, other: Line) =>
    byWords(one.record.name, other.record.name) ||
    byWords(one.record.site.name, other.record.site.name) ||
    one.at - other.at;
  if (asked.by === 'name') return (one, other) => directed(byName(one, other), asked);
  const sizes = new Map<Line, Decimal | null>();
  const sizeOf = (line: Line): Decimal | null => {
    const known = sizes.get(line);
    if (known !== undefined) return known;
    const size = asked.by === 'weight' ? weigh(line) : sizeBy(asked, line);
    sizes.set(line, size);
    return size;
  };
  return (one, other) => {
    const [a, b] = [sizeOf(one), sizeOf(other)];
    if (a === null || b === null) return a === b ? byName(one, other) : a === null ? 1 : -1;
    return directed(compareDecimals(a, b), asked) || byName(one, other);
  };
}

function sizeBy({ by }: Sorting, line: Line): Decimal | null {
  const { change, now } = mainOf(line) ?? { change: null, now: null };
  if (by === 'moved') return String(line.at) as Decimal;
  if (by === 'price') return now !== null && isMeasure(now) ? now.amount : null;
  if (change === null) return null;
  const size = by === 'percent' ? change.percent : change.difference;
  return size === null ? null : magnitude(size);
}

/** The field that a line is about before all others: its price, else what moved first of its fields. */
const mainOf = ({ fields }: Line): FieldLine | null =>
  fields.find(({ field }) => field.role === 'price') ?? fields[0] ?? null;

function groupOf(
  order: ReportDefinition,
  key: GroupKey,
  lines: Line[],
  beyond: number,
  gathered: Pick<Gathered, 'offers' | 'alerts'>,
): Group {
  const alerts = new Map(gathered.alerts.map((alert) => [alert.id, alert]));
  const item = key.of === 'item' ? (lines[0]?.record.item ?? null) : null;
  const base = { of: key.of, title: key.title, note: item?.reference ?? '', listings: item?.listings ?? [], beyond };
  if (item === null || order.shows === 'each')
    return { ...base, place: null, unmoved: 0, rows: lines.flatMap((line) => plainRows(line, alerts)) };
  const offers = gathered.offers.get(item.id) ?? [];
  const { rows, place } = offerRows(lines, offers, alerts);
  const shown = order.items === 'whole' ? rows : rows.filter((row) => row.moved || isOurs(row));
  return { ...base, place, unmoved: rows.length - shown.length, rows: shown };
}

const raisedOn = (line: Line, alerts: ReadonlyMap<AlertId, EditionAlert>) =>
  line.alerts.flatMap((id) => {
    const alert = alerts.get(id);
    return alert === undefined ? [] : [{ id, news: alert.news }];
  });

const NOTHING_MOVED = {
  was: null,
  change: null,
  shipped: false,
  net: null,
  kind: null,
  stock: null,
  stockMoved: false,
  toOurs: null,
  wentBelow: false,
  moved: false,
  alerts: [],
  changes: [],
};

/** What is counted has a course that can be drawn. */
function drawnOf({ now, moves }: FieldLine): Pick<Row, 'drawn'> {
  const last = moves.at(-1);
  return last !== undefined && isMeasure(now) ? { drawn: last } : {};
}

function fieldRow({ record }: Line, line: FieldLine): Row {
  const { field, was, now, change, net, at, since } = line;
  return {
    ...NOTHING_MOVED,
    record,
    site: record.site,
    field,
    was,
    now,
    change,
    net,
    movedAt: at,
    moved: true,
    changes: line.moves,
    ...(since === undefined ? {} : { since }),
    ...drawnOf(line),
  };
}

/**
 * The rows of a line that is no offer's: one for each field, the one that it is about first; of a record that came or
 * went one alone.
 */
function plainRows(line: Line, alerts: ReadonlyMap<AlertId, EditionAlert>): Row[] {
  const main = mainOf(line);
  const { record, kind, at, moves } = line;
  const whole: Row = {
    ...NOTHING_MOVED,
    record,
    site: record.site,
    field: null,
    now: null,
    movedAt: at,
    moved: true,
    changes: moves,
  };
  const rows =
    main === null
      ? [whole]
      : [main, ...line.fields.filter((each) => each !== main)].map((each) => fieldRow(line, each));
  return rows.map((row, place) =>
    place === 0 ? { ...row, kind, ...presenceBeside(line), alerts: raisedOn(line, alerts) } : row,
  );
}

/** That a record came or went, where that is not what its line tells before all else. */
const presenceBeside = ({ kind, presence }: Line): Pick<Row, 'presence'> =>
  presence === undefined || presence === kind ? {} : { presence };

/**
 * The entry of an item: ours first, then every other by its landed price, what moved marked; other fields that moved
 * below their offer.
 */
function offerRows(
  lines: Line[],
  offers: readonly OfferNow[],
  alerts: ReadonlyMap<AlertId, EditionAlert>,
): { rows: Row[]; place: Group['place'] } {
  const lineOf = new Map(lines.map((line) => [recordKey(line.record), line]));
  const known = [
    ...offers,
    ...lines.filter(({ record }) => !offers.some((offer) => isOf(offer, record))).map(offerOfLine),
  ];
  const own = eachOnce(
    known.map((offer) => {
      const line = offer.record === null ? undefined : lineOf.get(recordKey(offer.record));
      return { offer, line, ...pricesOf(offer, line) };
    }),
  );
  const ours = ourPrices(own);
  const rows = own.sort(inEntry).flatMap((each) => entryRows(each, ours, alerts));
  const others = asOffered(own.filter(({ offer }) => !isOurs(offer)));
  const now = placeAmong(
    ours.now,
    others.map((each) => each.now),
  );
  return {
    rows,
    place:
      now === null
        ? null
        : {
            now,
            was: placeAmong(
              ours.was,
              others.map((each) => each.was),
            ),
          },
  };
}

/** What is offered: where several watches read one page, one of them says it, and each offer holds but one place. */
function asOffered<Of extends { offer: OfferNow }>(entries: Of[]): Of[] {
  const readBy = new Map<string, WatchId>();
  return entries.filter(({ offer: { record, site } }) => {
    if (record === null) return true;
    const page = `${site.id} ${record.page} ${record.variant ?? ''}`;
    const watch = readBy.get(page) ?? record.watch;
    readBy.set(page, watch);
    return watch === record.watch;
  });
}

interface Prices {
  now: Value | null;
  was: Value | null;
}

interface Entry extends Prices {
  offer: OfferNow;
  line: Line | undefined;
  shipped: boolean;
}

/**
 * An offer that is read twice, as alone and in a list, stands once: where it moved, else where it is read, and where
 * more of it is known.
 */
function eachOnce(entries: Entry[]): Entry[] {
  const said = ({ offer, now }: Entry) => `${offer.site.id} ${JSON.stringify(now)}`;
  const worth = ({ offer, line }: Entry) =>
    (line === undefined ? 0 : 4) + (offer.stale == null ? 2 : 0) + (offer.stock === null ? 0 : 1);
  const best = new Map<string, Entry>();
  for (const entry of entries) {
    const other = best.get(said(entry));
    if (other === undefined || worth(entry) > worth(other)) best.set(said(entry), entry);
  }
  return entries.filter((entry) => entry.line !== undefined || best.get(said(entry)) === entry);
}

const isOf = ({ record }: OfferNow, told: EditionRecord): boolean =>
  record !== null && recordKey(record) === recordKey(told);
const isOurs = ({ site }: Pick<OfferNow, 'site'>): boolean => site.kind === 'own' || site.kind === 'channel';

/** An offer that is not among those of the cut any more, by what its line says. */
function offerOfLine({ record, fields, at }: Line): OfferNow {
  const last = (role: string) => fields.find(({ field }) => field.role === role)?.now ?? null;
  return {
    record,
    site: record.site,
    price: last('price'),
    shipping: last('shipping cost'),
    stock: last('availability'),
    movedAt: at,
  };
}

/** How an offer was before the stretch, of a field that its line tells of. */
const wasBefore = (line: Line | undefined, role: string, now: Value | null): Value | null => {
  const told = line?.fields.find(({ field }) => field.role === role);
  return told === undefined ? now : told.was;
};

function pricesOf({ price, shipping }: OfferNow, line: Line | undefined): Pick<Entry, 'now' | 'was' | 'shipped'> {
  const now = landed(price, shipping);
  const was = landed(wasBefore(line, 'price', price), wasBefore(line, 'shipping cost', shipping));
  return { now: now?.value ?? null, was: was?.value ?? null, shipped: now?.shipped ?? was?.shipped ?? false };
}

/** Ours: at our own shop, else at the first channel. */
function ourPrices(entries: Entry[]): Prices {
  const ours =
    entries.find(({ offer }) => offer.site.kind === 'own') ??
    entries.find(({ offer }) => offer.site.kind === 'channel');
  return { now: ours?.now ?? null, was: ours?.was ?? null };
}

const RANK = { own: 0, channel: 1, rival: 2 } as const;

function inEntry(one: Entry, other: Entry): number {
  const rank = (entry: Entry) => RANK[entry.offer.site.kind ?? 'rival'];
  if (rank(one) !== rank(other)) return rank(one) - rank(other);
  const [a, b] = [one.now, other.now];
  if (a === null || b === null || !isMeasure(a) || !isMeasure(b))
    return a === b ? 0 : a === null ? 1 : b === null ? -1 : 0;
  return compareDecimals(a.amount, b.amount) || byWords(one.offer.site.name, other.offer.site.name);
}

const PARTS_OF_OFFER = new Set(['price', 'shipping cost', 'availability']);

/** The row of an offer, with its landed price; below it what else of it moved. */
function entryRows(entry: Entry, ours: Prices, alerts: ReadonlyMap<AlertId, EditionAlert>): Row[] {
  const { offer, line } = entry;
  const { record, site, stock } = offer;
  const first: Row = {
    ...NOTHING_MOVED,
    record,
    site,
    field: null,
    stock,
    now: entry.now,
    shipped: entry.shipped,
    shipping: entry.shipped ? offer.shipping : null,
    movedAt: offer.movedAt,
    ...(offer.stale == null ? {} : { stale: offer.stale }),
    ...distances(entry, ours),
  };
  if (line === undefined) return [first];
  const others = line.fields.filter(({ field }) => !PARTS_OF_OFFER.has(field.role ?? ''));
  return [{ ...first, ...movedParts(entry, line, alerts) }, ...others.map((each) => fieldRow(line, each))];
}

/** How far an offer is from ours, which is not asked of ours. */
function distances({ offer, now, was }: Entry, ours: Prices): Pick<Row, 'toOurs' | 'wentBelow'> {
  if (isOurs(offer)) return { toOurs: null, wentBelow: false };
  const distance = toOurs(now, ours.now);
  return { toOurs: distance, wentBelow: isBelow(distance) && !isBelow(toOurs(was, ours.was)) };
}

function movedParts({ now, was }: Entry, line: Line, alerts: ReadonlyMap<AlertId, EditionAlert>): Partial<Row> {
  const priced = line.fields.filter(({ field }) => field.role === 'price' || field.role === 'shipping cost');
  const [price] = priced;
  return {
    was: priced.length === 0 ? null : was,
    change: was !== null && now !== null ? landedChange(was, now, priced) : null,
    net: price?.net ?? null,
    ...(price?.since === undefined ? {} : { since: price.since }),
    ...(price === undefined ? {} : drawnOf(price)),
    kind: line.kind,
    ...presenceBeside(line),
    stockMoved: line.fields.some(({ field }) => field.role === 'availability'),
    movedAt: line.at,
    moved: true,
    alerts: raisedOn(line, alerts),
    changes: line.moves,
  };
}

/** The change of a landed price; of one that was counted in several units on the way there is no size. */
function landedChange(was: Value, now: Value, priced: readonly FieldLine[]): Change | null {
  const [price] = priced;
  if (price === undefined || priced.every(({ change }) => change === null)) return null;
  return price.net.parts.length > 1 ? price.change : compareReadings(was, now, price.field.polarity);
}

const isBelow = (distance: Measure | null): boolean => distance?.amount.startsWith('-') === true;
