import { readPulse } from '#server/db/workers';
import { services } from '../../services.server';

/** Tells of web, database and worker; 503 unless all of them are well. */
export async function loader() {
  const { pool, clock } = services();
  const pulse = await readPulse(pool, clock()).catch(() => null);
  const state = { web: 'ok', database: pulse === null ? 'unreachable' : 'ok', worker: pulse !== null && pulse.workers > 0 ? 'ok' : 'not seen' };
  const well = state.database === 'ok' && state.worker === 'ok';
  return Response.json({ ...state, workers: pulse?.workers ?? 0, overdue: pulse?.overdue ?? null }, { status: well ? 200 : 503 });
}
