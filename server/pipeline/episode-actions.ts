import type { EpisodeId, PersonId, RecordId, RuleId } from '#core/id';
import { situationOf, verdictsOf } from '#core/judge/judging';
import type { KnownRecord, KnownRule } from '#core/judge/known';
import type { RuleMemory } from '#core/judge/memory';
import { closeSubject, openSubject, tellSubject, type Turn } from '#core/judge/subject';
import { fail, ok, type Result } from '#core/result';
import type { Instant } from '#core/when/interval';
import type { Person } from '../db/person/people';
import { moment, withClient, type Statement } from '../db/base/pool';
import { actionStatement, holdEpisode, holdRecord, holdRule, openedStatement, restingRecords } from '../db/rule/raised';
import { keep, type Keeping } from './keeping';
import type { WatchVerdict } from './store/states';
import { loadSubjects, standingOf, type SubjectWatch } from './subjects';

/** What a person does about an episode. */
export type EpisodeAction =
  | { what: 'take on'; note: string }
  | { what: 'let go' }
  /** Until a moment; what there is to tell waits until then. Null: no longer. */
  | { what: 'put off'; until: Instant | null }
  | { what: 'close'; note: string };

const KEPT_AS = { 'take on': 'taken on', 'let go': 'let go', 'put off': 'put off', close: 'closed' } as const;

/** Does something about an episode; false where it is over already, or gone. */
export async function actOn(
  pipeline: Keeping,
  id: EpisodeId,
  deed: EpisodeAction,
  person: PersonId,
  at: Instant,
): Promise<boolean> {
  return withClient(pipeline.pool, async (db) => {
    await db.query('BEGIN');
    const place = await holdEpisode(db, id);
    if (place === null || !place.open) {
      await db.query('ROLLBACK');
      return false;
    }
    const [watch] = await loadSubjects(db, { rules: [place.rule], records: [place.record] });
    const rule = watch?.rules[0];
    const verdicts = watch === undefined || rule === undefined ? [] : verdictsOn(watch, rule, deed, at);
    const said = {
      what: KEPT_AS[deed.what],
      person,
      note: noteOf(deed),
      until: 'until' in deed ? deed.until : null,
      at,
    };
    await keep(pipeline, db, at, verdicts, {
      first: [actionStatement(await pipeline.ids.one(db), id, said), ...stepStatement(id, deed, at)],
    });
    return true;
  });
}

/** Who opens an episode by hand, of which record, and with what words. */
export interface Opening {
  rule: RuleId;
  identity: string;
  person: Pick<Person, 'id' | 'name'>;
  note: string;
}

/** Opens an episode of a rule on a record by hand; why it cannot be, where it cannot. */
export async function openEpisode(
  pipeline: Keeping,
  { rule: id, identity, person, note }: Opening,
  at: Instant,
): Promise<Result<null, 'not judged' | 'open already'>> {
  return withClient(pipeline.pool, async (db) => {
    await db.query('BEGIN');
    const record = await holdRecord(db, id, identity);
    const [watch] = record === null ? [] : await loadSubjects(db, { rules: [id], records: [record] });
    const [rule] = watch?.rules ?? [];
    const memory = rule?.memories.get(identity);
    if (
      watch === undefined ||
      rule === undefined ||
      memory === undefined ||
      record === null ||
      memory.judged.state.is === 'raised'
    ) {
      await db.query('ROLLBACK');
      return fail(memory?.judged.state.is === 'raised' ? 'open already' : 'not judged');
    }
    const known = watch.records.get(identity) ?? null;
    const opener = { by: person.name, note: note === '' ? null : note };
    const turns = openSubject(rule.definition, memory, at, situationOf(rule, watch, known, at));
    const verdicts = verdictsOf(
      rule,
      { identity, name: known?.name ?? identity },
      memory,
      turns,
      standingOf(watch, identity),
    );
    const said = { what: 'opened' as const, person: person.id, note: opener.note, until: null, at };
    const kept = openedStatement(await pipeline.ids.one(db), { rule: id, record }, said);
    await keep(
      pipeline,
      db,
      at,
      verdicts.map((verdict) => ({ watch, verdict: verdict.turn.by === 'deed' ? { ...verdict, opener } : verdict })),
      { last: [kept] },
    );
    return ok(null);
  });
}

