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

/** Digits of every decimal numbering system that CLDR knows, and marks that are the Latin ones in other dress. */
const NUMERALS: ReadonlyMap<string, string> = new Map([
  ...Intl.supportedValuesOf('numberingSystem').flatMap(digitsOf),
  ...[...'．，＇－＋％（）'].map((mark) => [mark, mark.normalize('NFKC')] as const),
  ['٬', "'"],
  ['٪', '%'],
]);

function digitsOf(system: string): [string, string][] {
  const written = [...new Intl.NumberFormat(`en-u-nu-${system}`, { useGrouping: false }).format(9876543210)];
  return written.length === 10 ? written.map((digit, at) => [digit, String(9 - at)]) : [];
}

const NOT_LATIN = /[^\u0000-\u024f]/u;

/**
 * Writes the digits of other scripts as Latin ones: `٢٤٫٩٠` is `24٫90`, its mark kept, for that one is a decimal mark
 * everywhere.
 */
export function latinDigits(text: string): string {
  return NOT_LATIN.test(text) ? [...text].map((each) => NUMERALS.get(each) ?? each).join('') : text;
}

const ARABIC_DECIMAL = '٫';

const WESTERN = /^\d{1,3}(S\d{3})+$/;
const INDIAN = /^\d{1,2}(S\d{2})*S\d{3}$/;

/**
 * Reads a run of digits with its marks (`1.249,00`, `1 249`, `1'249.50`, `1,24,999`).
 * Two kinds of mark: the last is the decimal one. One kind several times: groups. One mark once: a group
 * only if three digits follow, and then `mark`, the locale's decimal mark, decides; without it: `ambiguous`.
 */
export function readDigits(text: string, mark: DecimalMark | null): Result<ReadDigits, DigitsProblem> {
  const token = text.trim().replace(/\s*([.,٫])\s*(?=\d)/g, '$1');
  const marks = [...token].filter((character) => !/\d/.test(character));
  const last = marks.at(-1);
  if (last === undefined) return whole(token);

  const lastAt = token.lastIndexOf(last);
  const [before, after] = [token.slice(0, lastAt), token.slice(lastAt + 1)];
  const once = marks.filter((each) => each === last).length === 1;

  if (last === ARABIC_DECIMAL) return once && grouped(before) ? whole(before, after) : fail('malformed');
  if (!once || (last !== '.' && last !== ',')) return grouped(token) ? whole(token) : fail('malformed');
  if (marks.length > 1) return grouped(before) ? whole(before, after) : fail('malformed');
  return groupOrFraction(before, after, last, mark);
}

/**
 * One mark alone begins a fraction, unless exactly three digits follow it and a group could stand before it: then the
 * place decides.
 */
function groupOrFraction(
  before: string,
  after: string,
  last: DecimalMark,
  mark: DecimalMark | null,
): Result<ReadDigits, DigitsProblem> {
  if (after.length !== 3 || before.length > 3 || before.startsWith('0')) return whole(before, after);
  if (mark === null) return fail('ambiguous');
  return mark === last ? byLocale(whole(before, after)) : byLocale(whole(`${before}${after}`));
}

function grouped(text: string): boolean {
  const marks = new Set([...text].filter((character) => !/\d/.test(character)));
  if (marks.size > 1) return false;
  if (marks.size === 0) return true;
  const shape = text.replace(/[^\d]/g, 'S');
  return WESTERN.test(shape) || INDIAN.test(shape);
}

function whole(units: string, fraction = ''): Result<ReadDigits, DigitsProblem> {
  const digits = units.replace(/[^\d]/g, '').replace(/^0+(?=\d)/, '');
  const amount = decimal(fraction === '' ? digits : `${digits || '0'}.${fraction}`);
  return amount === null ? fail('malformed') : ok({ amount, byLocale: false });
}

/** What could have been read otherwise, were it written elsewhere. */
const byLocale = (read: Result<ReadDigits, DigitsProblem>): Result<ReadDigits, DigitsProblem> =>
  read.ok ? ok({ ...read.value, byLocale: true }) : read;
