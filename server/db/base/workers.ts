import { SECOND, type Instant } from '#core/when/interval';
import { moment, theRow, type Db } from './pool';

/** A worker that has not been seen for this long is taken for dead. */
const WORKER_DEAD_AFTER = 30 * SECOND;
const FORGOTTEN_AFTER = 3600 * SECOND;

/** Tells that a worker lives. */
export async function beat(
  db: Db,
  worker: { id: string; process: string; startedAt: Instant; lost: number; fullSince: Instant | null },
  now: Instant,
): Promise<void> {
  await db.query(
    `INSERT INTO worker (id, process, started_at, seen_at, connections_lost, full_since) VALUES ($1, $2, $3, $4, $5, $6)
     ON CONFLICT (id) DO UPDATE SET seen_at = excluded.seen_at, connections_lost = excluded.connections_lost,
       full_since = excluded.full_since`,
    [
      worker.id,
      worker.process,
      moment(worker.startedAt),
      moment(now),
      worker.lost,
      worker.fullSince === null ? null : moment(worker.fullSince),
    ],
  );
  await db.query('DELETE FROM worker WHERE seen_at < $1', [moment(now - FORGOTTEN_AFTER)]);
}

/** Tells that a worker stopped in good order. */
export async function retire(db: Db, id: string): Promise<void> {
  await db.query('DELETE FROM worker WHERE id = $1', [id]);
}

/** The pulse of the whole: live workers, when one was last seen, and when the next source is due. */
export interface Pulse {
  workers: number;
  lastSeen: Instant | null;
  nextDue: Instant | null;
  overdue: number;
  /** Connections that the living workers lost to the database while idle. */
  lost: number;
  /** Since when the living workers have no room to store what they read; null where they have. */
  fullSince: Instant | null;
}

const OVERDUE_AFTER = 120 * SECOND;

/** Reads the pulse at a moment. */
export async function readPulse(db: Db, now: Instant): Promise<Pulse> {
  const result = await db.query<Pulse>(
    `SELECT (SELECT count(*) FROM worker WHERE seen_at > $1) AS workers, (SELECT max(seen_at)
      FROM worker) AS "lastSeen",
       (SELECT min(due_at) FROM due) AS "nextDue", (SELECT count(*) FROM due WHERE due_at < $2) AS overdue,
       (SELECT coalesce(sum(connections_lost), 0)::int FROM worker WHERE seen_at > $1) AS lost,
       (SELECT min(full_since) FROM worker WHERE seen_at > $1) AS "fullSince"`,
    [moment(now - WORKER_DEAD_AFTER), moment(now - OVERDUE_AFTER)],
  );
  return theRow(result);
}
