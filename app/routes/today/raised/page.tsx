import type { EpisodeId } from '#core/id';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { isMeasure } from '#core/value/value';
import { MINUTE } from '#core/when/interval';
import type { EpisodeNow } from '#server/db/rule/raised';
import { useLive } from '../../../parts/live';
import { Button } from '../../../ui/button';
import { Empty, PageHead } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import { SearchAndNew } from '../../shell/frame/search';
import type { Route } from './+types/route';
import { Bracket, axisOf, type Axis } from './bracket';
import { ActionButtons } from './action-buttons';
import { doneWords, overWords, underWords, RaisedWords } from './words';
import { inOrder, placesOf, SORTS, type Sort } from './order';

const EVERY_MS = 1_000;

/** What she saw for the first time is new to her for as long as she looks through the list. */
export const NEW_MS = 10 * MINUTE;

export default function Raised({ loaderData }: Route.ComponentProps) {
  useLive(['watches', 'outbox'], EVERY_MS);
  const { raised, fresh, over, more } = loaderData;
  // Where all of them are new to her that sets none apart.
  const news = fresh.length < raised.length ? fresh : [];
  const { now, place } = useReader();
  const [asked, setAsked] = useSearchParams();
  const sort = SORTS.find((each) => each === asked.get('by')) ?? 'weight';
  const [chosen, setChosen] = useState<EpisodeId[]>([]);
  const still = chosen.filter((id) => raised.some((episode) => episode.id === id));
  const axis = axisOf(raised, now, place);
  const toggle = (id: EpisodeId) =>
    setChosen(still.includes(id) ? still.filter((each) => each !== id) : [...still, id]);
  return (
    <>
      <PageHead actions={<SearchAndNew />}>
        <h1 className="font-serif text-day font-medium">Raised</h1>
        <span className="text-glance text-third">{headWords(raised.length, more, over.length)}</span>
      </PageHead>
      {raised.length + over.length === 0 ? (
        <Empty title="Nothing is raised">
          When a rule is met for as long as it asks, it stands here until it is left, with who has it.
        </Empty>
      ) : (
        <>
          <div className="flex min-h-9 flex-wrap items-center justify-between gap-x-6 pt-2">
            <SortBy sort={sort} onSort={(by) => setAsked(by === 'weight' ? {} : { by }, { replace: true })} />
            {still.length === 0 ? null : <Many ids={still} onDone={() => setChosen([])} />}
          </div>
          {placesOf(inOrder(raised, sort), now).map(({ title, aside, episodes }, at) => (
            <Place
              key={title}
              title={title}
              aside={aside}
              axis={axis}
              withAxis={at === 0}
              episodes={episodes}
              fresh={news}
              chosen={still}
              onToggle={toggle}
            />
          ))}
          <Over episodes={over} />
        </>
      )}
    </>
  );
}

function headWords(now: number, more: boolean, over: number): string {
  const raised = now === 0 ? 'nothing now' : `${more ? `more than ${now}` : now} now`;
  return over === 0 ? raised : `${raised}, ${over} over since yesterday`;
}

function SortBy({ sort, onSort }: { sort: Sort; onSort: (sort: Sort) => void }) {
  return (
    <p className="flex gap-3 text-glance text-third">
      by
      {SORTS.map((each) => (
        <button
          key={each}
          type="button"
          aria-pressed={each === sort}
          className="hover:text-ink aria-pressed:font-semibold aria-pressed:text-ink"
          onClick={() => onSort(each)}
        >
          {each}
        </button>
      ))}
    </p>
  );
}

interface PlaceProps {
  title: string;
  aside: string;
  axis: Axis;
  withAxis: boolean;
  episodes: EpisodeNow[];
  /** Those that she sees for the first time. */
  fresh: EpisodeId[];
  chosen: EpisodeId[];
  onToggle: (id: EpisodeId) => void;
}

function Place({ title, aside, axis, withAxis, episodes, fresh, chosen, onToggle }: PlaceProps) {
  return (
    <section className="mt-2.5">
      <div className="grid grid-cols-[minmax(0,1fr)_auto] items-end gap-x-4 border-b border-rule pb-1 md:grid-cols-[minmax(0,1fr)_250px_190px]">
        <h2 className="font-serif text-head font-medium">{title}</h2>
        {withAxis ? (
          <p aria-hidden className="relative hidden h-5 text-glance text-third md:block">
            {axis.ticks.map(({ at, share, words }) => (
              <span key={at} className="absolute -translate-x-1/2" style={{ left: `${share * 100}%` }}>
                {words}
              </span>
            ))}
            <span className="absolute right-0">now</span>
          </p>
        ) : (
          <span className="hidden md:block" />
        )}
        <span className="text-right text-glance text-third">{aside}</span>
      </div>
      <ul data-raised={title}>
        {episodes.map((episode) => (
          <Row
            key={episode.id}
            episode={episode}
            axis={axis}
            isNew={fresh.includes(episode.id)}
            chosen={chosen.includes(episode.id)}
            onToggle={() => onToggle(episode.id)}
          />
        ))}
      </ul>
    </section>
  );
}

