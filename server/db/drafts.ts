import type { Instant } from '#core/when/interval';
import { moment, type Db } from './pool';

/** A half-made watch: its address, what has been said so far, and the page as it was fetched for it. */
export interface Draft<Content> {
  id: number;
  address: string;
  content: Content;
  body: string | null;
  fetchedAt: Instant | null;
  updatedAt: Instant;
}

const COLUMNS = 'id, address, content, body, fetched_at AS "fetchedAt", updated_at AS "updatedAt"';

/** Begins a draft with the page that was fetched for it. Returns its id. */
export async function beginDraft(
  db: Db,
  personId: number,
  draft: { address: string; content: unknown; body: string },
  now: Instant,
): Promise<number> {
  const { rows } = await db.query<{ id: number }>(
    'INSERT INTO draft (person_id, address, content, body, fetched_at, updated_at) VALUES ($1, $2, $3, $4, $5, $5) RETURNING id',
    [personId, draft.address, JSON.stringify(draft.content), draft.body, moment(now)],
  );
  return rows[0]?.id ?? 0;
}

/** One of a person's own drafts; null when there is none of that number. */
export async function findDraft<Content>(db: Db, personId: number, id: number): Promise<Draft<Content> | null> {
  const { rows } = await db.query<Draft<Content>>(`SELECT ${COLUMNS} FROM draft WHERE id = $1 AND person_id = $2`, [id, personId]);
  return rows[0] ?? null;
}

/** A person's drafts, the latest first, without their pages. */
export async function listDrafts<Content>(db: Db, personId: number): Promise<Draft<Content>[]> {
  const { rows } = await db.query<Draft<Content>>(
    `SELECT ${COLUMNS.replace('body', 'NULL AS body')} FROM draft WHERE person_id = $1 ORDER BY updated_at DESC`,
    [personId],
  );
  return rows;
}

/** Keeps what has been said so far. */
export async function keepDraft(db: Db, personId: number, id: number, content: unknown, now: Instant): Promise<void> {
  await db.query('UPDATE draft SET content = $3, updated_at = $4 WHERE id = $1 AND person_id = $2', [
    id,
    personId,
    JSON.stringify(content),
    moment(now),
  ]);
}

/** Throws a draft away, or ends it because its watch was started. */
export async function dropDraft(db: Db, personId: number, id: number): Promise<void> {
  await db.query('DELETE FROM draft WHERE id = $1 AND person_id = $2', [id, personId]);
}
