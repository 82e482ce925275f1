import { fail, ok, type Result } from '#core/result';
import type { Sealed, SourceRequest } from '#server/fetch/request';
import { readRequest } from '../../parts/plan/shape.server';
import { services } from '../../services.server';
import type { OwnDraft } from './actions.server';

// A secret leaves for the browser as a mark of where it is kept, and comes back as that mark, or typed anew.

const SIGN_IN: Sealed = { sealed: 'kept' };
const keptIn = (step: number): Sealed => ({ sealed: `kept ${step}` });
/** What stands where a secret is still to be said. */
const UNSAID = '-';

/** A request as a browser may see it: its secrets are marks. */
export function withMarks(request: SourceRequest): SourceRequest {
  const { signIn, steps } = request;
  return {
    ...request,
    ...(signIn === undefined ? {} : { signIn: { ...signIn, secret: SIGN_IN } }),
    ...(steps === undefined
      ? {}
      : { steps: steps.map((step, at) => (step.act === 'fill in' && typeof step.text !== 'string' ? { ...step, text: keptIn(at) } : step)) }),
  };
}

/** A request that came from a browser, with its new secrets sealed, and in place of each mark the secret it stands for. */
export function sealedRequest(draft: OwnDraft, form: FormData): Result<SourceRequest, string> {
  const read = readRequest(String(form.get('request') ?? '{}').replaceAll('"sealed":""', `"sealed":"${UNSAID}"`));
  if (!read.ok) return fail(`This request cannot be used: ${read.error}.`);
  const request = read.value;
  if (request.signIn !== undefined) {
    const secret = secretOf(String(form.get('secret') ?? ''), draft.request.signIn?.secret, draft, 'Enter the secret to sign in with.');
    if (!secret.ok) return secret;
    request.signIn = { ...request.signIn, secret: secret.value };
  }
  const typed = secretsIn(form);
  for (const [at, step] of (request.steps ?? []).entries()) {
    if (step.act !== 'fill in' || typeof step.text === 'string') continue;
    const secret = secretOf(typed[String(at)] ?? '', keptSecret(draft, step.text), draft, 'Enter the secret to fill in.');
    if (!secret.ok) return secret;
    step.text = secret.value;
  }
  return ok(request);
}

function secretOf(typed: string, kept: Sealed | undefined, draft: OwnDraft, missing: string): Result<Sealed, string> {
  if (typed !== '') return services().secrets.seal(typed, new URL(draft.address).host);
  return kept === undefined ? fail(missing) : ok(kept);
}

/** The secret that a mark stands for; a step may have moved since it was kept. */
function keptSecret(draft: OwnDraft, { sealed }: Sealed): Sealed | undefined {
  const step = draft.request.steps?.find((_, at) => keptIn(at).sealed === sealed);
  return step?.act === 'fill in' && typeof step.text !== 'string' ? step.text : undefined;
}

function secretsIn(form: FormData): Record<string, string> {
  try {
    return JSON.parse(String(form.get('secrets') ?? '{}')) as Record<string, string>;
  } catch {
    return {};
  }
}
