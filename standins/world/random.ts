/** A number in [0, 1) that depends on nothing but its names (FNV-1a with a final mix after MurmurHash3). */
export function chance(...names: (string | number)[]): number {
  let hash = 0x811c9dc5;
  for (const character of names.join('|')) hash = Math.imul(hash ^ character.charCodeAt(0), 0x01000193);
  hash ^= hash >>> 16;
  hash = Math.imul(hash, 0x85ebca6b);
  hash ^= hash >>> 13;
  hash = Math.imul(hash, 0xc2b2ae35);
  hash ^= hash >>> 16;
  return (hash >>> 0) / 2 ** 32;
}

/** One of several, by the same names. */
export function pick<T>(choices: readonly T[], ...names: (string | number)[]): T {
  const chosen = choices[Math.floor(chance(...names) * choices.length)];
  if (chosen === undefined) throw new Error('nothing to choose from');
  return chosen;
}
