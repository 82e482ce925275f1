import type { Moved, Topic } from '../db/base/signals';

/** What is sent to one who follows: what of hers moved, up to a place in the count of all that moved. */
type Send = (at: number, moved: Moved) => void;

const MOST_REMEMBERED = 10_000;

/**
 * Who follows which topics. All that moves is counted, so that whoever loaded a view knows a place in the count, and is
 * told on her way in what moved since: nothing falls between the loading and the following. A place that is not
 * remembered is answered with `all`.
 */
export class Followers {
  readonly #sends = new Map<Send, ReadonlySet<Topic>>();
  /** When each topic moved last, the latest at the end. */
  readonly #moves = new Map<Topic, number>();
  #at: number;
  #forgotten: number;

  /** The count begins at a moment, so that places in the count of an earlier process lie before it. */
  constructor(begun: number) {
    this.#at = begun;
    this.#forgotten = begun;
  }

  /** The place reached in the count. */
  get at(): number {
    return this.#at;
  }

  get size(): number {
    return this.#sends.size;
  }

  /**
   * Tells `send` what of these topics moved since a place, and from now on whenever one moves. Returns what ends it.
   */
  follow(topics: readonly Topic[], since: number, send: Send): () => void {
    const own = new Set(topics);
    const missed =
      since < this.#forgotten || since > this.#at
        ? 'all'
        : topics.filter((topic) => (this.#moves.get(topic) ?? 0) > since);
    send(this.#at, missed);
    this.#sends.set(send, own);
    return () => void this.#sends.delete(send);
  }

  /** Takes note of what moved, and tells those who follow it. */
  moved(moved: Moved): void {
    this.#at += 1;
    if (moved === 'all') this.#forget();
    else for (const topic of moved) this.#note(topic);
    for (const [send, topics] of this.#sends) {
      const theirs = moved === 'all' ? moved : moved.filter((topic) => topics.has(topic));
      if (theirs.length > 0) send(this.#at, theirs);
    }
  }

  #forget(): void {
    this.#moves.clear();
    this.#forgotten = this.#at;
  }

  #note(topic: Topic): void {
    this.#moves.delete(topic);
    this.#moves.set(topic, this.#at);
    if (this.#moves.size <= MOST_REMEMBERED) return;
    const [oldest] = this.#moves;
    if (oldest === undefined) return;
    this.#moves.delete(oldest[0]);
    this.#forgotten = oldest[1];
  }
}
