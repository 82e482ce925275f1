import type { SourceId } from '#core/id';
import type { Person } from '../person/people';
import type { Instant } from '#core/when/interval';
import { moment, type Db, type Statement } from '../base/pool';

/** A host as it is to be treated, and how it stands. */
export interface HostNow {
  name: string;
  mostAtOnce: number;
  /** How long it is left alone after each request, in milliseconds; with a pause it is asked one thing at a time. */
  pauseMs: number;
  robotsHeeded: boolean;
  pausedAt: Instant | null;
  /** Not asked before: by its own wish, or for the pause. */
  nextAt: Instant | null;
  /** SHA-256 fingerprint of the certificate that is trusted although no authority vouches for it. */
  trustedCertificate: string | null;
  /** The one that was refused last. */
  refusedCertificate: string | null;
  /** How many runs in a day it is asked for at most; how many there were today, and when the next day begins. */
  runsADay: number | null;
  runsMade: number;
  runsUntil: Instant | null;
  sources: number;
  watches: number;
  failing: number;
}

/** Asked of one host after another, in the order of their names, until enough are found. */
const IS_WATCHED = `(
  SELECT true FROM source s JOIN watch w ON w.source_id = s.id
  WHERE s.host = h.name AND s.way <> 'posted' AND w.state <> 'deleted' LIMIT 1)`;

const HOSTS = `
SELECT h.name, h.most_at_once AS "mostAtOnce", h.pause_ms AS "pauseMs", h.robots_heeded AS "robotsHeeded",
  h.paused_at AS "pausedAt", h.next_at AS "nextAt",
  h.runs_a_day AS "runsADay", h.runs_made AS "runsMade", h.runs_until AS "runsUntil",
    h.trusted_certificate AS "trustedCertificate", h.refused_certificate AS "refusedCertificate",
    n.sources, n.watches, n.failing
FROM host h
CROSS JOIN LATERAL (
  SELECT count(DISTINCT s.id)::int AS sources, count(DISTINCT w.id)::int AS watches,
    count(DISTINCT s.id) FILTER (WHERE s.failing_since IS NOT NULL)::int AS failing
  FROM source s LEFT JOIN watch w ON w.source_id = s.id AND w.state <> 'deleted'
  WHERE s.host = h.name AND s.way <> 'posted'
) n
WHERE h.name > $1 AND (${IS_WATCHED} OR h.refused_certificate IS NOT NULL OR h.trusted_certificate IS NOT NULL)
ORDER BY h.name LIMIT $2`;

/**
 * Hosts that something is fetched from, or that were refused for their certificate, by name; those after a name, at
 * most so many.
 */
export async function listHosts(db: Db, after: string, most: number): Promise<HostNow[]> {
  return (await db.query<HostNow>(HOSTS, [after, most])).rows;
}

/** What can be set of a host. */
export interface HostSettings {
  mostAtOnce: number;
  pauseMs: number;
  robotsHeeded: boolean;
  /** How often it is looked at in a day at most, by the clock of whoever says so; null for no bound. */
  runsADay: number | null;
}

const SET = `
UPDATE host
SET most_at_once = $2, pause_ms = $3, robots_heeded = $4, runs_a_day = $5, runs_zone = $6, runs_owner = $7,
  runs_made = CASE WHEN runs_a_day IS NULL THEN 0 ELSE runs_made END WHERE name = $1`;

/** What is set of a host, held until the end of the caller's transaction; null of one that is not known. */
export async function holdHost(db: Db, name: string): Promise<HostSettings | null> {
  const { rows } = await db.query<HostSettings>(
    `SELECT most_at_once AS "mostAtOnce", pause_ms AS "pauseMs", robots_heeded AS "robotsHeeded",
      runs_a_day AS "runsADay"
      FROM host WHERE name = $1 FOR UPDATE`,
    [name],
  );
  return rows[0] ?? null;
}

/** Sets how a host is treated from its next request on. */
export async function setHost(
  db: Db,
  name: string,
  settings: HostSettings,
  by: Pick<Person, 'id' | 'zone'>,
): Promise<void> {
  const { mostAtOnce, pauseMs, robotsHeeded, runsADay } = settings;
  await db.query(SET, [
    name,
    mostAtOnce,
    pauseMs,
    robotsHeeded,
    runsADay,
    ...(runsADay === null ? [null, null] : [by.zone, by.id]),
  ]);
}

/** Pauses a host as a whole, or lets it be asked again; what fell due meanwhile is asked once. */
export async function pauseHost(db: Db, name: string, at: Instant | null): Promise<void> {
  await db.query('UPDATE host SET paused_at = $2 WHERE name = $1', [name, at === null ? null : moment(at)]);
}

/** Trusts the certificate that was refused last, or withdraws that. Its sources are asked anew. */
export async function trustHost(db: Db, name: string, fingerprint: string | null, now: Instant): Promise<void> {
  await db.query(
    `UPDATE host
      SET trusted_certificate = $2, refused_certificate = CASE WHEN $2::text IS NULL THEN refused_certificate END
      WHERE name = $1`,
    [name, fingerprint],
  );
  await db.query(
    `UPDATE due d SET due_at = $2
      FROM source s
      WHERE s.id = d.source_id AND s.host = $1 AND d.due_at IS NOT NULL AND s.failing_since IS NOT NULL`,
    [name, moment(now)],
  );
}

/** Remembers a certificate that was refused, so that somebody may decide on it. */
export function noteRefused(name: string, fingerprint: string, mostAtOnce: number): Statement {
  return {
    text: `INSERT INTO host (name, most_at_once, refused_certificate) VALUES ($1, $3, $2)
     ON CONFLICT (name) DO UPDATE SET refused_certificate = excluded.refused_certificate`,
    values: [name, fingerprint, mostAtOnce],
  };
}

/** Leaves the host of a source alone as a whole until a moment, at the least. */
export function leaveAloneUntil(sourceId: SourceId, until: Instant): Statement {
  const text = 'UPDATE host SET next_at = greatest(next_at, $2) FROM source s WHERE s.id = $1 AND host.name = s.host';
  return { text, values: [sourceId, moment(until)] };
}

/** What a fetch outside of any source has to know of a host. */
export interface HostRules {
  robotsHeeded: boolean;
  pauseMs: number;
  trustedCertificate: string | null;
}

/** Finds how a host is to be treated; one that is not known yet is treated as every new one. */
export async function findHostRules(db: Db, name: string): Promise<HostRules> {
  const { rows } = await db.query<HostRules>(
    `SELECT robots_heeded AS "robotsHeeded", pause_ms AS "pauseMs", trusted_certificate AS "trustedCertificate"
      FROM host
      WHERE name = $1`,
    [name],
  );
  return rows[0] ?? { robotsHeeded: true, pauseMs: 0, trustedCertificate: null };
}
