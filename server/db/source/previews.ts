import type { DraftId, PreviewId, PersonId } from '#core/id';
import type { Instant } from '#core/when/interval';
import type { Box } from '#core/read/inspect/wall';
import type { SourceRequest } from '../../fetch/request';
import { moment, theRow, type Db } from '../base/pool';

/**
 * What a preview is for: the draft's own page, the same once more, another page to try its reading on, its
 * steps one by one.
 */
export type PreviewPurpose = 'page' | 'again' | 'other' | 'steps';

/** A look in the browser, and what it brought. */
export interface Preview {
  id: PreviewId;
  draftId: DraftId;
  purpose: PreviewPurpose;
  address: string;
  request: SourceRequest;
  state: 'asked' | 'done' | 'failed';
  askedAt: Instant;
  takenAt: Instant | null;
  problem: string | null;
  body: string | null;
  finalAddress: string | null;
  height: number | null;
  boxes: Box[] | null;
}

const COLUMNS = `id, draft_id AS "draftId", purpose, address, request, state, asked_at AS "askedAt",
  taken_at AS "takenAt", problem, body,
  final_address AS "finalAddress", height, boxes`;

/** Orders a preview; returns its id. Earlier ones for the same purpose make way. */
export async function orderPreview(
  db: Db,
  look: { draftId: DraftId; purpose: PreviewPurpose; address: string; request: SourceRequest },
  now: Instant,
): Promise<PreviewId> {
  await db.query(`DELETE FROM preview WHERE draft_id = $1 AND purpose = $2 AND (purpose <> 'other' OR address = $3)`, [
    look.draftId,
    look.purpose,
    look.address,
  ]);
  const result = await db.query<{ id: PreviewId }>(
    'INSERT INTO preview (draft_id, purpose, address, request, asked_at) VALUES ($1, $2, $3, $4, $5) RETURNING id',
    [look.draftId, look.purpose, look.address, JSON.stringify(look.request), moment(now)],
  );
  return theRow(result).id;
}

/** A look that is under way, and how often it was begun before it came to an end. */
export type BegunPreview = Preview & { begun: number };

/** Begins a preview that is still wanted; null for any other. */
export async function beginPreview(db: Db, id: PreviewId): Promise<BegunPreview | null> {
  const { rows } = await db.query<BegunPreview>(
    `UPDATE preview SET begun = begun + 1 WHERE id = $1 AND state = 'asked' RETURNING begun, ${COLUMNS}`,
    [id],
  );
  return rows[0] ?? null;
}

/** The looks of a draft, the latest first. */
export async function listPreviews(db: Db, draftId: DraftId): Promise<Preview[]> {
  const { rows } = await db.query<Preview>(`SELECT ${COLUMNS} FROM preview WHERE draft_id = $1 ORDER BY id DESC`, [
    draftId,
  ]);
  return rows;
}

/** Keeps what a preview brought, or why it brought nothing. */
export async function storePreview(
  db: Db,
  id: PreviewId,
  brought: {
    problem: string | null;
    body?: string;
    finalAddress?: string;
    image?: Buffer;
    height?: number;
    boxes?: Box[];
  },
  now: Instant,
): Promise<void> {
  await db.query(
    `UPDATE preview
SET state = $2, taken_at = $3, problem = $4, body = $5, final_address = $6, image = $7, height = $8, boxes = $9
      WHERE id = $1`,
    [
      id,
      brought.problem === null ? 'done' : 'failed',
      moment(now),
      brought.problem,
      brought.body ?? null,
      brought.finalAddress ?? null,
      brought.image ?? null,
      brought.height ?? null,
      brought.boxes === undefined ? null : JSON.stringify(brought.boxes),
    ],
  );
}

/** What one step looked like when it was tried. */
export interface PreviewStep {
  place: number;
  said: string;
  problem: string | null;
}

/** Keeps the pictures of tried steps. */
export async function storePreviewSteps(
  db: Db,
  id: PreviewId,
  steps: { said: string; problem: string | null; image: Buffer }[],
): Promise<void> {
  for (const [place, step] of steps.entries()) {
    await db.query(
      `INSERT INTO preview_action (preview_id, place, said, problem, image) VALUES ($1, $2, $3, $4, $5)
       ON CONFLICT DO NOTHING`,
      [id, place, step.said, step.problem, step.image],
    );
  }
}

/** The steps that a run took, in order, without their pictures. */
export async function listPreviewSteps(db: Db, id: PreviewId): Promise<PreviewStep[]> {
  const { rows } = await db.query<PreviewStep>(
    'SELECT place, said, problem FROM preview_action WHERE preview_id = $1 ORDER BY place',
    [id],
  );
  return rows;
}

/** The picture of a person's own look, or of one of its steps; null when there is none. */
export async function findPreviewImage(
  db: Db,
  personId: PersonId,
  lookId: PreviewId,
  step: number | null,
): Promise<Buffer | null> {
  const { rows } = await db.query<{ image: Buffer | null }>(
    `SELECT coalesce(s.image, CASE WHEN $3::int IS NULL THEN l.image END) AS image FROM preview l
      JOIN draft d ON d.id = l.draft_id
     LEFT JOIN preview_action s ON s.preview_id = l.id AND s.place = $3 WHERE l.id = $1 AND d.person_id = $2`,
    [lookId, personId, step],
  );
  return rows[0]?.image ?? null;
}
