import { diffWords, diffWordsWithSpace } from 'diff';
import { cut } from '../value/sanitise';

/** One piece of a difference between two texts. */
export interface TextPiece {
  kind: 'same' | 'removed' | 'added';
  text: string;
}

const MOST_EDITS = 2000;
/** Characters of what stayed the same that are shown on either side of a difference. */
const CONTEXT = 60;

/**
 * The difference of two texts by words (Myers, "An O(ND) Difference Algorithm", 1986), with what stayed the same cut to
 * its neighbourhood. Texts that have more than 2,000 words apart are shown whole, the one removed and the other added;
 * of two texts that are the same the beginning is shown, and of two empty ones nothing.
 */
export function textDifference(from: string, to: string): TextPiece[] {
  const edits = diffWordsWithSpace(from, to, { maxEditLength: MOST_EDITS });
  if (edits === undefined)
    return [
      { kind: 'removed', text: from },
      { kind: 'added', text: to },
    ];
  return edits.map(({ added, removed, value }, at) => {
    const kind = added ? 'added' : removed ? 'removed' : 'same';
    return { kind, text: kind === 'same' ? shortened(value, at === 0, at === edits.length - 1) : value };
  });
}

function shortened(text: string, first: boolean, last: boolean): string {
  if (first && last) return text.length > CONTEXT ? `${headOf(text)} …` : text;
  if (text.length <= (first || last ? CONTEXT : 2 * CONTEXT)) return text;
  return `${first ? '' : `${headOf(text)} `}…${last ? '' : ` ${tailOf(text)}`}`;
}

/** The beginning of a text, and its end: of whole words, unless one is longer than words are. */
const headOf = (text: string): string => cut(text, CONTEXT).replace(/\s+\S{0,30}$/u, '');
const tailOf = (text: string): string =>
  text
    .slice(-CONTEXT)
    .replace(/^[\uDC00-\uDFFF]/, '')
    .replace(/^\S{0,30}\s+/u, '');

/** How many words went from one text and came into another, together; of texts far apart all of both. */
export function wordsChanged(from: string, to: string): number {
  const edits = diffWords(from, to, { maxEditLength: MOST_EDITS });
  if (edits === undefined) return wordsIn(from) + wordsIn(to);
  return edits.reduce((sum, { added, removed, value }) => sum + (added || removed ? wordsIn(value) : 0), 0);
}

const wordsIn = (text: string) => text.match(/[\p{L}\p{N}]+/gu)?.length ?? 0;
