import { Form, Link, useSearchParams, useSubmit } from 'react-router';
import type { Field } from '#core/read/definition';
import { formatValue } from '#core/value/format';
import { formatRecent } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import type { RecordNow } from '#server/db/records';
import type { WatchNow } from '#server/db/watch-now';
import { sideOf } from '../../parts/plan/side';
import { Button } from '../../ui/button';
import { TextField } from '../../ui/field';
import { Section } from '../../ui/page';
import { Pager } from '../../ui/pager';
import { useReader } from '../shell/reader';

const MOST_COLUMNS = 6;
const SEARCHED_FROM = 12;

interface RecordsProps {
  watch: WatchNow;
  records: RecordNow[];
  chosen: RecordNow | null;
  words: string;
  page: { page: number; size: number; count: number };
}

/** Every record that is read, with its present values; one of them is charted above. */
export function Records({ watch, records, chosen, words, page }: RecordsProps) {
  const { locale, place, now } = useReader();
  const [asked] = useSearchParams();
  const fields = watch.definition.fields.slice(0, MOST_COLUMNS);
  const allStale = records.length > 0 && records.every(({ series }) => series.every(({ problem }) => problem !== null));
  const more = watch.definition.fields.length - fields.length;
  return (
    <Section
      title={allStale ? 'Records, all stale' : 'Records'}
      aside={
        <span className="flex items-baseline gap-4">
          {watch.recordCount >= SEARCHED_FROM || words !== '' ? <Search words={words} /> : null}
          {`${records.length < watch.recordCount ? `${records.length} of ` : ''}${watch.recordCount.toLocaleString(locale)}${more > 0 ? `; ${more} more fields are read` : ''}`}
        </span>
      }
      className="mt-4 border-t border-rule pt-2.5"
    >
      <div className="max-h-[340px] overflow-auto">
        <table className="w-full" data-records>
          <thead className="sticky top-0 bg-page">
            <tr>
              <th className="head-cell pr-5 text-left">Record</th>
              {fields.map((field) => (
                <th key={field.key} className={`head-cell pr-5 ${sideOf(field)}`}>
                  {field.label}
                </th>
              ))}
              <th className="head-cell text-right">Last moved</th>
            </tr>
          </thead>
          <tbody>
            {records.map((record) => (
              <tr key={record.id} aria-current={record.id === chosen?.id ? 'true' : undefined} className="aria-[current]:bg-paper">
                <td className="cell max-w-80 truncate pr-5" title={record.name}>
                  <Link className="link" to={`?${withRecord(asked, record.id)}`} preventScrollReset replace>
                    {record.name}
                  </Link>
                  {record.variant === null ? null : <span className="ml-2 text-glance text-third">{record.variant}</span>}
                </td>
                {fields.map((field) => (
                  <Value key={field.key} record={record} field={field} allStale={allStale} />
                ))}
                <td className="cell text-right text-glance whitespace-nowrap text-third">
                  {record.goneSince === null ? movedWords(record, now, place) : `gone since ${formatRecent(record.goneSince, now, place)}`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {records.length === 0 ? <p className="py-2 text-second">No record goes by “{words}”.</p> : null}
      </div>
      <Pager param="page" {...page} locale={locale} />
    </Section>
  );
}

function withRecord(asked: URLSearchParams, id: number): string {
  const next = new URLSearchParams(asked);
  next.set('record', String(id));
  next.delete('change');
  return next.toString();
}

function movedWords(record: RecordNow, now: Instant, place: ReturnType<typeof useReader>['place']): string {
  const last = Math.max(0, ...record.series.map((series) => series.openSince));
  return last === 0 ? '–' : formatRecent(last, now, place);
}

function Value({ record, field, allStale }: { record: RecordNow; field: Field; allStale: boolean }) {
  const { locale, place, now } = useReader();
  const series = record.series.find((each) => each.field === field.key);
  const side = sideOf(field);
  if (series === undefined) return <td className={`cell pr-5 ${side} text-third`}>–</td>;
  const unheard =
    series.unheardSince === null ? '' : `${series.quality === 'bad' ? 'bad' : 'silent'} since ${formatRecent(series.unheardSince, now, place)}`;
  const stale = series.problem !== null && !allStale ? 'stale' : '';
  return (
    <td
      className={`cell max-w-60 truncate pr-5 ${side} ${series.problem !== null || unheard !== '' || series.value.kind === 'absent' ? 'text-third' : ''}`}
      title={series.problem?.sentence}
    >
      {[formatValue(series.value, locale), stale, unheard].filter(Boolean).join(', ')}
    </td>
  );
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
        next.delete('page');
        void submit(next, { preventScrollReset: true, replace: true });
      }}
    >
      <TextField label="Find among them" className="flex items-baseline gap-3 [&>label]:whitespace-nowrap" name="among" defaultValue={words} />
    </Form>
  );
}

/** Records that turned up, to be taken or left out. */
export function Offered({ offered, count }: { offered: { identity: string; name: string; firstSeen: Instant }[]; count: number }) {
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
