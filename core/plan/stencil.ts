import { canonical } from '../canonical';
import { isOwn, type Limits } from '../judge/asked';
import { clausesOf, childrenOf, withAsked, type Clause, type Condition } from '../judge/clause';
import { describeRefusedRule, refuse } from '../judge/refuse';
import { isRanking, asksOfRule, type RecordTest, type RuleDefinition } from '../judge/rule';
import type { Field } from '../read/definition';
import { fail, ok, type Result } from '../result';
import { minorDigits } from '../value/currency';
import { decimal, fractionDigits, multiply, rounded, shiftDecimal, add, type Decimal } from '../value/decimal';
import { alike, isMeasure, unitOf, type Measure } from '../value/value';
import { storedAs } from '../versioned';
import type { PresentValues } from './rule-draft';

/** A rule with blanks, to be put on many watches. */
export interface Stencil {
  name: string;
  /** The rule as it is on the watch that it was made from. */
  rule: RuleDefinition;
  /** The fields of that watch: on another one those are meant that are the same in kind and role, or else in name. */
  fields: Pick<Field, 'key' | 'label' | 'type' | 'role' | 'mode'>[];
  /** The numbers that it read when the stencil was made, to say limits by. */
  present: Record<string, Measure>;
  /**
   * Whether limits are as they are said, or so much percent from the present value of each watch: less where below
   * nought.
   */
  limits: { as: 'said' } | { as: 'present'; percent: Decimal };
  /** Who hears: those who are named, or of each watch those who hear of it already. */
  readers: { are: 'named'; audiences: string[] } | { are: 'those of the watch' };
}

/** How a stencil is stored. */
export const storedStencil = storedAs<Stencil>('a stencil', (unnumbered) => unnumbered);

/** A watch that a stencil is put on: its fields, what they are now, and who hears of it. */
export interface Target {
  fields: Field[];
  present: PresentValues;
  intervalMs: number;
  audiences: string[];
}

/** What a stencil makes on a watch. */
export interface Pressed {
  definition: RuleDefinition;
  audiences: string[];
}

/** Why a rule can be no stencil; null where it can. */
export function unfit(rule: RuleDefinition): string | null {
  const elsewhere = asksOfRule(rule).find(({ record, watch, channel, sharing }) =>
    [record, watch, channel, sharing].some((each) => each !== undefined),
  );
  return elsewhere === undefined
    ? null
    : 'It names another record, watch, channel or label, which other watches do not have.';
}

/** The rule that a stencil makes on a watch; or why it makes none there, as a sentence. */
export function press(stencil: Stencil, target: Target): Result<Pressed, string> {
  const keys = new Map<string, string>();
  for (const key of fieldsOf(stencil.rule)) {
    const field = likeField(stencil, key, target.fields);
    if (field === undefined)
      return fail(`It reads no ${stencil.fields.find((each) => each.key === key)?.label ?? key}.`);
    keys.set(key, field.key);
  }
  const when = pressed(stencil.rule.when, stencil, keys, target.present);
  if (!when.ok) return when;
  const audiences = stencil.readers.are === 'named' ? stencil.readers.audiences : target.audiences;
  if (audiences.length === 0) return fail('Nobody hears of this watch yet: name who should hear.');
  const { only, carry, ...rest } = stencil.rule;
  const tests = (only ?? []).flatMap((test) => pressedTest(test, keys));
  const shown = (carry ?? []).flatMap((key) => likeField(stencil, key, target.fields)?.key ?? []);
  const definition: RuleDefinition = {
    ...rest,
    when: when.value,
    ...(tests.length === 0 ? {} : { only: tests }),
    ...(shown.length === 0 ? {} : { carry: shown }),
  };
  const refused = refuse(definition, target.intervalMs);
  return refused === null ? ok({ definition, audiences: [...audiences] }) : fail(describeRefusedRule(refused));
}

const fieldsOf = ({ when, only = [] }: RuleDefinition): string[] => [
  ...new Set([
    ...clausesOf(when).flatMap(fieldsWithin),
    ...only.flatMap((test) => ('field' in test ? test.field : [])),
  ]),
];

/** The fields that are named anywhere within a clause. */
function fieldsWithin(said: unknown): string[] {
  if (typeof said !== 'object' || said === null) return [];
  return Object.entries(said).flatMap(([key, value]) =>
    key === 'field' && typeof value === 'string' ? [value] : fieldsWithin(value),
  );
}

