import robotsParser from 'robots-parser';
import type { Instant } from '#core/when/interval';
import type { Fetcher } from './fetcher';

const KEPT_AFTER_FAILURE_MS = 600_000;
const MOST_CHARACTERS = 500_000;

interface Rules {
  allows: (address: string) => boolean;
  until: Instant;
}

/**
 * The rules that sites set for programs (RFC 9309), fetched once in a while and kept in memory. A site without a file allows
 * everything; one whose file cannot be had for the moment is taken at the same word, and asked again soon.
 */
export class Robots {
  readonly #known = new Map<string, Promise<Rules>>();

  constructor(
    private readonly fetcher: Fetcher,
    private readonly userAgent: string,
    /** For how long a site's rules are taken as known. */
    private readonly keptMs: number,
    private readonly clock: () => Instant,
  ) {}

  /** Whether a site's rules let this program fetch an address. */
  async allow(address: string): Promise<boolean> {
    const { origin } = new URL(address);
    let rules = await this.#known.get(origin);
    if (rules === undefined || rules.until <= this.clock()) {
      const asked = this.#fetch(origin);
      this.#known.set(origin, asked);
      rules = await asked;
    }
    return rules.allows(address);
  }

  async #fetch(origin: string): Promise<Rules> {
    const address = `${origin}/robots.txt`;
    const fetched = await this.fetcher.fetch({ address });
    const gone = !fetched.ok && fetched.error.reason === 'status' && fetched.error.status < 500;
    const until = this.clock() + (fetched.ok || gone ? this.keptMs : Math.min(this.keptMs, KEPT_AFTER_FAILURE_MS));
    if (!fetched.ok || fetched.value.kind !== 'page' || /<html/i.test(fetched.value.body().slice(0, 2000))) return { allows: () => true, until };
    const parsed = robotsParser(address, fetched.value.body().slice(0, MOST_CHARACTERS));
    return { allows: (asked) => parsed.isAllowed(asked, this.userAgent) !== false, until };
  }
}
