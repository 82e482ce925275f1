import type { PersonId } from '#core/id';
import { randomBytes } from 'node:crypto';
import { NO_OFFER, type Offer } from '#core/read/inspect/offer';
import { ok } from '#core/result';
import { findPosting, setPostingSecret } from '#server/db/source/postings';
import { dropDraftBody, keepDraftBody, setDraftSource } from '#server/db/watch/drafts';
import { findHostRules, noteRefused } from '#server/db/source/hosts';
import { storePreview, orderPreview, type PreviewPurpose } from '#server/db/source/previews';
import { webAddress } from '#server/fetch/web-address';
import { describeFetchProblem, type FetchProblem } from '#server/fetch/problem';
import { carriedTo, type SourceRequest } from '#server/fetch/request';
import { bodyOf } from '#server/reading/pool';
import { writtenIn } from '../../../form.server';
import { services } from '../../../services.server';
import { sealedRequest, type OwnDraft } from './sealing.server';

/** Asks a worker to look at a page in the browser for a draft. */
export async function askPreview(
  draft: OwnDraft,
  purpose: PreviewPurpose,
  address: string,
  request: SourceRequest,
): Promise<void> {
  const { pool, jobs, clock } = services();
  const look = await orderPreview(pool, { draftId: draft.id, purpose, address, request }, clock());
  await (await jobs()).enqueueLook(look);
}

/** What a plain fetch brought for a draft. */
interface FetchedText {
  body: string;
  finalAddress: string;
  isPage: boolean;
  offer: Offer;
}

const NOT_NOTIFIED: ReadonlySet<FetchProblem['reason']> = new Set(['no answer', 'no handshake', 'timed out']);

/** Why nothing was fetched, as a sentence. */
interface NotFetched {
  ok: false;
  error: string;
  /** The site asks for a sign-in or the like. */
  asksForMore: boolean;
  /**
   * Nothing speaks at this address in this way. A certificate that is not trusted is no such thing: that is for a
   * person to decide.
   */
  unheard: boolean;
}

/** Fetches a page plainly for a draft. */
export async function fetchPlainly(
  address: string,
  request: SourceRequest,
): Promise<{ ok: true; value: FetchedText } | NotFetched> {
  const { sources, pool, config, reading } = services();
  const { host } = new URL(address);
  const { robotsHeeded, pauseMs } = await findHostRules(pool, host);
  const fetched = await sources.fetch({ address, way: 'plain', request, robotsHeeded, pauseMs });
  if (!fetched.ok) {
    const { error } = fetched;
    if (error.reason === 'bad certificate' && error.fingerprint !== undefined)
      await pool.query(noteRefused(error.host ?? host, error.fingerprint, config.hostMostAtOnce));
    const asksForMore = error.reason === 'status' && (error.status === 401 || error.status === 403);
    return { ok: false, error: describeFetchProblem(error), asksForMore, unheard: NOT_NOTIFIED.has(error.reason) };
  }
  if (fetched.value.kind !== 'page')
    return { ok: false, error: 'The page did not come.', asksForMore: false, unheard: false };
  const body = fetched.value.body();
  const text = bodyOf(body);
  const offered = await reading.run('offer', { body: { key: text.key, receivedAt: 0 } }, [text]);
  const offer = offered.ok ? offered.value : NO_OFFER;
  return ok({ body, finalAddress: fetched.value.finalAddress, isPage: offer.format === 'html', offer });
}

/**
 * Sets how a draft's source is come by, and fetches it anew. What is wrong comes back as a sentence; nothing is lost.
 */
export async function setSource(personId: PersonId, draft: OwnDraft, form: FormData): Promise<string | null> {
  const { pool, clock } = services();
  const address = webAddress(writtenIn(form, 'address', draft.address));
  if (address === null) return describeFetchProblem({ reason: 'bad address' });
  const request = sealedRequest({ ...draft, address: address.href }, form);
  if (!request.ok) return request.error;
  const way = form.get('way') === 'rendered' ? 'rendered' : 'plain';
  const source = { address: address.href, way, request: request.value } as const;
  if (way === 'rendered') {
    await setDraftSource(pool, personId, draft.id, source, clock());
    await askPreview(draft, 'page', source.address, request.value);
    return null;
  }
  const fetched = await fetchPlainly(source.address, request.value);
  await setDraftSource(pool, personId, draft.id, source, clock());
  if (!fetched.ok && source.address !== draft.address) await dropDraftBody(pool, personId, draft.id);
  if (!fetched.ok) return fetched.error;
  if (source.address !== draft.address && fetched.value.isPage)
    await askPreview({ ...draft, ...source }, 'page', source.address, {});
  await keepDraftBody(pool, personId, draft.id, fetched.value, clock());
  return null;
}

/** Whether messages to a draft's posting address can be signed yet. */
export async function hasSecret(draft: OwnDraft): Promise<boolean> {
  return draft.way === 'posted' && (await findPosting(services().pool, tokenOf(draft.address)))?.secret != null;
}

const SECRET_BYTES = 32;

/** Makes the secret that messages to a draft's address are signed with, and gives it out this once. */
export async function newSecret(draft: OwnDraft): Promise<{ problem: string | null; secret?: string }> {
  const { pool, secrets } = services();
  const token = tokenOf(draft.address);
  const secret = randomBytes(SECRET_BYTES).toString('hex');
  const sealed = secrets.seal(secret, 'posting', token);
  if (!sealed.ok) return { problem: sealed.error };
  await setPostingSecret(pool, token, sealed.value.sealed);
  return { problem: null, secret };
}

const tokenOf = (address: string) => address.split('/').at(-1) ?? '';

/** Takes a draft's steps one by one, in the browser of a worker. */
export async function trySteps(draft: OwnDraft, form: FormData): Promise<string | null> {
  const request = sealedRequest(draft, form);
  if (!request.ok) return request.error;
  await askPreview(draft, 'steps', draft.address, request.value);
  return null;
}

/** Fetches the draft's page once more, to see what moves on it by itself. */
export async function fetchAgain(draft: OwnDraft): Promise<string | null> {
  if (draft.way === 'rendered') {
    await askPreview(draft, 'again', draft.address, draft.request);
    return null;
  }
  const { pool, clock } = services();
  const fetched = await fetchPlainly(draft.address, draft.request);
  const look = await orderPreview(
    pool,
    { draftId: draft.id, purpose: 'again', address: draft.address, request: draft.request },
    clock(),
  );
  await storePreview(
    pool,
    look,
    fetched.ok ? { problem: null, ...fetched.value } : { problem: fetched.error },
    clock(),
  );
  return null;
}

/** Tries the draft's reading on another address, fetched in the draft's own way. */
export async function tryElsewhere(draft: OwnDraft, text: string): Promise<string | null> {
  const { pool, clock } = services();
  const address = webAddress(text);
  if (address === null) return describeFetchProblem({ reason: 'bad address' });
  const request = carriedTo(draft.request, draft.address, address.href);
  if (draft.way === 'rendered') {
    await askPreview(draft, 'other', address.href, request);
    return null;
  }
  const fetched = await fetchPlainly(address.href, request);
  const look = await orderPreview(
    pool,
    { draftId: draft.id, purpose: 'other', address: address.href, request },
    clock(),
  );
  await storePreview(
    pool,
    look,
    fetched.ok ? { problem: null, ...fetched.value } : { problem: fetched.error },
    clock(),
  );
  return null;
}
