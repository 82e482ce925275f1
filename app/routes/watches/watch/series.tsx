import { Link, useNavigate, useSearchParams } from 'react-router';
import { labelOf } from '#core/plan/plan';
import { limitsOn, ownFields } from '#core/judge/rule';
import type { Field } from '#core/read/definition';
import { formatUnit, formatValue } from '#core/value/format';
import { alike, isMeasure, type Measure } from '#core/value/value';
import { formatDuration } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import type { ReadingRow } from '#server/db/reading/views/readings';
import type { EpisodeRow, Punctuality, RunTick } from '#server/db/watch/views/history';
import type { RecordNow } from '#server/db/reading/records';
import type { WatchNow } from '#server/db/watch/views/watch-now';
import { Ribbon } from '../../../parts/charts/ribbon';
import { CHART_LEFT, SeriesChart } from '../../../parts/charts/series-chart';
import { StateChart } from '../../../parts/charts/state-chart';
import { useReader } from '../../shell/frame/reader';
import { TimestampOf } from './timestamp';
import type { TimestampView } from './timestamp.server';

const RANGE_NAMES = [
  ['day', 'Day'],
  ['week', 'Week'],
  ['weeks', '4 weeks'],
  ['quarter', 'Quarter'],
  ['all', 'All'],
] as const;

interface SeriesProps {
  watch: WatchNow;
  record: RecordNow | null;
  readings: ReadingRow[];
  from: Instant;
  to: Instant;
  range: string;
  runs: RunTick[];
  episodes: EpisodeRow[];
  punctuality: Punctuality | null;
  moment: TimestampView | null;
}

interface Charted {
  field: Field;
  series: WatchNow['series'][number];
  /** A number of the series, for its unit; null where it holds words. */
  like: Measure | null;
}

/** The series of a record that can be drawn: numbers as a line, words as bars. */
function chartable(watch: WatchNow, record: RecordNow | null, readings: ReadingRow[]): Charted[] {
  const all = record?.series ?? watch.series;
  return watch.definition.fields.flatMap((field) => {
    const series = all.find((each) => each.field === field.key);
    if (series === undefined || NOT_DRAWN.includes(field.type.kind) || watch.definition.identity.includes(field.key))
      return [];
    // What is absent now, like the price of what is sold out, was a number before.
    const like =
      [series.value, ...readings.filter((each) => each.seriesId === series.id).map(({ value }) => value)].find(
        isMeasure,
      ) ?? null;
    return [{ field, series, like }];
  });
}

/** A day or an address has no place on a scale, and what identifies a record never moves. */
const NOT_DRAWN: Field['type']['kind'][] = ['moment', 'link', 'picture'];

/** What is drawn until she asks for another: what a rule watches, else the number that moved last. */
function openedOn(offered: Charted[], { rules }: WatchNow): Charted | undefined {
  const ruled = new Set(rules.flatMap(({ definition }) => ownFields(definition)));
  const watched = offered.find(({ field }) => ruled.has(field.key));
  const numbers = offered.filter(({ like }) => like !== null);
  const last = Math.max(...numbers.map(({ series }) => series.openSince));
  return watched ?? numbers.find(({ series }) => series.openSince === last) ?? offered[0];
}

/** The series of a watch with its rules and episodes drawn in, and the ribbon of runs on the same time axis. */
export function SeriesPart(props: SeriesProps) {
  const { watch, record, readings, from, to, range, runs, punctuality } = props;
  const { place } = useReader();
  const [asked] = useSearchParams();
  const offered = chartable(watch, record, readings);
  const charted = offered.find(({ field }) => field.key === asked.get('field')) ?? openedOn(offered, watch);
  return (
    <section className="mt-4 border-t border-rule pt-2.5">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <Title {...props} charted={charted} />
        {offered.length < 2 ? null : (
          <Choices
            label="What is drawn"
            param="field"
            chosen={charted?.field.key ?? ''}
            options={offered.map(({ field }) => [field.key, field.label])}
          />
        )}
        <Choices label="Stretch of time" param="range" chosen={range} options={RANGE_NAMES} />
        {charted === undefined ? null : <From {...props} charted={charted} />}
      </div>
      {charted === undefined ? (
        <p className="py-4 text-second">
          {watch.series.length === 0
            ? 'Nothing has been read yet; the first run is a baseline and sends nothing.'
            : 'Nothing of what is read has a course to draw.'}
        </p>
      ) : charted.like === null ? (
        <>
          <Words {...props} charted={charted} />
          <WholeText watch={watch} series={charted.series} />
        </>
      ) : (
        <Chart {...props} charted={charted} like={charted.like} />
      )}
      {charted === undefined ? null : <AtReading {...props} charted={charted} />}
      <div className="mt-2">
        <Ribbon runs={runs} from={from} to={to} place={place} />
        <p className="pt-1 text-glance text-third" style={{ paddingLeft: CHART_LEFT }} data-lateness>
          {latenessWords(punctuality, watch)}{' '}
          <Link className="link" to={`/watches/${watch.id}/runs`}>
            All runs
          </Link>
        </p>
      </div>
    </section>
  );
}

