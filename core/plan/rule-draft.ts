import type { Sense } from '../compare/compare';
import type { PersonId, RuleId } from '../id';
import { isOwn } from '../judge/asked';
import { childrenOf, withAsked, type Clause, type Condition } from '../judge/clause';
import { distanceTo, type Distance } from '../judge/distance';
import type { EscalationStep, RecordTest, RuleDefinition, Weight, Wording } from '../judge/rule';
import type { ActiveHours, Throttle } from '../judge/throttle';
import { ALL_RECORDS, NUMBER_OF_RECORDS } from '../read/all-records';
import { fail, ok, type Result } from '../result';
import type { Value } from '../value/value';
import { asSaidBy, blankClause, clauseDraftOf, toClause, withSaid } from '../judge/draft/clause';
import type { ClauseDraft } from '../judge/kinds/table';
import type { SaidIn } from '../judge/draft/said-in';
import { faultOf, NO_HOURS } from './rule-fault';
import { spanDraftOf, spanned, type SpanDraft } from '../judge/draft/span';

/** How long it must be met, as typed: at so many readings in a row, or for a time. */
export interface HoldDraft {
  count: string;
  unit: 'reading' | SpanDraft['unit'];
}

/** Between which times of day, and on which days of the week (1 is Monday), it is told. */
export interface HoursDraft {
  days: number[];
  from: string;
  to: string;
  zone?: string;
}

/** Who is told next, where nobody has taken it on for so long. */
export interface StepDraft {
  after: SpanDraft;
  audiences: string[];
}

/** A rule while it is being said. */
export interface RuleDraft {
  /** Of a rule that is kept already; null of a new one. */
  id: RuleId | null;
  /** What has to be met; nothing is said yet where it is empty. */
  clauses: ClauseDraft[];
  join: 'all' | 'any' | 'none';
  /** A condition that says more than can be said here: it is kept as it is. */
  kept?: Condition;
  audiences: string[];
  whenAlreadyMet: 'raise' | 'wait' | null;
  later?: 'raise' | 'wait';
  hold: HoldDraft | null;
  told: 'episode' | 'reading' | 'move' | 'once';
  atMostEvery: SpanDraft | null;
  /** Of all records together, and not of each. */
  together?: true;
  remindEvery: SpanDraft | null;
  putOff?: Throttle['putOff'];
  hours: HoursDraft | null;
  tellsEnd: boolean;
  steps: StepDraft[];
  only: RecordTest[];
  carry: string[];
  weight: Weight;
  name: string;
  note: string;
  /** As typed, apart by commas. */
  tags: string;
  owner?: PersonId;
  wording: Partial<Record<Sense, Wording>>;
  from?: RuleDefinition['from'];
  off: boolean;
  /** Its last day, as 2026-12-31; empty where it goes on. */
  ends: string;
  /** Of a kept one, the zone of that day. */
  endsIn?: string;
}

/** A rule about which nothing is said yet. */
export const BLANK_RULE: RuleDraft = {
  id: null,
  clauses: [],
  join: 'all',
  audiences: [],
  whenAlreadyMet: null,
  hold: null,
  told: 'episode',
  atMostEvery: null,
  remindEvery: null,
  hours: null,
  tellsEnd: false,
  steps: [],
  only: [],
  carry: [],
  weight: 'usual',
  name: '',
  note: '',
  tags: '',
  wording: {},
  off: false,
  ends: '',
};

/** A rule that has everything. */
export interface CompleteRule {
  id: RuleId | null;
  definition: RuleDefinition;
  audiences: string[];
}

/** Whether something is said of what a rule waits for. */
export const isSaid = ({ clauses, kept }: RuleDraft): boolean => clauses.length > 0 || kept !== undefined;

/** The condition that a draft means; or what is wrong with it, as a sentence. */
export function toCondition(
  { clauses, join, kept }: Pick<RuleDraft, 'clauses' | 'join' | 'kept'>,
  said: SaidIn,
): Result<Condition, string> {
  if (kept !== undefined) return ok(kept);
  const parts: Condition[] = [];
  const ofEach = clauses.some(isOfEach);
  for (const group of groupsOf(clauses)) {
    const made = toPart(group, said, ofEach);
    if (!made.ok) return made;
    parts.push(made.value);
  }
  const [only, ...more] = parts;
  if (only === undefined) return fail('Say when it matters.');
  if (join === 'none') return ok({ none: parts });
  return ok(more.length === 0 ? only : join === 'any' ? { any: parts } : { all: parts });
}

