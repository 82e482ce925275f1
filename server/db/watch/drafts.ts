import type { DraftId, PersonId, WatchId } from '#core/id';
import { storedPlan, type PlanDraft } from '#core/plan/plan';
import type { Instant } from '#core/when/interval';
import type { SourceRequest, SourceWay } from '../../fetch/request';
import { moment, theRow, type Db } from '../base/pool';

/** A half-made watch: its address, what has been said so far, and the page as it was fetched for it. */
export interface Draft {
  id: DraftId;
  address: string;
  content: PlanDraft;
  body: string | null;
  fetchedAt: Instant | null;
  updatedAt: Instant;
  /** How often what is said of it has been kept: who keeps it says on which of these she builds. */
  revision: number;
  way: SourceWay;
  request: SourceRequest;
  finalAddress: string | null;
  /** The watch that it is an edit of, with the version it leans on; null for a new watch. */
  watchId: WatchId | null;
  watchVersion: number | null;
}

const COLUMNS = `
  id, address, content, fetched_at AS "fetchedAt", updated_at AS "updatedAt", revision, way, request,
  final_address AS "finalAddress", watch_id AS "watchId", watch_version AS "watchVersion"`;

/** Begins a draft with the page that was fetched for it, or with none where one is to be posted. Returns its id. */
export async function beginDraft(
  db: Db,
  personId: PersonId,
  draft: { address: string; content: PlanDraft; body: string | null; finalAddress: string | null; way?: SourceWay },
  now: Instant,
): Promise<DraftId> {
  const result = await db.query<{ id: DraftId }>(
    `INSERT INTO draft (person_id, address, content, body, fetched_at, updated_at, final_address, way)
     VALUES ($1, $2, $3, $4, CASE WHEN $4::text IS NOT NULL THEN $5::timestamptz END, $5, $6, $7) RETURNING id`,
    [
      personId,
      draft.address,
      JSON.stringify(storedPlan.write(draft.content)),
      draft.body,
      moment(now),
      draft.finalAddress,
      draft.way ?? 'plain',
    ],
  );
  return theRow(result).id;
}

/**
 * Begins an edit of a watch, with the body that its source brought last. An earlier edit of it makes way. Returns its
 * id.
 */
export async function beginEdit(
  db: Db,
  personId: PersonId,
  edit: { watchId: WatchId; version: number; content: PlanDraft; body: string; finalAddress: string; takenAt: Instant },
  now: Instant,
): Promise<DraftId> {
  await db.query(`SELECT pg_advisory_xact_lock(hashtext('shrike edit ' || $1), $2)`, [personId, edit.watchId]);
  await db.query('DELETE FROM draft WHERE person_id = $1 AND watch_id = $2', [personId, edit.watchId]);
  const result = await db.query<{ id: DraftId }>(
    `INSERT INTO draft (person_id, address, content, body, fetched_at, updated_at, final_address, way, request,
      watch_id, watch_version)
     SELECT $1, s.address, $3, $4, $5, $6, $7, s.way, s.request, w.id, $8 FROM watch w
     JOIN source s ON s.id = w.source_id WHERE w.id = $2 RETURNING id`,
    [
      personId,
      edit.watchId,
      JSON.stringify(storedPlan.write(edit.content)),
      edit.body,
      moment(edit.takenAt),
      moment(now),
      edit.finalAddress,
      edit.version,
    ],
  );
  return theRow(result).id;
}

/** One of a person's own drafts; null when there is none of that number. */
export async function findDraft(db: Db, personId: PersonId, id: DraftId): Promise<Draft | null> {
  const { rows } = await db.query<Draft>(`SELECT ${COLUMNS}, body FROM draft WHERE id = $1 AND person_id = $2`, [
    id,
    personId,
  ]);
  return rows[0] === undefined ? null : draftOf(rows[0]);
}

/** What is stored as JSON, in its present shape. */
const draftOf = (row: Draft): Draft => ({ ...row, content: storedPlan.read(row.content) });

const MOST_LISTED = 100;

/** A person's half-made watches, the latest first, without their pages. */
export async function listDrafts(db: Db, personId: PersonId): Promise<Draft[]> {
  const { rows } = await db.query<Draft>(
    `SELECT ${COLUMNS}, NULL AS body
      FROM draft
      WHERE person_id = $1 AND watch_id IS NULL
      ORDER BY updated_at DESC
      LIMIT ${MOST_LISTED}`,
    [personId],
  );
  return rows.map(draftOf);
}

/** Who keeps something of a draft: on which state of it she builds, and from which of her tabs. */
export interface Keeping {
  revision: number;
  tab: string;
}

/**
 * Keeps what has been said so far; returns the state it is in then. Null, and nothing is kept, where another tab has
 * kept something since the state that this one builds on, or where there is no such draft.
 */
export async function keepDraft(
  db: Db,
  { id, person }: { id: DraftId; person: PersonId },
  content: PlanDraft,
  keeping: Keeping,
  now: Instant,
): Promise<number | null> {
  const { rows } = await db.query<{ revision: number }>(
    `UPDATE draft SET content = $3, updated_at = $4, revision = revision + 1, edited_by = $6
     WHERE id = $1 AND person_id = $2 AND (revision = $5 OR edited_by = $6) RETURNING revision`,
    [id, person, JSON.stringify(storedPlan.write(content)), moment(now), keeping.revision, keeping.tab],
  );
  return rows[0]?.revision ?? null;
}

