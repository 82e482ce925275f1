import { DateTime } from 'luxon';
import { onceFor } from '../once-for';
import { canonical } from '../canonical';
import type { Sense } from '../compare/compare';
import type { PersonId } from '../id';
import type { Property } from '../items/item';
import { isAllRecords, NUMBER_OF_RECORDS } from '../read/all-records';
import type { Measure } from '../value/value';
import { storedAs } from '../versioned';
import { DAY, type Instant } from '../when/interval';
import { isOwn, keyOf, type Asked } from './asked';
import { asksIn, clausesOf, isSilence, type Clause, type Condition } from './clause';
import type { Rule } from './engine';
import { kindOf } from './kinds/table';
import type { Throttle } from './throttle';

/** How much a rule matters beside others. */
export type Weight = 'high' | 'usual' | 'low';

/** Which records of its watch a rule runs for: all that every test lets through. */
export type RecordTest =
  /** Those that are named, by their identity. */
  | { by: 'identity'; in: string[] }
  /** Those that bear a label. */
  | { by: 'label'; label: string; is: string }
  /** Those whose name holds some words. */
  | { by: 'name'; holds: string }
  /** Those of which a field says so at this moment. */
  | { by: 'field'; field: string; is: string }
  /** Those that are offers of items with a property. */
  | { by: 'item'; property: Property; is: string }
  /** So many that are highest or lowest by a field: chosen once, or anew with each day, week or month. */
  | { by: 'highest' | 'lowest'; field: string; count: number; anew: 'never' | 'day' | 'week' | 'month'; zone: string };

/** What matters, for which records, and how that is told. */
export interface RuleDefinition extends Rule {
  only?: RecordTest[];
  telling?: Throttle;
  /** It is told, too, that an episode is over, to those who were told that it began. */
  tellsEnd?: boolean;
  /**
   * Who is told, too, of an episode that nobody takes on: each so long after the one before, in ms, the first after it
   * was raised.
   */
  steps?: EscalationStep[];
  /** Fields that are shown with what it tells. */
  carry?: string[];
  weight?: Weight;
  /** It is kept, and not judged. */
  off?: true;
  /** The last day on which it is judged, in a zone. */
  ends?: { date: string; zone: string };
  /** Without one its sentence is its name. */
  name?: string;
  note?: string;
  tags?: string[];
  /** Whoever answers for it; without one whoever made its watch. */
  owner?: PersonId;
  /** Her own words of its mails, by how what happened is to be taken. */
  wording?: Partial<Record<Sense, Wording>>;
  /** The rule that it is a copy of, or the stencil that made it, by which version, and a mark of what that made. */
  from?:
    | { kind: 'rule'; id: number; name: string }
    | { kind: 'stencil'; id: number; name: string; version: number; made: string };
}

/** Those who are told so long after the step before, where nobody has taken it on by then. */
export interface EscalationStep {
  after: number;
  audiences: string[];
}

/** A subject and a line of her own, either of which may be left to us. */
export interface Wording {
  subject?: string;
  line?: string;
}

/** How the definition of a rule is stored. */
export const storedRule = storedAs<RuleDefinition>('a rule', (unnumbered) => unnumbered, ofLimits);

/**
 * Whether two rules judge alike: where they do not, what was remembered under the one means nothing under the other.
 */
export function judgesAlike(one: RuleDefinition, other: RuleDefinition): boolean {
  return judged(one) === judged(other);
}

const judged = ({ when, hold, only, off }: RuleDefinition) => canonical({ when, hold, only, off });

/** When a rule ends: with its last day; null where it goes on. */
export function endOf({ ends }: Pick<RuleDefinition, 'ends'>): Instant | null {
  return ends === undefined
    ? null
    : DateTime.fromISO(ends.date, { zone: ends.zone }).plus({ days: 1 }).startOf('day').toMillis();
}

/** So long before its end a reader is reminded of it, in ms. */
const REMINDED_BEFORE = [7 * DAY, DAY];

/** When a reader is next reminded, after a moment, that a rule ends; null where that is over, or it goes on. */
export function remindedAt(rule: Pick<RuleDefinition, 'ends'>, after: Instant): Instant | null {
  const end = endOf(rule);
  return end === null ? null : (REMINDED_BEFORE.map((before) => end - before).find((at) => at > after) ?? null);
}

/** The series that a rule asks, each once. */
export const asksOfRule = ({ when }: Pick<Rule, 'when'>): readonly Asked[] => asksOfCondition(when);

const asksOfCondition = onceFor((when: Condition): Asked[] => [
  ...new Map(clausesOf(when).flatMap((clause) => asksIn(clause).map((asked) => [keyOf(asked), asked]))).values(),
]);

/** The fields of its own record that a rule asks, the first of them the one that it is about. */
export const ownFields = ({ when }: Pick<Rule, 'when'>): readonly string[] => ownFieldsOf(when);

const ownFieldsOf = onceFor((when: Condition): string[] =>
  asksOfCondition(when).flatMap((asked) => (isOwn(asked) ? asked.field : [])),
);

/**
 * Whether a rule is about a record: one on the number of records about all of them together, any other about each by
 * itself.
 */
