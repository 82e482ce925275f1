import { fail, ok, type Result } from '#core/result';
import type { Instant } from '#core/when/interval';
import { bodyOf, describeTaskProblem, type ReadingPool } from '../reading/pool';
import type { TextBody } from '../reading/tasks';
import type { Fetcher } from './fetcher';
import type { FetchProblem } from './problem';

/** For how long rules that cannot be asked for anew are still gone by (RFC 9309, 2.4). */
const STALE_MS = 86_400_000;
const MOST_CHARACTERS = 500_000;

/** How many sites' rules, and how many answers to one site's, are kept in memory. */
const MOST_KEPT = 500;

interface Rules {
  /** The file; null where everything is allowed. */
  file: TextBody | null;
  until: Instant;
  /** What they were found to say of addresses. */
  said: Map<string, boolean>;
}

/**
 * The rules that sites set for programs (RFC 9309), fetched once in a while and kept in memory. A site without a file
 * allows everything (2.3.1.3). One that does not answer when asked for it is not known to allow anything (2.3.1.4): the
 * rules known before hold on for a day, and without any the fetch fails as that did.
 */
export class Robots {
  readonly #known = new Map<string, Promise<Result<Rules, FetchProblem>>>();

  constructor(
    private readonly fetcher: Fetcher,
    private readonly reading: ReadingPool,
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
      if (this.#known.size >= MOST_KEPT) this.#known.clear();
      this.#known.set(origin, asked);
      rules = await asked;
    }
    return rules.ok ? this.#held(rules.value, origin, address) : rules;
  }

  /** Rules are patterns that somebody else wrote, and so they are held against an address where they hold nobody up. */
  async #held({ file, said }: Rules, origin: string, address: string): Promise<Result<boolean, FetchProblem>> {
    if (file === null) return ok(true);
    const known = said.get(address);
    if (known !== undefined) return ok(known);
    const asked = {
      body: { key: file.key, receivedAt: 0 },
      at: `${origin}/robots.txt`,
      address,
      agent: this.userAgent,
    };
    const allowed = await this.reading.run('robots', asked, [file]);
    if (!allowed.ok)
      return fail({ reason: 'robots unread', detail: describeTaskProblem(allowed.error, 'its robots.txt') });
    if (said.size >= MOST_KEPT) said.clear();
    said.set(address, allowed.value);
    return allowed;
  }

  async #ask(origin: string, before: Rules | null): Promise<Result<Rules, FetchProblem>> {
    const now = this.clock();
    const address = `${origin}/robots.txt`;
    const fetched = await this.fetcher.fetch({ address });
    if (!fetched.ok && isUnreachable(fetched.error))
      return before !== null && now < before.until + STALE_MS ? ok(before) : fail(fetched.error);
    const until = now + this.keptMs;
    const said = new Map<string, boolean>();
    if (!fetched.ok || fetched.value.kind !== 'page') return ok({ file: null, until, said });
    const text = fetched.value.body().slice(0, MOST_CHARACTERS);
    return ok({ file: /<html/i.test(text.slice(0, 2000)) ? null : bodyOf(text), until, said });
  }
}

function isUnreachable(problem: FetchProblem): boolean {
  return (
    problem.reason === 'no answer' ||
    problem.reason === 'timed out' ||
    (problem.reason === 'status' && problem.status >= 500)
  );
}
