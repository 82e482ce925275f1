/** Keeps the latest `most` of what was made, by name: names come from outside, and there is no end to them. */
export function boundedCache<T>(most: number): (name: string, make: () => T) => T {
  const kept = new Map<string, T>();
  return (name, make) => {
    const known = kept.get(name);
    if (known !== undefined) return known;
    const made = make();
    const [oldest] = kept.keys();
    if (kept.size >= most && oldest !== undefined) kept.delete(oldest);
    kept.set(name, made);
    return made;
  };
}
