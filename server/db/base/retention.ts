import type { PersonId } from '#core/id';
import type { RetainedKind, Retention } from '#core/retention';
import { DAY, type Instant } from '#core/when/interval';
import { letPartitionsGo, type Partitioned } from './partitions';
import { moment, type Db, type Pool } from './pool';

/** What nobody sets: these serve a purpose that is over by then. */
const DRAFT_DAYS = 90;
const DONE_DRAFT_DAYS = 30;
/** A signed message is of now by five minutes; its id is remembered far longer than it could be sent again. */
const POSTED_ID_DAYS = 2;

const STEP = 2_000;
const MOST_STEPS = 500;

/**
 * One kind of thing that grows old: how a few of them are removed. `$1` is the moment before which they are too old,
 * `$2` how many.
 */
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
  // Of a mail whose words are let go it stays known that it went, when and to whom.
  {
    name: 'words of mails',
    days: ({ mails }) => mails,
    remove: `UPDATE delivery SET html = NULL, plain = NULL WHERE ctid = ANY(ARRAY(
      SELECT x.ctid FROM delivery x WHERE x.ordered_at < $1 AND x.plain IS NOT NULL AND x.state IN ('sent', 'given up')
      LIMIT $2))`,
  },
  { name: 'pictures of mails', days: ({ mails }) => mails, remove: few('rendered_image', 'x.rendered_at < $1') },
  {
    name: 'attached files',
    days: ({ files }) => files,
    remove: few('edition_file', 'EXISTS (SELECT FROM edition e WHERE e.id = x.edition_id AND e.made_at < $1)'),
  },
  { name: 'editions', days: ({ editions }) => editions, remove: few('edition', 'x.made_at < $1') },
  {
    name: 'deliveries',
    days: ({ news }) => news,
    remove: few(
      'delivery',
      'x.ordered_at < $1 AND NOT EXISTS (SELECT FROM delivery_edition e WHERE e.delivery_id = x.id)',
    ),
  },
  {
    name: 'alerts',
    days: ({ news }) => news,
    remove: few('alert', 'x.seen_at < $1 AND NOT EXISTS (SELECT FROM edition_alert e WHERE e.alert_id = x.id)'),
  },
  {
    name: 'episodes',
    days: ({ news }) => news,
    remove: few('episode', 'x.closed_at < $1 AND NOT EXISTS (SELECT FROM alert a WHERE a.episode_id = x.id)'),
  },
  {
    name: 'changes',
    days: ({ news }) => news,
    remove: few('change', 'x.seen_at < $1 AND NOT EXISTS (SELECT FROM alert a WHERE a.change_id = x.id)'),
  },
  { name: 'first readings', days: ({ news }) => news, remove: few('first_reading', 'x.seen_at < $1') },
  {
    name: 'notices',
    days: ({ news }) => news,
    remove: few('notice', 'x.made_at < $1 AND NOT EXISTS (SELECT FROM edition_notice e WHERE e.notice_id = x.id)'),
  },
  {
    name: 'cuts',
    days: ({ news }) => news,
    remove: few(
      'cut',
      'x.made_at < $1 AND x.composed_at IS NOT NULL AND NOT EXISTS (SELECT FROM edition e WHERE e.cut_id = x.id)',
    ),
  },
  {
    name: 'what reports showed before',
    days: ({ news }) => news,
    remove: few(
      'report_shown',
      `x.shown_at < $1 AND EXISTS (SELECT FROM report_shown y
WHERE y.report_id = x.report_id AND y.series_id = x.series_id AND y.to_seq > x.to_seq)`,
    ),
  },
  { name: 'edits', days: ({ edits }) => edits, remove: few('edit', 'x.at < $1') },
  // What is needed of a partition that was let go of has gone to the rest; it leaves when nothing needs it any more.
  { name: 'older verdicts', days: ({ news }) => news, remove: few('verdict_rest', 'x.made_at < $1') },
  {
    name: 'older runs of watches',
    days: ({ news }) => news,
    remove: few('watch_run_rest', `x.started_at < $1 AND ${unneeded('x.run_id')}`),
  },
  {
    name: 'older runs',
    days: ({ news }) => news,
    remove: few('run_rest', `x.started_at < $1 AND ${unneeded('x.id')}`),
  },
  {
    name: 'pictures',
    days: ({ pictures }) => pictures,
    remove: few('picture', 'x.taken_at < $1 AND NOT EXISTS (SELECT FROM source s WHERE s.snapshot_id = x.snapshot_id)'),
  },
  {
    name: 'snapshots',
    days: ({ snapshots }) => snapshots,
    remove: few('snapshot', 'x.taken_at < $1 AND NOT EXISTS (SELECT FROM source s WHERE s.snapshot_id = x.id)'),
  },
  { name: 'drafts', days: () => DRAFT_DAYS, remove: few('draft', 'x.updated_at < $1') },
  { name: 'drafts that became watches', days: () => DONE_DRAFT_DAYS, remove: few('draft_done', 'x.done_at < $1') },
  {
    name: 'ids of posted messages',
    days: () => POSTED_ID_DAYS,
    remove: few('posted_message', 'x.received_at < $1 AND x.body IS NULL'),
  },
  {
    name: 'older readings',
    days: ({ readings }) => readings,
    remove: few('reading_rest', `x.first_seen < $1 AND x.last_seen < $1 AND NOT ${IN_FORCE}`),
  },
  { name: 'sessions', days: () => 0, remove: few('session', 'x.expires_at < $1') },
];

