import type { DraftId, PersonId, RuleId, SourceId, WatchId } from '#core/id';
import { isDeepStrictEqual } from 'node:util';
import { withNumber } from '#core/read/all-records';
import { WHOLE } from '#core/read/records';
import {
  asksItems,
  asksNumber,
  asksOfRule,
  endOf,
  hearsFailures,
  hearsSilence,
  isWide,
  judgesAlike,
  ownFields,
  remindedAt,
} from '#core/judge/rule';
import { fail, ok, type Result } from '#core/result';
import { storedRule, type RuleDefinition } from '#core/judge/rule';
import { storedDefinition, type WatchDefinition } from '#core/read/definition';
import { intervalLength, type Instant, type Interval } from '#core/when/interval';
import { watchDifferences } from '#core/plan/differences';
import { noteEdits, type Edited, type Editing } from '../db/watch/edits';
import { listAudiences } from '../db/person/people';
import { moment, theRow, type Db } from '../db/base/pool';
import { handPosting } from '../db/source/postings';
import { ensureAtOnceReport, presentOf, setReportOfRule, type AudienceKey } from '../db/report/reports';
import type { SourceRequest, SourceWay } from '../fetch/request';
import { ensureSource, lockSource, lockSourcesOf, reschedule } from '../db/source/sources';
import { findWatch, type WatchNow } from '../db/watch/views/watch-now';

/** A watch as the analyst says it: what her sentence holds. */
export interface WatchPlan {
  definition: WatchDefinition;
  frequency: Interval;
  /** Without any it is recorded, and nobody is told. */
  rules: RulePlan[];
}

/** A rule as she says it; with its number where it is kept already. */
export interface RulePlan {
  id: RuleId | null;
  definition: RuleDefinition;
  audiences: AudienceKey[];
}

/** Where a new watch reads. */
export interface WatchSource {
  address: string;
  host: string;
  site: string;
  mostAtOnce: number;
  way?: SourceWay;
  request?: SourceRequest;
  /** The draft whose posting address becomes the source's. */
  postedTo?: DraftId;
}

/** Starts a watch: its first run is due at once. Returns its id. */
export async function createWatch(
  db: Db,
  source: WatchSource,
  plan: WatchPlan,
  { person: ownerId, at: now, batch }: Editing,
): Promise<WatchId> {
  const sourceId = await ensureSource(db, { ...source, now });
  if (source.postedTo !== undefined) await handPosting(db, source.postedTo, sourceId);
  await lockSource(db, sourceId);
  const result = await db.query<{ id: WatchId }>(
    `INSERT INTO watch (source_id, owner_id, state, version, interval_ms, subject, created_at, read_due_at, asked_at)
     VALUES ($1, $2, 'running', 1, $3, $5, $4, $4, $4) RETURNING id`,
    [sourceId, ownerId, intervalLength(plan.frequency), moment(now), plan.definition.subject],
  );
  const watchId = theRow(result).id;
  await insertVersion(db, { watchId, version: 1, plan }, ownerId, now);
  await expectRecord(db, watchId, plan, now);
  for (const rule of plan.rules) await createRule(db, watchId, rule, ownerId, now);
  await reschedule(db, [sourceId], now);
  const made: Edited = {
    kind: 'watch',
    thing: watchId,
    name: plan.definition.subject,
    what: ['made'],
    before: { state: 'deleted' },
    after: { state: 'running' },
  };
  await noteEdits(db, [made], { person: ownerId, at: now, batch });
  return watchId;
}

/** How a watch reads what its rules ask: where one asks how many records there are, that is read from then on. */
function readFor({ definition, rules }: WatchPlan): WatchDefinition {
  return rules.some((rule) => asksNumber(rule.definition))
    ? { ...definition, fields: withNumber(definition) }
    : definition;
}

interface WatchVersion {
  watchId: WatchId;
  version: number;
  plan: WatchPlan;
  note?: string | null | undefined;
}

async function insertVersion(
  db: Db,
  { watchId, version, plan, note = null }: WatchVersion,
  madeBy: PersonId,
  now: Instant,
): Promise<void> {
  await db.query(
    `INSERT INTO watch_version (watch_id, version, definition, frequency, made_by, made_at, note)
      VALUES ($1, $2, $3, $4, $5, $6, $7)`,
    [watchId, version, storedDefinition.write(readFor(plan)), plan.frequency, madeBy, moment(now), note],
  );
}

