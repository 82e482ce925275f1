import { withoutDirections } from '../value/sanitise';

/** Text that is safe to stand in HTML: made by `html` alone. */
export interface Markup {
  readonly markup: string;
}

type Piece = string | number | Markup | Markup[];

/** A template that escapes every text put into it; markup made by itself passes. */
export function html(strings: TemplateStringsArray, ...pieces: Piece[]): Markup {
  const markup = strings.reduce(
    (done, text, at) => done + text + (at < pieces.length ? render(pieces[at] as Piece) : ''),
    '',
  );
  return { markup };
}

function render(piece: Piece): string {
  if (Array.isArray(piece)) return piece.map((each) => each.markup).join('');
  return typeof piece === 'object' ? piece.markup : escapeHtml(String(piece));
}

const ENTITIES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };

const CONTROLS = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f]/g;

/** What turns the direction of what follows it, and what is no character of a page, is left out. */
function escapeHtml(text: string): string {
  return withoutDirections(text)
    .replace(CONTROLS, '')
    .replace(/[&<>"']/g, (character) => ENTITIES[character] ?? character);
}
