import { Agent, request } from 'undici';
import { fail, ok, type Result } from '#core/result';
import { SECOND, type Instant } from '#core/when/interval';
import type { AddressRules } from '../fetch/addresses';
import { readBody } from '../fetch/body';
import { checkedConnector, problemOf, type Trust } from '../fetch/connector';
import { describeFetchProblem } from '../fetch/problem';
import { signed } from '../fetch/signature';
import { webAddress } from '../fetch/web-address';
import { wordsOf, type MailProblem } from './mail';

/** What is posted: an event as JSON, under an identity that stays the same however often it is sent. */
export interface OutgoingPost {
  id: string;
  address: string;
  body: string;
  /** What it is signed with; null where this Shrike has no key to make it of. */
  secret: string | null;
}

const TIMEOUT_MS = 15_000;
const MOST_BYTES = 10_000;
/** Broken off when it may have been received. */
const MAY_HAVE_COME = new Set(['ECONNRESET', 'UND_ERR_SOCKET', 'UND_ERR_HEADERS_TIMEOUT', 'UND_ERR_BODY_TIMEOUT']);

/** Posts events to addresses that are checked as those of sources are. */
export class Webhooks {
  readonly #agent: Agent;

  constructor(
    rules: AddressRules,
    trust: Trust,
    private readonly userAgent: string,
  ) {
    this.#agent = new Agent({
      connect: checkedConnector(rules, trust, TIMEOUT_MS),
      connections: 4,
      keepAliveTimeout: 4_000,
    });
  }

  /**
   * Posts one event; ok holds the answer. A redirect is not followed: what is signed goes where it was said, and
   * nowhere else.
   */
  async send({ id, address, body, secret }: OutgoingPost, now: Instant): Promise<Result<string, MailProblem>> {
    const url = webAddress(address);
    if (url === null) return fail({ outcome: 'no answer', response: 'This is not an address that can be posted to.' });
    if (secret === null)
      return fail({ outcome: 'no answer', response: 'This Shrike has no key to sign with: set SHRIKE_SECRET_KEY.' });
    const signal = AbortSignal.timeout(TIMEOUT_MS);
    try {
      const headers = {
        'content-type': 'application/cloudevents+json',
        'user-agent': this.userAgent,
        ...signed(secret, id, Math.floor(now / SECOND), body),
      };
      const answer = await request(url, { dispatcher: this.#agent, method: 'POST', headers, body, signal });
      const read = await readBody(answer.body, undefined, MOST_BYTES).catch(() => fail('too large' as const));
      const said = wordsOf(`${answer.statusCode} ${read.ok ? read.value.toString('utf8') : ''}`.trim());
      return answer.statusCode >= 200 && answer.statusCode <= 299
        ? ok(said)
        : fail({ outcome: 'refused', response: said });
    } catch (error) {
      if (signal.aborted) return fail({ outcome: 'unknown', response: `no end after ${TIMEOUT_MS / SECOND} s` });
      const { code = '' } = error as { code?: string };
      return fail({
        outcome: MAY_HAVE_COME.has(code) ? 'unknown' : 'no answer',
        response: wordsOf(describeFetchProblem(problemOf(error, address))),
      });
    }
  }

  close(): Promise<void> {
    return this.#agent.close();
  }
}
