import type { WatchId } from '#core/id';
import { isDeepStrictEqual } from 'node:util';
import { namesOf } from '#core/judge/words';
import { describeCondition } from '#core/judge/describe';
import type { RuleDefinition } from '#core/judge/rule';
import { bulkSteps, copyName, type BulkAction, type BulkStep, type BulkWatch } from '#core/plan/bulk';
import type { Called } from '#core/plan/differences';
import { labelOf } from '#core/plan/plan';
import type { RuleId } from '#core/id';
import { fail, ok, type Result } from '#core/result';
import { nextBatch, takeBatch, type Edited, type Editing } from '../db/watch/edits';
import { listAudiences } from '../db/person/people';
import type { SourceRequest } from '../fetch/request';
import { theRow, type Db } from '../db/base/pool';
import { findWatch, watchesOf, type WatchNow } from '../db/watch/views/watch-now';
import { createWatch, editWatch, saidIn, setWatchState, setWatchTags } from './edit-watch';

// What is done to many watches and rules at one go, and undone at one go.

/** A watch as far as it is changed with others. */
export const bulkOf = (watch: WatchNow): BulkWatch => ({
  ...saidIn(watch),
  id: watch.id,
  name: watch.definition.subject,
  state: watch.state,
  tags: watch.tags,
});

/** How people and lists are called. */
export async function calledIn(db: Db, locale: string): Promise<Called> {
  const names = new Map((await listAudiences(db)).map(({ key, name }) => [key, name]));
  return { audience: (key) => names.get(key) ?? key, locale };
}

/** Those of some watches that are there, with what a deed would do to each. */
export async function tryBulk(
  db: Db,
  ids: readonly WatchId[],
  deed: BulkAction,
  rules: readonly RuleId[] | null,
  locale: string,
): Promise<BulkStep[]> {
  const watches = await watchesOf(db, [...ids]);
  return bulkSteps(watches.map(bulkOf), deed, rules === null ? null : new Set(rules), await calledIn(db, locale));
}

/**
 * Does to many watches what a deed asks, all or none. Returns the number by which it is undone, and how many were
 * changed; null where none is. Sources are locked in one order, so that two who do so do not wait for each other for
 * ever.
 */
export async function doBulk(
  db: Db,
  ids: readonly WatchId[],
  deed: BulkAction,
  rules: readonly RuleId[] | null,
  editing: Editing,
): Promise<{ batch: number; changed: number } | null> {
  await db.query(
    'SELECT FROM source WHERE id IN (SELECT source_id FROM watch WHERE id = ANY($1)) ORDER BY id FOR UPDATE',
    [ids],
  );
  return takeSteps(
    db,
    (await tryBulk(db, ids, deed, rules, 'en-GB')).filter(({ said }) => said.length > 0),
    editing,
  );
}

/** What becomes of a watch by one step. */
type Step = Pick<BulkStep, 'watch' | 'state' | 'tags' | 'frequency' | 'rules' | 'copied'>;

/**
 * Takes steps at one go. Returns the number by which they are undone, and how many there were; null where there are
 * none.
 */
export async function takeSteps(
  db: Db,
  steps: readonly Step[],
  editing: Editing,
): Promise<{ batch: number; changed: number } | null> {
  if (steps.length === 0) return null;
  const batch = await nextBatch(db);
  for (const step of steps) await takeStep(db, step, { ...editing, batch });
  return { batch, changed: steps.length };
}

async function takeStep(db: Db, step: Step, editing: Editing & { batch: number }): Promise<void> {
  const watch = await findWatch(db, step.watch);
  if (watch === null) return;
  if (step.copied === true) return copyWatch(db, watch, editing);
  const { definition, frequency, rules } = saidIn(watch);
  if (!isDeepStrictEqual([frequency, rules], [step.frequency, step.rules])) {
    const plan = {
      definition,
      frequency: step.frequency,
      rules: step.rules.map((rule) => ({ ...rule, audiences: [...rule.audiences] })),
    };
    await editWatch(
      db,
      watch.id,
      plan,
      { basedOn: watch.version, editor: editing.person, batch: editing.batch },
      editing.at,
    );
  }
  if (!isDeepStrictEqual(watch.tags, step.tags)) await setWatchTags(db, watch, step.tags, editing);
  if (step.state !== watch.state)
    await setWatchState(db, watch.id, step.state, editing.at, { person: editing.person, batch: editing.batch });
}

