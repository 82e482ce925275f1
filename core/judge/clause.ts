import { onceFor } from '../once-for';
import type { Decimal } from '../value/decimal';
import type { Measure, Value } from '../value/value';

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

/** What a move is held against. */
export type Base =
  | { base: 'last' | 'told' | 'extreme' }
  | { base: 'pinned'; value: Measure }
  | { base: 'median'; of: number }
  | { base: 'series'; asked: Asked };

/** One condition on one thing that is judged. Numbers are those of the meaning of rules (`docs/rules.md`). */
export type Clause =
  /** 6: met for as long as the value stands there. */
  | { kind: 'level'; of: Judged; limits: Limits; margin?: Figure }
  /** 7: as a level, once it was seen on the other side. */
  | { kind: 'crossing'; of: Judged; limits: Limits; margin?: Figure }
  /** 8: differs from its base by at least so much; a side that is null is switched off. */
  | { kind: 'move'; asked: Asked; against: Base; rise: Figure | null; fall: Figure | null }
  /**
   * 8: differs so from the value in force at the same time by the clock on the wall a day, a week or a month before.
   */
  | {
      kind: 'before';
      asked: Asked;
      by: 'day' | 'week' | 'month';
      zone: string;
      rise: Figure | null;
      fall: Figure | null;
    }
  /** 9: differs from the reading before, by at least so many words where that is said. */
  | { kind: 'change'; asked: Asked; words?: number }
  /** 10: a state, a flag, a moment or a link. */
  | { kind: 'state'; asked: Asked; how: StateTest }
  /** 11: by the scale of the field. */
  | {
      kind: 'grade';
      asked: Asked;
      how: { moves: 'better' | 'worse'; steps: number } | { is: 'at or below' | 'at or above'; grade: string };
    }
  /** 12: a phrase, or a pattern (RE2). */
  | {
      kind: 'text';
      asked: Asked;
      how: { phrase: string; is: 'there' | 'not there' | 'appears' | 'disappears' } | { matches: string };
    }
  /** 13: against another series. */
  | {
      kind: 'against';
      asked: Asked;
      other: Asked;
      is: 'below' | 'above';
      by: Figure;
      inclusive: boolean;
      margin?: Figure;
    }
  /** 13: its place among the others of a group. */
  | {
      kind: 'place';
      asked: Asked;
      among: string;
      end: 'lowest' | 'highest';
      how: 'takes' | 'loses' | 'has' | 'has not';
    }
  | { kind: 'rank'; asked: Asked; among: string; end: 'lowest' | 'highest'; by: number }
  /** 14: outside of the band that is expected, by what came before; about one false alarm in so many readings. */
  | { kind: 'unusual'; asked: Asked; side: 'high' | 'low' | 'either'; oneIn: number; zone: string }
  /** 15: known to be missing. */
  | { kind: 'absence'; asked: Asked; how: 'is absent' | 'comes back' }
  | { kind: 'record'; how: 'appears' | 'vanishes' }
  /** 16: judged by the clock. */
  | { kind: 'silence'; asked: Asked; how: SilenceTest };

/** What is looked for in a state. */
export type StateTest =
  { is: Value } | { becomes: Value } | { leaves: Value } | { from: Value; to: Value } | 'any move';

/** What counts as silence. */
export type SilenceTest =
  /** No good reading for a time. */
  | { of: 'readings'; ms: number }
  /** So many failed runs in a row. */
  | { of: 'runs'; count: number }
  /** No move for a time, or for so many times its usual pace. */
  | { of: 'moves'; ms: number }
  | { of: 'moves'; times: number };

/** A clause, or several joined: all of them, any of them, none of them (21). */
export type Condition = Clause | { all: Condition[] } | { any: Condition[] } | { none: Condition[] };

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

/** The clauses of a condition, in the order in which they are said. */
export const clausesOf: (condition: Condition) => readonly Clause[] = onceFor((condition) =>
  'kind' in condition ? [condition] : childrenOf(condition).flatMap((each) => clausesOf(each)),
);

/** What is joined by a condition that is no clause itself. */
export function childrenOf(joined: Exclude<Condition, Clause>): Condition[] {
  return 'all' in joined ? joined.all : 'any' in joined ? joined.any : joined.none;
}

/** Whether a clause is of a moment and not for as long as it is so. */
export function isEvent(clause: Clause): boolean {
  switch (clause.kind) {
    case 'change':
    case 'rank':
    case 'record':
      return true;
    case 'move':
      return clause.against.base === 'last' || clause.against.base === 'told' || clause.against.base === 'extreme';
    case 'state':
      return clause.how === 'any move';
    case 'grade':
      return 'moves' in clause.how;
    case 'place':
      return clause.how === 'takes' || clause.how === 'loses';
    case 'absence':
      return clause.how === 'comes back';
    default:
      return false;
  }
}

/** A clause with each of the series that it reads, its own and those it is held against, said otherwise. */
export function withAsked(clause: Clause, asked: (said: Asked) => Asked): Clause {
  switch (clause.kind) {
    case 'level':
    case 'crossing':
      return { ...clause, of: { ...clause.of, asked: asked(clause.of.asked) } };
    case 'move':
      return {
        ...clause,
        asked: asked(clause.asked),
        against:
          clause.against.base === 'series' ? { ...clause.against, asked: asked(clause.against.asked) } : clause.against,
      };
    case 'against':
      return { ...clause, asked: asked(clause.asked), other: asked(clause.other) };
    case 'record':
      return clause;
    default:
      return { ...clause, asked: asked(clause.asked) };
  }
}

/** The series that a clause asks. */
export function asksIn(clause: Clause): Asked[] {
  switch (clause.kind) {
    case 'level':
    case 'crossing':
      return [clause.of.asked];
    case 'move':
      return clause.against.base === 'series' ? [clause.asked, clause.against.asked] : [clause.asked];
    case 'against':
      return [clause.asked, clause.other];
    case 'record':
      return [];
    default:
      return [clause.asked];
  }
}
