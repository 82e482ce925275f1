import { withoutAmounts } from '../read/frame/words';
import type { Value } from '../value/value';
import type { WatchOutcome } from './known';
import type { Frame, FrameChange } from '../read/frame/types';

/** What is asked of a field of a watch: whether what was found is what is followed. Of many records alike, once. */
export interface Question {
  field: string;
  /** The first record that it was asked of, and of how many. */
  identity: string;
  records: number;
  /** The last good value of that one, null where there was none, and what was found. */
  was: Value | null;
  text: string;
  value: Value;
  changes: FrameChange[];
  frame: Frame | null;
  around: boolean;
  /** The same for questions that are the same. */
  sameAs: string;
}

const MOST_QUESTIONS = 20;

/**
 * What a reading asks: a question for each field and each way in which what stands around it changed, however many
 * records it is of.
 */
export function questionsOf({ bad, records }: WatchOutcome): Question[] {
  const found = new Map<string, Question>();
  for (const { field, identity, problem } of bad) {
    if (problem.reason !== 'in question') continue;
    const sameAs = sameness(problem.changes);
    const key = `${field.key} ${sameAs}`;
    const known = found.get(key);
    if (known !== undefined) known.records += 1;
    else if (found.size < MOST_QUESTIONS) {
      const was = records.find((record) => record.identity === identity)?.known?.series.get(field.key)?.value ?? null;
      const { text, value, changes, frame = null, around = false } = problem;
      found.set(key, { field: field.key, identity, records: 1, was, text, value, changes, frame, around, sameAs });
    }
  }
  return [...found.values()];
}

/** What changed, without the sums in it: the same said of another thing is the same question. */
const sameness = (changes: FrameChange[]): string =>
  JSON.stringify(
    changes.map(({ part, of, ways, was, is }) => [part, of ?? '', said(was), ways === undefined ? said(is) : '']),
  ).slice(0, LONGEST);

const LONGEST = 1_000;
const said = (text: string | null) => withoutAmounts((text ?? '').toLowerCase());
