import { Form, Link, useSearchParams, useSubmit } from 'react-router';
import type { Field } from '#core/read/definition';
import { formatValue } from '#core/value/format';
import { wordsOf } from '#core/value/value';
import { formatRecent } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import type { RecordNow } from '#server/db/reading/records';
import type { WatchNow } from '#server/db/watch/views/watch-now';
import { isNumeric } from '#core/read/kinds';
import { sideOf } from '../../../parts/plan/side';
import { Button } from '../../../ui/button';
import { TextField } from '../../../ui/field';
import { Section } from '../../../ui/page';
import { Onward } from '../../../ui/pager';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import { ItemOf, ProposedItems, type ItemsSeen } from './item-of';

const MOST_COLUMNS = 6;
const SEARCHED_FROM = 12;

interface RecordsProps {
  watch: WatchNow;
  records: RecordNow[];
  chosen: RecordNow | null;
  words: string;
  page: { begun: boolean; more: boolean; size: number };
  items: ItemsSeen;
}

/** Every record that is read, with its present values; one of them is charted above. */
export function Records({ watch, records, chosen, words, page, items }: RecordsProps) {
  const { locale, place, now } = useReader();
  const [asked] = useSearchParams();
  const telling = watch.definition.fields.filter((field) => field.type.kind !== 'count' && !isInNames(field, records));
  const fields = telling.slice(0, MOST_COLUMNS);
  const allStale = records.length > 0 && records.every(({ series }) => series.every(({ problem }) => problem !== null));
  const more = telling.length - fields.length;
  const ruled = fields.find(isNumeric) ?? fields[0];
  return (
    <Section
      title={allStale ? 'Records, all stale' : 'Records'}
      aside={
        <span className="flex items-baseline gap-4">
          {watch.recordCount >= SEARCHED_FROM || words !== '' ? <Search words={words} /> : null}
          <span>
            {records.length < watch.recordCount ? `${records.length} of ` : ''}
            <Count watch={watch} asked={asked} words={watch.recordCount.toLocaleString(locale)} />
            {more > 0 ? `; ${more} more fields are read` : ''}
          </span>
        </span>
      }
      className="mt-4 border-t border-rule pt-2.5"
    >
      <Table
        name="records"
        most="max-h-[340px]"
        columns={[
          ...columnsOf(fields, asked, allStale, { locale, place, now }),
          ...(items.known ? [itemColumn(items)] : []),
          ...(ruled === undefined ? [] : [ruleColumn(watch, ruled)]),
        ]}
        rows={records}
        keyOf={({ id }) => id}
        isCurrent={({ id }) => id === chosen?.id}
      />
      <ProposedItems records={records} items={items} />
      {records.length === 0 ? <p className="py-2 text-second">No record goes by “{words}”.</p> : null}
      <Onward
        first={page.begun ? `?${withAfter(asked, null)}` : null}
        next={page.more ? `?${withAfter(asked, records.at(-1))}` : null}
        size={page.size}
      />
    </Section>
  );
}

/** How many there are; where that is followed it leads to its chart. */
function Count({ watch, asked, words }: { watch: WatchNow; asked: URLSearchParams; words: string }) {
  if (watch.allRecords === null) return words;
  return (
    <Link
      className="link"
      to={`?${withRecord(asked, watch.allRecords)}`}
      preventScrollReset
      replace
      title="How many there were over time"
    >
      {words}
    </Link>
  );
}

function withRecord(asked: URLSearchParams, id: number): string {
  const next = new URLSearchParams(asked);
  next.set('record', String(id));
  next.delete('change');
  return next.toString();
}

function withAfter(asked: URLSearchParams, last: RecordNow | null | undefined): string {
  const next = new URLSearchParams(asked);
  next.delete('record');
  if (last == null) next.delete('after');
  else next.set('after', `${last.goneSince === null ? '' : 'gone-'}${last.id}`);
  return next.toString();
}

function movedWords(record: RecordNow, now: Instant, place: ReturnType<typeof useReader>['place']): string {
  const last = Math.max(0, ...record.series.map((series) => series.openSince));
  return last === 0 ? '–' : formatRecent(last, now, place);
}

/** On a narrow screen the first two fields stay. */
const MOST_NARROW = 2;

type Reader = ReturnType<typeof useReader>;

function columnsOf(fields: Field[], asked: URLSearchParams, allStale: boolean, reader: Reader): Column<RecordNow>[] {
  const { place, now } = reader;
  return [
    {
      head: 'Record',
      className: 'max-w-80 truncate',
      title: ({ name }) => name,
      cell: ({ id, name, variant }) => (
        <>
          <Link className="link" to={`?${withRecord(asked, id)}`} preventScrollReset replace>
            {name}
          </Link>
          {variant === null ? null : <span className="ml-2 text-glance text-third">{variant}</span>}
        </>
      ),
    },
    ...fields.map((field, at): Column<RecordNow> => ({
      head: field.label,
      side: sideOf(field),
      wide: at >= MOST_NARROW,
      className: (record) => `max-w-60 truncate ${isDim(seriesOf(record, field)) ? 'text-third' : ''}`,
      title: (record) => seriesOf(record, field)?.problem?.sentence,
      cell: (record) => valueWords(seriesOf(record, field), allStale, reader),
    })),
    {
      head: 'Last moved',
      side: 'right',
      wide: true,
      className: 'text-glance whitespace-nowrap text-third',
      cell: (record) =>
        record.goneSince === null
          ? movedWords(record, now, place)
          : `gone since ${formatRecent(record.goneSince, now, place)}`,
    },
  ];
}

