import { inTransaction } from '#server/db/base/pool';
import { keepPostedBody } from '#server/db/watch/drafts';
import { findPosting, hasRoom, keepMessage } from '#server/db/source/postings';
import { decodeBody } from '#server/fetch/body';
import { checkSignature, HEADERS } from '#server/fetch/signature';
import { readAll } from '../../../form.server';
import { services } from '../../../services.server';
import type { Route } from './+types/route';

const answer = (status: number, said: string, headers: Record<string, string> = {}) =>
  Response.json({ said }, { status, headers });

const RETRY_AFTER_SECONDS = 60;
const full = () =>
  answer(429, 'As many messages wait to be read as may. Post this one again later.', {
    'retry-after': String(RETRY_AFTER_SECONDS),
  });

/** What an address to post to ends in. */
const TOKEN = /^[\w-]{1,100}$/;

/**
 * Takes what another program posts: signed, of now, and once an id. It is read by the next run, which is due at once.
 */
export async function action({ request, params }: Route.ActionArgs): Promise<Response> {
  const { pool, secrets, signals, clock, config } = services();
  if (request.method !== 'POST') return answer(405, 'Only POST is taken here.');
  const posting = TOKEN.test(params.token) ? await findPosting(pool, params.token) : null;
  const secret = posting?.secret == null ? null : secrets.open({ sealed: posting.secret }, 'posting', posting.token);
  if (posting === null || secret === null) return answer(404, 'Nothing is taken at this address.');
  // What there is no room for is not read either.
  if (posting.draftId === null && !(await hasRoom(pool, posting, 0))) return full();
  const body = await readAll(request, config.fetchMostBytes);
  if (body === null)
    return answer(413, `A message may have at most ${Math.round(config.fetchMostBytes / 1_000_000)} MB.`);
  const header = (name: keyof typeof HEADERS) => request.headers.get(HEADERS[name]);
  const checked = checkSignature(
    secret,
    { id: header('id'), time: header('time'), signature: header('signature'), body },
    clock(),
  );
  if (!checked.ok) return answer(401, checked.error);
  const contentType = request.headers.get('content-type') ?? '';
  const kept = await inTransaction(pool, (db) =>
    keepMessage(db, posting, { messageId: checked.value, contentType, body }, clock()),
  );
  if (kept === 'full') return full();
  if (kept === 'known') return answer(200, 'This message was taken before.');
  if (posting.draftId !== null) {
    await keepPostedBody(pool, posting.draftId, decodeBody(body, contentType), clock());
    signals.say(`draft:${posting.draftId}`);
  }
  return answer(202, 'Taken.');
}

/** There is nothing to be seen here. */
export function loader(): Response {
  return answer(405, 'Only POST is taken here.');
}
