import { DateTime } from 'luxon';
import type { Moment } from './value';

const DAY_FIRST = [
  'd.M.yyyy',
  'd/M/yyyy',
  'd-M-yyyy',
  'd MMM yyyy',
  'd MMMM yyyy',
  'd. MMMM yyyy',
  'd. MMM yyyy',
  'cccc d MMMM yyyy',
];
const MONTH_FIRST = ['M/d/yyyy', 'MMM d, yyyy', 'MMMM d, yyyy'];
const TIMES = ['', ' HH:mm', ' HH:mm:ss', ', HH:mm', " 'at' HH:mm"];
const LONGEST = 80;

/**
 * Reads a moment as pages and feeds write it: ISO 8601, RFC 9110 and RFC 5322 dates, and a day written out in the
 * source's language, with or without a time. `12/11/2026` is read by the locale's own order. A time without an offset
 * is taken in `zone`. Null when it is none of these.
 */
export function parseMoment(text: string, locale: string, zone = 'UTC'): Moment | null {
  const trimmed = text.trim();
  if (trimmed === '' || trimmed.length > LONGEST) return null;
  const iso = DateTime.fromISO(trimmed, { zone });
  if (iso.isValid && /^\d{4}-\d{2}-\d{2}/.test(trimmed)) return trimmed.length <= 10 ? dayOf(iso) : momentOf(iso);
  for (const read of [DateTime.fromRFC2822(trimmed, { zone }), DateTime.fromHTTP(trimmed, { zone })]) {
    if (read.isValid) return momentOf(read);
  }
  return parseWritten(trimmed, locale, zone);
}

function parseWritten(text: string, locale: string, zone: string): Moment | null {
  const days = monthFirst(locale) ? [...MONTH_FIRST, ...DAY_FIRST] : [...DAY_FIRST, ...MONTH_FIRST];
  const forms = TIMES.flatMap((time) => days.map((day) => ({ form: `${day}${time}`, day: time === '' })));
  for (const language of new Set([locale, 'en-GB'])) {
    for (const { form, day } of forms) {
      const read = DateTime.fromFormat(text, form, { locale: language, zone: day ? 'UTC' : zone });
      if (read.isValid) return day ? dayOf(read) : momentOf(read);
    }
  }
  return null;
}

function monthFirst(locale: string): boolean {
  const parts = new Intl.DateTimeFormat(locale, { dateStyle: 'short', timeZone: 'UTC' }).formatToParts(0);
  return parts.findIndex((part) => part.type === 'month') < parts.findIndex((part) => part.type === 'day');
}

const momentOf = (read: DateTime): Moment => ({ kind: 'moment', at: read.toMillis(), day: false });

const dayOf = ({ year, month, day }: DateTime): Moment => ({
  kind: 'moment',
  at: Date.UTC(year, month - 1, day),
  day: true,
});
