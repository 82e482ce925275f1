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
import { nextBatch, takeBatch, type Editing } from '../db/watch/edits';
import { listAudiences } from '../db/person/people';
import { lockSourcesOf } from '../db/source/sources';
import type { SourceRequest } from '../fetch/request';
import { theRow, type Db } from '../db/base/pool';
import { findWatch, watchesOf, type WatchNow } from '../db/watch/views/watch-now';
import {
  createWatch,
  editWatch,
  saidIn,
  setWatchState,
  setWatchStates,
  setWatchTags,
  taggingOf,
  type Tagging,
} from './edit-watch';

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
  const audiences = new Map((await listAudiences(db)).map(({ key, name }) => [key, name]));
  return { audiences, locale };
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
  await lockSourcesOf(db, ids);
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
  const by = { ...editing, batch };
  const watches = new Map(
    (
      await watchesOf(
        db,
        steps.map(({ watch }) => watch),
      )
    ).map((watch) => [watch.id, watch]),
  );
  const taken = steps.flatMap((step) => {
    const watch = watches.get(step.watch);
    return watch === undefined ? [] : [{ watch, step }];
  });
  for (const { watch } of taken.filter(({ step }) => step.copied === true)) await copyWatch(db, watch, by);
  const changed = taken.filter(({ step }) => step.copied !== true);
  for (const each of changed) await takePlan(db, each, by);
  await setWatchTags(
    db,
    changed.flatMap(({ watch, step }) => (isDeepStrictEqual(watch.tags, step.tags) ? [] : taggingOf(watch, step.tags))),
    by,
  );
  for (const state of ['running', 'paused', 'deleted'] as const) {
    const moved = changed.filter(({ watch, step }) => step.state === state && watch.state !== state);
    await inState(
      db,
      moved.map(({ watch }) => watch.id),
      state,
      by,
    );
  }
  return { batch, changed: steps.length };
}

/** Brings watches into a state. False where one of them is gone. */
async function inState(
  db: Db,
  ids: readonly WatchId[],
  state: Parameters<typeof setWatchStates>[2],
  { person, batch, at }: Editing & { batch: number },
): Promise<boolean> {
  if (ids.length === 0) return true;
  return (await setWatchStates(db, ids, state, at, { person, batch })).length === ids.length;
}

/** What becomes of its rules and of how often it looks. */
async function takePlan(
  db: Db,
  { watch, step }: { watch: WatchNow; step: Step },
  editing: Editing & { batch: number },
): Promise<void> {
  const { definition, frequency, rules } = saidIn(watch);
  if (isDeepStrictEqual([frequency, rules], [step.frequency, step.rules])) return;
  const plan = {
    definition,
    frequency: step.frequency,
    rules: step.rules.map((rule) => ({ ...rule, audiences: [...rule.audiences] })),
  };
  const by = { basedOn: watch.version, editor: editing.person, batch: editing.batch };
  await editWatch(db, watch.id, plan, by, editing.at);
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
  const made = await createWatch(db, source, plan, editing);
  await setWatchState(db, made, 'paused', editing.at, { person: editing.person, batch: editing.batch });
  const copy = await findWatch(db, made);
  if (copy !== null && watch.tags.length > 0) await setWatchTags(db, [taggingOf(copy, watch.tags)], editing);
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
  const by = { ...editing, batch: next };
  // The last that was done to a watch is undone first: its state, then its tags, then what it says.
  const undone = edits.reverse().map(({ thing, before, after }): Undone => ({
    id: thing as WatchId,
    was: before as Parts,
    left: after as Parts,
  }));
  await lockSourcesOf(
    db,
    undone.map(({ id }) => id),
  );
  const states = together(undone.filter(({ left }) => left.state !== undefined));
  const tags = together(undone.filter(({ left }) => left.tags !== undefined));
  const isDone = (await undoStates(db, states, by)) && (await undoTags(db, tags, by));
  if (!isDone) return fail('changed since');
  for (const each of undone.filter(({ left }) => left.state === undefined && left.tags === undefined))
    if (!(await undoPlan(db, each, by))) return fail('changed since');
  return ok(next);
}

interface Undone {
  id: WatchId;
  was: Parts;
  left: Parts;
}

type Undoing = Editing & { batch: number };

/** Of a watch to which several things were done, the last first, how it was before all of them. */
function together(undone: readonly Undone[]): Undone[] {
  const known = new Map<WatchId, Undone>();
  for (const each of undone) known.set(each.id, { ...(known.get(each.id) ?? each), was: each.was });
  return [...known.values()];
}

async function undoStates(db: Db, undone: readonly Undone[], by: Undoing): Promise<boolean> {
  const { rows } = await db.query<{ id: WatchId; state: Parts['state'] }>(
    'SELECT id, state FROM watch WHERE id = ANY($1)',
    [undone.map(({ id }) => id)],
  );
  const now = new Map(rows.map(({ id, state }) => [id, state]));
  if (undone.some(({ id, left }) => (now.get(id) ?? 'deleted') !== left.state)) return false;
  for (const state of ['running', 'paused', 'deleted'] as const) {
    const back = undone.filter(({ was }) => (was.state ?? 'paused') === state).map(({ id }) => id);
    if (!(await inState(db, back, state, by))) return false;
  }
  return true;
}

async function undoTags(db: Db, undone: readonly Undone[], by: Undoing): Promise<boolean> {
  const { rows } = await db.query<Omit<Tagging, 'tags'>>(
    `SELECT w.id, v.definition->>'subject' AS name, w.tags AS before
     FROM watch w JOIN watch_version v ON v.watch_id = w.id AND v.version = w.version WHERE w.id = ANY($1)`,
    [undone.map(({ id }) => id)],
  );
  const known = new Map(rows.map((row) => [row.id, row]));
  if (undone.some(({ id, left }) => !isDeepStrictEqual(known.get(id)?.before, left.tags))) return false;
  await setWatchTags(
    db,
    undone.flatMap(({ id, was }) => ({ ...(known.get(id) as Omit<Tagging, 'tags'>), tags: was.tags ?? [] })),
    by,
  );
  return true;
}

async function undoPlan(db: Db, { id, was, left }: Undone, by: Undoing): Promise<boolean> {
  const watch = await findWatch(db, id);
  if (
    watch === null ||
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
  const edited = await editWatch(db, id, plan, { basedOn: watch.version, editor: by.person, batch: by.batch }, by.at);
  return edited.ok;
}

const sameSaid = (one: unknown, other: unknown) =>
  isDeepStrictEqual(JSON.parse(JSON.stringify(one)), JSON.parse(JSON.stringify(other)));
