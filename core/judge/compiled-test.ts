import type { Limits } from './asked';

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
