import type { Pool } from './pool';

const BLOCK = 100;

/** Hands out ids from blocks taken from one sequence; an id that is not used is lost, and never given twice. */
export class Ids {
  #next = 0;
  #end = 0;

  constructor(private readonly pool: Pool) {}

  /** Takes as many ids as asked. Blocks until then unused are kept for the next caller. */
  async take(count: number): Promise<number[]> {
    const taken: number[] = [];
    while (taken.length < count) {
      // Whoever waited may find the block used up again by those before.
      while (this.#next === this.#end) await this.#refill();
      taken.push(this.#next);
      this.#next += 1;
    }
    return taken;
  }

  async #refill(): Promise<void> {
    const { rows } = await this.pool.query<{ id: number }>(`SELECT nextval('record_id') AS id`);
    const first = rows[0]?.id ?? 0;
    if (this.#next !== this.#end) return;
    this.#next = first;
    this.#end = first + BLOCK;
  }
}
