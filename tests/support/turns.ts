import pg from 'pg';

/** Counts turns to the database: a statement begins one when its connection waits for no other. */
export function countTurns(): { turns: () => number; stop: () => void } {
  const prototype = pg.Client.prototype as unknown as { query: (...given: unknown[]) => unknown };
  const original = prototype.query;
  const waiting = new WeakMap<object, number>();
  let turns = 0;
  prototype.query = function (this: object, ...given: unknown[]) {
    const before = waiting.get(this) ?? 0;
    if (before === 0) turns += 1;
    waiting.set(this, before + 1);
    const done = () => waiting.set(this, (waiting.get(this) ?? 1) - 1);
    const callback = given.at(-1);
    if (typeof callback === 'function') {
      given[given.length - 1] = (...result: unknown[]) => {
        done();
        (callback as (...result: unknown[]) => void)(...result);
      };
      return original.apply(this, given);
    }
    return (original.apply(this, given) as Promise<unknown>).finally(done);
  };
  return { turns: () => turns, stop: () => (prototype.query = original) };
}
