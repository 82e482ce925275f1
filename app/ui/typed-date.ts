// Days and times of day as people type them: each by the order and the month names of a locale, in English, and as
// ISO 8601 has them. What can be read in two ways is read in that of the locale; what is no day is none.

const ISO = /^(\d{4})-(\d{1,2})-(\d{1,2})$/;
const LONGEST = 40;

/** A day that was typed, as 2026-12-31; null where that is none. */
export function readDay(typed: string, locale: string): string | null {
  const text = typed.trim().slice(0, LONGEST);
  const [, year, month, day] = ISO.exec(text) ?? [];
  if (year !== undefined) return dayOf(Number(year), Number(month), Number(day));
  const parts = text
    .toLowerCase()
    .split(/[\s./,-]+/)
    .filter((part) => part !== '');
  return parts.length === 3 ? (inWords(parts, locale) ?? inNumbers(parts, locale)) : null;
}

function inNumbers(parts: string[], locale: string): string | null {
  if (!parts.every((part) => /^\d{1,4}$/.test(part))) return null;
  const [at, numbers] = [orderIn(locale), parts.map(Number)];
  const of = (part: 'year' | 'month' | 'day') => numbers[at.indexOf(part)] ?? 0;
  return dayOf(wholeYear(of('year'), parts[at.indexOf('year')] ?? ''), of('month'), of('day'));
}

/** `31 dec 2026`, `dec 31 2026`. */
function inWords(parts: string[], locale: string): string | null {
  const at = parts.findIndex((part) => monthIn(part, locale) !== null);
  const [first = '', second = ''] = parts.filter((_, part) => part !== at);
  const month = at < 0 ? null : monthIn(parts[at] ?? '', locale);
  if (month === null || !/^\d{1,2}$/.test(first) || !/^\d{2,4}$/.test(second)) return null;
  return dayOf(wholeYear(Number(second), second), month, Number(first));
}

const wholeYear = (year: number, typed: string) => (typed.length <= 2 ? 2000 + year : year);

function dayOf(year: number, month: number, day: number): string | null {
  const made = new Date(Date.UTC(year, month - 1, day));
  const isReal = made.getUTCMonth() === month - 1 && made.getUTCDate() === day && year >= 1900 && year <= 9999;
  return isReal ? made.toISOString().slice(0, 10) : null;
}

type Part = 'year' | 'month' | 'day';
const orders = new Map<string, Part[]>();

/** In which order a locale writes a day in numbers. */
function orderIn(locale: string): Part[] {
  const known = orders.get(locale);
  if (known !== undefined) return known;
  const order = new Intl.DateTimeFormat(locale, { timeZone: 'UTC' })
    .formatToParts(0)
    .flatMap(({ type }) => (type === 'year' || type === 'month' || type === 'day' ? [type] : []));
  orders.set(locale, order);
  return order;
}

const months = new Map<string, Map<string, number>>();

function monthIn(word: string, locale: string): number | null {
  let known = months.get(locale);
  if (known === undefined) {
    known = new Map([...namesOf('en-GB'), ...namesOf(locale)]);
    months.set(locale, known);
  }
  return known.get(word) ?? null;
}

function namesOf(locale: string): [name: string, month: number][] {
  return (['long', 'short'] as const).flatMap((month) => {
    const format = new Intl.DateTimeFormat(locale, { day: 'numeric', month, year: 'numeric', timeZone: 'UTC' });
    return Array.from({ length: 12 }, (_, at): [string, number] => {
      const named = format.formatToParts(Date.UTC(2026, at, 1)).find(({ type }) => type === 'month')?.value ?? '';
      return [named.toLowerCase().replace(/\.$/, ''), at + 1];
    });
  });
}

/** A day as 2026-12-31 in a locale: `31 Dec 2026`. Where that could not be read back it stands as it is. */
export function formatDay(day: string, locale: string): string {
  const at = Date.parse(`${day}T00:00:00Z`);
  if (Number.isNaN(at)) return day;
  const said = new Intl.DateTimeFormat(locale, {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    timeZone: 'UTC',
  }).format(at);
  return readDay(said, locale) === day ? said : day;
}

const MIDDAY = 12;

/** A time of day that was typed, as 07:30; null where that is none: `7:30`, `7.30`, `0730`, `7:30 pm`, `19`. */
export function readTimeOfDay(typed: string): string | null {
  const text = typed.trim().toLowerCase().replace(/\s+/g, ' ').slice(0, LONGEST);
  const [, said = '', minutes = '00', half] = /^(\d{1,2})(?:[:.h]?(\d{2}))?(?: ?([ap])\.?m\.?)?$/.exec(text) ?? [];
  const hour = Number(said);
  if (said === '' || Number(minutes) > 59) return null;
  if (half === undefined) return hour > 23 ? null : clockOf(hour, minutes);
  if (hour < 1 || hour > MIDDAY) return null;
  return clockOf((hour % MIDDAY) + (half === 'p' ? MIDDAY : 0), minutes);
}

const clockOf = (hour: number, minutes: string) => `${String(hour).padStart(2, '0')}:${minutes}`;

/** A time of day as 19:30 in a locale: `7:30 pm` for those who say it so. */
export function formatTimeOfDay(time: string, locale: string): string {
  const at = Date.parse(`1970-01-01T${time}:00Z`);
  if (Number.isNaN(at)) return time;
  const said = new Intl.DateTimeFormat(locale, { hour: '2-digit', minute: '2-digit', timeZone: 'UTC' }).format(at);
  return readTimeOfDay(said) === time ? said : time;
}
