import { cut } from '../value/sanitise';
import { editsBetween } from './edits';

/** One piece of a difference between two texts. */
export interface TextPiece {
  kind: 'same' | 'removed' | 'added';
  text: string;
}

/** More edits than this are shown as one: nobody reads them one by one. */
const MOST_SHOWN_EDITS = 1000;
/** More are not counted one by one: to find them takes longer than others wait. */
const MOST_COUNTED_EDITS = 2000;
/** Nor is a stretch shown piece by piece, or counted so, that is longer than this, in characters of both texts. */
const MOST_SHOWN = 200_000;
const MOST_COUNTED = 4_000_000;
/** Characters of what stayed the same that are shown on either side of a difference. */
const CONTEXT = 60;

/** Scripts that set no words apart: each character is one. */
const UNSPACED = '\\p{sc=Han}\\p{sc=Hiragana}\\p{sc=Katakana}\\p{sc=Thai}\\p{sc=Khmer}\\p{sc=Lao}';
/** A word, a run of space, or one sign. */
const PIECES = new RegExp(
  `[${UNSPACED}]|(?:(?![${UNSPACED}])[\\p{L}\\p{N}\\p{M}_])+|\\s+|[^\\p{L}\\p{N}\\p{M}_\\s]`,
  'gu',
);
/** The same but for space. */
const SIGNS = new RegExp(PIECES.source.replace('|\\s+', ''), 'gu');
const WORD = /^[\p{L}\p{N}]/u;
const ANY_WORD = /[\p{L}\p{N}]+/gu;

/**
 * The difference of two texts by words, with what stayed the same cut to its neighbourhood. Of texts that have more
 * than 1,000 words and signs apart, or more than 200,000 characters between what they have in common at both ends, that
 * whole stretch is shown, the one removed and the other added; of two texts that are the same the beginning is shown,
 * and of two empty ones nothing.
 */
export function textDifference(from: string, to: string): TextPiece[] {
  const pieces = wholePieces(from, to);
  return pieces.map(({ kind, text }, at) => ({
    kind,
    text: kind === 'same' ? shortened(text, at === 0, at === pieces.length - 1) : text,
  }));
}

/** Pieces that make up both texts. */
function wholePieces(from: string, to: string): TextPiece[] {
  const { ahead, was, is, behind } = apart(from, to);
  const between = piecesBetween(was, is) ?? [
    { kind: 'removed', text: was },
    { kind: 'added', text: is },
  ];
  const all: TextPiece[] = [{ kind: 'same', text: ahead }, ...between, { kind: 'same', text: behind }];
  return joined(all.filter(({ text }) => text !== ''));
}

function piecesBetween(was: string, is: string): TextPiece[] | null {
  if (was.length + is.length > MOST_SHOWN) return null;
  const [before, after] = [piecesOf(was), piecesOf(is)];
  const edits = editsBetween(...numbered(before, after), MOST_SHOWN_EDITS);
  if (edits === null) return null;
  let [x, y] = [0, 0];
  return edits.flatMap(({ removed, added, same }): TextPiece[] => [
    { kind: 'removed', text: before.slice(x, (x += removed)).join('') },
    { kind: 'added', text: after.slice(y, (y += added)).join('') },
    { kind: 'same', text: ((y += same), before.slice(x, (x += same)).join('')) },
  ]);
}

/** Neighbours of one kind in one piece. */
function joined(pieces: TextPiece[]): TextPiece[] {
  const made: TextPiece[] = [];
  for (const piece of pieces) {
    const last = made.at(-1);
    if (last?.kind === piece.kind) last.text += piece.text;
    else made.push({ ...piece });
  }
  return made;
}

const piecesOf = (text: string): string[] => text.match(PIECES) ?? [];

/** Each piece as a number that is the same where it is the same in either. */
function numbered(before: string[], after: string[]): [Int32Array, Int32Array] {
  const numbers = new Map<string, number>();
  const numberOf = (piece: string) => {
    const known = numbers.get(piece);
    if (known !== undefined) return known;
    numbers.set(piece, numbers.size);
    return numbers.size - 1;
  };
  return [Int32Array.from(before, numberOf), Int32Array.from(after, numberOf)];
}

/** What two texts have in common at both ends, up to where a word begins, and what lies between. */
function apart(from: string, to: string): { ahead: string; was: string; is: string; behind: string } {
  const most = Math.min(from.length, to.length);
  let start = 0;
  while (start < most && from.charCodeAt(start) === to.charCodeAt(start)) start += 1;
  if (start === from.length && start === to.length) return { ahead: from, was: '', is: '', behind: '' };
  while (start > 0 && !isSpace(from.charCodeAt(start - 1))) start -= 1;
  let end = 0;
  while (end < most - start && from.charCodeAt(from.length - 1 - end) === to.charCodeAt(to.length - 1 - end)) end += 1;
  while (end > 0 && !isSpace(from.charCodeAt(from.length - end))) end -= 1;
  return {
    ahead: from.slice(0, start),
    was: from.slice(start, from.length - end),
    is: to.slice(start, to.length - end),
    behind: from.slice(from.length - end),
  };
}

const isSpace = (code: number): boolean => code === 32 || (code >= 9 && code <= 13);

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

/** How many words went from one text and came into another, together; of texts far apart all that lie between. */
export function wordsChanged(from: string, to: string): number {
  const { was, is } = apart(from, to);
  if (was.length + is.length > MOST_COUNTED) return wordsIn(was) + wordsIn(is);
  const signs = (text: string): string[] => text.match(SIGNS) ?? [];
  const [before, after] = [signs(was), signs(is)];
  const edits = editsBetween(...numbered(before, after), MOST_COUNTED_EDITS);
  if (edits === null) return wordsIn(was) + wordsIn(is);
  let [x, y, words] = [0, 0, 0];
  for (const { removed, added, same } of edits) {
    words += countWords(before, x, x + removed) + countWords(after, y, y + added);
    x += removed + same;
    y += added + same;
  }
  return words;
}

function countWords(pieces: string[], start: number, end: number): number {
  let words = 0;
  for (let at = start; at < end; at += 1) if (WORD.test(pieces[at] ?? '')) words += 1;
  return words;
}

const wordsIn = (text: string): number => text.match(ANY_WORD)?.length ?? 0;
