import { DAY, type Instant } from '#core/when/interval';
import { inTransaction, moment, type Db, type Pool } from './pool';

/** How long what is recorded is kept, in days. What a trail or an edition needs is kept as long as that is, whatever is said of it here. */
export interface Retention {
  /** Looks that no news leans on, failed ones aside (each look at a sensor brings another reading), and what rules made of them without telling. */
  routineDays: number;
  /** Bodies and pictures of pages that a change was read from; the latest of each source is always kept. */
  snapshotDays: number;
  /** Readings; the one in force is always kept, however old. */
  readingDays: number;
  /** Changes, alerts, episodes that are over, editions, deliveries, notices, and the looks behind them. */
  newsDays: number;
}

/** What nobody sets: these serve a purpose that is over by then. */
const DRAFT_DAYS = 90;
const DONE_DRAFT_DAYS = 30;
/** A signed message is of now by five minutes; its id is remembered far longer than it could be sent again. */
const POSTED_ID_DAYS = 2;

const STEP = 2_000;
const MOST_STEPS = 500;

/** One kind of thing that grows old: how a few of them are removed. `$1` is the moment before which they are too old, `$2` how many. */
interface Kind {
  name: string;
  days: (retention: Retention) => number;
  remove: string;
}

const few = (table: string, condition: string) =>
  `DELETE FROM ${table} WHERE ctid = ANY(ARRAY(SELECT x.ctid FROM ${table} x WHERE ${condition} LIMIT $2))`;

// News goes first, and then what was kept for it.
const KINDS: Kind[] = [
  { name: 'editions', days: ({ newsDays }) => newsDays, remove: few('edition', 'x.made_at < $1') },
  {
    name: 'alerts',
    days: ({ newsDays }) => newsDays,
    remove: few('alert', 'x.seen_at < $1 AND NOT EXISTS (SELECT FROM edition_alert e WHERE e.alert_id = x.id)'),
  },
  {
    name: 'episodes',
    days: ({ newsDays }) => newsDays,
    remove: few('episode', 'x.closed_at < $1 AND NOT EXISTS (SELECT FROM alert a WHERE a.episode_id = x.id)'),
  },
  {
    name: 'changes',
    days: ({ newsDays }) => newsDays,
    remove: few('change', 'x.seen_at < $1 AND NOT EXISTS (SELECT FROM alert a WHERE a.change_id = x.id)'),
  },
  {
    name: 'notices',
    days: ({ newsDays }) => newsDays,
    remove: few('notice', 'x.made_at < $1 AND NOT EXISTS (SELECT FROM edition_notice e WHERE e.notice_id = x.id)'),
  },
  { name: 'verdicts', days: ({ routineDays }) => routineDays, remove: few('verdict', 'x.made_at < $1 AND x.change_id IS NULL AND NOT x.taken') },
  // One that told of something without a change goes with what it told.
  { name: 'verdicts that told', days: ({ newsDays }) => newsDays, remove: few('verdict', 'x.made_at < $1 AND x.change_id IS NULL') },
  {
    name: 'looks of watches',
    days: ({ routineDays }) => routineDays,
    remove: few('watch_run', `x.started_at < $1 AND x.outcome <> 'failed' AND ${unneeded('x.run_id')}`),
  },
  { name: 'older looks of watches', days: ({ newsDays }) => newsDays, remove: few('watch_run', `x.started_at < $1 AND ${unneeded('x.run_id')}`) },
  {
    name: 'looks',
    days: ({ routineDays }) => routineDays,
    remove: few('run', `x.started_at < $1 AND x.outcome <> 'failed' AND ${unneeded('x.id')}`),
  },
  { name: 'older looks', days: ({ newsDays }) => newsDays, remove: few('run', `x.started_at < $1 AND ${unneeded('x.id')}`) },
  {
    name: 'pictures',
    days: ({ snapshotDays }) => snapshotDays,
    remove: few('picture', 'x.taken_at < $1 AND NOT EXISTS (SELECT FROM source s WHERE s.snapshot_id = x.snapshot_id)'),
  },
  {
    name: 'snapshots',
    days: ({ snapshotDays }) => snapshotDays,
    remove: few('snapshot', 'x.taken_at < $1 AND NOT EXISTS (SELECT FROM source s WHERE s.snapshot_id = x.id)'),
  },
  { name: 'drafts', days: () => DRAFT_DAYS, remove: few('draft', 'x.updated_at < $1') },
  { name: 'drafts that became watches', days: () => DONE_DRAFT_DAYS, remove: few('draft_done', 'x.done_at < $1') },
  { name: 'ids of posted messages', days: () => POSTED_ID_DAYS, remove: few('posted_message', 'x.received_at < $1 AND x.body IS NULL') },
  { name: 'sessions', days: () => 0, remove: few('session', 'x.expires_at < $1') },
];

