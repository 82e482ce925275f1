import type { AlertId } from '../../id';
import { compareReadings, type Change } from '../../compare/compare';
import { hasNews, isReturn, netOf, type Net, type StoodBefore } from '../../compare/net';
import { isAvailable } from '../../value/availability';
import { alike, isMeasure, type Money, type Value } from '../../value/value';
import type { Instant } from '../../when/interval';
import type { ReportDefinition } from '../definition';
import type { Gathered, EditionAlert } from './gathered';
import type { Move, MoveId, EditionField, EditionRecord } from './move';
import { isBelowOurs, isUnder } from './prices';
import { isOfSize } from './size';

/**
 * What a line tells, the weightiest first: in the order in which they are told apart (12), then the price, then the
 * rest (13).
 */
export const LINE_KINDS = [
  'alert',
  'first read',
  'appeared',
  'sold out',
  'sold out and the price withdrawn',
  'under the agreed minimum',
  'back above the agreed minimum',
  'fall',
  'rise',
  'returned',
  'back in stock',
  'sold out and back',
  'back and sold out again',
  'price withdrawn',
  'vanished',
  'gone and back',
  'came and went',
  'changed',
] as const;
export type LineKind = (typeof LINE_KINDS)[number];

/** What became of a record as such. */
export type Presence = Extract<LineKind, 'appeared' | 'vanished' | 'gone and back' | 'came and went'>;

/** What became of one field of a record. */
export interface FieldLine {
  field: EditionField;
  /** What was first read, where it was not known before and moved since; null where it did not. */
  was: Value | null;
  /** The last value; absent where it has none now. */
  now: Value;
  net: Net;
  /** From the value before to the last one; null where it came back, or has none now. */
  change: Change | null;
  at: Instant;
  /** Where its last move stands in the order of commits. */
  seq: number;
  /** Since when it is counted, where that is longer than the stretch. */
  since?: Instant;
  moves: MoveId[];
}

/** The news of one record: over the whole stretch, or at one moment. */
export interface Line {
  record: EditionRecord;
  kind: LineKind;
  /** That the record came or went, whatever else is told of it. */
  presence?: Presence;
  fields: FieldLine[];
  at: Instant;
  /** When the last good look before its first move was. */
  lookedBefore: Instant;
  moves: MoveId[];
  alerts: AlertId[];
}

/** The record whose news a move is. */
export const recordKey = ({ watch, id }: EditionRecord): string => `${watch} ${id ?? ''}`;

/**
 * The lines of moves, which are in the order of their commits. Where the net is shown a line is a record's news of the
 * whole stretch; where each move is, what befell it at one moment. What is not of the size that is asked is left out.
 */
export function linesOf(order: Told & Pick<ReportDefinition, 'shows'>, found: Moved): Line[] {
  const { moves } = found;
  const key = (move: Move) => (order.shows === 'net' ? recordKey(move.record) : `${recordKey(move.record)} ${move.at}`);
  const before = stoodBefore(moves, found.stood);
  return [...gathered(moves, key).values()].flatMap((of) => lineOf(order, of, before, found) ?? []);
}

/** The alerts that stand on no line. */
export function apartFrom<Alert extends Pick<EditionAlert, 'id'>>(
  lines: readonly Line[],
  alerts: readonly Alert[],
): Alert[] {
  const onLines = new Set(lines.flatMap((line) => line.alerts));
  return alerts.filter(({ id }) => !onLines.has(id));
}

/** All that a stretch brought as lines: first the alerts that stand on no line of a move, each as one of its own. */
export function everyLine(
  order: Told & Pick<ReportDefinition, 'shows'>,
  found: Moved & Pick<Gathered, 'alerts'>,
): Line[] {
  const lines = linesOf(order, found);
  return [...apartFrom(lines, found.alerts).map(lineOfAlert), ...lines];
}

function lineOfAlert({ id, record, news }: EditionAlert): Line {
  const { field, value, previous, change, seenAt: at, lookedBefore } = news;
  const parts = [{ from: previous ?? value, to: value, moves: change === null ? 0 : 1 }];
  const told: FieldLine = {
    field: { role: null, polarity: 'neither', ...field },
    was: previous,
    now: value,
    net: { parts, isFirst: false, awayMs: 0, absentSince: null },
    change,
    at,
    seq: 0,
    moves: [],
  };
  return { record, kind: 'alert', fields: [told], at, lookedBefore: lookedBefore ?? at, moves: [], alerts: [id] };
}

