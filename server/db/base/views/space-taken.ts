import { RETAINED, type RetainedKind } from '#core/retention';
import { DAY, type Instant } from '#core/when/interval';
import { moment, theRow, type Db } from '../pool';

// What is kept takes room: how much now, and by how much it grows.

/** What of a kind there is. */
export interface Taken {
  what: RetainedKind;
  /** On disk, with what leads to it. */
  bytes: number;
  /** What came within the last week takes about, by what all of it does. */
  weekBytes: number;
}

interface Part {
  table: string;
  time: string;
  /** The share of a table that is of this kind, in bytes and in rows, where it holds several. */
  bytes?: string;
  rows?: string;
}

const BODIES = `coalesce((SELECT sum(pg_column_size(x.html) + pg_column_size(x.plain)) 
  FROM delivery x WHERE x.plain IS NOT NULL), 0)`;

const PARTS: Record<RetainedKind, Part[]> = {
  runs: [
    { table: 'run', time: 'started_at' },
    { table: 'watch_run', time: 'started_at' },
    { table: 'verdict', time: 'made_at' },
  ],
  snapshots: [{ table: 'snapshot', time: 'taken_at' }],
  pictures: [{ table: 'picture', time: 'taken_at' }],
  readings: [{ table: 'reading', time: 'first_seen' }],
  news: [
    { table: 'change', time: 'seen_at' },
    { table: 'alert', time: 'seen_at' },
    { table: 'episode', time: 'opened_at' },
    { table: 'notice', time: 'made_at' },
    { table: 'first_reading', time: 'seen_at' },
    { table: 'cut', time: 'made_at' },
    { table: 'delivery', time: 'ordered_at', bytes: `greatest(0, pg_total_relation_size('delivery') - ${BODIES})` },
  ],
  editions: [{ table: 'edition', time: 'made_at' }],
  mails: [
    { table: 'delivery', time: 'ordered_at', bytes: BODIES, rows: 'x.plain IS NOT NULL' },
    { table: 'rendered_image', time: 'rendered_at' },
  ],
  files: [{ table: 'edition_file', time: '(SELECT e.made_at FROM edition e WHERE e.id = x.edition_id)' }],
  edits: [{ table: 'edit', time: 'at' }],
};

/** Rows are counted so far and no further: whoever looks waits for it. */
const MOST_COUNTED = 200_000;

/** A table with its partitions, where it has any. */
const treeOf = (table: string): string =>
  `(SELECT '${table}'::regclass AS relid UNION SELECT relid FROM pg_partition_tree('${table}'))`;

const sizeOf = ({ table, bytes }: Part): string =>
  bytes ?? `(SELECT sum(pg_total_relation_size(p.relid)) FROM ${treeOf(table)} p)`;

const timeOf = (time: string): string => (time.startsWith('(') ? time : `x.${time}`);

/** As many as there are by the last estimate of the database; where it made none, as far as they are counted. */
const countOf = ({ table, rows }: Part): string => {
  const counted = `(SELECT count(*) FROM (SELECT FROM ${table} x WHERE ${rows ?? 'true'} LIMIT ${MOST_COUNTED}) a)`;
  if (rows !== undefined) return counted;
  return `greatest((SELECT sum(c.reltuples) FROM ${treeOf(table)} p JOIN pg_class c ON c.oid = p.relid), ${counted})`;
};

function partSql(part: Part): string {
  const { table, time, rows = 'true' } = part;
  return `
SELECT ${sizeOf(part)} AS bytes, ${countOf(part)} AS "all",
  (SELECT count(*)
  FROM (SELECT FROM ${table} x WHERE ${timeOf(time)} > $1 AND ${rows} LIMIT ${MOST_COUNTED}) w) AS week`;
}

const sqlOf = (what: RetainedKind): string => `
SELECT sum(bytes)::float8 AS bytes,
  coalesce(sum(bytes * week / nullif(greatest("all", week), 0)), 0)::float8 AS "weekBytes"
FROM (${PARTS[what].map(partSql).join(' UNION ALL ')}) parts`;

/** What each kind takes, and what it grew by within the last week. */
export async function takenNow(db: Db, now: Instant): Promise<Taken[]> {
  const since = moment(now - 7 * DAY);
  const taken: Taken[] = [];
  for (const what of RETAINED)
    taken.push({ what, ...theRow(await db.query<Omit<Taken, 'what'>>(sqlOf(what), [since])) });
  return taken;
}