interface RowProps {
  episode: EpisodeNow;
  axis: Axis;
  isNew: boolean;
  chosen: boolean;
  onToggle: () => void;
}

function Row({ episode, axis, isNew, chosen, onToggle }: RowProps) {
  const { place, now } = useReader();
  return (
    <li
      className="grid grid-cols-1 items-center gap-x-4 border-b border-hairline py-2.5 md:grid-cols-[minmax(0,1fr)_250px_190px]"
      data-episode={episode.id}
    >
      <div className="flex min-w-0 items-baseline gap-2.5">
        <input
          type="checkbox"
          className="relative top-[1px] shrink-0 accent-[var(--ink)]"
          aria-label={`Choose ${episode.subject}`}
          checked={chosen}
          onChange={onToggle}
        />
        <div className="min-w-0">
          <p className="font-serif text-[17px] leading-[23px] text-pretty">
            <RaisedWords episode={episode} place={place} now={now} />
            {isNew ? <span className="ml-2 font-sans text-glance font-semibold text-second">new to you</span> : null}
          </p>
          <p className="mt-0.5 text-glance text-third">
            {underWords(episode, place, now)} ·{' '}
            <Link className="link" to={trailOf(episode)}>
              trail
            </Link>{' '}
            ·{' '}
            <Link className="link" to={`/watches/${episode.watchId}/rules/${episode.ruleId}`}>
              rule
            </Link>{' '}
            ·{' '}
            <Link className="link" to={ruleFrom(episode)}>
              a rule from this
            </Link>
            {episode.page.startsWith('http') ? (
              <>
                {' '}
                ·{' '}
                <a className="link" href={episode.page} target="_blank" rel="noreferrer">
                  page
                </a>
              </>
            ) : null}
          </p>
          <Done episode={episode} />
        </div>
      </div>
      <Bracket episode={episode} axis={axis} />
      <ActionButtons
        ids={[episode.id]}
        taken={episode.takenOn !== null}
        putOff={episode.putOffUntil !== null && episode.putOffUntil > now}
      />
    </li>
  );
}

/** What was done about it, where more than what stands above was. */
function Done({ episode }: { episode: EpisodeNow }) {
  const { place, now } = useReader();
  const words = doneWords(episode, place, now);
  if (words.length < 2) return null;
  return (
    <details className="mt-0.5 text-glance text-third">
      <summary className="cursor-pointer">{words.length} things were done about it</summary>
      <ul>
        {words.map((each, at) => (
          <li key={at}>{each}</li>
        ))}
      </ul>
    </details>
  );
}

/** A copy of its rule, for its record and at its peak. */
const ruleFrom = ({ watchId, ruleId, recordId, record, peak }: EpisodeNow) => {
  const asked = new URLSearchParams({
    copy: String(ruleId),
    ...(record === null ? {} : { record: String(recordId) }),
    ...(isMeasure(peak) ? { limit: peak.amount } : {}),
  });
  return `/watches/${watchId}/rules/new?${asked.toString()}`;
};

const trailOf = ({ watchId, changeId, recordId, record }: EpisodeNow) => {
  const asked = new URLSearchParams({
    ...(record === null ? {} : { record: String(recordId) }),
    ...(changeId === null ? {} : { change: String(changeId) }),
  });
  return `/watches/${watchId}?${asked.toString()}`;
};

/** What is done to several at once. */
function Many({ ids, onDone }: { ids: EpisodeId[]; onDone: () => void }) {
  return (
    <div className="flex items-center gap-4" role="group" aria-label="With those that are chosen" data-many>
      <span className="text-glance text-second">{ids.length === 1 ? 'One is chosen' : `${ids.length} are chosen`}</span>
      <ActionButtons ids={ids} taken={false} putOff={false} many />
      <Button weight="quiet" onClick={onDone}>
        Choose none
      </Button>
    </div>
  );
}

function Over({ episodes }: { episodes: EpisodeNow[] }) {
  const { place, now } = useReader();
  if (episodes.length === 0) return null;
  return (
    <section className="mt-5">
      <div className="flex items-baseline justify-between border-b border-rule pb-1">
        <h2 className="font-serif text-head font-medium">Over since yesterday</h2>
        <span className="text-glance text-third">{episodes.length}</span>
      </div>
      <ul data-over>
        {episodes.map((episode) => {
          const [what, when, told] = overWords(episode, place, now);
          return (
            <li
              key={episode.id}
              className="cell grid grid-cols-[minmax(0,1fr)_auto] gap-x-4 md:grid-cols-[minmax(0,1.6fr)_minmax(0,1fr)_minmax(0,1fr)_auto]"
            >
              <span className="min-w-0 truncate" title={what}>
                {what}
              </span>
              <span className="hidden text-glance text-third md:block">{when}</span>
              <span className="hidden truncate text-glance text-third md:block">{told}</span>
              <Link className="link justify-self-end" to={trailOf(episode)}>
                trail
              </Link>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