/** How it stands with a draft that is to become a watch: its row is held for this transaction. */
export async function claimDraft(
  db: Db,
  personId: PersonId,
  id: DraftId,
  { revision, tab }: Keeping,
): Promise<'ours' | 'kept by another tab' | { watch: WatchId } | 'gone'> {
  const { rows } = await db.query<{ ours: boolean }>(
    `SELECT (revision = $3 OR edited_by = $4 OR edited_by IS NULL) AS ours
      FROM draft
      WHERE id = $1 AND person_id = $2
      FOR UPDATE`,
    [id, personId, revision, tab],
  );
  if (rows[0] !== undefined) return rows[0].ours ? 'ours' : 'kept by another tab';
  const watch = await doneAs(db, personId, id);
  return watch === null ? 'gone' : { watch };
}

/** The watch that a draft has become; null where it has not. */
export async function doneAs(db: Db, personId: PersonId, id: DraftId): Promise<WatchId | null> {
  const { rows } = await db.query<{ watch: WatchId }>(
    'SELECT watch_id AS watch FROM draft_done WHERE draft_id = $1 AND person_id = $2',
    [id, personId],
  );
  return rows[0]?.watch ?? null;
}

/** Ends a draft, since it has become a watch; whoever asks for it once more is led there. */
export async function endDraft(db: Db, personId: PersonId, id: DraftId, watchId: WatchId, now: Instant): Promise<void> {
  await dropDraft(db, personId, id);
  await db.query('INSERT INTO draft_done (draft_id, person_id, watch_id, done_at) VALUES ($1, $2, $3, $4)', [
    id,
    personId,
    watchId,
    moment(now),
  ]);
}

const FRESH_MS = 60_000;

/**
 * A person's draft of an address that was begun a moment ago, and of which nothing was said yet: what a second press
 * meant.
 */
export async function findFreshDraft(
  db: Db,
  personId: PersonId,
  address: string,
  now: Instant,
): Promise<DraftId | null> {
  await db.query(`SELECT pg_advisory_xact_lock(hashtext('shrike draft ' || $1), hashtext($2))`, [personId, address]);
  const { rows } = await db.query<{ id: DraftId }>(
    `SELECT id
      FROM draft
      WHERE person_id = $1 AND address = $2 AND revision = 0 AND watch_id IS NULL AND updated_at > $3
      ORDER BY id DESC
      LIMIT 1`,
    [personId, address, moment(now - FRESH_MS)],
  );
  return rows[0]?.id ?? null;
}

/** Sets how a draft's source is come by. */
export async function setDraftSource(
  db: Db,
  personId: PersonId,
  id: DraftId,
  source: { address: string; way: SourceWay; request: SourceRequest },
  now: Instant,
): Promise<void> {
  await db.query(
    `UPDATE draft SET address = $6, way = $3, way_said = true, request = $4, updated_at = $5
      WHERE id = $1 AND person_id = $2`,
    [id, personId, source.way, JSON.stringify(source.request), moment(now), source.address],
  );
}

/**
 * The body of a draft that may be rendered from here on, where that shows more: nobody has said how it is fetched, what
 * is asked for can be asked for by a browser, and nothing is taken from the page yet. Null for any other.
 */
export async function plainBodyOf(db: Db, id: DraftId): Promise<string | null> {
  const { rows } = await db.query<{ body: string }>(
    `SELECT body FROM draft WHERE id = $1 AND body IS NOT NULL AND ${UNSAID}`,
    [id],
  );
  return rows[0]?.body ?? null;
}

/**
 * Has a draft rendered from here on, unless somebody has said meanwhile how it is fetched, or taken something from it.
 */
export async function renderDraft(db: Db, id: DraftId): Promise<void> {
  await db.query(`UPDATE draft SET way = 'rendered' WHERE id = $1 AND ${UNSAID}`, [id]);
}

const UNSAID = `way = 'plain' AND NOT way_said AND request = '{}' AND watch_id IS NULL AND content->'fields' = '[]'`;

/** Keeps what a fetch brought for a draft. */
export async function keepDraftBody(
  db: Db,
  personId: PersonId,
  id: DraftId,
  fetched: { body: string; finalAddress: string },
  now: Instant,
): Promise<void> {
  await db.query(
    'UPDATE draft SET body = $3, final_address = $4, fetched_at = $5, updated_at = $5 WHERE id = $1 AND person_id = $2',
    [id, personId, fetched.body, fetched.finalAddress, moment(now)],
  );
}

/** Lets go of what an address brought that the draft has left. */
export async function dropDraftBody(db: Db, personId: PersonId, id: DraftId): Promise<void> {
  await db.query(
    'UPDATE draft SET body = NULL, final_address = NULL, fetched_at = NULL WHERE id = $1 AND person_id = $2',
    [id, personId],
  );
}

/** Keeps what was posted to a draft. */
export async function keepPostedBody(db: Db, id: DraftId, body: string, now: Instant): Promise<void> {
  await db.query('UPDATE draft SET body = $2, final_address = address, fetched_at = $3 WHERE id = $1', [
    id,
    body,
    moment(now),
  ]);
}

/** Throws a draft away. */
export async function dropDraft(db: Db, personId: PersonId, id: DraftId): Promise<void> {
  await db.query('DELETE FROM draft WHERE id = $1 AND person_id = $2', [id, personId]);
}