/** What of an order says whether a line is told. */
type Told = Pick<ReportDefinition, 'size' | 'takes'>;

/** What lines are made of. */
export type Moved = Pick<Gathered, 'moves' | 'stood' | 'offers' | 'priced' | 'since'>;

/** How the field of each move stood before it: an absence leaves the value before it in sight. */
function stoodBefore(
  moves: readonly Move[],
  stood: ReadonlyMap<MoveId, StoodBefore>,
): ReadonlyMap<MoveId, StoodBefore> {
  const before = new Map<MoveId, StoodBefore>();
  const latest = new Map<string, StoodBefore>();
  for (const { id, at, lookedBefore, record, field, change, first } of moves) {
    if (field === null) continue;
    const key = `${recordKey(record)} ${field.key}`;
    const own = latest.get(key) ?? stood.get(id) ?? { value: null, absentSince: first === true ? null : lookedBefore };
    const now = change.from.kind === 'absent' ? own : { value: change.from, absentSince: null };
    before.set(id, now);
    latest.set(
      key,
      change.to.kind === 'absent'
        ? { value: now.value, absentSince: now.absentSince ?? at }
        : { value: change.to, absentSince: null },
    );
  }
  return before;
}

function gathered(moves: readonly Move[], keyOf: (move: Move) => string): Map<string, Move[]> {
  const groups = new Map<string, Move[]>();
  for (const move of moves) {
    const key = keyOf(move);
    const group = groups.get(key);
    if (group === undefined) groups.set(key, [move]);
    else group.push(move);
  }
  return groups;
}

function lineOf(order: Told, moves: Move[], before: ReadonlyMap<MoveId, StoodBefore>, found: Moved): Line | null {
  const [first] = moves;
  if (first === undefined) return null;
  const byField = gathered(moves, ({ field }) => field?.key ?? '');
  const fields = [...byField.values()]
    .filter((of) => isAskedFor(order, of))
    .flatMap((of) => fieldLine(of, before, found) ?? [])
    .filter((line) => isTold(order, line, first.record, found));
  const presence = presenceOf(moves.filter(({ field }) => field === null));
  const kind = weightiest(
    presence === null
      ? kindsOf(fields, first.record)
      : [presence, ...kindsOf(fields, first.record).filter((of) => of !== 'first read')],
  );
  if (kind === null) return null;
  const told = new Set(fields.flatMap((field) => field.moves));
  const counted = moves.filter(({ id, field }) => field === null || told.has(id));
  return {
    record: first.record,
    kind,
    ...(presence === null ? {} : { presence }),
    fields,
    at: Math.max(...counted.map(({ at }) => at)),
    lookedBefore: first.lookedBefore,
    moves: counted.map(({ id }) => id),
    alerts: counted.flatMap(({ alerts }) => alerts),
  };
}

/** A first reading that is not taken for itself says from where what moved since is counted, and nothing alone. */
const isAskedFor = ({ takes }: Told, moves: Move[]): boolean =>
  takes.sorts.includes('first readings') || moves.some(({ first }) => first !== true);

function fieldLine(moves: Move[], stoodAt: ReadonlyMap<MoveId, StoodBefore>, { since }: Moved): FieldLine | null {
  const [first, last] = [moves[0], moves.at(-1)];
  if (first?.field == null || last === undefined) return null;
  const before = stoodAt.get(first.id) ?? { value: null, absentSince: null };
  const net = netOf(
    before,
    moves.map(({ at, change }) => ({ at, to: change.to })),
  );
  if (net === null || !hasNews(net)) return null;
  const part = net.parts.at(-1);
  const isGone = net.absentSince !== null;
  const counted = since.get(first.id);
  return {
    field: first.field,
    was: before.value ?? firstOf(net),
    now: last.change.to,
    net,
    change: part === undefined || isGone || isReturn(net) ? null : changeOf(net, first.field),
    at: last.at,
    seq: last.seq,
    ...(counted === undefined ? {} : { since: counted }),
    moves: moves.map(({ id }) => id),
  };
}

/** What was first read, where it moved since: from there its move is told. */
const firstOf = ({ isFirst, parts: [first] }: Net): Value | null =>
  isFirst && first !== undefined && first.moves > 0 ? first.from : null;

