import { groupKey, type Judged, type Limits } from '#core/judge/asked';
import type { Clause } from '#core/judge/clause';
import {
  freshMemory,
  hear,
  learn,
  nextAt,
  wake,
  type Memory,
  type Rule,
  type Situation,
  type Step,
} from '#core/judge/engine';
import type { Latest } from '#core/judge/observation';
import { freshThrottle, nextThrottle, tellAt, tellOf, type Notification, type Throttle } from '#core/judge/throttle';
import { decimal, type Decimal } from '#core/value/decimal';
import { ABSENT, type Measure, type Value } from '#core/value/value';
import { HOUR, type Instant } from '#core/when/interval';

/** Monday 2 November 2026, 00:00 in London. */
export const MONDAY = Date.UTC(2026, 10, 2);

/** One look of a watch at a record: what was read, or that it failed; or that the record is gone. */
export interface Look {
  at: Instant;
  read?: Record<string, Value>;
  late?: Record<string, Latest[]>;
  failed?: boolean;
  gone?: boolean;
  came?: boolean;
  /** The source's own time. */
  moment?: Instant;
  /** When each field was so, where that is not the same of all. */
  times?: Record<string, Instant>;
  /** A run of another watch. */
  other?: boolean;
  /**
   * The others of a group, by its name; or, of those that are asked another field than the price, by the key of that.
   */
  groups?: Record<string, Latest[]>;
}

export const amount = (text: string, unit: string | null = null): Measure => ({
  kind: 'number',
  amount: decimal(text) as Decimal,
  unit,
});
export const pounds = (text: string, currency = 'GBP'): Measure => ({
  kind: 'money',
  amount: decimal(text) as Decimal,
  currency,
});
export const inState = (state: string): Value => ({ kind: 'state', state });
export const SCALE = ['A', 'B', 'C', 'D', 'E', 'F'];
export const graded = (grade: string): Value => ({ kind: 'grade', grade, scale: SCALE });

export const of = (field: string): Judged => ({ asked: { field } });
export const beyond = (is: 'below' | 'above', limit: Measure, inclusive = false): Limits => ({ is, limit, inclusive });
export const crossing = (field: string, limits: Limits, more: object = {}): Clause => ({
  kind: 'crossing',
  of: of(field),
  limits,
  ...more,
});
export const level = (field: string, limits: Limits, more: object = {}): Clause => ({
  kind: 'level',
  of: of(field),
  limits,
  ...more,
});

/**
 * Readings an hour apart, as the worked cases write them: `-` a failed run, `~` absent, `!` after a value of bad
 * quality.
 */
export function hourly(said: string, field: string, read: (text: string) => Value = (text) => amount(text)): Look[] {
  return said.split(' ').map((text, n): Look => {
    const at = MONDAY + n * HOUR;
    if (text === '-') return { at, failed: true };
    if (text.endsWith('!')) return { at, read: {} };
    return { at, read: { [field]: text === '~' ? ABSENT : read(text) } };
  });
}

export interface Played {
  steps: Step[];
  /** What the engine had to tell, by the number of the look, from 1; 0 where the clock did. */
  alerts: number[];
  memory: Memory;
}

export const HOURLY: Situation = { intervalMs: HOUR, savedAt: MONDAY };

/**
 * Plays looks to a rule, and the clock up to `until` after them; what it remembers goes through its stored form each
 * time. Before them were looks of before it was saved, or what it remembered by then.
 */
export function play(
  rule: Rule,
  looks: Look[],
  situation: Situation = HOURLY,
  until: Instant = 0,
  before: Look[] | Memory = [],
): Played {
  const history = Array.isArray(before) ? before : [];
  let memory = Array.isArray(before) ? freshMemory(rule, situation) : before;
  for (const look of history)
    for (const [key, value] of Object.entries(look.read ?? {}))
      memory = learn(rule, memory, key, { value, at: look.at });
  const steps: Step[] = [];
  const alerts: number[] = [];
  const take = (made: Step[], look: number) => {
    for (const step of made) {
      steps.push(step);
      if (step.effects.some((effect) => effect.do === 'alert')) alerts.push(step.by === 'run' ? look : 0);
    }
    const last = made.at(-1)?.memory;
    if (last !== undefined) memory = JSON.parse(JSON.stringify(last)) as Memory;
  };
  for (const [n, look] of looks.entries()) take(hear(rule, memory, heardOf(look), situation), n + 1);
  for (
    let next = nextAt(rule, memory, situation);
    next !== null && next <= until;
    next = nextAt(rule, memory, situation)
  ) {
    take(wake(rule, memory, next, situation), 0);
  }
  return { steps, alerts, memory };
}

function heardOf(look: Look): Parameters<typeof hear>[2] {
  const { at, read = {}, late, failed, gone, came, moment = at, other, groups } = look;
  if (failed === true) return { of: 'failure', at };
  if (gone === true) return { of: 'gone', at };
  return {
    of: 'run',
    at,
    moment,
    own: other !== true,
    read: new Map(Object.entries(read).map(([key, value]) => [key, { value, at: moment }])),
    ...(late === undefined ? {} : { late: new Map(Object.entries(late)) }),
    ...(groups === undefined
      ? {}
      : {
          groups: new Map(
            Object.entries(groups).map(([among, others]) => [
              among.startsWith('[') ? among : groupKey({ among, asked: { field: 'price' } }),
              others,
            ]),
          ),
        }),
    ...(came === undefined ? {} : { came }),
  };
}

/** What of a play is told, and when, up to a moment. */
export function tell(telling: Throttle, { steps }: Played, until: Instant): Notification[] {
  let memory = freshThrottle(MONDAY);
  const told: Notification[] = [];
  const take = (made: { memory: typeof memory; told: Notification[] }) => {
    memory = JSON.parse(JSON.stringify(made.memory)) as typeof memory;
    told.push(...made.told);
  };
  for (const { at, effects } of steps) {
    for (const effect of effects) {
      if (effect.do === 'close') take(tellOf(telling, memory, { is: 'closed' }, at));
      if (effect.do === 'alert') take(tellOf(telling, memory, { is: 'alert', of: effect.of }, at));
    }
  }
  for (let next = nextThrottle(telling, memory); next !== null && next <= until; next = nextThrottle(telling, memory))
    take(tellAt(telling, memory, next));
  return told;
}
