import robotsParser from 'robots-parser';
import { fail, ok, type Result } from '#core/result';
import type { Instant } from '#core/when/interval';
import type { Fetcher } from './fetcher';
import type { FetchProblem } from './problem';

/** For how long rules that cannot be asked for anew are still gone by (RFC 9309, 2.4). */
const STALE_MS = 86_400_000;
const MOST_CHARACTERS = 500_000;

interface Rules {
  allows: (address: string) => boolean;
  until: Instant;
}

/**
 * The rules that sites set for programs (RFC 9309), fetched once in a while and kept in memory. A site without a file allows
 * everything (2.3.1.3). One that does not answer when asked for it is not known to allow anything (2.3.1.4): the rules known
 * before hold on for a day, and without any the fetch fails as that did.
 */
export class Robots {
  readonly #known = new Map<string, Promise<Result<Rules, FetchProblem>>>();

  constructor(
    private readonly fetcher: Fetcher,
    private readonly userAgent: string,
    /** For how long a site's rules are taken as known. */
    private readonly keptMs: number,
    private readonly clock: () => Instant,
  ) {}

  /** Whether a site's rules let this program fetch an address. */
  async allow(address: string): Promise<Result<boolean, FetchProblem>> {
    const { origin } = new URL(address);
    let rules = await this.#known.get(origin);
    if (rules === undefined || !rules.ok || rules.value.until <= this.clock()) {
      const asked = this.#ask(origin, rules?.ok ? rules.value : null);
      this.#known.set(origin, asked);
      rules = await asked;
    }
    return rules.ok ? ok(rules.value.allows(address)) : rules;
  }

  async #ask(origin: string, before: Rules | null): Promise<Result<Rules, FetchProblem>> {
    const now = this.clock();
    const address = `${origin}/robots.txt`;
    const fetched = await this.fetcher.fetch({ address });
    if (!fetched.ok && isUnreachable(fetched.error)) return before !== null && now < before.until + STALE_MS ? ok(before) : fail(fetched.error);
    const until = now + this.keptMs;
    if (!fetched.ok || fetched.value.kind !== 'page' || /<html/i.test(fetched.value.body().slice(0, 2000))) return ok({ allows: () => true, until });
    const parsed = robotsParser(address, fetched.value.body().slice(0, MOST_CHARACTERS));
    return ok({ allows: (asked) => parsed.isAllowed(asked, this.userAgent) !== false, until });
  }
}

function isUnreachable(problem: FetchProblem): boolean {
  return problem.reason === 'no answer' || problem.reason === 'timed out' || (problem.reason === 'status' && problem.status >= 500);
}
