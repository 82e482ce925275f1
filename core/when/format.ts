import { DAY, HOUR, MINUTE, SECOND, type Instant } from './interval';

/** Where and how a reader reads times: a BCP 47 locale and an IANA zone. */
export interface Place {
  locale: string;
  zone: string;
}

type Style = 'moment' | 'date' | 'time' | 'second' | 'exact' | 'day' | 'month';

const STYLES: Record<Style, Intl.DateTimeFormatOptions> = {
  moment: { weekday: 'short', day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' },
  exact: {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
    timeZoneName: 'short',
  },
  date: { weekday: 'long', day: 'numeric', month: 'long' },
  day: { day: 'numeric', month: 'short' },
  month: { month: 'short', year: 'numeric' },
  time: { hour: '2-digit', minute: '2-digit' },
  second: { hour: '2-digit', minute: '2-digit', second: '2-digit' },
};

const formats = new Map<string, Intl.DateTimeFormat>();

/** A moment in the reader's own place; `exact` names the zone. */
export function formatInstant(at: Instant, style: Style, place: Place): string {
  return formatter(style, place).format(at).replaceAll(',', '').replace(' at ', ' ');
}

function formatter(style: Style, place: Place): Intl.DateTimeFormat {
  const key = `${style} ${place.locale} ${place.zone}`;
  const known = formats.get(key);
  if (known !== undefined) return known;
  const made = new Intl.DateTimeFormat(place.locale, { ...STYLES[style], timeZone: place.zone });
  formats.set(key, made);
  return made;
}

/** A moment as short as it can be told at `now`: the time today, weekday and time within six days, else the date. */
export function formatRecent(at: Instant, now: Instant, place: Place): string {
  const sameDay = formatInstant(at, 'date', place) === formatInstant(now, 'date', place) && Math.abs(now - at) < DAY;
  if (sameDay) return formatInstant(at, 'time', place);
  if (Math.abs(now - at) < 6 * DAY) return formatWeekday(at, place);
  return formatInstant(at, 'day', place);
}

function formatWeekday(at: Instant, place: Place): string {
  const key = `weekday ${place.locale} ${place.zone}`;
  const format =
    formats.get(key) ??
    new Intl.DateTimeFormat(place.locale, {
      weekday: 'short',
      hour: '2-digit',
      minute: '2-digit',
      timeZone: place.zone,
    });
  formats.set(key, format);
  return format.format(at).replace(',', '');
}

/** A stretch of time in its two largest units: `2 d 8 h`, `6 min`, `0.4 s`. Milliseconds in. */
export function formatDuration(length: number): string {
  if (length < SECOND / 10) return `${Math.round(length)} ms`;
  if (length < 10 * SECOND) return `${(length / SECOND).toFixed(1)} s`;
  if (length < MINUTE) return `${Math.round(length / SECOND)} s`;
  if (length < HOUR) return `${Math.round(length / MINUTE)} min`;
  const [unit, part, names] =
    length < DAY ? ([HOUR, MINUTE, ['h', 'min']] as const) : ([DAY, HOUR, ['d', 'h']] as const);
  const units = Math.floor(length / unit);
  const rest = Math.floor((length % unit) / part);
  return rest === 0 ? `${units} ${names[0]}` : `${units} ${names[0]} ${rest} ${names[1]}`;
}
