/** What stands in a page in place of a secret that was typed there. */
const MARK = '•••';
/** Shorter ones would be found in any page; they are no secrets. */
const SHORTEST = 4;

/**
 * Takes secrets that were typed into a page out of what the page says: as text or attributes, and in its address. Names
 * of elements stay, so that a secret which is called like one breaks nothing.
 */
export function redact(html: string, secrets: string[]): string {
  const written = secrets
    .filter((secret) => secret.length >= SHORTEST)
    .flatMap((secret) => [secret, ...escapedFormsOf(secret)]);
  // An escaped form may hold the plain one, so the longer go first.
  written.sort((a, b) => b.length - a.length);
  if (written.length === 0) return html;
  const hide = (text: string) => written.reduce((rest, secret) => rest.replaceAll(secret, MARK), text);
  return html
    .split(/(<\/?[a-z][\w-]*)/)
    .map((piece, at) => (at % 2 === 1 ? piece : hide(piece)))
    .join('');
}

function escapedFormsOf(secret: string): string[] {
  const text = secret.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');
  const attribute = secret.replaceAll('&', '&amp;').replaceAll('"', '&quot;');
  const query = encodeURIComponent(secret);
  return [text, attribute, query, query.replaceAll('%20', '+')];
}
