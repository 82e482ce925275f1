import { minorDigits } from '../value/currency';
import { add, fractionDigits, subtract, type Decimal } from '../value/decimal';
import { isMeasure, type Measure, type Value } from '../value/value';
import type { Instant } from '../when/interval';
import { UNJUDGED, type RuleMemory } from './memory';
import type { Reason } from './reason';
import type { RuleDefinition } from './rule';
import { meets, stepRule } from './step';

/** A pretended reading, and what the rule makes of it. */
export interface RehearsedReading {
  value: Value;
  previous: Value | null;
  told: boolean;
  reason: Reason;
}

/** The most readings that are pretended: the baseline, one that leaves the limit, and as many as a hold asks for. */
const MOST = 60;

/**
 * Runs a rule on pretended readings from `present` on, step by step as every reading is judged, until it tells somebody: the value first
 * leaves the limit where it has to, then passes it by the least there is. Ends without telling where the rule cannot tell of such values;
 * the last reason says why.
 */
export function rehearse(rule: RuleDefinition, present: Value, apart: number): RehearsedReading[] {
  const done: RehearsedReading[] = [];
  let memory: RuleMemory = UNJUDGED;
  let value = present;
  for (let at: Instant = 0; done.length < MOST; at += apart) {
    const previous = done.at(-1)?.value ?? null;
    const step = stepRule(rule, memory, { at, fields: new Map([[rule.condition.field, { value, previous }]]) });
    if (step === null) return done;
    memory = step.memory;
    const told = step.effects.some((effect) => effect.do === 'alert');
    done.push({ value, previous, told, reason: step.reason });
    if (told) return done;
    const next = nextValue(rule, memory, value);
    if (next === null) return done;
    value = next;
  }
  return done;
}

/** The next value to pretend: one beyond the limit, or, where that does not count until the limit is left, one that leaves it. */
function nextValue({ condition }: RuleDefinition, { clause }: RuleMemory, value: Value): Value | null {
  if (condition.kind === 'change') return altered(value);
  if (!meets(condition, value).ok) return null;
  const { limit, direction, inclusive } = condition;
  const beyond = direction === 'below' ? -1 : 1;
  if (clause === 'passed over') return inclusive ? moved(limit, -beyond) : limit;
  return inclusive ? limit : moved(limit, beyond);
}

/** A measure moved by the least that is written of it: a penny, a last digit. */
function moved(value: Measure, by: number): Measure {
  const places = Math.max(value.kind === 'money' ? minorDigits(value.currency) : 0, fractionDigits(value.amount));
  const least = (places === 0 ? '1' : `0.${'0'.repeat(places - 1)}1`) as Decimal;
  return { ...value, amount: by < 0 ? subtract(value.amount, least) : add(value.amount, least) };
}

const A_DAY = 86_400_000;

/** A value of the same kind that is not the same. */
function altered(value: Value): Value | null {
  if (isMeasure(value)) return moved(value, 1);
  switch (value.kind) {
    case 'text':
      return { kind: 'text', text: `${value.text} (altered)` };
    case 'flag':
      return { kind: 'flag', is: !value.is };
    case 'state':
      return { kind: 'state', state: value.state === 'sold out' ? 'in stock' : 'sold out' };
    case 'grade':
      return { ...value, grade: value.scale.find((grade) => grade !== value.grade) ?? value.grade };
    case 'moment':
      return { ...value, at: value.at + A_DAY };
    case 'link':
    case 'picture':
      return { ...value, address: `${value.address}#altered` };
    default:
      return null;
  }
}
