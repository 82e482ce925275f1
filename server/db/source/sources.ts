import type { SourceId, WatchId } from '#core/id';
import { randomUUID } from 'node:crypto';
import { shareOf, firstDue, type Instant } from '#core/when/interval';
import { SOURCE_WAYS, type SourceRequest, type SourceWay } from '../../fetch/request';
import { moment, type Db } from '../base/pool';
import { ensureSite } from './sites';

/** A source that this worker has leased, with what its next fetch should send along. */
export interface ClaimedSource {
  id: SourceId;
  address: string;
  site: string;
  dueAt: Instant;
  token: string;
  etag: string | null;
  lastModified: string | null;
  bodyHash: Buffer | null;
  intervalMs: number;
  way: SourceWay;
  request: SourceRequest;
  failures: number;
  robotsHeeded: boolean;
  pauseMs: number;
  /** How often in a row a run of it came to no end, because the process that made it did. */
  deaths: number;
  /** There are reports that are cut with each run, also with those that bring nothing. */
  toldEachRun: boolean;
}

const CLAIM = `
SELECT s.id, s.address, t.name AS site, d.due_at AS "dueAt", d.lease_token AS token, s.etag,
  s.last_modified AS "lastModified",
  s.body_hash AS "bodyHash", s.interval_ms AS "intervalMs", s.way, s.request, s.failures,
    h.robots_heeded AS "robotsHeeded",
  h.pause_ms AS "pauseMs", d.deaths, EXISTS (SELECT FROM report r
  WHERE r.cut_with = 'run' AND r.ended_at IS NULL) AS "toldEachRun"
FROM claim_due($1, $2, $3, $4, $5, $6, $7) d JOIN source s ON s.id = d.source_id JOIN site t ON t.id = s.site_id
JOIN host h ON h.name = d.host`;

/** This process, to those that come after it. */
const PROCESS = randomUUID();

/**
 * Which of the due sources: those of some ways, and of those the ones that may have ended a process, or all the others.
 */
export interface Due {
  ways?: readonly SourceWay[];
  suspects?: boolean;
}

/** Leases up to `most` sources that are due, never more of one host at once than its allowance. */
export async function claimDue(
  db: Db,
  now: Instant,
  leaseMs: number,
  most: number,
  { ways = SOURCE_WAYS, suspects }: Due = {},
): Promise<ClaimedSource[]> {
  const values = [moment(now), moment(now + leaseMs), most, randomUUID(), ways, PROCESS, suspects ?? null];
  const { rows } = await db.query<ClaimedSource>({ name: 'claim', text: CLAIM, values });
  return rows;
}

const RENEW = `
WITH held AS (
  SELECT source_id FROM due WHERE (source_id, lease_token) IN (SELECT * FROM unnest($1::int[], $2::uuid[]))
  FOR UPDATE SKIP LOCKED
) UPDATE due d SET lease_until = $3 FROM held WHERE d.source_id = held.source_id`;

/** Holds on to leased sources whose runs go on. One whose lease was taken by another meanwhile is left to it. */
export async function renewLeases(db: Db, held: Pick<ClaimedSource, 'id' | 'token'>[], until: Instant): Promise<void> {
  if (held.length === 0) return;
  await db.query({
    name: 'renew',
    text: RENEW,
    values: [held.map(({ id }) => id), held.map(({ token }) => token), moment(until)],
  });
}

const GIVEN_BACK = `
UPDATE due SET lease_until = NULL, lease_token = NULL
WHERE (source_id, lease_token) IN (SELECT * FROM unnest($1::int[], $2::uuid[]))`;

/** Lets go of leased sources whose runs came to nothing: they are due again at once. */
export async function giveBack(db: Db, claimed: Pick<ClaimedSource, 'id' | 'token'>[]): Promise<void> {
  if (claimed.length === 0) return;
  await db.query(GIVEN_BACK, [claimed.map(({ id }) => id), claimed.map(({ token }) => token)]);
}

/** When the next source is due; null when none is. */
export async function nextDueAt(db: Db): Promise<Instant | null> {
  const { rows } = await db.query<{ due: Instant | null }>('SELECT min(due_at) AS due FROM due');
  return rows[0]?.due ?? null;
}

/** Finds or makes the source for an address; two watches on one address share it. */
export async function ensureSource(
  db: Db,
  source: {
    address: string;
    host: string;
    site: string;
    mostAtOnce: number;
    way?: SourceWay;
    request?: SourceRequest;
    now: Instant;
  },
): Promise<SourceId> {
  await db.query('INSERT INTO host (name, most_at_once) VALUES ($1, $2) ON CONFLICT DO NOTHING', [
    source.host,
    source.mostAtOnce,
  ]);
  const { rows } = await db.query<{ id: SourceId }>(
    `INSERT INTO source (address, host, site_id, created_at, way, request) VALUES ($1, $2, $3, $4, $5, $6)
     ON CONFLICT (address, way, request_key) DO UPDATE SET site_id = source.site_id RETURNING id`,
    [
      source.address,
      source.host,
      await ensureSite(db, source.site),
      moment(source.now),
      source.way ?? 'plain',
      JSON.stringify(source.request ?? {}),
    ],
  );
  const [row] = rows;
  if (row === undefined) throw new Error('the source was neither made nor found');
  await db.query(
    'INSERT INTO due (source_id, host, way) SELECT id, host, way FROM source WHERE id = $1 ON CONFLICT DO NOTHING',
    [row.id],
  );
  return row.id;
}

/**
 * Sets the interval and due time of sources from their running watches: the shortest interval any asks, and never later
 * than its present due time. Without running watches it rests. Lock the sources first.
 */
export async function reschedule(db: Db, sourceIds: readonly SourceId[], now: Instant): Promise<void> {
  await db.query(
    `WITH asked AS (
       SELECT s.id, min(w.interval_ms) AS shortest, min(w.read_due_at) AS earliest
       FROM source s LEFT JOIN watch w ON w.source_id = s.id AND w.state = 'running'
       WHERE s.id = ANY($1) GROUP BY s.id
     ), source AS (
       UPDATE source s SET interval_ms = asked.shortest FROM asked WHERE s.id = asked.id
     )
     UPDATE due d
     SET due_at = CASE WHEN asked.shortest IS NULL THEN NULL ELSE LEAST(asked.earliest, greatest(d.due_at, $2)) END
     FROM asked WHERE d.source_id = asked.id`,
    [sourceIds, moment(now)],
  );
}

/** Takes a source's row for this transaction, so that no run is stored meanwhile. */
export async function lockSource(db: Db, sourceId: SourceId): Promise<void> {
  await db.query('SELECT FROM source WHERE id = $1 FOR UPDATE', [sourceId]);
}

/**
 * Does the same to the sources of watches, and returns which those are: in one order, so that two who do so do not wait
 * for each other for ever.
 */
export async function lockSourcesOf(db: Db, watchIds: readonly WatchId[]): Promise<SourceId[]> {
  const { rows } = await db.query<{ id: SourceId }>(
    'SELECT id FROM source WHERE id IN (SELECT source_id FROM watch WHERE id = ANY($1)) ORDER BY id FOR UPDATE',
    [watchIds],
  );
  return rows.map(({ id }) => id);
}

/** The first due time after a baseline, spread by the source's own share. */
export function spreadDue(sourceId: SourceId, now: Instant, intervalMs: number): Instant {
  return firstDue(now, intervalMs, shareOf(`source ${sourceId}`));
}
