/**
 * What is said, as one text: the same for the same, whatever the order in which its parts were said, and whatever is
 * left out as undefined.
 */
export const canonical = (said: unknown): string => JSON.stringify(sorted(said));

function sorted(said: unknown): unknown {
  if (Array.isArray(said)) return said.map(sorted);
  if (typeof said !== 'object' || said === null) return said;
  const entries = Object.entries(said).filter(([, value]) => value !== undefined);
  return Object.fromEntries(entries.sort(([a], [b]) => (a < b ? -1 : 1)).map(([key, value]) => [key, sorted(value)]));
}
