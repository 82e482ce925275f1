import jsep, { type Expression } from 'jsep';
import Big from 'big.js';
import { fail, ok, type Result } from '../result';
import { add, compareDecimals, decimal, magnitude, multiply, subtract, type Decimal } from '../value/decimal';
import { ABSENT, alike, isMeasure, unitOf, type Measure, type Value } from '../value/value';
import type { WatchDefinition } from './definition';

/** What a formula may ask for. */
export interface FormulaScope {
  /** A field of the same record, by its name in formulas; undefined when there is none of that name. */
  field: (name: string) => Result<Value, string> | undefined;
  /** The latest good value of another watch's field; undefined when there is none. */
  latest: (watch: string, field: string) => Value | undefined;
}

/** A value of another watch that a formula may ask for. */
export interface LatestValue {
  watch: string;
  field: string;
  value: Value;
}

/** Looks values of other watches up; of one that stands there more than once none is the latest. */
export function latestAmong(values: LatestValue[]): FormulaScope['latest'] {
  return (watch, field) => {
    const found = values.filter((each) => each.watch === watch && each.field === field);
    return found.length === 1 ? found[0]?.value : undefined;
  };
}

const LONGEST = 300;
const PLACES = 12;
const LONGEST_RESULT = 400;
const NOT_UNDERSTOOD = 'Only + - * /, names, numbers and a few functions are understood in a formula.';

/**
 * Works out a formula: + - * / over fields by name, numbers, `latest("watch", "field")`, `min`, `max`, `abs`, `round(x,
 * places)`. Exact on decimals; a quotient is rounded half-even to 12 places. Unlike units are not added, absent
 * spreads, and nothing is evaluated but the tree that jsep parses. The error is a sentence.
 */
export function evaluateFormula(formula: string, scope: FormulaScope): Result<Value, string> {
  const tree = parseFormula(formula);
  if (!tree.ok) return tree;
  try {
    const value = evaluate(tree.value, scope);
    return value.ok && isMeasure(value.value) && value.value.amount.length > LONGEST_RESULT
      ? fail('What comes out has too many digits.')
      : value;
  } catch (error) {
    // What big.js refuses, or a tree too deep: a formula is text that somebody typed, and never throws.
    return fail(`It cannot be computed: ${error instanceof Error ? error.message : 'the numbers do not allow it'}.`);
  }
}

/** Parses a formula; the error says what is wrong with it. */
export function parseFormula(formula: string): Result<Expression, string> {
  if (formula.trim() === '') return fail('The formula is empty.');
  if (formula.length > LONGEST) return fail(`A formula may have at most ${LONGEST} characters.`);
  try {
    return ok(jsep(formula));
  } catch (error) {
    return fail(`This is not a formula: ${error instanceof Error ? error.message : 'it cannot be read'}.`);
  }
}

/** The other watches that a formula asks for, with the field of each. */
export function watchesAsked(formula: string): { watch: string; field: string }[] {
  const tree = parseFormula(formula);
  return tree.ok ? asked(tree.value) : [];
}

function asked(node: unknown): { watch: string; field: string }[] {
  if (typeof node !== 'object' || node === null) return [];
  const call = latestCall(node as Expression);
  if (call !== null) return [call];
  return Object.values(node).flatMap((child) => (Array.isArray(child) ? child.flatMap(asked) : asked(child)));
}

/** The values of other watches that a definition's formulas ask for. */
export function asksOf(definition: Pick<WatchDefinition, 'fields'>): { watch: string; field: string }[] {
  return definition.fields.flatMap(({ type }) => (type.kind === 'computed' ? watchesAsked(type.formula) : []));
}

function latestCall(node: Expression): { watch: string; field: string } | null {
  const { callee, arguments: given } = node as { callee?: Expression; arguments?: Expression[] };
  if (node.type !== 'CallExpression' || callee?.name !== 'latest') return null;
  const [watch, field] = (given ?? []).map((each) => each.value);
  return typeof watch === 'string' && typeof field === 'string' ? { watch, field } : null;
}

function evaluate(node: Expression, scope: FormulaScope): Result<Value, string> {
  switch (node.type) {
    case 'Literal':
      return literal(node);
    case 'Identifier':
      return scope.field(node.name as string) ?? fail(`There is no field called ${node.name as string}.`);
    case 'UnaryExpression':
      return node.operator === '-'
        ? operate('-', ok(zeroLike), evaluate(node.argument as Expression, scope))
        : fail(`“${node.operator as string}” is not understood.`);
    case 'BinaryExpression':
      return operate(
        node.operator as string,
        evaluate(node.left as Expression, scope),
        evaluate(node.right as Expression, scope),
      );
    case 'CallExpression':
      return call(node, scope);
    default:
      return fail(NOT_UNDERSTOOD);
  }
}

