import { DateTime } from 'luxon';
import type { Instant } from '../when/interval';
import { atWallClock } from '../when/wall-clock';

/**
 * On which days (1 is Monday) and between which times of day something is told; over midnight it belongs to the day it
 * began.
 */
export interface ActiveHours {
  days: number[];
  /** Minutes since midnight; `to` is excluded. */
  from: number;
  to: number;
  zone: string;
}

/** How what a rule finds is told (26 to 29). */
export interface Throttle {
  /** It rests after it was told, until it is started by hand. */
  once?: boolean;
  /** At most once in so many ms; the rest is told as one. */
  atMostEvery?: number;
  /** That is for the rule as a whole, and not for each of its records (`gate.ts`). */
  together?: true;
  /** Told again every so many ms, until it is taken on or closed. */
  remindEvery?: number;
  hours?: ActiveHours;
  /** The rule as a whole is put off until a moment, which was said in a zone. */
  putOff?: { until: Instant; zone: string };
}

/** What waits to be told: events stay, what was told of a level only for as long as its episode is open. */
interface Waiting {
  events: number;
  levels: number;
  /** Of levels, what was left since. */
  left: number;
  since: Instant;
}

/** What is remembered of telling, of one subject or of a rule as a whole. */
export interface ThrottleMemory {
  resting: boolean;
  /** Until when something was told lately, and what has come since. */
  gateUntil: Instant | null;
  held: number;
  heldSince: Instant | null;
  /** What waits for the hours to begin, or for the end of being put off. */
  waiting: Waiting | null;
  putOffUntil: Instant | null;
  /** When a reminder is due, of an episode that is open and not taken on. */
  remindAt: Instant | null;
  open: boolean;
  /** Nobody was told yet that what is open has begun. */
  untold?: true;
  takenOn: boolean;
  /** Up to when the clock was judged. */
  clock: Instant;
}

/** What is told: one alert, several as one, a reminder; or nothing, and why. */
export type Notification =
  | { at: Instant; what: 'alert' }
  | { at: Instant; what: 'several'; count: number; since: Instant; together?: true }
  | { at: Instant; what: 'reminder' }
  | {
      at: Instant;
      what: 'kept';
      because: 'resting' | 'told lately' | 'outside the hours' | 'put off' | 'no longer met';
      count: number;
    };

/** What telling hears of: an alert of the engine, an episode that closed, or what a person did. */
export type ThrottleEvent =
  /** `happened`: an event within an episode, which is told whether that is over by then or not. */
  | { is: 'alert'; of: 'raised' | 'event' | 'again' | 'further'; happened?: true }
  | { is: 'closed' }
  | { is: 'taken on' }
  /** Nobody has it any more: reminders go on from here. */
  | { is: 'let go' }
  | { is: 'put off'; until: Instant | null }
  | { is: 'started' }
  | { is: 'ended' };

export interface ThrottleTransition {
  memory: ThrottleMemory;
  told: Notification[];
}

export const freshThrottle = (at: Instant): ThrottleMemory => ({
  resting: false,
  gateUntil: null,
  held: 0,
  heldSince: null,
  waiting: null,
  putOffUntil: null,
  remindAt: null,
  open: false,
  takenOn: false,
  clock: at,
});

/** Takes what happened at a moment, after what the clock had to say before it. */
export function tellOf(
  telling: Throttle,
  memory: ThrottleMemory,
  event: ThrottleEvent,
  at: Instant,
): ThrottleTransition {
  const before = tellUpTo(telling, memory, at, 'before');
  const after = take(telling, { ...before.memory, clock: Math.max(before.memory.clock, at - 1) }, event, at);
  return { memory: after.memory, told: [...before.told, ...after.told] };
}

/** Takes what the clock brings up to a moment and with it. */
export function tellAt(telling: Throttle, memory: ThrottleMemory, at: Instant): ThrottleTransition {
  return tellUpTo(telling, memory, at, 'with it');
}

/** When the clock has something to tell next; null where it waits for something to happen. */
export function nextThrottle(telling: Throttle, memory: ThrottleMemory): Instant | null {
  const { gateUntil, waiting, putOffUntil, remindAt } = memory;
  const free = (at: Instant) => freeFrom(telling, memory, at);
  const due = [
    gateUntil,
    waiting === null ? null : free(memory.clock + 1),
    remindAt === null ? null : free(Math.max(remindAt, memory.clock + 1)),
    putOffUntil,
  ].flatMap((at) => (at === null ? [] : Math.max(at, memory.clock + 1)));
  return due.length === 0 ? null : Math.min(...due);
}

function tellUpTo(
  telling: Throttle,
  memory: ThrottleMemory,
  to: Instant,
  how: 'before' | 'with it',
): ThrottleTransition {
  const told: Notification[] = [];
  for (let known = memory; ;) {
    const next = nextThrottle(telling, known);
    if (next === null || next > to || (next === to && how === 'before')) return { memory: known, told };
    const step = tick(telling, known, next);
    told.push(...step.told);
    known = step.memory;
  }
}

