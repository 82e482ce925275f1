import { MINUTE, type Instant } from '#core/when/interval';

const MOST = 8;
const WITHIN_MS = 15 * MINUTE;
const MOST_KEPT = 10_000;

/**
 * Counts attempts to sign in by whom they are for and where they come from, in this process: after eight in a quarter
 * of an hour that were not right there may be none for a while. Each is counted before it is judged, so that of many at
 * once not all are judged.
 */
export class Attempts {
  readonly #begun = new Map<string, Instant[]>();

  /** Notes an attempt; false where there were too many, and this one is not to be judged. */
  begin(by: string, now: Instant): boolean {
    const recent = (this.#begun.get(by) ?? []).filter((at) => at > now - WITHIN_MS);
    if (recent.length >= MOST) return false;
    // Whoever tries many names costs those that were noted before, and no memory without end.
    if (this.#begun.size >= MOST_KEPT) this.#begun.delete([...this.#begun.keys()][0] ?? '');
    this.#begun.set(by, [...recent, now]);
    return true;
  }

  /** An attempt that was right counts for nothing, nor do those before it. */
  succeeded(by: string): void {
    this.#begun.delete(by);
  }
}
