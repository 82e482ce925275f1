import { fail, ok, type Result } from '../result';
import { decimal, type Decimal } from './decimal';
import type { DecimalMark } from './locale';

/** A run of digits read as a number, and whether only the locale could say what its one mark means. */
export interface ReadDigits {
  amount: Decimal;
  /** True for `1.249`: a thousand in one place, one and a quarter in another. */
  byLocale: boolean;
}

/** Why a run of digits is no number: its marks do not group, or nothing says which mark they are. */
export type DigitsProblem = 'malformed' | 'ambiguous';

const WESTERN = /^\d{1,3}(S\d{3})+$/;
const INDIAN = /^\d{1,2}(S\d{2})*S\d{3}$/;

/**
 * Reads a run of digits with its marks (`1.249,00`, `1 249`, `1'249.50`, `1,24,999`).
 * Two kinds of mark: the last is the decimal one. One kind several times: groups. One mark once: a group
 * only if three digits follow, and then `mark`, the locale's decimal mark, decides; without it: `ambiguous`.
 */
export function readDigits(text: string, mark: DecimalMark | null): Result<ReadDigits, DigitsProblem> {
  const token = text.trim().replace(/\s*([.,])\s*(?=\d)/g, '$1');
  const marks = [...token].filter((character) => !/\d/.test(character));
  const last = marks.at(-1);
  if (last === undefined) return whole(token, '', false);

  const lastAt = token.lastIndexOf(last);
  const before = token.slice(0, lastAt);
  const after = token.slice(lastAt + 1);
  const once = marks.filter((each) => each === last).length === 1;
  const mixed = new Set(marks).size > 1;

  if (last !== '.' && last !== ',') return grouped(token) ? whole(token, '', false) : fail('malformed');
  if (!once) return grouped(token) ? whole(token, '', false) : fail('malformed');
  if (mixed) return grouped(before) ? whole(before, after, false) : fail('malformed');
  if (after.length !== 3 || /^0+$/.test(before) || before.length > 3 || before.startsWith('0')) {
    return whole(before, after, false);
  }
  if (mark === null) return fail('ambiguous');
  return mark === last ? whole(before, after, true) : whole(token, '', true);
}

function grouped(text: string): boolean {
  const marks = new Set([...text].filter((character) => !/\d/.test(character)));
  if (marks.size > 1) return false;
  if (marks.size === 0) return true;
  const shape = text.replace(/[^\d]/g, 'S');
  return WESTERN.test(shape) || INDIAN.test(shape);
}

function whole(units: string, fraction: string, byLocale: boolean): Result<ReadDigits, DigitsProblem> {
  const digits = units.replace(/[^\d]/g, '').replace(/^0+(?=\d)/, '');
  const amount = decimal(fraction === '' ? digits : `${digits || '0'}.${fraction}`);
  return amount === null ? fail('malformed') : ok({ amount, byLocale });
}
