import type { Figure } from './asked';
import type { Measure } from '../value/value';

/** In what a variant of a rule asks for a little more, or less. */
export type VariantOf =
  | { what: 'limit'; limit: Measure }
  | { what: 'figure'; figure: Figure }
  | { what: 'hold'; hold: { for: 'readings'; count: number } | { for: 'time'; ms: number } }
  | { what: 'strictness'; oneIn: number };