export const isAbout = (rule: Pick<Rule, 'when'>, record: { identity: string }): boolean =>
  ownFields(rule).includes(NUMBER_OF_RECORDS) === isAllRecords(record);

/** Whether a rule asks how many records its watch has. */
export const asksNumber = (rule: Pick<Rule, 'when'>): boolean =>
  asksOfRule(rule).some(({ field, watch }) => field === NUMBER_OF_RECORDS && watch === undefined);

/** Whether a rule asks more than its own record: other records, a group of them, an item, or another watch. */
export function isWide({ when, only = [] }: Pick<RuleDefinition, 'when' | 'only'>): boolean {
  return (
    only.some(isRanking) ||
    clausesOf(when).some(
      (clause) => kindOf(clause).group !== undefined || asksIn(clause).some((asked) => !isOwn(asked)),
    )
  );
}

/** What rules ask beside their own watch: anything of items, and series of other watches. */
export interface AskedRelated {
  items: boolean;
  elsewhere: readonly Asked[];
}

export const askedRelated = (...rules: Pick<RuleDefinition, 'when' | 'only'>[]): AskedRelated => ({
  items: rules.some(asksItems),
  elsewhere: rules.flatMap(asksOtherWatches),
});

/** What a rule asks of other watches. */
export const asksOtherWatches = (rule: Pick<Rule, 'when'>): Asked[] =>
  asksOfRule(rule).filter(({ watch }) => watch !== undefined);

/** The records that are highest or lowest by a field. */
export type Ranking = Extract<RecordTest, { by: 'highest' | 'lowest' }>;
export const isRanking = (test: RecordTest): test is Ranking => test.by === 'highest' || test.by === 'lowest';

/** Whether a rule asks anything of the items that its records are offers of. */
export function asksItems({ when, only = [] }: Pick<RuleDefinition, 'when' | 'only'>): boolean {
  if (only.some(({ by }) => by === 'item')) return true;
  return clausesOf(when).some(
    (clause) => isAmongOffers(clause) || asksIn(clause).some(({ item }) => item !== undefined),
  );
}

/** Whether a clause is about a place among the offers of an item. */
const isAmongOffers = (clause: Clause): boolean => kindOf(clause).group?.(clause).among === 'offers';

/** Whether a run that fails is something that a rule has to hear of. */
export const hearsFailures = ({ when }: Pick<Rule, 'when'>): boolean =>
  clausesOf(when).some((clause) => kindOf(clause).hearsFailures?.(clause) ?? false);

/** Whether a rule is met by what does not come. */
export const hearsSilence = ({ when }: Pick<Rule, 'when'>): boolean => clausesOf(when).some(isSilence);

/** Whether every run counts for a rule, and not only those that bring something new. */
export const countsRuns = (rule: Rule): boolean => countsRunsAlone(rule) || clausesOf(rule.when).some(turnsOnOthers);

/** The same where it is known when what stands beside its record moves. */
export function countsRunsAlone({ when, hold, told }: Rule): boolean {
  return hold !== undefined || told === 'reading' || clausesOf(when).some(countsEach);
}

/**
 * Whether a clause may move while nothing new is read: by others of a group, or by an agreed minimum, which changes
 * with the day.
 */
const turnsOnOthers = (clause: Clause): boolean =>
  kindOf(clause).group !== undefined || asksIn(clause).some(({ item }) => item === 'minimum');

const countsEach = (clause: Clause): boolean => kindOf(clause).countsRuns?.(clause) ?? false;

/** Whether a rule sees more of what was before it than the last value. */
export const seesHistory = ({ when }: Pick<Rule, 'when'>): boolean =>
  clausesOf(when).some((clause) => kindOf(clause).seesHistory?.(clause) ?? false);

/** A limit and a side, as they were said before. */
interface LimitOfOld {
  kind: 'level' | 'crossing';
  field: string;
  direction: 'below' | 'above';
  limit: Measure;
  inclusive: boolean;
}

interface RuleOfOld extends Omit<RuleDefinition, 'when'> {
  condition: ConditionOfOld;
}

export type ConditionOfOld = LimitOfOld | { kind: 'change'; field: string };

/** A rule was one condition on one field. */
function ofLimits(older: unknown): unknown {
  const { condition, ...rest } = older as RuleOfOld;
  return { ...rest, when: conditionOfOld(condition) };
}

/** A condition of before as it is said now. */
export function conditionOfOld(said: ConditionOfOld): Condition {
  const asked = { field: said.field };
  if (said.kind === 'change') return { kind: 'change', asked };
  const { kind, direction, limit, inclusive } = said;
  return { kind, of: { asked }, limits: { is: direction, limit, inclusive } };
}

/** The limits that a rule sets to the readings of a field, for drawing them. */
export function limitsOn({ when }: Pick<Rule, 'when'>, field: string): Measure[] {
  return clausesOf(when).flatMap((clause) => {
    if (!('limits' in clause) || clause.of.over !== undefined || keyOf(clause.of.asked) !== field) return [];
    return 'limit' in clause.limits
      ? [clause.limits.limit, ...(clause.limits.further ?? [])]
      : [clause.limits.low, clause.limits.high];
  });
}
