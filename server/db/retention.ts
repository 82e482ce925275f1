import { DAY, type Instant } from '#core/when/interval';
import { letPartitionsGo, type Partitioned } from './partitions';
import { moment, type Pool } from './pool';

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

/** True of a reading `x` that stands. */
const IN_FORCE = 'EXISTS (SELECT FROM series s WHERE s.id = x.series_id AND s.open_since = x.first_seen)';

// News goes first, and then what was kept for it.
const KINDS: Kind[] = [
  { name: 'editions', days: ({ newsDays }) => newsDays, remove: few('edition', 'x.made_at < $1') },
  {
    name: 'deliveries',
    days: ({ newsDays }) => newsDays,
    remove: few('delivery', 'x.ordered_at < $1 AND NOT EXISTS (SELECT FROM delivery_edition e WHERE e.delivery_id = x.id)'),
  },
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
  // What is needed of a partition that was let go of has gone to the rest; it leaves when nothing needs it any more.
  { name: 'older verdicts', days: ({ newsDays }) => newsDays, remove: few('verdict_rest', 'x.made_at < $1') },
  {
    name: 'older looks of watches',
    days: ({ newsDays }) => newsDays,
    remove: few('watch_run_rest', `x.started_at < $1 AND ${unneeded('x.run_id')}`),
  },
  { name: 'older looks', days: ({ newsDays }) => newsDays, remove: few('run_rest', `x.started_at < $1 AND ${unneeded('x.id')}`) },
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
  {
    name: 'older readings',
    days: ({ readingDays }) => readingDays,
    remove: few('reading_rest', `x.first_seen < $1 AND x.last_seen < $1 AND NOT ${IN_FORCE}`),
  },
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
  for (const { table, days, needed } of NEEDED) {
    const before = now - days(retention) * DAY;
    const gone = await letPartitionsGo(pool, table, before, needed(before));
    if (gone > 0) removed[table] = gone;
  }
  return removed;
}

/** What of a partition that is too old is needed still. */
const NEEDED: { table: Partitioned; days: (retention: Retention) => number; needed: (before: Instant) => string }[] = [
  { table: 'reading', days: ({ readingDays }) => readingDays, needed: (before) => `x.last_seen >= '${moment(before)}' OR ${IN_FORCE}` },
  { table: 'verdict', days: ({ routineDays }) => routineDays, needed: () => 'x.change_id IS NOT NULL OR x.taken' },
  { table: 'watch_run', days: ({ routineDays }) => routineDays, needed: () => `x.outcome = 'failed' OR NOT (${unneeded('x.run_id')})` },
  { table: 'run', days: ({ routineDays }) => routineDays, needed: () => `x.outcome = 'failed' OR NOT (${unneeded('x.id')})` },
];