/** What is drawn, of which record, in which unit. */
function Title({ watch, record, charted }: SeriesProps & { charted: Charted | undefined }) {
  const { locale } = useReader();
  return (
    <h2 className="font-serif text-head font-medium">
      <span className="inline-block first-letter:uppercase">{charted?.field.label ?? 'Runs'}</span>
      {watch.recordCount > 1 && record !== null && charted !== undefined ? (
        <span className="font-normal"> of {record.name}</span>
      ) : null}
      {charted?.like == null ? null : (
        <span className="ml-1.5 font-sans text-glance font-normal text-third">{formatUnit(charted.like, locale)}</span>
      )}
    </h2>
  );
}

/** What leads on from what is drawn. */
function From({ watch, record, to, charted }: SeriesProps & { charted: Charted }) {
  const [asked] = useSearchParams();
  return (
    <span className="flex gap-4 text-glance text-third">
      <Link className="link" to={ruleFrom(watch, charted, record)}>
        a rule from here
      </Link>
      <Link
        className="link"
        preventScrollReset
        to={`?${timestampAsked(asked, charted, to).toString()}`}
        title="Or press on the chart"
      >
        why at a reading
      </Link>
    </span>
  );
}

/** What was made of the reading that is asked about; nothing where none is. */
function AtReading({ watch, record, moment, charted }: SeriesProps & { charted: Charted }) {
  if (moment === null) return null;
  const names = (key: string) => labelOf(watch.definition.fields, key);
  return <TimestampOf watch={watch} moment={moment} labelOf={names} ruleFrom={ruleFrom(watch, charted, record)} />;
}

/** The address that asks what was made of the reading of a moment. */
function timestampAsked(asked: URLSearchParams, { field }: Charted, at: Instant): URLSearchParams {
  return new URLSearchParams({ ...Object.fromEntries(asked), field: field.key, at: String(Math.round(at)) });
}

/** Where a rule on what is drawn opens, filled in. */
function ruleFrom(watch: WatchNow, { field }: Charted, record: RecordNow | null): string {
  const asked = new URLSearchParams({
    field: field.key,
    ...(record === null || watch.recordCount < 2 ? {} : { record: String(record.id) }),
  });
  return `/watches/${watch.id}/rules/new?${asked.toString()}`;
}

/** Where a long text can be read whole. */
function WholeText({ watch, series }: { watch: WatchNow; series: Charted['series'] }) {
  const { value } = series;
  if (value.kind !== 'text' || value.whole === undefined) return null;
  return (
    <a className="link text-glance" href={`/watches/${watch.id}/values/${series.id}`} target="_blank" rel="noreferrer">
      The whole text as it stands, {value.whole.toLocaleString('en')} characters
    </a>
  );
}

/** A few words of which one holds, kept in the address. */
function Choices({
  label,
  param,
  chosen,
  options,
}: {
  label: string;
  param: string;
  chosen: string;
  options: readonly (readonly [string, string])[];
}) {
  const [asked] = useSearchParams();
  return (
    <nav aria-label={label} className="flex flex-wrap gap-3">
      {options.map(([key, name]) => (
        <Link
          key={key}
          to={`?${new URLSearchParams({ ...Object.fromEntries(asked), [param]: key }).toString()}`}
          preventScrollReset
          replace
          aria-current={key === chosen ? 'true' : undefined}
          className="border-b-2 border-transparent text-third hover:text-ink aria-[current]:border-chestnut aria-[current]:font-semibold aria-[current]:text-ink"
        >
          {name}
        </Link>
      ))}
    </nav>
  );
}

