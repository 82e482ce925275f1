import { ALL_RECORDS } from '../read/all-records';
import { formatAmount, formatPercent } from '../value/format';
import { cut } from '../value/sanitise';
import { formatDuration } from '../when/format';
import { isOwn, type Asked, type Figure, type Sharing } from './asked';

// The words that sentences about conditions share.

/** How the things that a rule names are called. */
export interface Names {
  /** Of a field of the rule's own watch, by its key. */
  field: (key: string) => string;
  /** Of a record, by its identity; as it stands where nothing is known of it. */
  record?: (identity: string) => string;
  /** Of another watch. */
  watch?: (id: number) => string;
  /** As it stands once it is met, without what only the setting of a rule needs. */
  brief?: boolean;
  locale: string;
}

/** Names where only the fields are known. */
export const namesOf = (field: Names['field'], locale: string): Names => ({ field, locale });

const MOST_QUOTED = 60;
/** What somebody wrote, cut where it is long. */
export const short = (text: string) => (text.length > MOST_QUOTED ? `${cut(text, MOST_QUOTED - 1)}…` : text);

export const OF_ITEM = {
  ours: 'ours',
  minimum: 'the agreed minimum',
  cheapest: 'the cheapest of the other offers',
} as const;

/** A figure in words: `£2.00`, `5%`. */
export const figureWords = (figure: Figure, locale: string): string =>
  figure.by === 'amount'
    ? formatAmount(figure.amount.amount, figure.amount, locale)
    : formatPercent(figure.percent, locale);

/** `what shares its hive`, `what shares its hive (sensor is humidity)`. */
export const sharingWords = ({ label, where }: Sharing): string =>
  `what shares its ${short(label)}${where === undefined ? '' : ` (${short(where.label)} is ${short(where.is)})`}`;

/** A series as it is named: `price`, `price of Copper smoker`, `ours at Web shop`. */
export function askedWords(asked: Asked, names: Names): string {
  const { field, record, watch, sharing, item } = asked;
  if (sharing !== undefined) return `${names.field(field)} of ${sharingWords(sharing)}`;
  if (isOwn(asked)) return names.field(field);
  if (item === 'ours') return `${names.field(field)} of ours${channelWords(asked)}`;
  if (item !== undefined) return item === 'minimum' ? OF_ITEM[item] : `${names.field(field)} of ${OF_ITEM[item]}`;
  const where = watch === undefined ? '' : ` at ${names.watch?.(watch) ?? asked.called ?? 'another watch'}`;
  const label = watch === undefined ? names.field(field) : field;
  const age = asked.within === undefined ? '' : ` (no older than ${formatDuration(asked.within)})`;
  return record === undefined || record === ALL_RECORDS
    ? `${label}${where}${age}`
    : `${label} of ${names.record?.(record) ?? short(record)}${where}${age}`;
}

/** What a value is held against: of its item in short, since it is of the like. */
export function otherWords(asked: Asked, names: Names): string {
  return asked.item === undefined ? askedWords(asked, names) : `${OF_ITEM[asked.item]}${channelWords(asked)}`;
}

const channelWords = ({ channel, called }: Asked) => (channel === undefined ? '' : ` at ${called ?? 'a channel'}`);

/** Whether a rise and a fall are of one figure. */
export const alikeFigures = (rise: Figure | null, fall: Figure | null) => JSON.stringify(rise) === JSON.stringify(fall);

/** How far a value lies from what it is held against. */
export function apartWords(rise: Figure | null, fall: Figure | null, { locale }: Pick<Names, 'locale'>): string {
  if (rise !== null && fall !== null && alikeFigures(rise, fall))
    return `is at least ${figureWords(rise, locale)} away from`;
  const sides = [
    ...(rise === null ? [] : [`at least ${figureWords(rise, locale)} above`]),
    ...(fall === null ? [] : [`at least ${figureWords(fall, locale)} below`]),
  ];
  return `is ${sides.join(' or ')}`;
}