/**
 * A page that is never read is silent from the saving of a rule on: where one asks for that, its one record is there
 * before it was read. Which records other sources have is not known before.
 */
async function expectRecord(db: Db, watchId: WatchId, { definition, rules }: WatchPlan, now: Instant): Promise<void> {
  if (
    definition.records.from !== 'page' ||
    definition.identity.length > 0 ||
    !rules.some((rule) => hearsSilence(rule.definition))
  )
    return;
  await db.query(
    `INSERT INTO record (id, watch_id, identity, name, first_seen)
      VALUES (nextval('record_id'), $1, $2, $3, $4)
      ON CONFLICT (watch_id, identity) DO NOTHING`,
    [watchId, WHOLE, definition.subject, moment(now)],
  );
}

/** Nothing is known of a watch: neither a reading, nor a record that is to come. */
const NOTHING_KNOWN = 'w.last_good_at IS NULL AND NOT EXISTS (SELECT FROM record c WHERE c.watch_id = w.id)';

/**
 * A new rule. On a watch of which nothing is known yet it begins with the first reading; on another one it is begun by
 * itself, with what is known by then.
 */
async function createRule(
  db: Db,
  watchId: WatchId,
  { definition, audiences }: RulePlan,
  madeBy: PersonId,
  now: Instant,
): Promise<void> {
  const result = await db.query<{ id: RuleId }>(
    `INSERT INTO rule (watch_id, version, judged_version, judged_at, begun_at, field, whole, hears_failures, asks_items,
      off, ends_at, remind_at, stencil_id)
     SELECT w.id, 1, 1, $2, CASE WHEN ${NOTHING_KNOWN} AND NOT $7 THEN $2::timestamptz END, $3, $4, $5, $6, $7, $8, $9,
       (SELECT id FROM stencil WHERE id = $10) FROM watch w WHERE w.id = $1 RETURNING id`,
    [
      watchId,
      moment(now),
      ...shapeOf(definition),
      ...standingOf(definition, now),
      definition.from?.kind === 'stencil' ? definition.from.id : null,
    ],
  );
  const ruleId = theRow(result).id;
  await insertRuleVersion(db, { ruleId, version: 1, definition }, madeBy, now);
  await setAsks(db, ruleId, watchId, definition);
  await tellThrough(db, ruleId, audiences, madeBy, now);
}

/**
 * What a run has to know of a rule before its text is read: its field, and whether it looks beyond a record, hears of
 * failures, asks items.
 */
const shapeOf = (definition: RuleDefinition) => {
  const failures = hearsFailures(definition);
  return [ownFields(definition)[0] ?? null, isWide(definition) || failures, failures, asksItems(definition)] as const;
};

/** Whether a rule is switched off, when it ends, and when a reader is reminded of that. */
const standingOf = (definition: RuleDefinition, now: Instant) => {
  const [end, reminded] = [endOf(definition), remindedAt(definition, now)];
  return [
    definition.off === true,
    end === null ? null : moment(end),
    reminded === null ? null : moment(reminded),
  ] as const;
};

/** The other watches that a rule asks. */
async function setAsks(db: Db, ruleId: RuleId, watchId: WatchId, definition: RuleDefinition): Promise<void> {
  const others = [
    ...new Set(asksOfRule(definition).flatMap(({ watch }) => (watch === undefined || watch === watchId ? [] : watch))),
  ];
  await db.query('DELETE FROM rule_asks WHERE rule_id = $1', [ruleId]);
  if (others.length === 0) return;
  await db.query('INSERT INTO rule_asks (rule_id, watch_id) SELECT $1, id FROM watch WHERE id = ANY($2)', [
    ruleId,
    others,
  ]);
}

async function insertRuleVersion(
  db: Db,
  { ruleId, version, definition }: { ruleId: RuleId; version: number; definition: RuleDefinition },
  madeBy: PersonId,
  now: Instant,
): Promise<void> {
  await db.query(
    'INSERT INTO rule_version (rule_id, version, definition, made_by, made_at) VALUES ($1, $2, $3, $4, $5)',
    [ruleId, version, storedRule.write(definition), madeBy, moment(now)],
  );
}

