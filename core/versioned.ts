/** What is stored as JSON, with the number of its shape, so that what an older Shrike wrote can still be read. */
export interface Stored<T> {
  /** As it is stored. */
  write: (value: T) => T & { v: number };
  /** What was stored, in its present shape. Throws for a shape that a newer Shrike wrote. */
  read: (stored: unknown) => T;
  /** The same; null of a shape that a newer Shrike wrote. */
  readKnown: (stored: unknown) => T | null;
}

/**
 * How a kind of JSON is stored. Each of `olders` brings one shape to the next, the first of them the shape that bore no
 * number. The present shape has the number `olders.length`.
 */
export function storedAs<T extends object>(name: string, ...olders: ((older: unknown) => unknown)[]): Stored<T> {
  const now = olders.length;
  const present = (stored: unknown) =>
    withoutVersion(olders.slice(versionOf(stored)).reduce((value, older) => older(value), stored)) as T;
  return {
    write: (value) => ({ ...value, v: now }),
    read: (stored) => {
      const version = versionOf(stored);
      if (version > now)
        throw new Error(`${name} of shape ${version} was written by a newer Shrike, which knows more than ${now}`);
      return present(stored);
    },
    readKnown: (stored) => (versionOf(stored) > now ? null : present(stored)),
  };
}

const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

const versionOf = (stored: unknown): number => (isObject(stored) && typeof stored.v === 'number' ? stored.v : 0);

function withoutVersion(value: unknown): unknown {
  if (!isObject(value)) return value;
  const { v: _, ...rest } = value;
  return rest;
}
