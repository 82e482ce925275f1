/** Short words that begin a field's key, kept apart from those that are taken, and from what every object has. */
export function freeKey(label: string, taken: string[]): string {
  const base =
    label
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '')
      .slice(0, 40) || 'value';
  if (!taken.includes(base) && !(base in Object.prototype)) return base;
  for (let number = 2; ; number += 1) if (!taken.includes(`${base}-${number}`)) return `${base}-${number}`;
}
