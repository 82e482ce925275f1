import type { Instant } from '#core/when/interval';
import type { Log } from '../../log';

/** Connections to the database that this process lost while they were idle: how many so far, when and why the last. */
export class LostConnections {
  count = 0;
  lastAt: Instant | null = null;
  lastReason: string | null = null;

  constructor(
    private readonly log: Log,
    private readonly clock: () => Instant,
  ) {}

  /** Keeps count of one, and logs it. */
  readonly add = (error: Error): void => {
    this.count += 1;
    this.lastAt = this.clock();
    this.lastReason = error.message;
    this.log.error({ err: error }, 'a connection to the database was lost');
  };
}
