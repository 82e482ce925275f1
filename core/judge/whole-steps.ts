import { fractionDigits, type Decimal } from '../value/decimal';
import { unitOf, type Measure } from '../value/value';
import type { Limits } from './asked';

/** What whole numbers stand for: steps of `10 ** -places`, in units by their number. */
export interface WholeSteps {
  places: number;
  units: string[];
}

/** A unit as a name: money and quantities are never alike. */
export const unitName = (measure: Measure): string => `${measure.kind} ${unitOf(measure) ?? ''}`;

/** An amount in whole steps; null where that is no exact number. */
export function scaled(amount: Decimal, places: number): number | null {
  const digits = fractionDigits(amount);
  if (digits > places) return null;
  const steps = Number(
    digits === 0 ? amount + '0'.repeat(places) : amount.replace('.', '') + '0'.repeat(places - digits),
  );
  return Number.isSafeInteger(steps) ? steps : null;
}

/** A clause as numbers: where it is met, from `least` to `most` or elsewhere, and where its margin lets go of it. */
export interface CompiledTest {
  field: string;
  crossing: boolean;
  unit: number;
  /**
   * Met from `least` to `most`, both whole, themselves included; or, of two limits that a value is to stay out of,
   * anywhere else.
   */
  least: number;
  most: number;
  elsewhere: boolean;
  /** Whether a value that was met has come back by the margin; null where there is none. */
  isLeft: ((amount: number) => boolean) | null;
  limits: Limits;
}