async function tellThrough(
  db: Db,
  ruleId: RuleId,
  audiences: AudienceKey[],
  madeBy: PersonId,
  now: Instant,
): Promise<void> {
  const present = audiences.length === 0 ? [] : await presentOf(db, audiences);
  const report = present.length === 0 ? null : await ensureAtOnceReport(db, present, madeBy, now);
  await setReportOfRule(db, ruleId, report, now);
}

/** Why an edit was not taken. */
export type EditProblem = 'gone' | 'edited meanwhile';

/** Who edits a watch, on which version of it, and what else there is to it. */
export interface Edit {
  basedOn: number;
  editor: PersonId;
  /** Where it reads from now on, if that changes too. */
  source?: WatchSource;
  /** What it changes, where Shrike itself says so. */
  note?: string;
  /** What it is done with at one go. */
  batch?: number;
}

/**
 * Replaces a watch's plan by a new version, if `basedOn` is still the present one. Its next run is due at once and
 * is always read. A rule that changed starts anew; one that did not keeps its state.
 */
export async function editWatch(
  db: Db,
  watchId: WatchId,
  plan: WatchPlan,
  edit: Edit,
  now: Instant,
): Promise<Result<number, EditProblem>> {
  const { basedOn, editor } = edit;
  const locked = await lockWatch(db, watchId);
  if (locked === null) return fail('gone');
  if (locked.version !== basedOn) return fail('edited meanwhile');
  const version = basedOn + 1;
  const before = await findWatch(db, watchId);
  await insertVersion(db, { watchId, version, plan, note: edit.note }, editor, now);
  await db.query(
    `UPDATE watch SET version = $2, interval_ms = $3, subject = $5, settled = false, read_due_at = $4, asked_at = $4
      WHERE id = $1`,
    [watchId, version, intervalLength(plan.frequency), moment(now), plan.definition.subject],
  );
  await expectRecord(db, watchId, plan, now);
  await replaceRules(db, watchId, plan.rules, editor, now);
  if (edit.source !== undefined) await moveTo(db, watchId, edit.source, now);
  await reschedule(db, [locked.sourceId], now);
  if (before !== null) await noteEdit(db, before, edit, now);
  return ok(version);
}

/** Writes down what an edit changed, in words, and as far as it can be undone. */
async function noteEdit(db: Db, before: WatchNow, { editor, source, batch }: Edit, now: Instant): Promise<void> {
  const after = await findWatch(db, before.id);
  if (after === null) return;
  const audiences = new Map((await listAudiences(db)).map(({ key, name }) => [key, name]));
  const what = watchDifferences(before, after, { audiences, locale: NOTED_IN });
  if (source !== undefined && before.address !== after.address) what.push(`reads ${after.address}`);
  if (what.length === 0) return;
  const edited: Edited = {
    kind: 'watch',
    thing: before.id,
    name: after.definition.subject,
    what,
    before: saidIn(before),
    after: saidIn(after),
  };
  await noteEdits(db, [edited], { person: editor, at: now, batch });
}

/** The language of what is written down: it is the same for all who read it. */
const NOTED_IN = 'en-GB';

/** What a watch says, as far as an edit changes it. */
export const saidIn = ({ definition, frequency, rules }: WatchNow) => ({
  definition,
  frequency,
  rules: rules.map(({ id, definition: rule, audiences }) => ({ id, definition: rule, audiences })),
});

/** Lets a watch read another source; its series go on. */
async function moveTo(db: Db, watchId: WatchId, source: WatchSource, now: Instant): Promise<void> {
  const sourceId = await ensureSource(db, { ...source, now });
  await lockSource(db, sourceId);
  await db.query('UPDATE watch SET source_id = $2 WHERE id = $1', [watchId, sourceId]);
  await reschedule(db, [sourceId], now);
}

