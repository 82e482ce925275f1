import { bareValue, unitOfValue, type Sheet } from '../../value/cell';
import type { WatchId } from '../../id';
import type { Instant } from '../../when/interval';
import type { News } from '../news';
import type { PresentValue } from './gathered';
import type { FieldLine, Line } from './lines';
import { movesOf } from '../../compare/net';

/** The columns of an edition as a table: a row for each field of each line. */
const COLUMNS = [
  'item',
  'reference',
  'site',
  'record',
  'tags',
  'what',
  'field',
  'was',
  'was unit',
  'now',
  'unit',
  'difference',
  'percent',
  'moves',
  'away ms',
  'seen',
  'looked before',
  'page',
  'watch',
] as const;

export type SheetRow = Record<(typeof COLUMNS)[number], string | number | null>;

/** Every line of a stretch as rows, whole and in no particular language: exact amounts, ISO 8601 moments in UTC. */
export function editionRows(lines: readonly Line[]): SheetRow[] {
  return lines.flatMap((line) =>
    line.fields.length === 0 ? [rowOf(line, null)] : line.fields.map((field) => rowOf(line, field)),
  );
}

function rowOf(line: Line, field: FieldLine | null): SheetRow {
  const { record, kind, lookedBefore } = line;
  const { item, site, name, tags, page, watch } = record;
  const about = {
    item: item?.name ?? '',
    reference: item?.reference ?? '',
    site: site.name,
    record: name,
    tags: tags.join(', '),
    what: kind,
  };
  const seen = { 'looked before': new Date(lookedBefore).toISOString(), page, watch };
  return { ...about, ...(field === null ? wholeOf(line) : fieldOf(field)), ...seen };
}

type Moved = Omit<
  SheetRow,
  'item' | 'reference' | 'site' | 'record' | 'tags' | 'what' | 'looked before' | 'page' | 'watch'
>;

/** Of a record that came or went. */
const wholeOf = ({ at, moves }: Line): Moved => ({
  field: '',
  was: '',
  'was unit': '',
  now: '',
  unit: '',
  difference: '',
  percent: '',
  moves: moves.length,
  'away ms': 0,
  seen: new Date(at).toISOString(),
});

const fieldOf = (line: FieldLine): Moved => ({
  field: line.field.label,
  was: bareValue(line.was),
  'was unit': unitOfValue(line.was),
  now: bareValue(line.now),
  unit: unitOfValue(line.now),
  difference: line.change?.difference ?? '',
  percent: line.change?.percent ?? '',
  moves: movesOf(line.net),
  'away ms': line.net.awayMs,
  seen: new Date(line.at).toISOString(),
});

const IS: Partial<Record<(typeof COLUMNS)[number], Sheet['columns'][number]['is']>> = {
  was: 'amount',
  now: 'amount',
  difference: 'amount',
  percent: 'amount',
  moves: 'number',
  'away ms': 'number',
  seen: 'moment',
  'looked before': 'moment',
  watch: 'number',
};

/** The table of such rows. */
export const rowsSheet = (rows: readonly SheetRow[]): Sheet => ({
  columns: COLUMNS.map((head) => ({ head, is: IS[head] ?? 'text' })),
  rows: rows.map((row) => COLUMNS.map((column) => row[column] ?? '')),
});

/** What was told at once: alerts, and word of watches. */
interface AtOnce {
  alerts: readonly { watchId: WatchId; news: News }[];
  notices: readonly {
    watchId: WatchId;
    kind: string;
    subject: string;
    site: string;
    page: string;
    since: Instant;
    lastGoodAt: Instant | null;
  }[];
}

/** What was told at once as rows of the same columns; what it does not say of an item or its tags stays empty. */
export const rowsAtOnce = ({ alerts, notices }: AtOnce): SheetRow[] => [
  ...alerts.map(({ watchId, news }): SheetRow => {
    const { subject, site, page, field, previous, value, change, seenAt, lookedBefore } = news;
    return {
      item: '',
      reference: '',
      site,
      record: subject,
      tags: '',
      what: news.told?.what ?? 'alert',
      field: field.label,
      was: previous === null ? '' : bareValue(previous),
      'was unit': previous === null ? '' : unitOfValue(previous),
      now: bareValue(value),
      unit: unitOfValue(value),
      difference: change?.difference ?? '',
      percent: change?.percent ?? '',
      moves: change === null ? 0 : 1,
      'away ms': 0,
      seen: moment(seenAt),
      'looked before': moment(lookedBefore),
      page,
      watch: watchId,
    };
  }),
  ...notices.map(({ watchId, kind, subject, site, page, since, lastGoodAt }): SheetRow => ({
    item: '',
    reference: '',
    site,
    record: subject,
    tags: '',
    what: kind,
    field: '',
    was: '',
    'was unit': '',
    now: '',
    unit: '',
    difference: '',
    percent: '',
    moves: 0,
    'away ms': 0,
    seen: moment(since),
    'looked before': moment(lastGoodAt),
    page,
    watch: watchId,
  })),
];

/** Values as they stood, as a table. */
export const presentSheet = (present: readonly PresentValue[]): Sheet => ({
  columns: [
    { head: 'name', is: 'text' },
    { head: 'value', is: 'amount' },
    { head: 'unit', is: 'text' },
    { head: 'last moved', is: 'moment' },
    { head: 'not read since', is: 'moment' },
    { head: 'watch', is: 'number' },
  ],
  rows: present.map(({ name, value, movedAt, staleSince, watch }) => [
    name,
    bareValue(value),
    unitOfValue(value),
    moment(movedAt),
    moment(staleSince),
    watch ?? '',
  ]),
});

const moment = (at: Instant | null): string => (at === null ? '' : new Date(at).toISOString());