/** From when on something may be told: within the hours, and no longer put off. */
function freeFrom({ hours, putOff }: Throttle, { putOffUntil }: ThrottleMemory, at: Instant): Instant {
  const from = Math.max(at, putOffUntil ?? at, putOff?.until ?? at);
  return hours === undefined ? from : nextWithin(hours, from);
}

function take(telling: Throttle, memory: ThrottleMemory, event: ThrottleEvent, at: Instant): ThrottleTransition {
  switch (event.is) {
    case 'alert':
      return alert(
        telling,
        event.of === 'raised' ? { ...memory, open: true, untold: true, takenOn: false } : memory,
        event.of === 'event' || event.happened === true,
        at,
      );
    case 'closed':
      return { memory: closed(memory), told: [] };
    case 'taken on':
      return { memory: { ...memory, takenOn: true, remindAt: null }, told: [] };
    case 'let go':
      return { memory: { ...memory, takenOn: false, remindAt: reminderFrom(telling, memory, at) }, told: [] };
    case 'put off':
      return { memory: { ...memory, putOffUntil: event.until }, told: [] };
    case 'started':
      return { memory: { ...memory, resting: false }, told: [] };
    case 'ended':
      return ended(memory, at);
  }
}

/** An episode is over: what waits of it is left, and it alone was put off. */
function closed(memory: ThrottleMemory): ThrottleMemory {
  const waiting = waitingOf(memory);
  return {
    ...begunNotification(memory),
    open: false,
    remindAt: null,
    putOffUntil: null,
    waiting: waiting === null ? null : { ...waiting, levels: 0, left: waiting.left + waiting.levels },
  };
}

/** What waits; what was remembered of before says only that something was raised. */
function waitingOf({ waiting }: ThrottleMemory): Waiting | null {
  if (waiting === null || !('raised' in waiting)) return waiting;
  const { raised, ...rest } = waiting as Omit<Waiting, 'levels' | 'left'> & { raised: boolean };
  return { ...rest, levels: raised ? 1 : 0, left: 0 };
}

const reminderFrom = ({ remindEvery }: Throttle, { open }: ThrottleMemory, at: Instant) =>
  open && remindEvery !== undefined ? at + remindEvery : null;

function alert(telling: Throttle, memory: ThrottleMemory, isEvent: boolean, at: Instant): ThrottleTransition {
  const kept = (because: Extract<Notification, { what: 'kept' }>['because']): Notification[] => [
    { at, what: 'kept', because, count: 1 },
  ];
  if (memory.resting) return { memory, told: kept('resting') };
  if (freeFrom(telling, memory, at) > at) {
    const isOff = Math.max(memory.putOffUntil ?? at, telling.putOff?.until ?? at) > at;
    return { memory: waitsWith(memory, isEvent, at), told: kept(isOff ? 'put off' : 'outside the hours') };
  }
  if (isHeld(memory, at)) {
    return {
      memory: { ...memory, held: memory.held + 1, heldSince: memory.heldSince ?? at },
      told: kept('told lately'),
    };
  }
  // What comes at the very moment at which what waits is told is told with it.
  if (memory.waiting !== null) return { memory: waitsWith(memory, isEvent, at), told: [] };
  return tell(telling, memory, { at, what: 'alert' });
}

function waitsWith(memory: ThrottleMemory, isEvent: boolean, at: Instant): ThrottleMemory {
  const { events, levels, left, since } = waitingOf(memory) ?? { events: 0, levels: 0, left: 0, since: at };
  const waiting = { events: events + (isEvent ? 1 : 0), levels: levels + (isEvent ? 0 : 1), left, since };
  return { ...memory, waiting };
}

/**
 * What comes at the very end of the time in which nothing more is told comes before that ends (31), and is told with
 * what was held.
 */
const isHeld = ({ gateUntil, held }: ThrottleMemory, at: Instant): boolean =>
  gateUntil !== null && (gateUntil > at || (gateUntil === at && held > 0));

/** Somebody was told that what is open has begun. */
function begunNotification({ untold: _untold, ...memory }: ThrottleMemory): ThrottleMemory {
  return memory;
}

/** Tells, and begins the times that go from there. */
function tell(
  telling: Throttle,
  memory: ThrottleMemory,
  told: Extract<Notification, { what: 'alert' | 'several' }>,
): ThrottleTransition {
  const { once, remindEvery } = telling;
  const every = telling.together === true ? undefined : telling.atMostEvery;
  const reminds = remindEvery !== undefined && memory.open && !memory.takenOn;
  return {
    memory: {
      ...begunNotification(memory),
      resting: once === true,
      gateUntil: every === undefined ? null : told.at + every,
      held: 0,
      heldSince: null,
      remindAt: reminds ? told.at + remindEvery : memory.remindAt,
    },
    told: [told],
  };
}

/**
 * What is remembered where what was to be told is held by the rule as a whole (`gate.ts`): it neither rests nor reminds
 * before it is told, and nobody knows yet that what `begins` has begun.
 */
