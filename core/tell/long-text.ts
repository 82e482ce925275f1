import { textDifference, type TextPiece } from '../compare/text';
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

function textMarkup({ kind, text }: TextPiece): Markup {
  if (kind === 'removed') return html`<del class="worse" style="color:${TONES.worse}">${text}</del>`;
  return kind === 'added' ? html`<ins class="better" style="color:${TONES.better}">${text}</ins>` : html`${text}`;
}

const pieceText = ({ kind, text }: TextPiece): string =>
  kind === 'same' ? text : kind === 'removed' ? `[gone: ${text}]` : `[new: ${text}]`;
