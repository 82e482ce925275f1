import pg from 'pg';
import type { Log } from '../../log';
import type { Pool } from './pool';

/**
 * What a view follows: what moves of all watches, all runs whether they moved something or not, mails; one watch, the
 * runs of a source, a draft.
 */
export type Topic = 'watches' | 'runs' | 'outbox' | `${'watch' | 'source' | 'draft'}:${number}`;

/** Which topics moved; `all` where it is not known which. */
export type Moved = readonly Topic[] | 'all';

const CHANNEL = 'moved';
const GATHERED_MS = 150;
/** A notification holds 8,000 bytes. */
const MOST_TOPICS = 300;
const ALL = '*';

/**
 * Tells every process that shows views that something moved. What is said within a moment goes out as one notification,
 * beside the transaction that moved it, so that no run waits for another here (they would: PostgreSQL commits notifying
 * transactions one by one).
 */
export class Signals {
  #gathered = new Set<Topic>();
  #timer: NodeJS.Timeout | null = null;
  #sending: Promise<void> = Promise.resolve();

  constructor(
    private readonly pool: Pool,
    private readonly log: Log,
  ) {}

  say(...topics: Topic[]): void {
    for (const topic of topics) this.#gathered.add(topic);
    if (this.#gathered.size > 0) this.#timer ??= setTimeout(() => this.#send(), GATHERED_MS);
  }

  /** Sends what was said last. */
  async close(): Promise<void> {
    if (this.#timer !== null) {
      clearTimeout(this.#timer);
      this.#send();
    }
    await this.#sending;
  }

  #send(): void {
    this.#timer = null;
    const topics = [...this.#gathered];
    this.#gathered = new Set();
    const said = topics.length > MOST_TOPICS ? ALL : topics.join(' ');
    this.#sending = this.pool.query('SELECT pg_notify($1, $2)', [CHANNEL, said]).then(
      () => undefined,
      (error: unknown) => this.log.error({ err: error }, 'views were not told what moved'),
    );
  }
}

const AGAIN_AFTER_MS = 1_000;

/** Hears what moved, over a connection of its own. When that was lost, whatever may have moved meanwhile is `all`. */
export class Hearing {
  #client: pg.Client | null = null;
  #again: NodeJS.Timeout | null = null;
  #closed = false;

  constructor(
    private readonly databaseUrl: string,
    private readonly onMoved: (moved: Moved) => void,
    private readonly onLost: (error: Error) => void,
  ) {
    void this.#open();
  }

  async close(): Promise<void> {
    this.#closed = true;
    if (this.#again !== null) clearTimeout(this.#again);
    await this.#client?.end();
  }

  async #open(): Promise<void> {
    const client = new pg.Client({ connectionString: this.databaseUrl, keepAlive: true });
    let [open, over] = [false, false];
    const lose = (error: Error) => {
      if (over || this.#closed) return;
      over = true;
      if (open) this.onLost(error);
      client.end().catch(() => undefined);
      this.#again = setTimeout(() => void this.#open(), AGAIN_AFTER_MS);
    };
    client.on('error', lose);
    client.on('end', () => lose(new Error('the connection that hears what moved has ended')));
    client.on('notification', ({ payload = '' }) =>
      this.onMoved(payload === ALL ? 'all' : (payload.split(' ') as Topic[])),
    );
    this.#client = client;
    try {
      await client.connect();
      await client.query(`LISTEN ${CHANNEL}`);
      open = true;
      this.onMoved('all');
    } catch (error) {
      lose(error instanceof Error ? error : new Error(String(error)));
    }
  }
}
