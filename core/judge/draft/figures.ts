import { numberOf } from '../../read/all-records';
import { fail, ok } from '../../result';
import { parseLimit } from '../../value/parse';
import { describeRefusal } from '../../value/refusals';
import { isMeasure, unitOf, type Measure } from '../../value/value';
import type { Figure, JudgedWindow } from '../asked';
import type { Said } from './base';
import type { SaidIn } from './said-in';
import type { SpanDraft } from './span';

// Figures as they are typed, and as they would be.

/** What is made of a stretch of readings, as it is typed. */
export interface WindowDraft extends Omit<SpanDraft, 'unit'> {
  make: JudgedWindow['make'];
  /** Sliding, by time or by readings; or the calendar's, without a count. */
  unit: SpanDraft['unit'] | 'reading' | 'this hour' | 'this day' | 'this week' | 'this month';
  /** Of a kept one, whether its sum can only grow. */
  grows?: boolean;
}

/** What a figure is counted in: that of a field, or of a stretch of it, unless a unit is said. */
export interface CountedIn {
  field: string;
  unit?: string;
  over?: WindowDraft | null;
}

/** A whole number that is typed. */
export function counted<T>(text: string, of: string, make: (count: number) => T): Said<T> {
  const count = Number(text.trim());
  return /^\d{1,7}$/.test(text.trim()) && count > 0 ? ok(make(count)) : fail(`Say how many ${of}, as a whole number.`);
}

/** An amount that is typed, counted in what the field is counted in. */
export function measured(draft: CountedIn, text: string, said: SaidIn, what = 'the limit'): Said<Measure> {
  const like = likeOf(draft, said);
  if (like === null) return fail('A limit needs a number to stand against, and there is none here.');
  const amount = parseLimit(text, said.locale);
  if (amount.ok) return ok({ ...like, amount: amount.value });
  return fail(text.trim() === '' ? `Say ${what}.` : `“${text}” cannot be a limit: ${describeRefusal(amount.error)}.`);
}

const COUNTS: JudgedWindow['make'][] = ['readings', 'moves'];

function likeOf({ field, unit, over = null }: CountedIn, { present, fields }: SaidIn): Measure | null {
  const isNumber = fields.some(({ key, type }) => key === field && type.kind === 'count');
  if (isNumber || (over !== null && COUNTS.includes(over.make))) return numberOf(0);
  const value = present[field];
  if (value === undefined || !isMeasure(value)) return null;
  if (unit === undefined) return value;
  return value.kind === 'money' ? { ...value, currency: unit } : { ...value, unit: unit === '' ? null : unit };
}

/** A figure that is typed: an amount, or percent. */
export function figured(draft: CountedIn & { percent: boolean }, text: string, said: SaidIn): Said<Figure> {
  if (!draft.percent && !text.trim().endsWith('%')) {
    const amount = measured(draft, text, said, 'the figure');
    return amount.ok ? ok({ by: 'amount', amount: amount.value }) : amount;
  }
  const percent = parseLimit(text.replace('%', ''), said.locale);
  return percent.ok ? ok({ by: 'percent', percent: percent.value }) : fail(`“${text}” cannot be a percentage.`);
}

/** What a measure is counted in, as a draft says it. */
export const typedUnit = (measure: Measure) => ({ unit: unitOf(measure) ?? '' });

/** A figure as it would be typed. */
export const typedFigure = (figure: Figure) =>
  figure.by === 'percent'
    ? { amount: figure.percent, percent: true }
    : { amount: figure.amount.amount, percent: false, ...typedUnit(figure.amount) };
