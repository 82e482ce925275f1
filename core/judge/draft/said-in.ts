import type { Field } from '../../read/definition';
import type { Value } from '../../value/value';

/** What clauses are said in: the present values, the fields, and how the reader writes numbers. */
export interface SaidIn {
  present: Record<string, Value | undefined>;
  fields: Pick<Field, 'key' | 'mode' | 'type'>[];
  locale: string;
  zone: string;
}

/** The zone whose clock a clause goes by: of a kept one its own. */
export const zoneOf = ({ zone }: { zone?: string }, said: SaidIn): string => zone ?? said.zone;
