import { textDifference, type TextPiece } from '../compare/text';
import { cut } from '../value/sound';
import type { Value } from '../value/value';
import { TONES } from './mail-frame';
import { html, type Markup } from './markup';

// Long texts are told by what differs between them, word by word: what went is struck through, what came is underlined.

const LONG = 60;

interface TwoTexts {
  from: string;
  to: string;
}

/** Two texts of which one is long; null of anything else. */
export function longTextsOf(from: Value | null, to: Value | null): TwoTexts | null {
  if (from?.kind !== 'text' || to?.kind !== 'text') return null;
  return from.text.length > LONG || to.text.length > LONG ? { from: from.text, to: to.text } : null;
}

export const differenceMarkup = ({ from, to }: TwoTexts): Markup[] => textDifference(from, to).map(textMarkup);

/** The same for plain text. */
export const differenceLines = ({ from, to }: TwoTexts): string[] => textDifference(from, to).map(pieceText);

/** What is the same on both sides stands there so far as it leads to what differs. */
const MOST_SAME = 160;

/** The difference of two texts, of what is the same only what stands around it. */
export function briefDifference({ from, to }: TwoTexts): TextPiece[] {
  const pieces = textDifference(from, to);
  return pieces.map((piece, place) =>
    piece.kind === 'same' ? { ...piece, text: around(piece.text, place === 0, place === pieces.length - 1) } : piece,
  );
}

function around(text: string, isFirst: boolean, isLast: boolean): string {
  if (text.length <= MOST_SAME) return text;
  const half = MOST_SAME / 2;
  return `${isFirst ? '' : cut(text, half)} … ${isLast ? '' : text.slice(-half)}`;
}

export function textMarkup({ kind, text }: TextPiece): Markup {
  if (kind === 'removed') return html`<del class="worse" style="color:${TONES.worse}">${text}</del>`;
  return kind === 'added' ? html`<ins class="better" style="color:${TONES.better}">${text}</ins>` : html`${text}`;
}

export const pieceText = ({ kind, text }: TextPiece): string => (kind === 'same' ? text : kind === 'removed' ? `[gone: ${text}]` : `[new: ${text}]`);
