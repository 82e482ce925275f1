import type { PersonId, StencilId, WatchId } from '#core/id';
import { storedStencil, type Stencil } from '#core/plan/stencil';
import { noteEdits, type Editing } from './edits';
import { moment, theRow, type Db } from '../base/pool';

/** A stencil that is kept, with how many rules go on that it made. */
export interface StencilNow extends Stencil {
  id: StencilId;
  version: number;
  madeBy: string;
  made: number;
}

const STENCILS = `
SELECT s.id, s.version, s.definition, p.name AS "madeBy", (SELECT count(*)::int FROM rule u
WHERE u.stencil_id = s.id AND u.ended_at IS NULL) AS made
FROM stencil s JOIN person p ON p.id = s.made_by WHERE s.ended_at IS NULL`;

type Row = Pick<StencilNow, 'id' | 'version' | 'madeBy' | 'made'> & { definition: unknown };
const stencilOf = ({ definition, ...row }: Row): StencilNow => ({ ...row, ...storedStencil.read(definition) });

const MOST = 500;

/** The stencils that there are, the latest first. */
export async function listStencils(db: Db): Promise<StencilNow[]> {
  return (await db.query<Row>(`${STENCILS} ORDER BY s.id DESC LIMIT ${MOST}`)).rows.map(stencilOf);
}

/** One stencil; null where there is none. */
export async function findStencil(db: Db, id: StencilId): Promise<StencilNow | null> {
  const { rows } = await db.query<Row>(`${STENCILS} AND s.id = $1`, [id]);
  return rows[0] === undefined ? null : stencilOf(rows[0]);
}

/** Keeps a new stencil. */
export async function addStencil(db: Db, stencil: Stencil, { person, at }: Editing): Promise<StencilId> {
  const made = await db.query<{ id: StencilId }>(
    'INSERT INTO stencil (version, definition, made_by, made_at) VALUES (1, $1, $2, $3) RETURNING id',
    [storedStencil.write(stencil), person, moment(at)],
  );
  const { id } = theRow(made);
  await noteEdits(db, [{ kind: 'stencil', thing: id, name: stencil.name, what: ['made'], before: null, after: null }], {
    person,
    at,
  });
  return id;
}

/**
 * Says a stencil otherwise, if nobody did since. What it made stays as it is until that is offered the change and takes
 * it.
 */
export async function changeStencil(
  db: Db,
  { id, version }: Pick<StencilNow, 'id' | 'version'>,
  stencil: Stencil,
  what: string[],
  editing: Editing,
): Promise<boolean> {
  const { rowCount } = await db.query(
    'UPDATE stencil SET definition = $3, version = version + 1 WHERE id = $1 AND version = $2 AND ended_at IS NULL',
    [id, version, storedStencil.write(stencil)],
  );
  if (rowCount === 1)
    await noteEdits(db, [{ kind: 'stencil', thing: id, name: stencil.name, what, before: null, after: null }], editing);
  return rowCount === 1;
}

/** Ends a stencil: what it made goes on by itself. */
export async function endStencil(
  db: Db,
  { id, name }: Pick<StencilNow, 'id' | 'name'>,
  { person, at }: { person: PersonId; at: number },
): Promise<void> {
  const { rowCount } = await db.query('UPDATE stencil SET ended_at = $2 WHERE id = $1 AND ended_at IS NULL', [
    id,
    moment(at),
  ]);
  if (rowCount === 1)
    await noteEdits(db, [{ kind: 'stencil', thing: id, name, what: ['removed'], before: null, after: null }], {
      person,
      at,
    });
}

/** The watches on which a stencil made something that goes on. */
export async function watchesMadeBy(db: Db, id: StencilId, most: number): Promise<WatchId[]> {
  const { rows } = await db.query<{ id: WatchId }>(
    `SELECT DISTINCT u.watch_id AS id FROM rule u JOIN watch w ON w.id = u.watch_id AND w.state <> 'deleted'
     WHERE u.stencil_id = $1 AND u.ended_at IS NULL ORDER BY 1 LIMIT $2`,
    [id, most],
  );
  return rows.map((row) => row.id);
}
