import type { Refusal } from '../value/parse';
import type { Value } from '../value/value';
import { describeChanges } from './frame/changes';
import { describeRefusal } from '../value/refusals';
import { DAY, type Instant } from '../when/interval';
import { describeGuardFailure, type GuardFailure } from './guard';
import type { Frame, FrameChange } from './frame/types';

/** A value that was found under another frame than before: it is set aside until somebody says what it is. */
interface InQuestion {
  reason: 'in question';
  text: string;
  value: Value;
  changes: FrameChange[];
  /** What stands around it now; absent where that is as it was, and the value itself is doubtful. */
  frame?: Frame;
  /** What changed stands around all records of a page, not around this value alone. */
  around?: true;
}

/** Why a field was not read. Never a value: the last good one stands. */
export type ReadProblem =
  | { reason: 'no match'; where: string }
  | { reason: 'several matches'; where: string; count: number }
  | { reason: 'bad selector'; where: string; detail: string }
  | { reason: 'not here'; where: string }
  | { reason: 'not parsed'; where: string; text: string; refusal: Refusal }
  | { reason: 'disagreement'; first: string; second: string }
  | { reason: 'one way left'; where: string; text: string }
  | InQuestion
  | { reason: 'not computed'; said: string }
  | { reason: 'not counted'; records: number }
  | { reason: 'guard'; failure: GuardFailure }
  | { reason: 'another format'; said: string }
  | { reason: 'not workable'; said: string }
  | { reason: 'odd time'; at: Instant }
  | { reason: 'too much text'; most: number }
  | { reason: 'no records' }
  | { reason: 'same identity'; identity: string; count: number }
  | { reason: 'no identity'; field: string }
  | { reason: 'long identity'; begins: string };

type Sayings = { [Reason in ReadProblem['reason']]: (problem: Extract<ReadProblem, { reason: Reason }>) => string };

const SAYINGS: Sayings = {
  'no match': ({ where }) => `Nothing on the page matches any more (${where}).`,
  'several matches': ({ count, where }) => `${count} places match with different values (${where}).`,
  'bad selector': ({ detail }) => `The way to find it cannot be used: ${detail}`,
  'not here': ({ where }) => `This cannot be looked for in this format (${where}).`,
  'not parsed': ({ text, refusal }) => `“${text}” was found, but ${describeRefusal(refusal)}.`,
  disagreement: ({ first, second }) => `Two ways of finding it disagree: “${first}” and “${second}”.`,
  'one way left': ({ text }) => `Only one way of several still finds it (“${text}”), and one alone is not trusted.`,
  'in question': ({ text, changes }) => `“${text}” is in question: ${describeChanges(changes, 1)}.`,
  'not computed': ({ said }) => `It could not be computed: ${said}`,
  'not counted': ({ records }) =>
    `How many there are cannot be said: ${records} were read, and others could not be told apart.`,
  guard: ({ failure }) => describeGuardFailure(failure),
  'another format': ({ said }) => said,
  'not workable': ({ said }) => said,
  'odd time': ({ at }) =>
    `Its own time (${describeTime(at)}) cannot be right: it is before 1970 or more than a day ahead of ours. Its ` +
    'clock wants setting.',
  'too much text': ({ most }) =>
    `Its records hold more than ${most / 1_000_000} million characters. Read less of each, or fewer of them.`,
  'no records': () => 'There are no records here any more.',
  'same identity': ({ count, identity }) =>
    `${count} records have the same identity, “${identity}”; they cannot be told apart.`,
  'no identity': ({ field }) =>
    field === 'none'
      ? 'Nothing says what tells the records apart.'
      : `A record has no ${field}, by which it would be known.`,
  'long identity': ({ begins }) =>
    `What tells a record apart is too long to be kept (“${begins}…”). Choose fields that are shorter.`,
};

/** A reading problem as a sentence for the analyst. */
export function describeProblem(problem: ReadProblem): string {
  return (SAYINGS[problem.reason] as (problem: ReadProblem) => string)(problem);
}

const LAST_DAY = 8.64e15;

function describeTime(at: Instant): string {
  return Math.abs(at) <= LAST_DAY ? new Date(at).toISOString().slice(0, 16).replace('T', ' ') : 'beyond the calendar';
}

const MOST_AHEAD = DAY;

/**
 * Why a source's own time is not taken for true at `now`, in milliseconds; null where it may be. Clocks and zones
 * differ by hours; a point that claims a day to come would make all that follow it late.
 */
export function oddTime(at: Instant, now: Instant): ReadProblem | null {
  return at >= 0 && at <= now + MOST_AHEAD ? null : { reason: 'odd time', at };
}
