import type { Db } from './pool';

const BLOCK = 100;

/**
 * Hands out ids from blocks taken from one sequence; an id that is not used is lost, and never given twice. Who asks
 * within a transaction is served over its own connection: to wait for another one while holding that could lock up a
 * whole pool.
 */
export class Ids {
  #next = 0;
  #end = 0;

  /** Takes as many ids as asked, however many, with one query at most. What is left of a block is kept for the next. */
  async take(db: Db, count: number): Promise<number[]> {
    const taken = this.#fromBlock(count);
    if (taken.length === count) return taken;
    const blocks = Math.ceil((count - taken.length) / BLOCK);
    const { rows } = await db.query<{ id: number }>({
      name: 'take ids',
      text: `SELECT nextval('record_id') AS id FROM generate_series(1, $1::int)`,
      values: [blocks],
    });
    const fresh = rows.flatMap(({ id }) => Array.from({ length: BLOCK }, (_, at) => id + at));
    taken.push(...fresh.splice(0, count - taken.length));
    this.#keep(fresh);
    return taken;
  }

  /** Takes one id. */
  async one<Id extends number>(db: Db): Promise<Id> {
    const [id] = await this.take(db, 1);
    if (id === undefined) throw new Error('the sequence of ids gave none');
    return id as Id;
  }

  #fromBlock(count: number): number[] {
    const from = this.#next;
    this.#next = Math.min(this.#end, from + count);
    return Array.from({ length: this.#next - from }, (_, at) => from + at);
  }

  /** Of the ends of two blocks the longer is kept. */
  #keep(rest: number[]): void {
    const [first] = rest;
    if (first === undefined || rest.length <= this.#end - this.#next) return;
    this.#next = first;
    this.#end = first + rest.length;
  }
}
