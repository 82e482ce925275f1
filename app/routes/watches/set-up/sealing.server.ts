import { fail, ok, type Result } from '#core/result';
import type { Pair, SourceRequest } from '#server/fetch/request';
import type { Sealed } from '#server/fetch/sealed';
import type { Draft } from '#server/db/watch/drafts';
import { webAddress } from '#server/fetch/web-address';
import { readRequest } from '#server/shapes/plan';
import { writtenIn } from '../../../form.server';
import { services } from '../../../services.server';

/** What of a draft says where it reads. */
export type OwnDraft = Pick<Draft, 'id' | 'address' | 'way' | 'request'>;

// A secret leaves for the browser as a mark of where it is kept, and comes back as that mark, or typed anew.

const SIGN_IN: Sealed = { sealed: 'kept' };
const keptIn = (step: number): Sealed => ({ sealed: `kept ${step}` });
/** What stands where a secret is still to be said. */
const UNSAID = '-';

/** What a browser sees in place of a sealed value: that it is kept, and where. */
const markAt = (part: 'header' | 'query', at: number): Sealed => ({ sealed: `kept ${part} ${at}` });
const KEPT_BODY: Sealed = { sealed: 'kept body' };

/** Headers that say nothing but how somebody likes to be answered. */
const OPEN_HEADERS =
  /^(accept(-[a-z]+)?|cache-control|content-(type|language)|dnt|pragma|prefer|range|referer|user-agent|x-requested-with)$/i;
/** Words in the name of what is added to a query, or in a body, that may stand beside a secret. */
const SECRET_WORDS = /key|token|secret|sig|auth|pass|pwd|session|credential|code|pin/i;

/** A request as a browser may see it: its secrets are marks. */
export function withMarks(request: SourceRequest): SourceRequest {
  const { signIn, steps, headers, query, body } = request;
  const marked = (part: 'header' | 'query', pairs: Pair[]) =>
    pairs.map(({ name, value }, at) => ({ name, value: typeof value === 'string' ? value : markAt(part, at) }));
  return {
    ...request,
    ...(headers === undefined ? {} : { headers: marked('header', headers) }),
    ...(query === undefined ? {} : { query: marked('query', query) }),
    ...(body === undefined || typeof body === 'string' ? {} : { body: KEPT_BODY }),
    ...(signIn === undefined ? {} : { signIn: { ...signIn, secret: SIGN_IN } }),
    ...(steps === undefined
      ? {}
      : {
          steps: steps.map((step, at) =>
            step.act === 'fill in' && typeof step.text !== 'string' ? { ...step, text: keptIn(at) } : step,
          ),
        }),
  };
}

/**
 * A request that came from a browser, with its new secrets sealed, and in place of each mark the secret it stands for.
 */
export function sealedRequest(draft: OwnDraft, form: FormData): Result<SourceRequest, string> {
  const read = readRequest(writtenIn(form, 'request', '{}').replaceAll('"sealed":""', `"sealed":"${UNSAID}"`));
  if (!read.ok) return fail(`This request cannot be used: ${read.error}.`);
  const request = read.value;
  const pairs = sealPairs(draft, request);
  if (!pairs.ok) return pairs;
  if (request.signIn !== undefined) {
    const secret = secretOf(
      writtenIn(form, 'secret'),
      draft.request.signIn?.secret,
      draft,
      'Enter the secret to sign in with.',
    );
    if (!secret.ok) return secret;
    request.signIn = { ...request.signIn, secret: secret.value };
  }
  const typed = secretsIn(form);
  for (const [at, step] of (request.steps ?? []).entries()) {
    if (step.act === 'go to' && webAddressFrom(step.address, draft.address) === null)
      return fail(
        `Step ${at + 1} leads to “${step.address}”: only addresses that begin with http:// or https:// are gone to.`,
      );
    if (step.act !== 'fill in' || typeof step.text === 'string') continue;
    const secret = secretOf(
      typed[String(at)] ?? '',
      keptSecret(draft, step.text),
      draft,
      'Enter the secret to fill in.',
    );
    if (!secret.ok) return secret;
    step.text = secret.value;
  }
  return ok({ ...request, ...pairs.value });
}

const webAddressFrom = (address: string, from: string) =>
  URL.canParse(address, from) ? webAddress(new URL(address, from).href) : null;

/** Headers, query and body with all that can be a secret sealed. */
function sealPairs(draft: OwnDraft, { headers, query, body }: SourceRequest): Result<Partial<SourceRequest>, string> {
  const sealed: Partial<SourceRequest> = {};
  for (const [part, pairs, kept] of [
    ['header', headers, draft.request.headers],
    ['query', query, draft.request.query],
  ] as const) {
    if (pairs === undefined) continue;
    const made: Pair[] = [];
    for (const { name, value } of pairs) {
      const secret = part === 'header' ? !OPEN_HEADERS.test(name) : SECRET_WORDS.test(name);
      const done = sealValue(
        draft,
        value,
        secret,
        (mark) => kept?.find((_, at) => markAt(part, at).sealed === mark)?.value,
        name,
      );
      if (!done.ok) return done;
      made.push({ name, value: done.value });
    }
    sealed[part === 'header' ? 'headers' : 'query'] = made;
  }
  if (body !== undefined) {
    const done = sealValue(
      draft,
      body,
      typeof body === 'string' && SECRET_WORDS.test(body),
      () => draft.request.body,
      'the body',
    );
    if (!done.ok) return done;
    sealed.body = done.value;
  }
  return ok(sealed);
}

function sealValue(
  draft: OwnDraft,
  value: string | Sealed,
  secret: boolean,
  keptFor: (mark: string) => string | Sealed | undefined,
  name: string,
): Result<string | Sealed, string> {
  const { host } = new URL(draft.address);
  if (typeof value === 'string')
    return secret && value !== '' ? services().secrets.seal(value, 'request', host) : ok(value);
  const kept = keptFor(value.sealed);
  if (kept === undefined || (typeof kept !== 'string' && services().secrets.open(kept, 'request', host) === null))
    return fail(`Enter ${name} again: what was kept of it is for another site.`);
  return ok(kept);
}

function secretOf(typed: string, kept: Sealed | undefined, draft: OwnDraft, missing: string): Result<Sealed, string> {
  if (typed !== '') return services().secrets.seal(typed, 'request', new URL(draft.address).host);
  return kept === undefined ? fail(missing) : ok(kept);
}

/** The secret that a mark stands for; a step may have moved since it was kept. */
function keptSecret(draft: OwnDraft, { sealed }: Sealed): Sealed | undefined {
  const step = draft.request.steps?.find((_, at) => keptIn(at).sealed === sealed);
  return step?.act === 'fill in' && typeof step.text !== 'string' ? step.text : undefined;
}

function secretsIn(form: FormData): Record<string, string> {
  try {
    return JSON.parse(writtenIn(form, 'secrets', '{}')) as Record<string, string>;
  } catch {
    return {};
  }
}
