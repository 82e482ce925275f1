import { SECOND, type Instant } from '#core/when/interval';
import { isDiskFull } from '../db/base/outage';
import { inTransactionIfOk, type Pool } from '../db/base/pool';
import { giveBack, type ClaimedSource } from '../db/source/sources';
import { fail, type Result } from '#core/result';
import type { Log } from '../log';

const TRIED_EVERY = 2 * SECOND;
/** Room that is gone again so soon was none: it goes on counting from when it was gone first. */
const FLICKER = 60 * SECOND;

/** A megabyte or so of rows, which are written down and taken back. */
const TRIED = 'CREATE TEMP TABLE room AS SELECT md5(i::text) AS filler FROM generate_series(1, 20000) AS i';

/**
 * Whether there is room for what runs bring. While there is none a worker fetches nothing and sends nothing: what came
 * could not be kept, and a mail whose acceptance cannot be written down would go twice.
 */
export class Storage {
  /** Null while there is room. */
  fullSince: Instant | null = null;
  #hadNone: { since: Instant; until: Instant } | null = null;
  #triedAt: Instant = 0;
  /** What was claimed, and could not be kept. */
  #unstored: ClaimedSource[] = [];

  constructor(
    private readonly pool: Pool,
    private readonly clock: () => Instant,
    private readonly log: Log,
  ) {}

  /** Hears of an error; what it kept from being stored is due again as soon as there is room. */
  noticed(error: unknown, source?: ClaimedSource): void {
    if (!isDiskFull(error)) return;
    if (source !== undefined) this.#unstored.push(source);
    if (this.fullSince !== null) return;
    const now = this.clock();
    const before = this.#hadNone;
    this.fullSince = before !== null && now - before.until < FLICKER ? before.since : now;
    this.log.error({ err: error }, 'nothing more can be stored: the disk of the database is full');
  }

  /** Whether there is room; looks for it from time to time while there was none. */
  async hasRoom(): Promise<boolean> {
    const since = this.fullSince;
    if (since === null) return true;
    if (this.clock() - this.#triedAt < TRIED_EVERY) return false;
    this.#triedAt = this.clock();
    try {
      await this.#tryRoom();
      await giveBack(this.pool, this.#unstored);
    } catch {
      return false;
    }
    this.#unstored = [];
    this.#hadNone = { since, until: this.clock() };
    this.fullSince = null;
    this.log.info('there is room again');
    return true;
  }

  /** Writes something, and leaves nothing of it. */
  async #tryRoom(): Promise<void> {
    await inTransactionIfOk(this.pool, async (db): Promise<Result<void, 'taken back'>> => {
      await db.query(TRIED);
      return fail('taken back');
    });
  }
}
