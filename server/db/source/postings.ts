import type { DraftId, SourceId } from '#core/id';
import type { Instant } from '#core/when/interval';
import { moment, theRow, type Db, type Statement } from '../base/pool';

/** An address that may be posted to: whose it is, and its sealed secret. */
export interface Posting {
  token: string;
  secret: string | null;
  draftId: DraftId | null;
  sourceId: SourceId | null;
}

const COLUMNS = 'token, secret, draft_id AS "draftId", source_id AS "sourceId"';

/** Makes an address for a draft. */
export async function makePosting(db: Db, token: string, draftId: DraftId): Promise<void> {
  await db.query('INSERT INTO posting (token, draft_id) VALUES ($1, $2)', [token, draftId]);
}

/** The posting of a token; null when there is none. */
export async function findPosting(db: Db, token: string): Promise<Posting | null> {
  const { rows } = await db.query<Posting>(`SELECT ${COLUMNS} FROM posting WHERE token = $1`, [token]);
  return rows[0] ?? null;
}

/** Sets the sealed secret that messages have to be signed with from now on. */
export async function setPostingSecret(db: Db, token: string, sealed: string): Promise<void> {
  await db.query('UPDATE posting SET secret = $2 WHERE token = $1', [token, sealed]);
}

/**
 * Hands a draft's posting over to the source of its watch. Only its latest message is still to be read: the baseline.
 */
export async function handPosting(db: Db, draftId: DraftId, sourceId: SourceId): Promise<void> {
  const { rows } = await db.query<{ token: string }>(
    'UPDATE posting SET source_id = $2, draft_id = NULL WHERE draft_id = $1 RETURNING token',
    [draftId, sourceId],
  );
  const token = rows[0]?.token;
  if (token === undefined) return;
  await db.query(
    `UPDATE posted_message SET body = NULL
      WHERE token = $1 AND id < (SELECT max(id) FROM posted_message WHERE token = $1)`,
    [token],
  );
}

/** A message that was let in. */
export interface PostedMessage {
  id: number;
  body: Buffer;
  contentType: string;
}

/** So much waits to be read at most, of one address and of all together: messages, and bytes of them. */
const MOST_WAITING = { own: 100, ownBytes: 20_000_000, all: 5_000, allBytes: 200_000_000 };

const WAITING = `
SELECT count(*) FILTER (WHERE token = $1)::int AS own, count(*)::int AS all,
  coalesce(sum(octet_length(body)) FILTER (WHERE token = $1), 0)::float8 AS "ownBytes",
  coalesce(sum(octet_length(body)), 0)::float8 AS "allBytes"
FROM posted_message WHERE body IS NOT NULL`;

/** Messages are counted one after another, so that many at once are not one too many. */
const ONE_BY_ONE = `SELECT pg_advisory_xact_lock(hashtext('shrike posted'))`;

/** Whether there is room for a message of so many bytes: what is not read yet is bounded. */
export async function hasRoom(db: Db, { token }: Posting, bytes: number): Promise<boolean> {
  const waiting = theRow(await db.query<typeof MOST_WAITING>(WAITING, [token]));
  return (
    waiting.own < MOST_WAITING.own &&
    waiting.all < MOST_WAITING.all &&
    waiting.ownBytes + bytes <= MOST_WAITING.ownBytes &&
    waiting.allBytes + bytes <= MOST_WAITING.allBytes
  );
}

const OLDER_GONE = 'UPDATE posted_message SET body = NULL WHERE token = $1 AND message_id <> $2 AND body IS NOT NULL';

/**
 * Keeps a message and has its source run at once: `known` where one of the same id was kept before, `full` where as
 * many wait as may. Of a draft the latest alone waits.
 */
export async function keepMessage(
  db: Db,
  posting: Posting,
  message: { messageId: string; contentType: string; body: Buffer },
  now: Instant,
): Promise<'kept' | 'known' | 'full'> {
  await db.query(ONE_BY_ONE);
  if (!(await hasRoom(db, posting, message.body.length))) return 'full';
  const { rowCount } = await db.query(
    `INSERT INTO posted_message (token, message_id, received_at, content_type, body)
      VALUES ($1, $2, $3, $4, $5)
      ON CONFLICT DO NOTHING`,
    [posting.token, message.messageId, moment(now), message.contentType, message.body],
  );
  if (rowCount !== 1) return 'known';
  if (posting.draftId !== null) await db.query(OLDER_GONE, [posting.token, message.messageId]);
  await db.query(
    `UPDATE due d SET due_at = least(d.due_at, $2)
      FROM source s
      WHERE s.id = $1 AND d.source_id = s.id AND s.interval_ms IS NOT NULL`,
    [posting.sourceId, moment(now)],
  );
  return 'kept';
}

/** The oldest message that waits to be read for a source; null when none does. */
export async function nextMessage(db: Db, sourceId: SourceId): Promise<PostedMessage | null> {
  const { rows } = await db.query<PostedMessage>(
    `SELECT m.id, m.body, m.content_type AS "contentType" FROM posted_message m JOIN posting p ON p.token = m.token
     WHERE p.source_id = $1 AND m.body IS NOT NULL ORDER BY m.id LIMIT 1`,
    [sourceId],
  );
  return rows[0] ?? null;
}

/** Marks a message as read, in the transaction of the run that read it. */
export function closeMessage(id: number): Statement {
  return { text: 'UPDATE posted_message SET body = NULL WHERE id = $1', values: [id] };
}