/** Whether a condition is of each record by itself; how many there are is one of all of them. */
const isOfEach = ({ subject, field, verb }: ClauseDraft): boolean =>
  subject === undefined && (field !== NUMBER_OF_RECORDS || verb === 'appears' || verb === 'vanishes');

/** How many records there are, asked beside each of them. */
const relatedEach = (clause: Clause): Clause =>
  withAsked(clause, (asked) =>
    isOwn(asked) && asked.field === NUMBER_OF_RECORDS ? { ...asked, record: ALL_RECORDS } : asked,
  );

/** Conditions with those that go with them. */
function groupsOf(clauses: readonly ClauseDraft[]): ClauseDraft[][] {
  const groups: ClauseDraft[][] = [];
  for (const clause of clauses) {
    const group = groups.at(-1);
    if (clause.tied === undefined || group === undefined) groups.push([clause]);
    else group.push(clause);
  }
  return groups;
}

/** One condition, or several that go together, or that none of them is so. */
function toPart(group: readonly ClauseDraft[], said: SaidIn, ofEach: boolean): Result<Condition, string> {
  const made: Clause[] = [];
  for (const draft of group) {
    const clause = toClause(draft, said);
    if (!clause.ok) return clause;
    made.push(ofEach ? relatedEach(clause.value) : clause.value);
  }
  const [first, ...more] = made;
  const [head, next] = group;
  if (first === undefined) return fail('Say when it matters.');
  if (head?.not === true && next?.tied === 'all')
    return fail('That both together are not so cannot be said: say that neither is, or ask for one of them by itself.');
  if (head?.not === true) return ok({ none: made });
  return ok(more.length === 0 ? first : next?.tied === 'any' ? { any: made } : { all: made });
}

/** Makes a whole rule of a draft, on a watch that looks so often; or says what it lacks. */
export function toRule(draft: RuleDraft, said: SaidIn, intervalMs: number): Result<RuleDefinition, string> {
  const when = toCondition(draft, said);
  if (!when.ok) return when;
  const hold = holdOf(draft.hold);
  if (!hold.ok) return hold;
  const telling = tellingOf(draft, said);
  if (!telling.ok) return telling;
  if (needsChoice(when.value, said.present) && draft.whenAlreadyMet === null) {
    return fail('It is met already: say whether to raise it now, or to wait until it is left and met again.');
  }
  const steps = stepsOf(draft.steps);
  if (!steps.ok) return steps;
  const rule: RuleDefinition = {
    when: when.value,
    whenAlreadyMet: draft.whenAlreadyMet ?? 'wait',
    ...given({ hold: hold.value, later: draft.later, telling: telling.value, steps: steps.value }),
    ...relatedOf(draft, said),
  };
  const fault = faultOf(rule, intervalMs);
  return fault === null ? ok(rule) : fail(fault);
}

function stepsOf(steps: StepDraft[]): Result<EscalationStep[] | undefined, string> {
  const said: EscalationStep[] = [];
  for (const { after, audiences } of steps) {
    const made = spanned(after, (ms) => ({ after: ms, audiences }));
    if (!made.ok) return fail('Say after how long others are told.');
    said.push(made.value);
  }
  return ok(said.length === 0 ? undefined : said);
}

/** Tags as they are kept: each once, small, in their order. */
export const tagsIn = (typed: string): string[] =>
  [
    ...new Set(
      typed
        .split(',')
        .map((tag) => tag.trim().toLowerCase().slice(0, LONGEST_TAG))
        .filter((tag) => tag !== ''),
    ),
  ]
    .slice(0, MOST_TAGS)
    .sort();

const LONGEST_TAG = 40;
const MOST_TAGS = 20;

/** Her own words without those that are empty. */
function wordingOf(wording: RuleDraft['wording']): RuleDefinition['wording'] {
  const said = Object.entries(wording).flatMap(([sense, { subject = '', line = '' }]) => {
    const own = given({ subject: subject.trim() || undefined, line: line.trim() || undefined });
    return Object.keys(own).length === 0 ? [] : [[sense, own] as const];
  });
  return said.length === 0 ? undefined : Object.fromEntries(said);
}