async function lockWatch(db: Db, watchId: WatchId): Promise<{ version: number; sourceId: SourceId } | null> {
  const found = await db.query<{ sourceId: SourceId }>(
    `SELECT source_id AS "sourceId" FROM watch WHERE id = $1 AND state <> 'deleted'`,
    [watchId],
  );
  const sourceId = found.rows[0]?.sourceId;
  if (sourceId === undefined) return null;
  await lockSource(db, sourceId);
  const { rows } = await db.query<{ version: number }>(
    `SELECT version FROM watch WHERE id = $1 AND state <> 'deleted' FOR UPDATE`,
    [watchId],
  );
  return rows[0] === undefined ? null : { version: rows[0].version, sourceId };
}

/** Rules that are said no more end, others change or go on as they are, new ones begin. */
async function replaceRules(
  db: Db,
  watchId: WatchId,
  rules: RulePlan[],
  editor: PersonId,
  now: Instant,
): Promise<void> {
  const { rows: kept } = await db.query<{ id: RuleId; version: number; definition: unknown }>(
    `SELECT r.id, r.version, v.definition FROM rule r JOIN rule_version v ON v.rule_id = r.id AND v.version = r.version
     WHERE r.watch_id = $1 AND r.ended_at IS NULL ORDER BY r.id`,
    [watchId],
  );
  const said = new Map(rules.flatMap((rule) => (rule.id === null ? [] : [[rule.id, rule] as const])));
  for (const current of kept) {
    const rule = said.get(current.id);
    if (rule === undefined) await endRule(db, current.id, editor, now);
    else await changeRule(db, { watchId, current, rule }, editor, now);
  }
  const known = new Set(kept.map(({ id }) => id));
  for (const rule of rules)
    if (rule.id === null || !known.has(rule.id)) await createRule(db, watchId, rule, editor, now);
}

async function endRule(db: Db, id: RuleId, editor: PersonId, now: Instant): Promise<void> {
  await db.query('UPDATE rule SET ended_at = $2 WHERE id = $1', [id, moment(now)]);
  await closeEpisodes(db, id, now, 'ended');
  await tellThrough(db, id, [], editor, now);
}

interface RuleChange {
  watchId: WatchId;
  current: { id: RuleId; version: number; definition: unknown };
  rule: RulePlan;
}

/** A rule that judges otherwise now begins anew; one that is only called or told otherwise goes on. */
async function changeRule(
  db: Db,
  { watchId, current, rule }: RuleChange,
  editor: PersonId,
  now: Instant,
): Promise<void> {
  const before = storedRule.read(current.definition);
  if (!isDeepStrictEqual(before, rule.definition)) {
    const version = current.version + 1;
    await insertRuleVersion(db, { ruleId: current.id, version, definition: rule.definition }, editor, now);
    await db.query('UPDATE rule SET version = version + 1, off = $2, ends_at = $3, remind_at = $4 WHERE id = $1', [
      current.id,
      ...standingOf(rule.definition, now),
    ]);
    if (!judgesAlike(before, rule.definition)) await beginAnew(db, current.id, watchId, rule.definition, now);
    else if (!isDeepStrictEqual(before.telling, rule.definition.telling))
      await db.query(TOLD_OTHERWISE, [current.id, moment(now)]);
  }
  await tellThrough(db, current.id, rule.audiences, editor, now);
}

/**
 * What waits to be told may be due sooner by what is said of that now: the clock looks at it, and at what is held of
 * the rule as a whole.
 */
const TOLD_OTHERWISE = `
WITH gate AS (UPDATE rule SET gate_at = least(gate_at, $2) WHERE id = $1 AND gate_at IS NOT NULL)
UPDATE rule_state SET due_at = $2 WHERE rule_id = $1 AND memory->'telling'->'waiting' <> 'null'`;

async function beginAnew(
  db: Db,
  ruleId: RuleId,
  watchId: WatchId,
  definition: RuleDefinition,
  now: Instant,
): Promise<void> {
  await db.query(
    `UPDATE rule r
      SET judged_version = r.version, judged_at = $2, baseline_at = NULL, field = $3, whole = $4, hears_failures = $5,
      asks_items = $6, choice = NULL,
       begun_at = CASE WHEN ${NOTHING_KNOWN} AND NOT r.off THEN $2::timestamptz END
     FROM watch w WHERE w.id = r.watch_id AND r.id = $1`,
    [ruleId, moment(now), ...shapeOf(definition)],
  );
  await setAsks(db, ruleId, watchId, definition);
  await closeEpisodes(db, ruleId, now, 'edited');
}

