/** How many there are of something: `one move`, `3 moves`. A word that does not end in s says its plural. */
export const countOf = (count: number, word: string, plural = `${word}s`): string =>
  count === 1 ? `one ${word}` : `${count} ${plural}`;

/** A text that begins a sentence. */
export const capital = (text: string): string => `${text.charAt(0).toUpperCase()}${text.slice(1)}`;

/** A text that ends a sentence, as it does by itself where it asks or calls. */
export const ended = (text: string): string => (/[.?!…]$/.test(text) ? text : `${text}.`);

/** Parts as a sentence lists them: `a, b and c`; of more than `most` the first few and how many more. */
export function listed(parts: readonly string[], most = Infinity): string {
  if (parts.length > most) return `${parts.slice(0, most - 1).join(', ')} and ${parts.length - most + 1} more`;
  return parts.length < 2 ? parts.join('') : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1) ?? ''}`;
}

/** Names in quotes, as a sentence lists them. */
export const quoted = (names: readonly string[], most = Infinity): string =>
  listed(
    names.map((name) => `‘${name}’`),
    most,
  );
