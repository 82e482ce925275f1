import { minorDigits } from '../value/currency';
import { add, fractionDigits, subtract, type Decimal } from '../value/decimal';
import { ABSENT, alike, isMeasure, sameValue, type Measure, type Value } from '../value/value';
import { foldText } from '../value/parse';
import type { Clause, Figure, Limits, StateTest } from './clause';
import { amountOf, meetsLimits } from './clauses/limits';

/** Values that bring a clause about: one that meets it, and one that leaves it. Null where no single value can. */
export interface Pretended {
  /** Whether a value stands where the clause leads, so that it has to be left first. */
  stands: (value: Value) => boolean;
  meets: (value: Value) => Value | null;
  leaves: (value: Value) => Value | null;
}

/** What to pretend for a clause on a reading; null for one that a single value cannot bring about. */
export function pretendFor(clause: Clause): Pretended | null {
  switch (clause.kind) {
    case 'level':
    case 'crossing':
      return clause.of.over === undefined ? ofLimits(clause.limits) : null;
    case 'change':
      return { stands: never, meets: altered, leaves: altered };
    case 'move':
      return ofMove(clause);
    case 'state':
      return ofState(clause.how);
    case 'grade':
      return ofGrade(clause.how);
    case 'text':
      return 'phrase' in clause.how
        ? ofPhrase(clause.how.phrase, clause.how.is === 'there' || clause.how.is === 'appears')
        : null;
    case 'absence':
      return clause.how === 'is absent'
        ? { stands: isAbsent, meets: () => ABSENT, leaves: () => null }
        : { stands: (value) => !isAbsent(value), meets: () => null, leaves: () => ABSENT };
    default:
      return null;
  }
}

const never = () => false;
const isAbsent = ({ kind }: Value) => kind === 'absent';

function ofLimits(limits: Limits): Pretended {
  const stands = (value: Value) => {
    const met = meetsLimits(limits, value);
    return met.ok && met.value;
  };
  const like = 'limit' in limits ? limits.limit : limits.low;
  const only = (made: Value) => (value: Value) => (isMeasure(value) && alike(value, like) ? made : null);
  const [meets, leaves] = sidesOf(limits);
  return { stands, meets: only(meets), leaves: only(leaves) };
}

/** The first value on either side of limits: one that meets them, and one that does not. */
function sidesOf(limits: Limits): [meets: Measure, leaves: Measure] {
  const { inclusive } = limits;
  if ('limit' in limits) {
    const beyond = limits.is === 'below' ? -1 : 1;
    return inclusive ? [limits.limit, moved(limits.limit, -beyond)] : [moved(limits.limit, beyond), limits.limit];
  }
  const within = inclusive === (limits.is === 'between') ? limits.low : moved(limits.low, 1);
  const without = inclusive === (limits.is === 'outside') ? limits.low : moved(limits.low, -1);
  return limits.is === 'between' ? [within, without] : [without, within];
}

function ofMove({ against, rise, fall }: Extract<Clause, { kind: 'move' }>): Pretended | null {
  if (against.base === 'series' || against.base === 'median') return null;
  const by = (value: Value, base: Value): Value | null => {
    const figure = rise ?? fall;
    if (figure === null || !isMeasure(base) || !isMeasure(value) || !alike(value, base)) return null;
    return further(base, figure, figure === rise ? 1 : -1);
  };
  if (against.base === 'pinned')
    return { stands: never, meets: (value) => by(value, against.value), leaves: () => against.value };
  return { stands: never, meets: (value) => by(value, value), leaves: () => null };
}

function further(base: Measure, figure: Figure, side: 1 | -1): Measure {
  const far = amountOf(figure, base.amount);
  return { ...base, amount: side === 1 ? add(base.amount, far) : subtract(base.amount, far) };
}

function ofState(how: StateTest): Pretended {
  if (how === 'any move') return { stands: never, meets: altered, leaves: altered };
  if ('leaves' in how)
    return {
      stands: (value) => !sameValue(value, how.leaves),
      meets: () => altered(how.leaves),
      leaves: () => how.leaves,
    };
  const to = 'is' in how ? how.is : 'becomes' in how ? how.becomes : how.to;
  const from = 'from' in how ? how.from : null;
  const isReady = (value: Value) => from === null || sameValue(value, from);
  return {
    stands: (value) => sameValue(value, to) || !isReady(value),
    meets: () => to,
    leaves: () => from ?? altered(to),
  };
}

type GradeTest = Extract<Clause, { kind: 'grade' }>['how'];

function ofGrade(how: GradeTest): Pretended {
  const by = (value: Value, rank: (at: number) => number): Value | null => {
    if (value.kind !== 'grade') return null;
    const grade = value.scale[rank(value.scale.indexOf(value.grade))];
    return grade === undefined ? null : { ...value, grade };
  };
  if ('moves' in how) {
    const steps = how.moves === 'worse' ? how.steps : -how.steps;
    return {
      stands: (value) => by(value, (at) => at + steps) === null,
      meets: (value) => by(value, (at) => at + steps),
      leaves: (value) => by(value, () => (steps > 0 ? 0 : value.kind === 'grade' ? value.scale.length - 1 : 0)),
    };
  }
  const limit = (value: Value, past: number) =>
    by(value, () => (value.kind === 'grade' ? value.scale.indexOf(how.grade) + past : -1));
  const stands = (value: Value) =>
    value.kind === 'grade' &&
    (how.is === 'at or below') === value.scale.indexOf(value.grade) >= value.scale.indexOf(how.grade);
  return {
    stands,
    meets: (value) => limit(value, 0),
    leaves: (value) => limit(value, how.is === 'at or below' ? -1 : 1),
  };
}

function ofPhrase(phrase: string, there: boolean): Pretended {
  const has = (value: Value) =>
    value.kind === 'text' && foldText(value.text).toLowerCase().includes(foldText(phrase).toLowerCase());
  const put = (value: Value): Value | null =>
    value.kind === 'text' ? { kind: 'text', text: has(value) ? value.text : `${value.text} ${phrase}` } : null;
  const taken = (value: Value): Value | null =>
    value.kind === 'text' ? { kind: 'text', text: has(value) ? '…' : value.text } : null;
  return { stands: (value) => has(value) === there, meets: there ? put : taken, leaves: there ? taken : put };
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
