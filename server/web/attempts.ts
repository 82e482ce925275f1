import { MINUTE, type Instant } from '#core/when/interval';

const MOST = 8;
const WITHIN_MS = 15 * MINUTE;
const MOST_KEPT = 10_000;

/**
 * Counts failed attempts to sign in by whom they were for, in this process: after eight in a quarter of an hour nobody
 * may for a while.
 */
export class Attempts {
  readonly #failed = new Map<string, Instant[]>();

  /** Until when nobody may try for this name; null when she may. */
  barredUntil(name: string, now: Instant): Instant | null {
    const recent = this.#recent(name, now);
    const [first] = recent;
    return first === undefined || recent.length < MOST ? null : first + WITHIN_MS;
  }

  /** Notes a failure. */
  note(name: string, now: Instant): void {
    // Whoever tries many names costs those that were noted before, and no memory without end.
    if (this.#failed.size >= MOST_KEPT) this.#failed.delete([...this.#failed.keys()][0] ?? '');
    this.#failed.set(name, [...this.#recent(name, now), now].slice(-MOST));
  }

  #recent(name: string, now: Instant): Instant[] {
    return (this.#failed.get(name) ?? []).filter((at) => at > now - WITHIN_MS);
  }
}