export function heldBack(
  { resting, remindAt }: ThrottleMemory,
  after: ThrottleMemory,
  begins: boolean,
): ThrottleMemory {
  return { ...after, resting, remindAt, ...(begins && after.open ? { untold: true } : {}) };
}

/** The same once that is told, with what came of other records. */
export const notifiedTogether = (telling: Throttle, memory: ThrottleMemory, at: Instant): ThrottleMemory =>
  tell(telling, memory, { at, what: 'alert' }).memory;

/** Whether nothing is told of a subject by itself at a moment, since it is put off. */
export const isPutOff = ({ putOffUntil }: ThrottleMemory, at: Instant): boolean =>
  putOffUntil !== null && putOffUntil > at;

/** What is held of a subject by the rule as a whole waits until it is no longer put off (29). */
export function waitsPutOff(memory: ThrottleMemory, count: number, at: Instant): ThrottleMemory {
  const { events, levels, left, since } = waitingOf(memory) ?? { events: 0, levels: 0, left: 0, since: at };
  const isOpen = memory.open ? count : 0;
  return { ...memory, waiting: { events: events + count - isOpen, levels: levels + isOpen, left, since } };
}

/** What the clock brings at a moment: the end of being put off, hours that begin, a time that is up, a reminder. */
function tick(telling: Throttle, memory: ThrottleMemory, at: Instant): ThrottleTransition {
  let known: ThrottleMemory = {
    ...memory,
    clock: at,
    putOffUntil: memory.putOffUntil !== null && memory.putOffUntil <= at ? null : memory.putOffUntil,
  };
  const told: Notification[] = [];
  const isFree = freeFrom(telling, known, at) <= at;
  if (known.gateUntil !== null && known.gateUntil <= at) known = throttleUp(known);
  const waiting = waitingOf(known);
  if (isFree && waiting !== null) {
    const step = tellWaiting(telling, known, waiting, at);
    known = step.memory;
    told.push(...step.told);
  }
  if (isFree && known.remindAt !== null && known.remindAt <= at) {
    known = { ...known, remindAt: telling.remindEvery === undefined ? null : at + telling.remindEvery };
    told.push({ at, what: 'reminder' });
  }
  return { memory: known, told };
}

/** The time in which nothing more is told is up: what was held waits to be told as one, over or not. */
function throttleUp(memory: ThrottleMemory): ThrottleMemory {
  const { held, heldSince } = memory;
  const waiting = waitingOf(memory);
  const open = { ...memory, gateUntil: null, held: 0, heldSince: null };
  if (held === 0 || heldSince === null) return open;
  return {
    ...open,
    waiting: {
      events: (waiting?.events ?? 0) + held,
      levels: waiting?.levels ?? 0,
      left: waiting?.left ?? 0,
      since: Math.min(waiting?.since ?? heldSince, heldSince),
    },
  };
}

function tellWaiting(
  telling: Throttle,
  memory: ThrottleMemory,
  { events, levels, left: over, since }: Waiting,
  at: Instant,
): ThrottleTransition {
  const known = { ...memory, waiting: null };
  const count = events + levels;
  const left: Notification[] = over > 0 ? [{ at, what: 'kept', because: 'no longer met', count: over }] : [];
  if (count === 0) return { memory: known, told: left };
  if (known.gateUntil !== null && known.gateUntil > at) {
    return { memory: { ...known, held: known.held + count, heldSince: known.heldSince ?? since }, told: left };
  }
  const step = tell(telling, known, count === 1 ? { at, what: 'alert' } : { at, what: 'several', count, since });
  return { memory: step.memory, told: [...left, ...step.told] };
}

/** At its end what is held or waits is told. */
function ended(memory: ThrottleMemory, at: Instant): ThrottleTransition {
  const { events, levels, since } = waitingOf(throttleUp(memory)) ?? { events: 0, levels: 0, since: at };
  const count = events + levels;
  const over = {
    ...memory,
    waiting: null,
    held: 0,
    heldSince: null,
    gateUntil: null,
    remindAt: null,
    putOffUntil: null,
    open: false,
  };
  if (count === 0) return { memory: over, told: [] };
  return { memory: over, told: [count === 1 ? { at, what: 'alert' } : { at, what: 'several', count, since }] };
}

/**
 * The first moment from `at` on that lies within the hours. Times that do not exist begin with the first moment after
 * the gap.
 */
export function nextWithin(hours: ActiveHours, at: Instant): Instant {
  const day = DateTime.fromMillis(at, { zone: hours.zone }).startOf('day');
  for (let ahead = -1; ahead <= 8; ahead += 1) {
    const date = day.plus({ days: ahead });
    if (!hours.days.includes(date.weekday)) continue;
    const [from, to] = spanOn(date, hours);
    if (at < to) return Math.max(at, from);
  }
  return at;
}

/** The hours that begin on a day. */
function spanOn(date: DateTime, { from, to }: ActiveHours): [Instant, Instant] {
  const at = (days: number, minutes: number) =>
    atWallClock(date.plus({ days }), { hour: Math.floor(minutes / 60), minute: minutes % 60 });
  return [at(0, from), at(to <= from ? 1 : 0, to)];
}
