import type { EditId, PersonId } from '#core/id';
import type { Instant } from '#core/when/interval';
import { moment, theRow, type Db } from '../base/pool';

// The record of who changed what, and when.

/** What can be changed, and its changes be looked up. */
type EditedKind = 'item' | 'watch' | 'offer' | 'stencil';

/** A change of one thing: how it was and is, as far as it can be undone, and the difference in words. */
export interface Edited {
  kind: EditedKind;
  thing: number;
  name: string;
  what: string[];
  before: unknown;
  after: unknown;
}

/** Who changes something, and when; and what it is done with at one go. */
export interface Editing {
  person: PersonId;
  at: Instant;
  batch?: number;
}

/** A number for what is done at one go. */
export async function nextBatch(db: Db): Promise<number> {
  return theRow(await db.query<{ batch: number }>(`SELECT nextval('edit_batch') AS batch`)).batch;
}

/** Writes down what was done at one go. Returns the number by which it is undone; null where nothing was done. */
export async function noteEdits(
  db: Db,
  edits: readonly Edited[],
  { person, at, batch: given }: Editing,
): Promise<number | null> {
  if (edits.length === 0) return null;
  const batch = given ?? (await nextBatch(db));
  await db.query(
    `INSERT INTO edit (batch, at, person_id, kind, thing, name, what, before, after)
     SELECT $1, $2, $3, n.kind, n.thing, n.name, n.what, n.before, n.after
     FROM jsonb_to_recordset($4) AS n(kind text, thing bigint, name text, what text[], before jsonb, after jsonb)`,
    [batch, moment(at), person, JSON.stringify(edits)],
  );
  return batch;
}

/** What was done at one go, as it stands in the record: of many things the first, and how many more there are. */
export interface EditNow extends Omit<Edited, 'before' | 'after'> {
  id: EditId;
  batch: number;
  more: number;
  at: Instant;
  person: PersonId;
  by: string;
  undone: boolean;
}

/** The latest edits before one, of everything or of one thing. */
export async function listEdits(
  db: Db,
  asked: { of: { kind: EditedKind; thing: number } | null; before: EditId | null; most: number },
): Promise<EditNow[]> {
  const { of, before, most } = asked;
  const { rows } = await db.query<EditNow>(
    `SELECT e.id, e.batch, e.at, p.id AS person, p.name AS by, e.kind, e.thing, e.name, e.what, e.undone,
       (SELECT count(DISTINCT (o.kind, o.thing))::int - 1 FROM edit o WHERE o.batch = e.batch) AS more
     FROM edit e JOIN person p ON p.id = e.person_id
     WHERE ($1::text IS NULL OR (e.kind = $1 AND e.thing = $2)) AND ($3::bigint IS NULL OR e.id < $3)
       -- Of what was done at one go the first stands for all, where all is listed.
       AND ($1 IS NOT NULL OR NOT EXISTS (SELECT FROM edit o WHERE o.batch = e.batch AND o.id < e.id))
     ORDER BY e.id DESC LIMIT $4`,
    [of?.kind ?? null, of?.thing ?? null, before, most],
  );
  return rows;
}

/**
 * What was done to things of some kinds at one go, to be undone: held, so that it is undone once. Null where it was
 * undone already, is none of hers, or is of another kind.
 */
export async function takeBatch(
  db: Db,
  batch: number,
  person: PersonId,
  kinds: readonly EditedKind[],
): Promise<Edited[] | null> {
  const { rows } = await db.query<Edited & { undone: boolean }>(
    `SELECT kind, thing, name, what, before, after, undone
      FROM edit
      WHERE batch = $1 AND person_id = $2
      ORDER BY id
      FOR UPDATE`,
    [batch, person],
  );
  if (rows.length === 0 || rows.some(({ undone, kind }) => undone || !kinds.includes(kind))) return null;
  await db.query('UPDATE edit SET undone = true WHERE batch = $1', [batch]);
  return rows;
}