/** True of a run that no news leans on. */
function unneeded(run: string): string {
  return ['change', 'alert', 'notice']
    .map((table) => `NOT EXISTS (SELECT FROM ${table} n WHERE n.run_id = ${run})`)
    .join(' AND ');
}

/**
 * Removes what has grown old, in steps so small that nobody waits for one, and as far as `signal` allows. Returns how
 * many of each kind went. Two that tidy at once do not meet: the second finds nothing to do.
 */
export async function removeOld(
  pool: Pool,
  retention: Retention,
  now: Instant,
  signal?: AbortSignal,
): Promise<Record<string, number>> {
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
  {
    table: 'reading',
    days: ({ readings }) => readings,
    needed: (before) => `x.last_seen >= '${moment(before)}' OR ${IN_FORCE}`,
  },
  { table: 'verdict', days: ({ runs }) => runs, needed: () => 'x.change_id IS NOT NULL OR x.taken' },
  {
    table: 'watch_run',
    days: ({ runs }) => runs,
    needed: () => `x.outcome = 'failed' OR NOT (${unneeded('x.run_id')})`,
  },
  { table: 'run', days: ({ runs }) => runs, needed: () => `x.outcome = 'failed' OR NOT (${unneeded('x.id')})` },
];

/** For how long things are kept, as somebody chose it: what nobody chose is not among it. */
export interface Chosen {
  what: RetainedKind;
  days: number;
  by: string;
  at: Instant;
}

const CHOSEN = `SELECT k.what, k.days, q.name AS by, k.set_at AS at FROM retention k JOIN person q ON q.id = k.set_by`;

export const chosenRetention = async (db: Db): Promise<Chosen[]> => (await db.query<Chosen>(CHOSEN)).rows;

/** For how long things are kept now: as it was chosen, else by the configuration. */
export async function retentionNow(db: Db, configured: Retention): Promise<Retention> {
  const chosen = await chosenRetention(db);
  return { ...configured, ...Object.fromEntries(chosen.map(({ what, days }) => [what, days])) };
}

/** The same, held until the end of the caller's transaction. */
export async function holdRetention(db: Db, configured: Retention): Promise<Retention> {
  await db.query('LOCK TABLE retention IN SHARE ROW EXCLUSIVE MODE');
  return retentionNow(db, configured);
}

const CHOOSE = `
INSERT INTO retention (what, days, set_by, set_at) VALUES ($1, $2, $3, $4)
ON CONFLICT (what) DO UPDATE SET days = $2, set_by = $3, set_at = $4`;

/** Chooses for how long something is kept; what is too old goes when the worker tidies next. */
export async function keepFor(db: Db, what: RetainedKind, days: number, by: PersonId, now: Instant): Promise<void> {
  await db.query(CHOOSE, [what, days, by, moment(now)]);
}