/** What a rule has beside its judging, as far as it is said. */
function relatedOf(draft: RuleDraft, { zone }: SaidIn): Partial<RuleDefinition> {
  const { told, tellsEnd, only, carry, weight, name, note, off, ends, endsIn, owner, from } = draft;
  const tags = tagsIn(draft.tags);
  return given({
    told: told === 'reading' || told === 'move' ? told : undefined,
    tellsEnd: tellsEnd ? true : undefined,
    only: only.length === 0 ? undefined : only,
    carry: carry.length === 0 ? undefined : carry,
    weight: weight === 'usual' ? undefined : weight,
    name: name.trim() || undefined,
    note: note.trim() || undefined,
    tags: tags.length === 0 ? undefined : tags,
    owner,
    wording: wordingOf(draft.wording),
    from,
    off: off ? (true as const) : undefined,
    ends: ends === '' ? undefined : { date: ends, zone: endsIn ?? zone },
  });
}

function given<T extends object>(parts: T): { [Key in keyof T]?: Exclude<T[Key], undefined> } {
  return Object.fromEntries(Object.entries(parts).filter(([, part]) => part !== undefined)) as {
    [Key in keyof T]?: Exclude<T[Key], undefined>;
  };
}

function holdOf(hold: HoldDraft | null): Result<RuleDefinition['hold'], string> {
  if (hold === null) return ok(undefined);
  const { count, unit } = hold;
  if (unit !== 'reading') return spanned({ count, unit }, (ms) => ({ for: 'time', ms }));
  return /^\d{1,4}$/.test(count.trim()) && Number(count) > 0
    ? ok({ for: 'readings', count: Number(count) })
    : fail('Say for how many readings it has to hold, as a whole number.');
}

function tellingOf(
  { told, atMostEvery, together, remindEvery, hours, putOff }: RuleDraft,
  { zone }: SaidIn,
): Result<Throttle | undefined, string> {
  const most = atMostEvery === null ? ok(undefined) : spanned(atMostEvery, (ms) => ms);
  const again = remindEvery === null ? ok(undefined) : spanned(remindEvery, (ms) => ms);
  const active = hours === null ? ok(undefined) : hoursOf(hours, zone);
  if (!most.ok) return fail('Say how long nothing more is told after something was.');
  if (!again.ok) return fail('Say how often it is told again.');
  if (!active.ok) return active;
  const telling: Throttle = given({
    once: told === 'once' ? true : undefined,
    atMostEvery: most.value,
    together: most.value === undefined ? undefined : together,
    remindEvery: again.value,
    hours: active.value,
    putOff,
  });
  return ok(Object.keys(telling).length === 0 ? undefined : telling);
}

function hoursOf({ days, from, to, zone: own }: HoursDraft, zone: string): Result<ActiveHours, string> {
  const [begin, end] = [minutesOf(from), minutesOf(to)];
  if (begin === null || end === null) return fail(NO_HOURS);
  return ok({ days: [...days].sort((a, b) => a - b), from: begin, to: end, zone: own ?? zone });
}

function minutesOf(time: string): number | null {
  const [, hour, minute] = /^([01]?\d|2[0-3]):([0-5]\d)$/.exec(time.trim()) ?? [];
  return hour === undefined || minute === undefined ? null : Number(hour) * 60 + Number(minute);
}

