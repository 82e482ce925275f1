import type { Instant } from '../when/interval';
import { closeByHand, freshMemory, hear, learn, nextAt, openByHand, wake, type Situation, type Step } from './engine';
import type { Observation, Latest } from './observation';
import type { RuleMemory, StateName } from './memory';
import type { RuleDefinition } from './rule';
import {
  freshThrottle,
  nextThrottle,
  tellAt,
  tellOf,
  type Notification,
  type ThrottleEvent,
  type ThrottleMemory,
} from './throttle';

/**
 * What is said of a rule on a record at once, whatever hours and gates say: that it cannot be judged, or that an end is
 * to be told.
 */
type Said = { at: Instant; what: 'cannot be judged' | 'undecided for a day' | 'over' };

/** One moment of a rule on a record: how its state moved, why, and what is told of it, or kept. */
export interface Turn {
  at: Instant;
  by: Step['by'] | 'telling';
  before: StateName;
  after: StateName;
  effects: Step['effects'];
  verdict: Step['verdict'];
  findings: Step['findings'];
  told: (Notification | Said)[];
  memory: RuleMemory;
}

/** What a rule remembers of a record of which it knows nothing. */
export const freshSubject = (rule: RuleDefinition, situation: Situation): RuleMemory => ({
  judged: freshMemory(rule, situation),
  telling: freshThrottle(situation.savedAt - 1),
});

/** Takes a good reading of before the rule was saved. */
export const learnSubject = (rule: RuleDefinition, memory: RuleMemory, key: string, reading: Latest): RuleMemory => ({
  ...memory,
  judged: learn(rule, memory.judged, key, reading),
});

/** Judges what was heard of a record, after all that the clock had to say before it. */
export function hearSubject(
  rule: RuleDefinition,
  memory: RuleMemory,
  heard: Observation,
  situation: Situation,
): Turn[] {
  return turnsOf(rule, memory, hear(rule, memory.judged, heard, situation), { at: heard.at, how: 'before' });
}

/** Moves a rule on by the clock, up to a moment and with it. */
export function wakeSubject(rule: RuleDefinition, memory: RuleMemory, at: Instant, situation: Situation): Turn[] {
  return turnsOf(rule, memory, wake(rule, memory.judged, at, situation), { at, how: 'with it' });
}

/** Closes an episode by hand, and with it what is to be told of it. */
export function closeSubject(rule: RuleDefinition, memory: RuleMemory, at: Instant, situation: Situation): Turn[] {
  return turnsOf(rule, memory, closeByHand(rule, memory.judged, at, situation), { at, how: 'before' });
}

/** Opens an episode by hand, and tells of it as of any other. */
export function openSubject(rule: RuleDefinition, memory: RuleMemory, at: Instant, situation: Situation): Turn[] {
  return turnsOf(rule, memory, openByHand(rule, memory.judged, at, situation), { at, how: 'before' });
}

/** What a person did that moves only what is told: took it on, put it off, started it again. */
export function tellSubject(rule: RuleDefinition, memory: RuleMemory, event: ThrottleEvent, at: Instant): Turn[] {
  const step = tellOf(rule.telling ?? {}, memory.telling, event, at);
  return [notifiedTurn({ ...memory, telling: step.memory }, at, step.told)];
}

/** When the clock has something to do for a rule on a record next; null where it waits for a reading. */
export function nextOfSubject(
  rule: RuleDefinition,
  { judged, telling }: RuleMemory,
  situation: Situation,
): Instant | null {
  const due = [nextAt(rule, judged, situation), nextThrottle(rule.telling ?? {}, telling)].flatMap((at) => at ?? []);
  return due.length === 0 ? null : Math.min(...due);
}

function turnsOf(
  rule: RuleDefinition,
  memory: RuleMemory,
  steps: Step[],
  until: { at: Instant; how: 'before' | 'with it' },
): Turn[] {
  const turns: Turn[] = [];
  let known = memory;
  for (const step of steps) {
    const turn = turnOf(rule, known, step);
    turns.push(turn);
    known = turn.memory;
  }
  const last = tellAt(rule.telling ?? {}, known.telling, until.how === 'before' ? until.at - 1 : until.at);
  // A time that is up with nothing to tell moves what is remembered, too.
  if (last.memory !== known.telling) turns.push(notifiedTurn({ ...known, telling: last.memory }, until.at, last.told));
  return turns;
}

/** A step of judging with what is told by it, and by the clock until then. */
function turnOf(rule: RuleDefinition, memory: RuleMemory, step: Step): Turn {
  // What the clock had to tell before comes first.
  const due = tellAt(rule.telling ?? {}, memory.telling, step.at - 1);
  let telling = due.memory;
  const told: Turn['told'] = [...due.told];
  for (const event of eventsOf(step)) {
    const next = tellOf(rule.telling ?? {}, telling, event, step.at);
    telling = next.memory;
    told.push(...next.told);
  }
  told.push(...saidAtOnce(rule, due.memory, step));
  const { at, by, effects, verdict, findings } = step;
  return {
    at,
    by,
    before: memory.judged.state.is,
    after: step.memory.state.is,
    effects,
    verdict,
    findings,
    told,
    memory: { judged: step.memory, telling },
  };
}

const eventsOf = ({ effects }: Step): ThrottleEvent[] =>
  effects.flatMap((effect): ThrottleEvent[] => {
    if (effect.do === 'alert') {
      const { of, happened } = effect;
      return [{ is: 'alert', of, ...(happened === undefined ? {} : { happened }) }];
    }
    return effect.do === 'close' ? [{ is: 'closed' }] : [];
  });

function saidAtOnce({ tellsEnd }: RuleDefinition, before: ThrottleMemory, { effects, at }: Step): Said[] {
  return effects.flatMap((effect): Said[] => {
    if (effect.do === 'say') return [{ at, what: effect.what }];
    // An end that nobody was told the beginning of is no news.
    return effect.do === 'close' &&
      effect.because !== 'by hand' &&
      tellsEnd === true &&
      before.open &&
      before.untold !== true
      ? [{ at, what: 'over' }]
      : [];
  });
}

/** A moment at which nothing is judged, and something told. */
export const notifiedTurn = (memory: RuleMemory, at: Instant, told: Turn['told']): Turn => ({
  at,
  by: 'telling',
  before: memory.judged.state.is,
  after: memory.judged.state.is,
  effects: [],
  verdict: 'undecided',
  findings: [],
  told,
  memory,
});

/** What of a turn is told to somebody. */
export const isNotifying = (told: Turn['told'][number]): boolean => told.what !== 'kept';