async function closeEpisodes(db: Db, ruleId: RuleId, now: Instant, because: 'edited' | 'ended'): Promise<void> {
  await db.query(`UPDATE episode SET closed_at = $2, closed_because = $3 WHERE rule_id = $1 AND closed_at IS NULL`, [
    ruleId,
    moment(now),
    because,
  ]);
}

type WatchState = 'running' | 'paused' | 'deleted';

const STATE_SAID = { running: 'started', paused: 'paused', deleted: 'deleted' } as const;

/** Pauses, starts or deletes a watch, or brings one back. A started one is due at once. False when it is gone. */
export async function setWatchState(
  db: Db,
  watchId: WatchId,
  state: WatchState,
  now: Instant,
  by?: Omit<Editing, 'at'>,
): Promise<boolean> {
  return (await setWatchStates(db, [watchId], state, now, by)).length > 0;
}

/** Does the same to many; returns those that are there. */
export async function setWatchStates(
  db: Db,
  watchIds: readonly WatchId[],
  state: WatchState,
  now: Instant,
  by?: Omit<Editing, 'at'>,
): Promise<WatchId[]> {
  const sourceIds = await lockSourcesOf(db, watchIds);
  const { rows } = await db.query<{ id: WatchId; state: WatchState; subject: string }>(
    'SELECT id, state, subject FROM watch WHERE id = ANY($1) ORDER BY id FOR UPDATE',
    [watchIds],
  );
  // One that was deleted comes back only with what it was deleted with.
  const there = rows.filter((watch) => watch.state !== 'deleted' || by?.batch !== undefined);
  const ids = there.map(({ id }) => id);
  await db.query(
    `UPDATE watch SET state = $2, read_due_at = CASE WHEN $2 = 'running' THEN $3 ELSE read_due_at END,
       asked_at = CASE WHEN $2 = 'running' THEN $3::timestamptz END WHERE id = ANY($1)`,
    [ids, state, moment(now)],
  );
  await reschedule(db, sourceIds, now);
  if (by === undefined) return ids;
  const edits = there
    .filter((before) => before.state !== state)
    .map((before): Edited => ({
      kind: 'watch',
      thing: before.id,
      name: before.subject,
      what: [STATE_SAID[state]],
      before: { state: before.state },
      after: { state },
    }));
  await noteEdits(db, edits, { ...by, at: now });
  return ids;
}

/** What a watch is tagged with from here on. */
export interface Tagging {
  id: WatchId;
  name: string;
  before: readonly string[];
  tags: readonly string[];
}

/** The tagging of a watch as it stands. */
export const taggingOf = ({ id, tags, definition }: WatchNow, next: readonly string[]): Tagging => ({
  id,
  name: definition.subject,
  before: tags,
  tags: next,
});

/** Tags watches. */
export async function setWatchTags(db: Db, taggings: readonly Tagging[], editing: Editing): Promise<void> {
  if (taggings.length === 0) return;
  await db.query(
    `UPDATE watch w SET tags = n.tags FROM jsonb_to_recordset($1) AS n(id int, tags text[]) WHERE w.id = n.id`,
    [JSON.stringify(taggings)],
  );
  const said = (each: readonly string[]) => each.join(', ') || 'nothing';
  const edits = taggings.map(({ id, name, before, tags }): Edited => ({
    kind: 'watch',
    thing: id,
    name,
    what: [`tags: ${said(before)} → ${said(tags)}`],
    before: { tags: before },
    after: { tags },
  }));
  await noteEdits(db, edits, editing);
}

/** Asks for a look at once. False when the watch does not run. */
export async function askForRun(db: Db, watchId: WatchId, now: Instant): Promise<boolean> {
  const locked = await lockWatch(db, watchId);
  if (locked === null) return false;
  const { rowCount } = await db.query(
    `UPDATE watch SET read_due_at = $2, asked_at = $2 WHERE id = $1 AND state = 'running'`,
    [watchId, moment(now)],
  );
  await reschedule(db, [locked.sourceId], now);
  return rowCount === 1;
}