function Chart({
  watch,
  readings,
  from,
  to,
  episodes,
  moment,
  charted: { field, series },
  like,
}: SeriesProps & { charted: Charted; like: Measure }) {
  const { place, locale } = useReader();
  const limits = watch.rules
    .flatMap(({ definition }) => limitsOn(definition, field.key))
    .filter((limit) => alike(limit, like));
  const own = readings.filter((reading) => reading.seriesId === series.id);
  const [asked] = useSearchParams();
  const go = useNavigate();
  const ask = (at: Instant) =>
    void go(`?${timestampAsked(asked, { field, series, like }, at).toString()}`, { preventScrollReset: true });
  return (
    <>
      <SeriesChart
        label={`${field.label} of ${watch.definition.subject}, ${formatValue(series.value, locale)} now`}
        readings={[...own, ...lastOf(own, series)].flatMap(({ value, firstSeen, lastSeen }) =>
          isMeasure(value) ? [{ at: firstSeen, until: lastSeen, value }] : [],
        )}
        from={from}
        to={to}
        limits={limits.map((limit) => ({ value: limit, name: `limit ${formatValue(limit, locale)}` }))}
        episodes={episodes
          .filter((episode) => episode.field === field.key && episode.recordId === series.recordId)
          .map((episode) => ({ ...episode, said: episodeWords(episode, to, locale) }))}
        staleSince={staleSince(watch, series)}
        stepwise={field.mode === 'stepwise' || field.type.kind === 'count'}
        place={place}
        onAsk={ask}
        asked={moment === null || moment.field !== field.key ? null : moment.reading.at}
      />
      {!own.some((reading) => reading.thinned) ? null : (
        <p className="pt-1 text-glance text-third" style={{ paddingLeft: CHART_LEFT }} data-thinned>
          There are too many readings to draw each: the least and the most of every {formatDuration(stretchOf(own))}{' '}
          stand for the rest.
        </p>
      )}
    </>
  );
}

/** Since when a series stands unconfirmed; null while it is read and heard of. */
function staleSince(watch: WatchNow, series: WatchNow['series'][number]): Instant | null {
  return series.problem !== null || watch.problem !== null ? series.lastGoodAt : series.unheardSince;
}

/**
 * Where the last readings are thinned, the one that stands now: it need be neither the least nor the most of its
 * stretch.
 */
function lastOf(readings: ReadingRow[], { value, lastGoodAt }: WatchNow['series'][number]) {
  const last = readings.at(-1);
  return last?.thinned === true ? [{ value, firstSeen: last.lastSeen, lastSeen: lastGoodAt }] : [];
}

/** How long the stretches are into which readings were gathered, two to each, in milliseconds. */
function stretchOf(readings: ReadingRow[]): number {
  return (2 * ((readings.at(-1)?.lastSeen ?? 0) - (readings[0]?.firstSeen ?? 0))) / Math.max(1, readings.length);
}

/** States, grades, flags and texts, each for as long as it was held. */
function Words({ watch, readings, from, to, charted: { field, series } }: SeriesProps & { charted: Charted }) {
  const { place, locale } = useReader();
  return (
    <StateChart
      label={`${field.label} of ${watch.definition.subject}, ${formatValue(series.value, locale)} now`}
      readings={readings
        .filter((reading) => reading.seriesId === series.id)
        .map(({ value, firstSeen, lastSeen }) => ({ at: firstSeen, until: lastSeen, value }))}
      order={orderOf(field)}
      from={from}
      to={to}
      staleSince={staleSince(watch, series)}
      place={place}
    />
  );
}

function orderOf({ type }: Field): string[] {
  if (type.kind === 'grade') return type.scale;
  return type.kind === 'state' ? type.states.map(({ name }) => name) : [];
}

const ON_TIME_MS = 250;

/** How punctual it really was, and not only how often it was asked for. */
function latenessWords(punctuality: Punctuality | null, { skipped, way }: WatchNow): string {
  if (punctuality === null || way === 'posted') return '';
  const most =
    punctuality.mostMs - punctuality.usualMs < 1000 ? '' : `; at most ${formatDuration(punctuality.mostMs)} late`;
  const missed =
    skipped === 0
      ? ''
      : `; ${skipped.toLocaleString('en-GB')} ${skipped === 1 ? 'run' : 'runs'} skipped while the one before was ` +
        'on its way';
  const usual = punctuality.usualMs < ON_TIME_MS ? 'On time' : `Usually ${formatDuration(punctuality.usualMs)} late`;
  return `${usual}${most}${missed}.`;
}

function episodeWords(episode: EpisodeRow, now: Instant, locale: string): string {
  const length = formatDuration((episode.closedAt ?? now) - episode.openedAt);
  const peak = episode.peak === null ? '' : `, furthest ${formatValue(episode.peak, locale)}`;
  return `${episode.closedAt === null ? 'raised' : 'was raised'}, ${length}${peak}`;
}