/** A rule begins filled in with the record, and the first of its fields. */
const ruleColumn = (watch: WatchNow, field: Field): Column<RecordNow> => ({
  head: <span className="sr-only">A rule for it</span>,
  wide: true,
  side: 'right',
  cell: ({ id, name }) => (
    <Link
      className="link text-glance text-third"
      aria-label={`A rule for ${name}`}
      to={`/watches/${watch.id}/rules/new?${new URLSearchParams({ field: field.key, record: String(id) }).toString()}`}
    >
      rule
    </Link>
  ),
});

const itemColumn = (items: ItemsSeen): Column<RecordNow> => ({
  head: 'Item',
  wide: true,
  className: 'whitespace-nowrap',
  cell: (record) => <ItemOf record={record} items={items} />,
});

type Series = RecordNow['series'][number];

/** A text so that one holds another only by whole words. */
const inWords = (text: string) =>
  ` ${text
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim()} `;

/** Whether the names of the records say already what a field says of each. */
function isInNames(field: Field, records: RecordNow[]): boolean {
  if (records.length === 0 || field.type.kind !== 'text') return false;
  return records.every((record) => {
    const series = seriesOf(record, field);
    const said = series === undefined ? null : wordsOf(series.value);
    return said !== null && said !== '' && inWords(record.name).includes(inWords(said));
  });
}

const seriesOf = (record: RecordNow, field: Field): Series | undefined =>
  record.series.find((each) => each.field === field.key);

const isDim = (series: Series | undefined): boolean =>
  series === undefined || series.problem !== null || series.unheardSince !== null || series.value.kind === 'absent';

function valueWords(series: Series | undefined, allStale: boolean, { locale, place, now }: Reader): string {
  if (series === undefined) return '–';
  const unheard =
    series.unheardSince === null
      ? ''
      : `${series.quality === 'bad' ? 'bad' : 'silent'} since ${formatRecent(series.unheardSince, now, place)}`;
  const stale = series.problem !== null && !allStale ? 'stale' : '';
  return [formatValue(series.value, locale), stale, unheard].filter(Boolean).join(', ');
}

function Search({ words }: { words: string }) {
  const submit = useSubmit();
  const [asked] = useSearchParams();
  return (
    <Form
      role="search"
      onChange={(event) => {
        const next = new URLSearchParams(asked);
        next.set('among', wordsIn(event.currentTarget));
        next.delete('after');
        void submit(next, { preventScrollReset: true, replace: true });
      }}
    >
      <TextField
        label="Find among them"
        className="flex items-baseline gap-3 [&>label]:whitespace-nowrap"
        name="among"
        defaultValue={words}
      />
    </Form>
  );
}

/** Records that turned up, to be taken or left out. */
export function Offered({
  offered,
  count,
}: {
  offered: { identity: string; name: string; firstSeen: Instant }[];
  count: number;
}) {
  const { place, now } = useReader();
  if (count === 0) return null;
  return (
    <Section
      title={count === 1 ? 'One record turned up' : `${count} records turned up`}
      aside="they are not read until you take them"
      className="mt-4 border-t border-rule pt-2.5"
    >
      <ul data-offered className="max-h-56 overflow-auto">
        {offered.map(({ identity, name, firstSeen }) => (
          <li key={identity} className="cell flex items-baseline justify-between gap-4">
            <span className="min-w-0 truncate">
              {name} <span className="text-glance text-third">since {formatRecent(firstSeen, now, place)}</span>
            </span>
            <Form method="post" navigate={false} className="flex shrink-0 gap-3">
              <input type="hidden" name="identity" value={identity} />
              <Decide word="take" name={name} />
              <Decide word="leave" name={name} />
            </Form>
          </li>
        ))}
      </ul>
      {count > 1 ? (
        <Form method="post" navigate={false} className="mt-2">
          {offered.map(({ identity }) => (
            <input key={identity} type="hidden" name="identity" value={identity} />
          ))}
          <Button type="submit" name="intent" value="take">
            Take {count > offered.length ? `the first ${offered.length}` : 'all'} of them
          </Button>
        </Form>
      ) : null}
    </Section>
  );
}

function Decide({ word, name }: { word: 'take' | 'leave'; name: string }) {
  return (
    <button
      name="intent"
      value={word}
      className={word === 'take' ? 'link font-semibold' : 'link text-second'}
      aria-label={`${word === 'take' ? 'Take' : 'Leave out'} ${name}`}
    >
      {word === 'take' ? 'Take' : 'Leave out'}
    </button>
  );
}

function wordsIn(form: HTMLFormElement): string {
  const words = new FormData(form).get('among');
  return typeof words === 'string' ? words : '';
}
