import type { PersonId, QuestionId, SnapshotId, SourceId, WatchId } from '#core/id';
import type { Value } from '#core/value/value';
import { accept } from '#core/read/frame/accept';
import { formatValue } from '#core/value/format';
import type { Instant } from '#core/when/interval';
import { moment, type Db } from '../db/base/pool';
import { lockSource } from '../db/source/sources';
import { findWatch } from '../db/watch/views/watch-now';
import { editWatch } from './edit-watch';
import type { Frame, FrameChange } from '#core/read/frame/types';

/** A question as it stands open. */
export interface OpenQuestion {
  id: QuestionId;
  watchId: WatchId;
  field: string;
  identity: string;
  /** Of how many records of the watch it is asked. */
  records: number;
  was: Value | null;
  value: Value;
  text: string;
  changes: FrameChange[];
  frame: Frame | null;
  around: boolean;
  askedAt: Instant;
  seenAt: Instant;
  snapshotId: SnapshotId | null;
  snapshotBefore: SnapshotId | null;
  /** Other watches of the site that ask the same. */
  elsewhere: { watchId: WatchId; subject: string }[];
}

/** What a row of a question is read as, under the name that a query gives it. */
const columnsOf = (
  of: string,
) => `${of}.id, ${of}.watch_id AS "watchId", ${of}.field, ${of}.identity, ${of}.records, ${of}.was,
  ${of}.found AS value,
  ${of}.found_text AS text, ${of}.changes, ${of}.frame, ${of}.around,
  ${of}.asked_at AS "askedAt", ${of}.seen_at AS "seenAt", ${of}.snapshot_id AS "snapshotId",
  ${of}.snapshot_before AS "snapshotBefore"`;

/** The questions that are the same as `q`, at other watches of its site. */
const SAME = `
  FROM question o JOIN watch ow ON ow.id = o.watch_id JOIN source os ON os.id = ow.source_id
  WHERE md5(o.same_as) = md5(q.same_as) AND o.same_as = q.same_as AND o.answer IS NULL AND o.watch_id <> q.watch_id
    AND ow.state <> 'deleted'
    AND os.site_id = (SELECT s.site_id FROM watch w JOIN source s ON s.id = w.source_id WHERE w.id = q.watch_id)`;

const MOST_ELSEWHERE = 500;

/** What is asked of a watch, the oldest first, each with the other watches that ask the same. */
export async function listQuestions(db: Db, watchId: WatchId): Promise<OpenQuestion[]> {
  const { rows } = await db.query<OpenQuestion>(
    `SELECT ${columnsOf('q')}, coalesce((SELECT jsonb_agg(e) FROM (
       SELECT DISTINCT ow.id AS "watchId", ow.subject ${SAME} ORDER BY ow.subject, ow.id
       LIMIT ${MOST_ELSEWHERE}) e), '[]') AS elsewhere
     FROM question q WHERE q.watch_id = $1 AND q.answer IS NULL ORDER BY q.id`,
    [watchId],
  );
  return rows;
}

/** One question that is open, and those that are the same at other watches of the site, if they are asked for. */
export async function listToAnswer(
  db: Db,
  watchId: WatchId,
  id: QuestionId,
  elsewhere: boolean,
): Promise<Omit<OpenQuestion, 'elsewhere'>[]> {
  const { rows } = await db.query<OpenQuestion>(
    `WITH asked AS (SELECT * FROM question WHERE id = $2 AND watch_id = $1 AND answer IS NULL)
     SELECT ${columnsOf('q')} FROM asked q
     UNION ALL
     SELECT ${columnsOf('o')}
     FROM asked q, LATERAL (SELECT o.* ${SAME} ORDER BY o.id LIMIT ${MOST_ELSEWHERE}) o WHERE $3`,
    [watchId, id, elsewhere],
  );
  return rows;
}

/** Keeps an answer; false where somebody has given one meanwhile, or it has passed. */
export async function answerQuestion(
  db: Db,
  id: QuestionId,
  answer: 'yes' | 'no',
  by: PersonId,
  now: Instant,
): Promise<boolean> {
  const { rowCount } = await db.query(
    'UPDATE question SET answer = $2, answered_by = $3, answered_at = $4 WHERE id = $1 AND answer IS NULL',
    [id, answer, by, moment(now)],
  );
  return rowCount === 1;
}

/**
 * Yes, from here on: what was found is what the watch follows, in a new version that says who said so. False where
 * somebody has answered meanwhile, or the watch is gone.
 */
export async function acceptQuestion(
  db: Db,
  question: Omit<OpenQuestion, 'elsewhere'>,
  { by, always }: { by: PersonId; always: boolean },
  now: Instant,
): Promise<boolean> {
  const found = await findWatch(db, question.watchId);
  if (found === null) return false;
  // As a run does: the source first, then what is asked. The watch is read under the lock, in the version that it has
  // by then.
  await lockSource(db, found.sourceId);
  const watch = await findWatch(db, question.watchId);
  if (watch === null || !(await answerQuestion(db, question.id, 'yes', by, now))) return false;
  const label = watch.definition.fields.find(({ key }) => key === question.field)?.label ?? question.field;
  const note = `${formatValue(question.value, 'en-GB')} as it was found is the ${label}, from here on.`;
  const plan = {
    definition: accept(watch.definition, question, always),
    frequency: watch.frequency,
    rules: watch.rules,
  };
  const edited = await editWatch(db, watch.id, plan, { basedOn: watch.version, editor: by, note }, now);
  if (!edited.ok) throw new Error(`a watch was edited while its question was answered: ${edited.error}`);
  return true;
}

/**
 * Of things to ask those that are not asked already at another watch of the site: the owner is told once of all. Two
 * runs wait for one another.
 */
export async function notAskedElsewhere<Asked extends { watchId: WatchId; sameAs: string[] }>(
  db: Db,
  sourceId: SourceId,
  asked: Asked[],
): Promise<Asked[]> {
  if (asked.length === 0) return [];
  await db.query(`SELECT pg_advisory_xact_lock(hashtext('questions'), site_id) FROM source WHERE id = $1`, [sourceId]);
  const { rows } = await db.query<{ sameAs: string }>(
    `SELECT DISTINCT q.same_as AS "sameAs" FROM question q JOIN watch w ON w.id = q.watch_id
      JOIN source s ON s.id = w.source_id
     WHERE s.site_id = (SELECT site_id FROM source WHERE id = $1) AND md5(q.same_as) = ANY(SELECT md5(each)
     FROM unnest($2::text[]) each) AND q.answer IS NULL`,
    [sourceId, asked.flatMap(({ sameAs }) => sameAs)],
  );
  const known = new Set(rows.map((row) => row.sameAs));
  const told: Asked[] = [];
  for (const each of asked) {
    if (each.sameAs.every((same) => known.has(same))) continue;
    told.push(each);
    for (const same of each.sameAs) known.add(same);
  }
  return told;
}