/** What it came to; over several units it has no size, even where the first came back. */
function changeOf({ parts: [first, ...more] }: Net, { polarity }: EditionField): Change | null {
  if (first === undefined) return null;
  const last = more.at(-1);
  if (last === undefined) return compareReadings(first.from, first.to, polarity);
  return { kind: 'unit', from: first.from, to: last.to, difference: null, percent: null, sense: 'neither' };
}

/**
 * Whether a field's news is of the size that is asked: a number that came back to where it was has none, and is told
 * where all sizes are; what is no number is not held back by any. A price is held against ours, or the agreed minimum,
 * where its move ends.
 */
function isTold({ size, takes }: Told, line: FieldLine, record: EditionRecord, found: Moved): boolean {
  const { change, net } = line;
  if (!endsWhereAsked(size, line, record, found)) return false;
  if (net.isFirst && takes.sorts.includes('first readings')) return true;
  if (change !== null) return isOfSize(size, change);
  return !isReturn(net) || !isMeasure(line.now) || areAll(size);
}

const areAll = ({ falls, rises }: ReportDefinition['size']): boolean => falls.is === 'any' && rises.is === 'any';

function endsWhereAsked(
  { prices }: ReportDefinition['size'],
  { field, now, seq }: FieldLine,
  record: EditionRecord,
  found: Moved,
): boolean {
  if (prices === 'any' || !(field.role === 'price' || field.role === 'shipping cost')) return true;
  if (prices === 'under the minimum') return field.role === 'price' && isUnder(now, record.item?.minimum ?? null);
  return now.kind !== 'absent' && isBelowOurs({ offers: found.offers, moves: found.priced }, record, seq);
}

function presenceOf(moves: Move[]): Presence | null {
  const [first, last] = [moves[0], moves.at(-1)];
  if (first === undefined || last === undefined) return null;
  const [wasThere, isThere] = [first.change.from.kind !== 'absent', last.change.to.kind !== 'absent'];
  if (wasThere) return isThere ? 'gone and back' : 'vanished';
  return isThere ? 'appeared' : 'came and went';
}

/** How many lines of each kind there are. */
export function countKinds(lines: readonly Pick<Line, 'kind'>[]): Partial<Record<LineKind, number>> {
  const counts: Partial<Record<LineKind, number>> = {};
  for (const { kind } of lines) counts[kind] = (counts[kind] ?? 0) + 1;
  return counts;
}

const weightiest = (kinds: LineKind[]): LineKind | null => LINE_KINDS.find((kind) => kinds.includes(kind)) ?? null;

function kindsOf(fields: FieldLine[], record: EditionRecord): LineKind[] {
  const withdrawn = fields.some(({ field, now }) => field.role === 'price' && now.kind === 'absent');
  return fields.flatMap((line): LineKind[] => {
    const { role } = line.field;
    if (line.net.isFirst) return ['first read'];
    if (role === 'availability') return stockKinds(line, withdrawn);
    if (role === 'price') return priceKinds(line, record);
    return [isReturn(line.net) ? 'returned' : 'changed'];
  });
}

function stockKinds({ was, now, net }: FieldLine, withdrawn: boolean): LineKind[] {
  const [had, has] = [was === null ? null : isAvailable(was), isAvailable(now)];
  if (isReturn(net)) return [has === null ? 'returned' : has ? 'sold out and back' : 'back and sold out again'];
  if (has === false && had !== false) return [withdrawn ? 'sold out and the price withdrawn' : 'sold out'];
  return [has === true && had === false ? 'back in stock' : 'changed'];
}

function priceKinds({ was, now, net, change }: FieldLine, { item }: EditionRecord): LineKind[] {
  if (now.kind === 'absent') return ['price withdrawn'];
  const crossed = crossedMinimum(was, now, item?.minimum ?? null);
  const [moved] = isReturn(net)
    ? (['returned'] as const)
    : change?.difference == null
      ? (['changed'] as const)
      : [directionOf(change)];
  return [...(crossed === null ? [] : [crossed]), moved];
}

const directionOf = ({ difference }: Change): 'fall' | 'rise' =>
  difference?.startsWith('-') === true ? 'fall' : 'rise';

function crossedMinimum(was: Value | null, now: Value, minimum: Money | null): LineKind | null {
  const wasUnder = was !== null && isUnder(was, minimum);
  if (isUnder(now, minimum)) return wasUnder ? null : 'under the agreed minimum';
  return wasUnder && isMeasure(now) && minimum !== null && alike(now, minimum) ? 'back above the agreed minimum' : null;
}
