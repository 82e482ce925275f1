import { diffArrays } from 'diff';

/** A part of a page that differs between two fetches moments apart, with the pattern that would mask it. */
export interface VolatilePart {
  was: string;
  is: string;
  /** RE2 syntax. */
  mask: string;
}

const MOST_WORDS = 6000;
const MOST_PARTS = 20;
const MOST_EDITS = 400;

/**
 * Finds what moves by itself on a page: the words in which two fetches of the same moment differ, each with a mask for
 * its like.
 */
export function volatileParts(first: string, second: string): VolatilePart[] {
  const [a, b] = [first, second].map((text) => text.split(/\s+/).slice(0, MOST_WORDS));
  const edits = diffArrays(a ?? [], b ?? [], { maxEditLength: MOST_EDITS }) ?? [];
  const parts: VolatilePart[] = [];
  for (const [at, edit] of edits.entries()) {
    const next = edits[at + 1];
    if (!edit.removed || next?.added !== true) continue;
    const before = edits[at - 1]?.value.at(-1) ?? '';
    parts.push({ was: edit.value.join(' '), is: next.value.join(' '), mask: maskFor(before, edit.value) });
  }
  return parts.slice(0, MOST_PARTS);
}

/** The word before, as it stands, and the shape of what differs: digits for digits, anything else for a word. */
function maskFor(before: string, words: string[]): string {
  const shapes = words.map((word) => (/\d/.test(word) ? escaped(word).replace(/\d+/g, '\\d+') : '\\S+'));
  return [escaped(before), ...shapes].filter(Boolean).join('\\s+');
}

const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
