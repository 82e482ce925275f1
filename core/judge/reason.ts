import { formatDuration } from '../when/format';

/** Why a rule's step came out as it did, with the numbers it turned on. */
export type Reason =
  | { code: 'met' }
  | { code: 'met at the baseline' }
  | { code: 'waits to be left' }
  | { code: 'still raised' }
  | { code: 'still waits' }
  | { code: 'left' }
  | { code: 'not met' }
  | { code: 'not seen to cross' }
  | { code: 'holds'; readings: number; of: number }
  | { code: 'holds for a time'; passed: number; of: number }
  | { code: 'held'; readings: number }
  | { code: 'held for a time'; ms: number }
  | { code: 'held, and not heard of' }
  | { code: 'hold broken' }
  | { code: 'changed' }
  | { code: 'unchanged' }
  | { code: 'baseline' }
  | { code: 'unlike' };

/** The sentence of each reason, as the end of one. */
const SENTENCES: { [Code in Reason['code']]: string | ((reason: Extract<Reason, { code: Code }>) => string) } = {
  met: 'the condition was not met before and is met now',
  'met at the baseline': 'the condition was met at the first look, and you chose to hear of it then',
  'waits to be left': 'the condition was met at the first look; it waits until that is left and met again',
  'still raised': 'it was raised already, and is told once an episode',
  'still waits': 'it waits until the condition is left and met again',
  left: 'the condition is no longer met; the episode is closed',
  'not met': 'the condition is not met',
  'not seen to cross': 'the limit was not seen to be crossed; it waits until the condition is left and met again',
  holds: ({ readings, of }) => `the condition is met; it has held for ${readings} of ${of} readings`,
  'holds for a time': ({ passed, of }) => `the condition is met; it has held for ${formatDuration(passed)} of ${formatDuration(of)}`,
  held: ({ readings }) => `the condition was met at ${readings} readings in a row`,
  'held for a time': ({ ms }) => `the condition was met for ${formatDuration(ms)} without interruption`,
  'held, and not heard of': 'the time to hold is up, but nothing was heard of it lately; the next reading decides',
  'hold broken': 'the condition is no longer met; it did not hold for long enough',
  changed: 'the value changed',
  unchanged: 'the value did not change',
  baseline: 'this is the first reading, with nothing to compare it with',
  unlike: 'the value and the limit are in different units, so they are not compared',
};

/** Why a rule came to its verdict, as the end of a sentence. */
export function describeReason(reason: Reason): string {
  const sentence = SENTENCES[reason.code];
  return typeof sentence === 'string' ? sentence : (sentence as (reason: Reason) => string)(reason);
}

/** The words under which reasons were stored before they bore numbers. */
const FORMER: Record<string, Reason> = {
  'met at the first look': { code: 'met at the baseline' },
  'met already, waiting': { code: 'waits to be left' },
  'still waiting': { code: 'still waits' },
  'no longer met': { code: 'left' },
  'unlike the limit': { code: 'unlike' },
};

/** A stored reason, in its present shape: a code with its numbers, or the words of before. */
export function readReason(stored: unknown): Reason {
  return typeof stored === 'string' ? (FORMER[stored] ?? ({ code: stored } as Reason)) : (stored as Reason);
}
