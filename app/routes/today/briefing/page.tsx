import { Link } from 'react-router';
import { compareReadings } from '#core/compare/compare';
import { limitOf } from '#core/tell/news';
import { formatValue } from '#core/value/format';
import { isMeasure } from '#core/value/value';
import { formatDuration, formatInstant, formatRecent } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import type { BriefingChange } from '#server/db/reading/views/briefing';
import { Difference, senseInk } from '../../../parts/difference';
import { useLiveWatches } from '../../../parts/live';
import { Sparkline } from '../../../parts/charts/sparkline';
import { ButtonLink } from '../../../ui/button';
import { Empty, PageHead, Section } from '../../../ui/page';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import { SearchAndNew } from '../../shell/frame/search';
import type { Route } from './+types/route';
import type { MovedRow, Story } from './stories';
import type { Trouble } from './load.server';

export default function Briefing({ loaderData }: Route.ComponentProps) {
  useLiveWatches();
  const { place, now } = useReader();
  const { stories, rows } = loaderData;
  return (
    <>
      <PageHead actions={<SearchAndNew />}>
        <h1 className="font-serif text-day font-medium">{formatInstant(now, 'date', place)}</h1>
        <span className="text-glance text-third">{sinceWords(loaderData, now, place)}</span>
      </PageHead>
      <div className="lg:grid lg:grid-cols-[minmax(0,1fr)_250px]">
        <div className="min-w-0 pt-4 lg:pr-9">
          {stories.length === 0 && rows.length === 0 ? <Nothing {...loaderData} /> : null}
          <Stories {...loaderData} />
          <AlsoMoved rows={rows} count={loaderData.rowCount} first={stories.length === 0} />
        </div>
        <Margin {...loaderData} />
      </div>
    </>
  );
}

type Loaded = Route.ComponentProps['loaderData'];

function sinceWords({ looked, since, quiet }: Loaded, now: Instant, place: { locale: string; zone: string }): string {
  if (quiet && looked !== null)
    return `nothing new since ${formatRecent(looked, now, place)}, when you last looked; this is the last week`;
  return looked === null
    ? 'the last seven days'
    : `since ${formatInstant(since, 'moment', place)}, when you last looked`;
}

function Nothing({ watchCount, coverage }: Loaded) {
  if (watchCount === 0) {
    return (
      <Empty title="Nothing is watched yet">
        <p>Paste the address of a page that you look at too often, say what matters on it, and Shrike looks for you.</p>
        <ButtonLink to="/watches/new" weight="strong" className="mt-4">
          Start the first watch
        </ButtonLink>
      </Empty>
    );
  }
  return (
    <Empty title="Nothing moved">
      {coverage.runs} runs looked, {coverage.failed} of them failed, and no value changed.
    </Empty>
  );
}

function Stories({ stories, leadReadings }: Loaded) {
  const [lead, ...others] = stories;
  if (lead === undefined) return null;
  return (
    <div
      className={
        'grid gap-x-6 gap-y-5 border-b border-rule pb-4 ' +
        `${others.length > 0 ? 'md:grid-cols-[minmax(0,2fr)_minmax(0,1fr)]' : ''}`
      }
    >
      <LeadStory story={lead} readings={leadReadings} />
      {others.length === 0 ? null : (
        <div className="flex flex-col divide-y divide-hairline md:border-l md:border-rule md:pl-6">
          {others.map((story) => (
            <article key={story.id} className="py-3 first:pt-0 last:pb-0">
              <h2 className="font-serif text-story font-medium text-pretty">
                <Headline story={story} />
              </h2>
              <p className="mt-1 text-second">{story.body}</p>
              <StoryLinks story={story} />
            </article>
          ))}
        </div>
      )}
    </div>
  );
}

function LeadStory({ story, readings }: { story: Story; readings: Loaded['leadReadings'] }) {
  const { place, locale, now } = useReader();
  const points = readings.flatMap(({ firstSeen, value }) =>
    isMeasure(value) ? [{ at: firstSeen, height: Number(value.amount) }] : [],
  );
  const limit = limitOf(story.news);
  const first = points[0];
  return (
    <article data-lead>
      <h2 className="font-serif text-lead font-medium text-pretty">
        <Headline story={story} />
      </h2>
      <p className="mt-2.5 text-second">{story.body}</p>
      {points.length < 2 || first === undefined ? null : (
        <div className="mt-3 flex items-end gap-3">
          <div className="min-w-0">
            <Sparkline
              points={points}
              limit={limit === null ? null : Number(limit.amount)}
              width={430}
              height={58}
              until={now}
              label={`The ${story.news.field.label} over four weeks, ${formatValue(story.news.value, locale)} now`}
            />
            <div className="mt-1 flex justify-between text-glance text-third">
              <span>{formatInstant(first.at, 'day', place)}</span>
              <span>today</span>
            </div>
          </div>
          <p className="shrink-0 pb-6 text-glance">
            <span className="block font-semibold text-chestnut">{formatValue(story.news.value, locale)} now</span>
            {limit === null ? null : (
              <span className="block text-third">limit {formatValue(limit, locale)}, dotted</span>
            )}
          </p>
        </div>
      )}
      <StoryLinks story={story} />
    </article>
  );
}

function Headline({ story }: { story: Story }) {
  return (
    <Link to={storyTrail(story)} className="hover:underline">
      {story.headline.lead}
      {story.headline.meaning === '' ? null : (
        <>
          , <span className={senseInk(story.sense)}>{story.headline.meaning}</span>
        </>
      )}
    </Link>
  );
}

function storyTrail(story: Pick<Story, 'watchId' | 'changeId'>): string {
  return `/watches/${story.watchId}${story.changeId === null ? '' : `?change=${story.changeId}`}`;
}