function likeField({ fields }: Stencil, key: string, among: readonly Field[]): Field | undefined {
  const own = fields.find((field) => field.key === key);
  if (own === undefined) return undefined;
  const fits = among.filter((field) => kindOf(field) === kindOf(own));
  return (
    fits.find((field) => own.role !== undefined && field.role === own.role) ??
    fits.find((field) => field.label.toLowerCase() === own.label.toLowerCase()) ??
    fits.find((field) => field.key === own.key)
  );
}

/** Money that is read, computed or stated is money all the same. */
const kindOf = ({ type }: Pick<Field, 'type'>): string =>
  ['money', 'number', 'computed', 'stated', 'count'].includes(type.kind) ? 'measure' : type.kind;

/** Records that are named are those of one watch: on another one it runs for all. */
function pressedTest(test: RecordTest, keys: ReadonlyMap<string, string>): RecordTest[] {
  if (test.by === 'identity') return [];
  if (test.by === 'field' || isRanking(test)) return [{ ...test, field: keys.get(test.field) ?? test.field }];
  return [test];
}

function pressed(
  condition: Condition,
  stencil: Stencil,
  keys: ReadonlyMap<string, string>,
  present: PresentValues,
): Result<Condition, string> {
  if ('kind' in condition) return pressedClause(condition, stencil, keys, present);
  const parts: Condition[] = [];
  for (const part of childrenOf(condition)) {
    const made = pressed(part, stencil, keys, present);
    if (!made.ok) return made;
    parts.push(made.value);
  }
  return ok('all' in condition ? { all: parts } : 'any' in condition ? { any: parts } : { none: parts });
}

function pressedClause(
  clause: Clause,
  stencil: Stencil,
  keys: ReadonlyMap<string, string>,
  present: PresentValues,
): Result<Clause, string> {
  const made = withAsked(clause, (said) => ({ ...said, field: keys.get(said.field) ?? said.field }));
  if (!('limits' in made)) return ok(made);
  const { asked } = made.of;
  const limits = limitsFor(made, stencil, present[asked.field], isOwn(asked));
  return limits.ok ? ok({ ...made, limits: limits.value }) : limits;
}

function limitsFor(
  { of, limits }: Extract<Clause, { limits: Limits }>,
  { limits: how }: Stencil,
  value: PresentValues[string],
  own: boolean,
): Result<Limits, string> {
  const like = 'limit' in limits ? limits.limit : limits.low;
  // What a stretch of readings comes to is counted by itself, and no present value stands for it.
  if (of.over !== undefined || !own) return ok(limits);
  if (value === undefined || !isMeasure(value))
    return fail('It has no present value that a limit could be counted from.');
  if (how.as === 'said')
    return alike(like, value)
      ? ok(limits)
      : fail(`It is counted in ${unitOf(value) ?? 'no unit'}, and the limit in ${unitOf(like) ?? 'no unit'}.`);
  const far = magnitudeOf(how.percent);
  if ('limit' in limits && limits.further !== undefined)
    return fail('It is told again at further limits, which no percentage says: say the limits themselves.');
  if ('limit' in limits) return ok({ ...limits, limit: percentFrom(value, how.percent) });
  return ok({ ...limits, low: percentFrom(value, `-${far}` as Decimal), high: percentFrom(value, far) });
}

const magnitudeOf = (percent: Decimal): Decimal => percent.replace('-', '') as Decimal;

/** A value so much percent from another, with the places that its currency has, or that it was read with. */
function percentFrom(value: Measure, percent: Decimal): Measure {
  const share = shiftDecimal(add('100' as Decimal, percent), -2);
  const places = value.kind === 'money' ? minorDigits(value.currency) : Math.max(1, fractionDigits(value.amount));
  return { ...value, amount: rounded(multiply(value.amount, share), places) };
}

/** A percentage that is typed: `-8`, `8 %`, `+2.5`; null where it is none. */
export function percentIn(text: string): Decimal | null {
  const said = text.replace(/[\s%]/g, '').replace(',', '.').replace(/^\+/, '').replace('\u2212', '-');
  return /^-?\d{1,4}(\.\d{1,4})?$/.test(said) ? decimal(said) : null;
}

/** What a rule says apart from what it was made from, as a short text by which two are told apart. */
export function markOf(rule: RuleDefinition): string {
  const { from: _from, off: _off, ...said } = rule;
  const text = canonical(said);
  let [high, low] = [0xdeadbeef, 0x41c6ce57];
  for (let at = 0; at < text.length; at += 1) {
    const code = text.charCodeAt(at);
    high = Math.imul(high ^ code, 2654435761);
    low = Math.imul(low ^ code, 1597334677);
  }
  return `${(high >>> 0).toString(36)}${(low >>> 0).toString(36)}`;
}
