import type { Readable } from 'node:stream';

/**
 * How far a mail has come over a connection. A server may deliver what it has whole, which ends with a dot, and nothing
 * before (RFC 5321, 4.1.1.4): up to there nothing was taken, and after it only the server's answer says whether it was.
 */
export type Phase = 'before' | 'within' | 'whole';

/** What became of a mail that was not accepted. */
export type Outcome = 'refused' | 'no answer' | 'unknown';

/** Whether a server's code says that it did not take a mail (RFC 5321, 4.2.1: 4yz for now, 5yz for good). */
export const isRefusal = (code: number | undefined): boolean => code !== undefined && code >= 400 && code <= 599;

/**
 * What became of a mail whose sending ended in `phase` with `code`; null where there was no whole answer. A refusal is
 * one in every phase; whatever else comes after the dot, an answer that is none among it, leaves it unknown.
 */
export function outcomeOf(phase: Phase, code: number | null): Outcome {
  if (code !== null && isRefusal(code)) return 'refused';
  return phase === 'whole' ? 'unknown' : 'no answer';
}

/** One mail on its way over one connection after another. */
export class Passage {
  #stream: Readable | null = null;

  /** How far it came over its last connection. */
  get phase(): Phase {
    if (this.#stream === null || !this.#stream.readableDidRead) return 'before';
    return this.#stream.readableEnded ? 'whole' : 'within';
  }

  /** Follows the bytes of the mail over another connection: nothing of them was read yet. */
  follow(stream: Readable): Readable {
    this.#stream = stream;
    return stream;
  }
}
