import { markAfter, markBefore } from './currency';
import { magnitudeAfter } from './magnitude';

/** A number as it stands in a text, with the marks of money beside it. */
export interface MarkedNumber {
  digits: string;
  negative: boolean;
  /** The power of ten that a word behind it stands for, as in `£12k`. */
  power: number;
  /** The sign, code or name that says what it is counted in; null where none stands beside it. */
  mark: string | null;
  /** A second one on the other side, as in `$24.99 CAD`. */
  again: string | null;
  /** The mark is of a part of the currency: pence, cents. */
  part: 'pence' | 'cents' | null;
  /** The mark behind it could as well be that of the number after it. */
  torn: boolean;
  /** Where it begins and ends in the text, with its marks. */
  start: number;
  end: number;
}

/** A run of digits with the marks that group them and begin the fraction. */
export const NUMBER = String.raw`\d+(?:[.,٫'’ ]\d+)*(?:\s*[.,٫]\s*\d+(?!\d))?`;
const PARTS = /^\s*(?:(?<pence>p|pence)|(?<cents>c|ct|cts|¢|cents?))(?![\p{L}\d])/iu;

/** Every number in a text, in its order, with the marks of money beside it as they are written in a locale. */
export function markedNumbers(text: string, locale: string | null): MarkedNumber[] {
  const found: MarkedNumber[] = [];
  for (const match of text.matchAll(new RegExp(NUMBER, 'gu'))) {
    const start = found.at(-1)?.end ?? 0;
    if (match.index >= start) found.push(withMarks(text, { start, at: match.index, digits: match[0] }, locale));
  }
  return found;
}

function withMarks(
  text: string,
  number: { start: number; at: number; digits: string },
  locale: string | null,
): MarkedNumber {
  const before = signedMark(text.slice(number.start, number.at), locale);
  const scaleAt = number.at + number.digits.length;
  const { power, length } = magnitudeAfter(text.slice(scaleAt), locale);
  const after = markBehind(text.slice(scaleAt + length), before.mark !== null, locale);
  const [mark, again] = before.mark === null ? [after.mark, null] : [before.mark, after.mark];
  const end = scaleAt + length + after.length;
  return {
    digits: number.digits,
    negative: before.negative,
    power,
    mark,
    again,
    part: after.part,
    torn: after.torn,
    start: number.at - before.length,
    end,
  };
}

/** The mark that a number follows, with a sign of minus or plus before or after it. */
function signedMark(text: string, locale: string | null): { mark: string | null; negative: boolean; length: number } {
  const inner = /[-+]?\s*$/.exec(text)?.[0] ?? '';
  const rest = text.slice(0, text.length - inner.length);
  const mark = markBefore(rest, locale);
  const outer = mark === null ? '' : (/[-+]\s*$/.exec(rest.slice(0, rest.length - mark.length))?.[0] ?? '');
  const length = inner.length + (mark?.length ?? 0) + outer.length;
  return { mark: mark?.text ?? null, negative: `${outer}${inner}`.includes('-'), length };
}

type Behind = Pick<MarkedNumber, 'mark' | 'part' | 'torn'> & { length: number };

const NOTHING: Behind = { mark: null, part: null, torn: false, length: 0 };

/**
 * The mark behind a number, unless it is that of the number after it: of `6 £24` the sign is the second one's, of `24€
 * 5` the first one's.
 */
function markBehind(text: string, marked: boolean, locale: string | null): Behind {
  const found = markAfter(text, locale);
  if (found !== null) {
    const owner = ownerOf(text, found.length, marked, locale);
    if (owner !== 'next') return { mark: found.text, part: null, torn: owner === 'unclear', length: found.length };
  }
  const part = marked ? null : PARTS.exec(text);
  if (part === null) return NOTHING;
  return {
    mark: part[0].trim(),
    part: part.groups?.pence === undefined ? 'cents' : 'pence',
    torn: false,
    length: part[0].length,
  };
}

/**
 * Whose the mark between two numbers is: whichever it stands against; else by how the place writes prices, where that
 * is known.
 */
function ownerOf(text: string, length: number, marked: boolean, locale: string | null): 'this' | 'next' | 'unclear' {
  const rest = text.slice(length);
  if (!/^\s*\d/.test(rest)) return 'this';
  if (marked) return 'next';
  const [apart, nextApart] = [/^\s/.test(text), /^\s/.test(rest)];
  if (apart !== nextApart) return apart ? 'next' : 'this';
  if (locale === null) return 'unclear';
  return signLeads(locale) ? 'next' : 'this';
}

/** Whether a place writes the sign before the number, by CLDR's pattern. */
function signLeads(locale: string): boolean {
  const parts = new Intl.NumberFormat(locale, { style: 'currency', currency: 'EUR' }).formatToParts(1);
  return parts.findIndex(({ type }) => type === 'currency') < parts.findIndex(({ type }) => type === 'integer');
}
