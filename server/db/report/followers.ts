import type { CutId, ReportId, WatchId } from '#core/id';
import { storedOrder } from '#core/tell/definition';
import type { Instant } from '#core/when/interval';
import { followedBy } from './following';
import { moment, type Db, type Statement } from '../base/pool';

// Reports that are cut with what happens (4): with each run of the watches that they follow, or with a commit that
// brought what they take.

/** Of which watches a commit is, and of which of them it brought news. */
export interface Happened {
  looked: WatchId[];
  moved: WatchId[];
  /** Reports that are cut with what happens, where they were asked for already. */
  followers?: FollowerRow[];
}

/** A report that is cut with what happens, as it is stored. */
export interface FollowerRow {
  id: ReportId;
  with: 'run' | 'news';
  definition: unknown;
}

/** A report that is to be cut with a commit, or begins to gather with it. */
export interface Follower {
  report: ReportId;
  /** For how long it gathers from the first news on, in ms; null where it is cut with the commit. */
  gather: number | null;
}

const FOLLOWERS = `
SELECT r.id, r.cut_with AS with, v.definition FROM report r
JOIN report_version v ON v.report_id = r.id AND v.version = r.version
WHERE r.cut_with IS NOT NULL AND r.ended_at IS NULL AND r.gathers_by IS NULL ORDER BY r.id`;

/** All reports that are cut with what happens, but for those that end first what they gather. */
export const allFollowers: Statement = { name: 'followers', text: FOLLOWERS };

/** The reports that follow what happened. */
export async function followersOf(db: Db, { looked, moved, followers: known }: Happened): Promise<Follower[]> {
  if (looked.length + moved.length === 0) return [];
  const rows = known ?? (await db.query<FollowerRow>(allFollowers)).rows;
  const followers: Follower[] = [];
  for (const { id, with: comes, definition } of rows) {
    // What a newer Shrike wrote holds up no run here: its news falls into a cut of that one.
    const order = storedOrder.readKnown(definition);
    if (order === null) continue;
    const among = comes === 'run' ? [...looked, ...moved] : moved;
    if (among.length === 0) continue;
    const followed = await followedBy(db, order, among);
    if (followed !== null && followed.length === 0) continue;
    const { cadence } = order;
    followers.push({ report: id, gather: (cadence.cut === 'at once' ? cadence.gather : undefined) ?? null });
  }
  return followers;
}

const BEGUN = `
UPDATE report r SET due_at = coalesce(r.due_at, $2::timestamptz + n.gather * interval '1 millisecond')
FROM jsonb_to_recordset($1) AS n(report int, gather bigint) WHERE r.id = n.report`;

const CUT = `
WITH placed AS MATERIALIZED (SELECT place_news() AS last), cut AS (
  INSERT INTO cut (id, report_id, report_version, number, from_seq, to_seq, from_at, made_at, try_at)
  SELECT n.id, r.id, r.version, r.cuts + 1, r.cut_seq, placed.last, r.cut_at, greatest(r.cut_at, $2), $2
  FROM jsonb_to_recordset($1) AS n(id bigint, report int) JOIN report r ON r.id = n.report CROSS JOIN placed
  RETURNING report_id, number, to_seq, made_at
)
UPDATE report r SET cut_seq = cut.to_seq, cut_at = cut.made_at, cuts = cut.number FROM cut WHERE r.id = cut.report_id`;

/** How many numbers cutting these needs. */
export const countCuts = (followers: Follower[]): number => followers.filter(({ gather }) => gather === null).length;

/**
 * Cuts reports, whose locks are held, with a commit, or has them gather from it on. It gives news its place: nothing
 * but other cuts is to come after it.
 */
export function cutFollowers(followers: Follower[], ids: CutId[], at: Instant): Statement[] {
  const gathering = followers.filter(({ gather }) => gather !== null);
  const cut = followers
    .filter(({ gather }) => gather === null)
    .map(({ report }, place) => ({ id: ids[place], report }));
  return [
    ...(gathering.length === 0 ? [] : [{ text: BEGUN, values: [JSON.stringify(gathering), moment(at)] }]),
    ...(cut.length === 0 ? [] : [{ text: CUT, values: [JSON.stringify(cut), moment(at)] }]),
  ];
}