function StoryLinks({ story }: { story: Story }) {
  return (
    <p className="mt-1.5 text-glance text-third">
      <Link className="link" to={storyTrail(story)}>
        trail
      </Link>{' '}
      ·{' '}
      <a className="link" href={story.address} target="_blank" rel="noreferrer">
        page
      </a>
    </p>
  );
}

function AlsoMoved({ rows, count, first }: { rows: MovedRow[]; count: number; first: boolean }) {
  const { place, locale, now } = useReader();
  if (rows.length === 0) return null;
  const columns: Column<MovedRow>[] = [
    {
      head: 'Item',
      className: 'max-w-64 truncate',
      cell: (row) => (
        <>
          <Link className="hover:underline" to={storyTrail(row)}>
            {row.subject}
          </Link>
          {row.records !== null || row.role === 'price' || row.role === 'value' ? null : (
            <span className="ml-1.5 text-glance text-third">{row.field}</span>
          )}
        </>
      ),
    },
    { head: 'Where', wide: true, className: 'whitespace-nowrap text-second', cell: (row) => row.site },
    {
      head: 'Was',
      side: 'right',
      wide: true,
      className: 'max-w-36 truncate text-third',
      cell: (row) => (row.records === null ? formatValue(row.latest.from, locale) : ''),
    },
    {
      head: 'Now',
      side: 'right',
      className: 'max-w-44 truncate',
      cell: (row) =>
        row.records !== null && row.latest.to.kind === 'absent' ? '' : formatValue(row.latest.to, locale),
    },
    {
      head: 'Difference',
      side: 'right',
      className: 'whitespace-nowrap',
      cell: (row) => <NetMove row={row} locale={locale} />,
    },
    {
      head: 'When',
      side: 'right',
      wide: true,
      className: 'text-glance whitespace-nowrap text-third',
      cell: (row) => formatRecent(row.latest.seenAt, now, place),
    },
  ];
  return (
    <Section
      title={first ? 'Moved' : 'Also moved'}
      aside={count > rows.length ? `${rows.length} of ${count}; the rest stand with their watches` : undefined}
      className={first ? '' : 'pt-3.5'}
    >
      <Table name="moved" columns={columns} rows={rows} keyOf={({ key }) => key} />
    </Section>
  );
}

function NetMove({ row, locale }: { row: MovedRow; locale: string }) {
  if (row.records !== null) return <span className="text-third">◇ {row.records}</span>;
  if (row.returned) return <span className="text-third">returned, {row.moves} moves</span>;
  const back = row.awayMs > 0 && row.latest.to.kind !== 'absent' ? `away ${formatDuration(row.awayMs)}` : null;
  const net =
    row.moves === 1 && back === null
      ? row.latest
      : compareReadings(row.latest.from, row.latest.to, polarityOf(row.latest));
  return (
    <>
      {row.moves > 1 ? <span className="mr-2 text-glance text-third">{row.moves} moves</span> : null}
      {back === null ? null : <span className="mr-2 text-glance text-third">{back}</span>}
      {net === null ? null : <Difference change={net} locale={locale} />}
    </>
  );
}

/** The polarity that the latest move was weighed by, read back from its sense. */
function polarityOf(change: BriefingChange) {
  if (change.difference === null || change.sense === 'neither') return 'neither';
  return change.difference.startsWith('-') === (change.sense === 'worse') ? 'up is good' : 'up is bad';
}

function Margin({ trouble, brokenCount, coverage, waiting, looked, since }: Loaded) {
  const { place, now } = useReader();
  const notReading = trouble.filter(
    ({ link }) => link.name === 'Source' || link.name === 'Value' || link.name === 'Rule',
  );
  const nobody = trouble.filter(({ link }) => link.name === 'Report' || link.name === 'Inbox');
  return (
    <aside
      aria-label="What is broken"
      className="mt-8 flex flex-col divide-y divide-rule lg:mt-0 lg:min-h-[calc(100vh-56px)] lg:border-l lg:border-rule lg:pl-5"
    >
      <TroubleList title="Not reading" items={notReading} otherwise="Every watch is read." />
      <TroubleList title="Nobody will hear" items={nobody} otherwise={null} />
      {brokenCount <= trouble.length ? null : (
        <p className="py-4">
          <Link className="link" to="/watches?show=broken">
            All {brokenCount.toLocaleString(place.locale)} that are broken
          </Link>
        </p>
      )}
      {waiting === 0 ? null : (
        <Section title="Going out" className="py-4">
          <p className="mt-1 text-second">
            <Link className="link" to="/outbox">
              {waiting === 1 ? 'One mail waits' : `${waiting} mails wait`}
            </Link>{' '}
            to be accepted.
          </p>
        </Section>
      )}
      <p className="py-4 text-glance text-third">
        Since {formatRecent(looked === null ? since : Math.min(since, now), now, place)}: {coverage.runs} runs,{' '}
        {coverage.failed} failed; {coverage.changes} changes, {coverage.told} mails accepted.
      </p>
    </aside>
  );
}

function TroubleList({ title, items, otherwise }: { title: string; items: Trouble[]; otherwise: string | null }) {
  if (items.length === 0 && otherwise === null) return null;
  return (
    <Section title={title} className="py-4 first:pt-4">
      {items.length === 0 ? <p className="mt-1 text-second">{otherwise}</p> : null}
      <ul className="divide-y divide-hairline">
        {items.map((item) => (
          <li key={item.id} className="py-2">
            <Link className="font-semibold hover:underline" to={`/watches/${item.id}`}>
              {item.name}
            </Link>
            <p className="text-second">{item.link.said}</p>
          </li>
        ))}
      </ul>
    </Section>
  );
}