/**
 * Makes a copy of a watch at the same source, with its rules, each of which says what it was made from; it rests until
 * it is started.
 */
async function copyWatch(db: Db, watch: WatchNow, editing: Editing & { batch: number }): Promise<void> {
  const { definition, frequency, rules } = saidIn(watch);
  const from = ({ id, definition: rule }: (typeof rules)[number]): RuleDefinition['from'] => ({
    kind: 'rule',
    id,
    name: (
      rule.name ??
      describeCondition(
        rule.when,
        namesOf((key) => labelOf(definition.fields, key), 'en-GB'),
      )
    ).slice(0, LONGEST_NAME),
  });
  const plan = {
    definition: { ...definition, subject: copyName(definition.subject) },
    frequency,
    rules: rules.map((rule) => ({ ...rule, id: null, definition: { ...rule.definition, from: from(rule) } })),
  };
  const found = await db.query<{ request: SourceRequest }>('SELECT request FROM source WHERE id = $1', [
    watch.sourceId,
  ]);
  const { address, host, site, way } = watch;
  const source = { address, host, site, way, request: theRow(found).request, mostAtOnce: 1 };
  const made = await createWatch(db, source, plan, editing.person, editing.at, editing.batch);
  await setWatchState(db, made, 'paused', editing.at, { person: editing.person, batch: editing.batch });
  const copy = await findWatch(db, made);
  if (copy !== null && watch.tags.length > 0) await setWatchTags(db, copy, watch.tags, editing);
}

const LONGEST_NAME = 200;

/** What an edit of a watch bears of how it was, and how it was left. */
type Parts = Partial<ReturnType<typeof saidIn>> & { state?: 'running' | 'paused' | 'deleted'; tags?: string[] };

/**
 * Undoes what was done to watches at one go, if nothing of it was changed since. Returns the number by which that is
 * undone in turn.
 */
export async function undoWatches(
  db: Db,
  batch: number,
  editing: Editing,
): Promise<Result<number, 'undone already' | 'changed since'>> {
  const edits = await takeBatch(db, batch, editing.person, ['watch']);
  if (edits === null) return fail('undone already');
  const next = await nextBatch(db);
  for (const edit of edits.reverse())
    if (!(await undoOne(db, edit, { ...editing, batch: next }))) return fail('changed since');
  return ok(next);
}

async function undoOne(
  db: Db,
  { thing, before, after }: Edited,
  editing: Editing & { batch: number },
): Promise<boolean> {
  const id = thing as WatchId;
  const [was, left] = [before as Parts, after as Parts];
  const watch = await findWatch(db, id);
  if (left.state !== undefined) {
    if ((watch?.state ?? 'deleted') !== left.state) return false;
    return setWatchState(db, id, was.state ?? 'paused', editing.at, { person: editing.person, batch: editing.batch });
  }
  if (watch === null) return false;
  if (left.tags !== undefined) {
    if (!isDeepStrictEqual(watch.tags, left.tags)) return false;
    await setWatchTags(db, watch, was.tags ?? [], editing);
    return true;
  }
  if (
    !sameSaid(saidIn(watch), left) ||
    was.definition === undefined ||
    was.frequency === undefined ||
    was.rules === undefined
  )
    return false;
  const kept = new Set(watch.rules.map((rule) => rule.id));
  // A rule that was ended meanwhile begins anew.
  const rules = was.rules.map((rule) => ({ ...rule, id: kept.has(rule.id) ? rule.id : null }));
  const plan = { definition: was.definition, frequency: was.frequency, rules };
  const edited = await editWatch(
    db,
    id,
    plan,
    { basedOn: watch.version, editor: editing.person, batch: editing.batch },
    editing.at,
  );
  return edited.ok;
}

const sameSaid = (one: unknown, other: unknown) =>
  isDeepStrictEqual(JSON.parse(JSON.stringify(one)), JSON.parse(JSON.stringify(other)));