/** True of a run that no news leans on. */
function unneeded(run: string): string {
  return ['change', 'alert', 'notice'].map((table) => `NOT EXISTS (SELECT FROM ${table} n WHERE n.run_id = ${run})`).join(' AND ');
}

/**
 * Removes what has grown old, in steps so small that nobody waits for one, and as far as `signal` allows. Returns how many of each
 * kind went. Two that tidy at once do not meet: the second finds nothing to do.
 */
export async function removeOld(pool: Pool, retention: Retention, now: Instant, signal?: AbortSignal): Promise<Record<string, number>> {
  const removed: Record<string, number> = {};
  for (const { name, days, remove } of KINDS) {
    const before = moment(now - days(retention) * DAY);
    for (let step = 0; step < MOST_STEPS && signal?.aborted !== true; step += 1) {
      const { rowCount } = await pool.query(remove, [before, STEP]);
      if (rowCount) removed[name] = (removed[name] ?? 0) + rowCount;
      if ((rowCount ?? 0) < STEP) break;
    }
  }
  const readings = await removeReadings(pool, now - retention.readingDays * DAY);
  if (readings > 0) removed.readings = readings;
  return removed;
}

/** Readings are in partitions by month: one that is too old as a whole is dropped, and what of it is in force stays. */
async function removeReadings(pool: Pool, before: Instant): Promise<number> {
  const { rows } = await pool.query<{ name: string }>(
    `SELECT c.relname AS name FROM pg_inherits i JOIN pg_class c ON c.oid = i.inhrelid WHERE i.inhparent = 'reading'::regclass AND c.relname ~ '^reading_\\d{4}_\\d{2}$'`,
  );
  const old = rows.map(({ name }) => name).filter((name) => endOf(name) <= before);
  let removed = 0;
  for (const name of old) removed += await inTransaction(pool, (db) => dropPartition(db, name, before));
  const rest = await pool.query(
    `DELETE FROM reading_rest r WHERE r.first_seen < $1 AND r.last_seen < $1 AND NOT EXISTS (SELECT FROM series s WHERE s.id = r.series_id AND s.open_since = r.first_seen)`,
    [moment(before)],
  );
  return removed + (rest.rowCount ?? 0);
}

/** The moment at which the month of a partition is over. */
function endOf(partition: string): Instant {
  const [, year = '0', month = '0'] = /(\d{4})_(\d{2})$/.exec(partition) ?? [];
  return Date.UTC(Number(year), Number(month), 1);
}

async function dropPartition(db: Db, name: string, before: Instant): Promise<number> {
  await db.query(`SET LOCAL lock_timeout = '3s'`);
  const kept = `SELECT r.* FROM ${name} r WHERE r.last_seen >= $1 OR EXISTS (SELECT FROM series s WHERE s.id = r.series_id AND s.open_since = r.first_seen)`;
  await db.query(`CREATE TEMP TABLE still_in_force ON COMMIT DROP AS ${kept.replace('$1', `'${moment(before)}'`)}`);
  const { rows } = await db.query<{ n: number }>(`SELECT (SELECT count(*) FROM ${name}) - (SELECT count(*) FROM still_in_force) AS n`);
  await db.query(`ALTER TABLE reading DETACH PARTITION ${name}`);
  await db.query(`DROP TABLE ${name}`);
  await db.query('INSERT INTO reading SELECT * FROM still_in_force');
  return rows[0]?.n ?? 0;
}
