import pg from 'pg';

/**
 * Counts turns to the database over the connections of one pool: a statement begins one when its connection waits for
 * no other. What others in this process ask meanwhile, like the queue of jobs, is not counted.
 */
export function countTurns(pool: pg.Pool): { turns: () => number; stop: () => void } {
  const prototype = pg.Client.prototype as unknown as { query: (...given: unknown[]) => unknown };
  const original = prototype.query;
  const waiting = new WeakMap<object, number>();
  const lend = (client: object) => void waiting.set(client, 0);
  pool.on('acquire', lend);
  let turns = 0;
  prototype.query = function (this: object, ...given: unknown[]) {
    const before = waiting.get(this);
    if (before === undefined) return original.apply(this, given);
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
  return {
    turns: () => turns,
    stop: () => {
      prototype.query = original;
      pool.off('acquire', lend);
    },
  };
}