const zeroLike: Value = { kind: 'number', amount: '0' as Decimal, unit: null };

function literal(node: Expression): Result<Value, string> {
  const amount = typeof node.value === 'number' ? decimal(node.raw as string) : null;
  return amount === null
    ? fail(`${node.raw as string} is not a number that can be computed with.`)
    : ok({ kind: 'number', amount, unit: null });
}

function operate(operator: string, left: Result<Value, string>, right: Result<Value, string>): Result<Value, string> {
  if (!left.ok) return left;
  if (!right.ok) return right;
  const [a, b] = [left.value, right.value];
  if (a.kind === 'absent' || b.kind === 'absent') return ok(ABSENT);
  if (!isMeasure(a) || !isMeasure(b)) return fail('Only numbers and money can be computed with.');
  if (operator === '+' || operator === '-')
    return sum(operator, a === zeroLike ? { ...b, amount: '0' as Decimal } : a, b);
  if (operator === '*') return product(a, b);
  return operator === '/' ? quotient(a, b) : fail(`“${operator}” is not understood.`);
}

function sum(operator: '+' | '-', a: Measure, b: Measure): Result<Value, string> {
  if (!alike(a, b)) return fail(`${unitName(a)} and ${unitName(b)} cannot be added or subtracted.`);
  return ok({ ...a, amount: operator === '+' ? add(a.amount, b.amount) : subtract(a.amount, b.amount) });
}

function product(a: Measure, b: Measure): Result<Value, string> {
  const amount = multiply(a.amount, b.amount);
  if (unitOf(b) === null) return ok({ ...a, amount });
  return unitOf(a) === null ? ok({ ...b, amount }) : fail(`${unitName(a)} and ${unitName(b)} cannot be multiplied.`);
}

function quotient(a: Measure, b: Measure): Result<Value, string> {
  if (compareDecimals(b.amount, '0' as Decimal) === 0) return fail('It would divide by nought.');
  const amount = divide(a.amount, b.amount);
  if (alike(a, b)) return ok({ kind: 'number', amount, unit: null });
  if (unitOf(b) === null) return ok({ ...a, amount });
  if (a.kind === 'money' || b.kind === 'money') return fail(`${unitName(a)} cannot be divided by ${unitName(b)}.`);
  return ok({ kind: 'number', amount, unit: `${unitOf(a) ?? '1'}/${unitOf(b)}` });
}

function divide(a: Decimal, b: Decimal): Decimal {
  const scaled = Big();
  scaled.DP = PLACES + 8;
  const rounded = new scaled(a).div(b).round(PLACES, Big.roundHalfEven).toFixed();
  return rounded as Decimal;
}

function unitName(measure: Measure): string {
  return unitOf(measure) ?? 'a bare number';
}

function call(node: Expression, scope: FormulaScope): Result<Value, string> {
  const latest = latestCall(node);
  if (latest !== null) {
    const value = scope.latest(latest.watch, latest.field);
    return value === undefined
      ? fail(`There is no good value of “${latest.field}” on a watch called “${latest.watch}”.`)
      : ok(value);
  }
  const callee = node.callee as Expression;
  if (callee.type !== 'Identifier') return fail(NOT_UNDERSTOOD);
  const name = callee.name as string;
  const given = (node.arguments as Expression[]).map((each) => evaluate(each, scope));
  const values: Value[] = [];
  for (const each of given) {
    if (!each.ok) return each;
    if (each.value.kind === 'absent') return ok(ABSENT);
    values.push(each.value);
  }
  return apply(name, values);
}

function apply(name: string, values: Value[]): Result<Value, string> {
  const measures = values.filter(isMeasure);
  const [first, second] = measures;
  if (first === undefined || measures.length !== values.length) return fail(`${name} needs numbers.`);
  if (name === 'abs') return ok({ ...first, amount: magnitude(first.amount) });
  if (name === 'round') return rounded(first, second);
  if (name !== 'min' && name !== 'max') return fail(`There is no function called ${name}.`);
  if (!measures.every((each) => alike(each, first))) return fail(`${name} needs numbers in one unit.`);
  const sign = name === 'min' ? -1 : 1;
  return ok(measures.reduce((best, each) => (compareDecimals(each.amount, best.amount) === sign ? each : best)));
}

/** Rounded half-even to a number of places, none where it does not say. */
function rounded(measure: Measure, to: Measure | undefined): Result<Value, string> {
  const places = Number(to?.amount ?? 0);
  if ((to !== undefined && unitOf(to) !== null) || !Number.isInteger(places) || places < 0 || places > PLACES)
    return fail(`round needs a number of places from 0 to ${PLACES}, such as round(price, 2).`);
  return ok({ ...measure, amount: new Big(measure.amount).round(places, Big.roundHalfEven).toFixed() as Decimal });
}
