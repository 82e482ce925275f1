import { minorDigits } from '../value/currency';
import { add, fractionDigits, subtract, type Decimal } from '../value/decimal';
import { isMeasure, type Measure, type Value } from '../value/value';

/** Values that bring a clause about: one that meets it, and one that leaves it. Null where no single value can. */
export interface Pretended {
  /** Whether a value stands where the clause leads, so that it has to be left first. */
  stands: (value: Value) => boolean;
  meets: (value: Value) => Value | null;
  leaves: (value: Value) => Value | null;
}

export const never = () => false;
export const isAbsent = ({ kind }: Value) => kind === 'absent';

/** A measure moved by the least that is written of it: a penny, a last digit. */
export function moved(value: Measure, by: number): Measure {
  const places = Math.max(value.kind === 'money' ? minorDigits(value.currency) : 0, fractionDigits(value.amount));
  const least = (places === 0 ? '1' : `0.${'0'.repeat(places - 1)}1`) as Decimal;
  return { ...value, amount: by < 0 ? subtract(value.amount, least) : add(value.amount, least) };
}

const A_DAY = 86_400_000;

/** A value of the same kind that is not the same. */
export function altered(value: Value): Value | null {
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
