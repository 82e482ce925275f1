import { createHash } from 'node:crypto';
import { fail, ok, type Result } from '#core/result';
import { nextMessage } from '../db/source/postings';
import type { Db } from '../db/base/pool';
import type { ClaimedSource } from '../db/source/sources';
import { decodeBody } from '../fetch/body';
import type { Fetched } from '../fetch/fetcher';
import type { FetchProblem } from '../fetch/problem';

/** What was posted to a source, as a fetch would have brought it. Without a message that waits, nothing is new. */
export async function takePosted(db: Db, source: ClaimedSource): Promise<Result<Fetched, FetchProblem>> {
  const message = await nextMessage(db, source.id);
  if (message === null)
    return source.bodyHash === null
      ? fail({ reason: 'nothing posted' })
      : ok({ kind: 'not modified', status: 304, bytes: 0 });
  const { id, body, contentType } = message;
  return ok({
    kind: 'page',
    status: 202,
    bytes: body.length,
    body: () => decodeBody(body, contentType),
    hash: createHash('sha256').update(body).digest(),
    finalAddress: source.address,
    etag: null,
    lastModified: null,
    contentType,
    message: id,
  });
}
