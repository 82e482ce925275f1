import { PIECES } from '../support/mutated';

/** Chances that are the same again for the same seed (a linear congruential generator). */
export function chances(seed: number): (below: number) => number {
  let state = seed >>> 0;
  return (below) => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return Math.floor((state / 2 ** 32) * below);
  };
}

const MOST_CUTS = 5;
const LONGEST = 60_000;
const DOUBLED = 200;

const VALUES: unknown[] = [
  null,
  true,
  '',
  0,
  -1,
  1e308,
  '£',
  [],
  {},
  [[]],
  { kind: 'x' },
  'x'.repeat(3_000),
  '__proto__',
];

/** What JSON says with one of its values made another, or put where another stood; null of what is none. */
function mutateJson(text: string, words: readonly string[], chance: (below: number) => number): string | null {
  let said: unknown;
  try {
    said = JSON.parse(text);
  } catch {
    return null;
  }
  const places: [holder: Record<string, unknown>, key: string][] = [];
  const walk = (value: unknown): void => {
    if (typeof value !== 'object' || value === null || places.length > 2_000) return;
    for (const [key, each] of Object.entries(value)) {
      places.push([value as Record<string, unknown>, key]);
      walk(each);
    }
  };
  walk(said);
  const place = () => places[chance(places.length)];
  for (let times = chance(3) + 1; times > 0; times -= 1) {
    const [at, from] = [place(), place()];
    if (at === undefined || from === undefined) return null;
    const word = (words[chance(words.length)] ?? '').replaceAll('"', '');
    const values = [VALUES[chance(VALUES.length)], from[0][from[1]], word, String(at[0][at[1]])];
    // What is put must not hold itself.
    at[0][at[1]] = JSON.parse(JSON.stringify(values[chance(values.length)] ?? null));
  }
  return JSON.stringify(said);
}

/** A text with pieces of it cut, doubled, moved and overwritten, or spliced with another. */
export function mutate(
  text: string,
  other: string,
  words: readonly string[],
  chance: (below: number) => number,
): string {
  const structured = chance(2) === 0 ? mutateJson(text, words, chance) : null;
  if (structured !== null) return structured.slice(0, LONGEST);
  let left = text;
  for (let cut = chance(MOST_CUTS) + 1; cut > 0; cut -= 1) {
    const [at, length] = [chance(left.length + 1), chance(20)];
    const [head, piece, tail] = [left.slice(0, at), left.slice(at, at + length), left.slice(at + length)];
    const ways = [
      () => head + (words[chance(words.length)] ?? '') + tail,
      () => head + (PIECES[chance(PIECES.length)] ?? '') + tail,
      () => head + tail,
      () => head + piece.repeat(chance(DOUBLED)) + tail,
      () => head + (words[chance(words.length)] ?? '').repeat(chance(DOUBLED)) + tail,
      () => head + String.fromCharCode(chance(0x10000)) + tail,
      () => head + other.slice(chance(other.length + 1)),
      () => tail + piece + head,
    ];
    left = (ways[chance(ways.length)] as () => string)();
  }
  return left.slice(0, LONGEST);
}