/** Of so many records at a time a rule is started again. */
const MOST_STARTED = 500;

/** Starts a rule again that rests, for every record for which it does; for how many. */
export async function startAgain(pipeline: Keeping, id: RuleId, at: Instant): Promise<number> {
  let started = 0;
  for (let beyond = 0; ;) {
    const records = await startSome(pipeline, id, beyond, at);
    started += records.length;
    beyond = records.at(-1) ?? beyond;
    if (records.length < MOST_STARTED) return started;
  }
}

function startSome(pipeline: Keeping, id: RuleId, beyond: number, at: Instant): Promise<RecordId[]> {
  return withClient(pipeline.pool, async (db) => {
    await db.query('BEGIN');
    const records = (await holdRule(db, id)) ? await restingRecords(db, id, beyond, MOST_STARTED) : [];
    const [watch] = records.length === 0 ? [] : await loadSubjects(db, { rules: [id], records });
    const [rule] = watch?.rules ?? [];
    if (watch === undefined || rule === undefined) {
      await db.query('ROLLBACK');
      return [];
    }
    const started = (memory: RuleMemory) => tellSubject(rule.definition, memory, { is: 'started' }, at);
    await keep(pipeline, db, at, turnedOf(watch, rule, started));
    return records;
  });
}

/** Once somebody has it nobody else is told; once she lets it go the next is, after as long as the rule says. */
function stepStatement(id: EpisodeId, { what }: EpisodeAction, at: Instant): Statement[] {
  if (what === 'take on') return [{ text: 'UPDATE episode SET step_at = NULL WHERE id = $1', values: [id] }];
  return what === 'let go' ? [{ text: NEXT_STEP, values: [id, moment(at)] }] : [];
}

const NEXT_STEP = `
UPDATE episode e
SET step_at = $2::timestamptz + make_interval(secs => (v.definition->'steps'->e.step->>'after')::bigint / 1000.0)
FROM rule u JOIN rule_version v ON v.rule_id = u.id AND v.version = u.version
WHERE e.id = $1 AND u.id = e.rule_id AND v.definition->'steps'->e.step IS NOT NULL`;

const noteOf = (deed: EpisodeAction): string | null => ('note' in deed && deed.note !== '' ? deed.note : null);

/** What a deed makes of the rule on the record that the episode is of. */
function verdictsOn(watch: SubjectWatch, rule: KnownRule, deed: EpisodeAction, at: Instant): WatchVerdict[] {
  const { definition } = rule;
  return turnedOf(watch, rule, (memory, record) => {
    switch (deed.what) {
      case 'take on':
        return tellSubject(definition, memory, { is: 'taken on' }, at);
      case 'let go':
        return tellSubject(definition, memory, { is: 'let go' }, at);
      case 'put off':
        return tellSubject(definition, memory, { is: 'put off', until: deed.until }, at);
      case 'close':
        return closeSubject(definition, memory, at, situationOf(rule, watch, record, at));
    }
  });
}

/** What comes of something that is done to a rule on each of the records that are known of it. */
function turnedOf(
  watch: SubjectWatch,
  rule: KnownRule,
  turn: (memory: RuleMemory, record: KnownRecord | null) => Turn[],
): WatchVerdict[] {
  return [...rule.memories].flatMap(([identity, memory]) => {
    const record = watch.records.get(identity) ?? null;
    const subject = { identity, name: record?.name ?? identity };
    return verdictsOf(rule, subject, memory, turn(memory, record), standingOf(watch, identity)).map((verdict) => ({
      watch,
      verdict,
    }));
  });
}
