import type { LostConnections } from '#server/db/base/lost-connections';
import { readPulse } from '#server/db/base/workers';
import { services } from '../../../services.server';

const lostOf = ({ count, lastAt, lastReason }: LostConnections) => ({
  count,
  last: lastAt === null ? null : { at: new Date(lastAt).toISOString(), reason: lastReason },
});

/** Tells of web, database, worker and storage; 503 unless all of them are well. */
export async function loader() {
  const { pool, lost, clock } = services();
  const pulse = await readPulse(pool, clock()).catch(() => null);
  const state = {
    web: 'ok',
    database: pulse === null ? 'unreachable' : 'ok',
    worker: pulse !== null && pulse.workers > 0 ? 'ok' : 'not seen',
    storage: pulse === null ? 'unreachable' : pulse.fullSince === null ? 'ok' : 'full',
  };
  const well = Object.values(state).every((each) => each === 'ok');
  const connectionsLost = { web: lostOf(lost), workers: pulse?.lost ?? null };
  return Response.json(
    { ...state, workers: pulse?.workers ?? 0, overdue: pulse?.overdue ?? null, connectionsLost },
    { status: well ? 200 : 503 },
  );
}
