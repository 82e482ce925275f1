import type { Decimal } from '../value/decimal';
import type { Measure } from '../value/value';

/**
 * What is asked of the item that a record is an offer of: our own price, its agreed minimum, or the cheapest of its
 * other offers.
 */
export const ITEM_SIDES = ['ours', 'minimum', 'cheapest'] as const;
export type ItemSide = (typeof ITEM_SIDES)[number];

/**
 * Another record of the same watch: one that bears the same value of a label, and, where that is said, such a value of
 * another one.
 */
export interface Sharing {
  label: string;
  where?: { label: string; is: string };
}

/**
 * Which series a clause asks: a field of the rule's own record, or of a record that is named, there or at another
 * watch, or that shares a label with its own; or what its item says that is like that field, of ours at one of our
 * channels where that is named.
 */
export interface Asked {
  field: string;
  record?: string;
  watch?: number;
  sharing?: Sharing;
  item?: ItemSide;
  channel?: number;
  /** As the channel, or the watch, was called when it was said, for saying it again. */
  called?: string;
  /** Of another watch: how old its value may be, in ms; twice its interval where nothing is said. */
  within?: number;
}

/** Whether a series is the rule's own record's. */
export const isOwn = ({ record, watch, sharing, item }: Asked): boolean =>
  record === undefined && watch === undefined && sharing === undefined && item === undefined;

/** The group of all records of a watch, and that of all offers of an item. */
export const AMONG = ['records', 'offers'] as const;

/** How far, as an amount in a unit or as percent of what it is held against. */
export type Figure = { by: 'amount'; amount: Measure } | { by: 'percent'; percent: Decimal };

/**
 * Where a value is to stand: beyond one limit, or within or without two. `inclusive` says whether the limits belong to
 * it.
 */
export type Limits =
  /** `further`: limits beyond it, each further than the one before; in an episode each is told, once. */
  | { is: 'below' | 'above'; limit: Measure; inclusive: boolean; further?: Measure[] }
  | { is: 'between' | 'outside'; low: Measure; high: Measure; inclusive: boolean };

/** A reading as it is, or what is made of a stretch of readings. */
export interface Judged {
  asked: Asked;
  over?: JudgedWindow;
}

/** What is made of the readings of a stretch. */
type Aggregate =
  | 'minimum'
  | 'maximum'
  | 'mean'
  | 'median'
  | 'range'
  | 'first to last'
  | 'sum'
  | 'readings'
  | 'moves'
  | 'increase'
  | 'pace';

/** A stretch of readings and what is made of it. Of stepwise fields a value is in force until the next one. */
export interface JudgedWindow {
  make: Aggregate;
  of:
    | { last: 'time'; ms: number }
    | { last: 'readings'; count: number }
    | { this: 'hour' | 'day' | 'week' | 'month'; zone: string };
  stepwise: boolean;
  /** Whether what is summed can never be negative, so that a sum only grows. */
  grows: boolean;
}

/** The name under which the readings of a series reach a rule. */
export function keyOf(asked: Asked): string {
  const { field, record = null, watch = null, sharing, item, channel = null } = asked;
  if (isOwn(asked)) return field;
  if (sharing !== undefined)
    return JSON.stringify(['sharing', sharing.label, sharing.where?.label ?? null, sharing.where?.is ?? null, field]);
  return JSON.stringify(item === undefined ? [watch, record, field] : [item, channel, field]);
}

/** The name under which the others of a group reach a rule: those that a clause asks the same of. */
export const groupKey = ({ among, asked }: { among: string; asked: Asked }): string =>
  JSON.stringify([among, keyOf(asked)]);