const timeOf = (minutes: number) =>
  `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;

/** The present good value of each field, by key. */
export type PresentValues = Record<string, Value | undefined>;

/** How the present value stands to the limits of a condition of one clause; null where there are none to stand to. */
export function presentDistance(condition: Condition, present: PresentValues): Distance | null {
  if (
    !('kind' in condition) ||
    !('limits' in condition) ||
    condition.of.over !== undefined ||
    !isOwn(condition.of.asked)
  )
    return null;
  const value = present[condition.of.asked.field];
  const distance = value === undefined ? null : distanceTo(condition.limits, value);
  return distance?.ok === true ? distance.value : null;
}

/** True when the present value meets the condition, so that she has to choose what to make of that. */
function needsChoice(condition: Condition, present: PresentValues): boolean {
  return presentDistance(condition, present)?.met ?? false;
}

/** The draft that a kept rule says, to be changed. */
export function ruleDraftOf({ id, definition, audiences }: CompleteRule): RuleDraft {
  const { when, whenAlreadyMet, later, hold, told, telling = {} } = definition;
  const span = (ms: number | undefined) => (ms === undefined ? null : spanDraftOf(ms));
  return {
    ...BLANK_RULE,
    id,
    ...conditionDraftOf(when),
    audiences,
    whenAlreadyMet,
    ...given({ later }),
    hold:
      hold === undefined
        ? null
        : hold.for === 'readings'
          ? { count: String(hold.count), unit: 'reading' }
          : spanDraftOf(hold.ms),
    told: telling.once === true ? 'once' : (told ?? 'episode'),
    atMostEvery: span(telling.atMostEvery),
    ...given({ together: telling.together, putOff: telling.putOff }),
    remindEvery: span(telling.remindEvery),
    hours: telling.hours === undefined ? null : hoursDraftOf(telling.hours),
    ...relatedDraftOf(definition),
  };
}

function relatedDraftOf(rule: RuleDefinition): Partial<RuleDraft> {
  const { steps, tellsEnd, only, carry, weight, name, note, off, ends, tags, owner, wording, from } = rule;
  return given({
    tags: tags?.join(', '),
    steps: steps?.map(({ after, audiences }) => ({ after: spanDraftOf(after), audiences })),
    owner,
    wording,
    from,
    tellsEnd,
    only,
    carry,
    weight,
    name,
    note,
    off,
    ends: ends?.date,
    endsIn: ends?.zone,
  });
}

const hoursDraftOf = ({ days, from, to, zone }: ActiveHours): HoursDraft => ({
  days,
  from: timeOf(from),
  to: timeOf(to),
  zone,
});

/** The clauses of a condition as they would be said; one that says more than that is kept whole. */
function conditionDraftOf(when: Condition): Pick<RuleDraft, 'clauses' | 'join' | 'kept'> {
  const parts = 'kind' in when ? [when] : childrenOf(when);
  const drafts = parts.map(partDraftOf);
  const clauses = drafts.flatMap((draft) => draft ?? []);
  const isOne = !('kind' in when) && !('none' in when) && parts.length < 2;
  if (isOne || drafts.includes(null)) return { clauses: [], join: 'all', kept: when };
  return { clauses, join: 'kind' in when || 'all' in when ? 'all' : 'any' in when ? 'any' : 'none' };
}

/** A part of a condition as it would be said: one clause, or several that go together; null where it says more. */
function partDraftOf(part: Condition): ClauseDraft[] | null {
  if ('kind' in part) return draftsOf([part]);
  const drafts = draftsOf(childrenOf(part));
  const [head, ...rest] = drafts ?? [];
  if (head === undefined || (rest.length === 0 && !('none' in part))) return null;
  const tied = 'all' in part ? 'all' : 'any';
  return [{ ...head, ...('none' in part ? { not: true } : {}) }, ...rest.map((each) => ({ ...each, tied }) as const)];
}

function draftsOf(conditions: readonly Condition[]): ClauseDraft[] | null {
  const drafts = conditions.map((each) => ('kind' in each ? clauseDraftOf(each) : null));
  return drafts.includes(null) ? null : drafts.flatMap((draft) => draft ?? []);
}

/** How one condition was said before there were others: a limit on a field, or any change of it. */
interface ConditionDraftOfOld {
  kind: 'level' | 'crossing' | 'change';
  field: string;
  direction: 'below' | 'above';
  inclusive: boolean;
  limit: string;
  unit?: string;
}

interface RuleDraftOfOld extends Pick<RuleDraft, 'id' | 'audiences' | 'whenAlreadyMet'> {
  condition: ConditionDraftOfOld | null;
  hold?: RuleDefinition['hold'];
}

/** A draft of a rule of before, as it is said now. */
export function ruleDraftOfOld({ condition, hold, ...rest }: RuleDraftOfOld): RuleDraft {
  const said =
    hold === undefined
      ? null
      : hold.for === 'readings'
        ? ({ count: String(hold.count), unit: 'reading' } as const)
        : spanDraftOf(hold.ms);
  return { ...BLANK_RULE, ...rest, hold: said, clauses: condition === null ? [] : [clauseOfOld(condition)] };
}

function clauseOfOld({ kind, field, direction, inclusive, limit, unit }: ConditionDraftOfOld): ClauseDraft {
  if (kind === 'change') return blankClause(field, 'changes');
  const verb =
    kind === 'crossing' ? (direction === 'below' ? 'falls below' : 'rises above') : (`is ${direction}` as const);
  return withSaid(blankClause(field, verb), { inclusive, limit, ...(unit === undefined ? {} : { unit }) });
}

/** A draft of a rule whose clauses bore figures that their verbs do not ask for. */
export const ruleDraftOfBags = (rule: RuleDraft): RuleDraft => ({ ...rule, clauses: rule.clauses.map(asSaidBy) });
