import { useEffect, useState } from 'react';
import { Link, useFetcher } from 'react-router';
import { canonical } from '#core/canonical';
import { shareWords } from '#core/tell/edition/words';
import { atOnceSentence } from '#core/tell/definition-words';
import type { ReportDefinition } from '#core/tell/definition';
import { isOfRules } from '#core/when/cadence';
import { formatInstant, formatRecent } from '#core/when/format';
import { MINUTE, type Instant } from '#core/when/interval';
import { countOf, listed } from '#core/words';
import { LeaveGuard } from '../../../parts/leave-guard';
import { useLive } from '../../../parts/live';
import { Button } from '../../../ui/button';
import { Confirm } from '../../../ui/confirm';
import { Choice } from '../../../ui/field';
import { PageHead, Section, Where } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';
import { Gathered } from './cadence';
import { Choices } from './choices';
import { NextEdition } from './next-edition';
import type { PreviewAnswer } from './preview';
import type { Previewed } from './preview.server';
import type { Known } from './known';
import { OrderSentence } from './sentence';
import { Troubles } from './troubles';
import type { Answer } from './act.server';

const EVERY_MS = 5_000;

export default function ReportPage({ loaderData }: Route.ComponentProps) {
  useLive(['outbox'], EVERY_MS);
  return isOfRules(loaderData.order.cadence) ? (
    <AtOnce key={loaderData.report?.id} {...loaderData} />
  ) : (
    <Editor key={loaderData.report?.id ?? 'new'} {...loaderData} />
  );
}

type Loaded = Route.ComponentProps['loaderData'];

const PREVIEW_AFTER_MS = 350;

/**
 * What is shown follows what is said, a little behind; of what is kept it is what was loaded with it, which a cut or a
 * saving renews.
 */
function usePreview(order: ReportDefinition, name: string, part: number, { report, first, order: loaded }: Loaded) {
  const fetcher = useFetcher<PreviewAnswer>();
  const said = `${part} ${JSON.stringify(order)}`;
  const [asked, setAsked] = useState(said);
  const { submit } = fetcher;
  useEffect(() => {
    if (said === asked) return;
    const later = setTimeout(() => {
      setAsked(said);
      const plan = { order: JSON.stringify(order), name, part: String(part), report: String(report?.id ?? 0) };
      void submit(plan, { method: 'post', action: '/reports/preview' });
    }, PREVIEW_AFTER_MS);
    return () => clearTimeout(later);
  }, [said, asked, order, part, name, report?.id, submit]);
  const answer = fetcher.data;
  const isKept = part === 0 && report !== null && canonical(order) === canonical(loaded);
  return {
    shown: !isKept && answer !== undefined && 'shown' in answer ? answer.shown : first,
    problem: !isKept && answer !== undefined && 'problem' in answer ? answer.problem : null,
    pending: said !== asked || fetcher.state !== 'idle',
  };
}

/**
 * What is said of a report here, against what is kept of it: what she changes is hers until it is saved, whatever is
 * loaded meanwhile.
 */
function useSaid({ report, order: begun }: Pick<Loaded, 'report' | 'order'>) {
  const [order, setOrder] = useState(begun);
  const [name, setName] = useState(report?.name ?? '');
  const [passOver, setPassOver] = useState(false);
  const [kept, setKept] = useState({ version: report?.version ?? 0, name, order: begun });
  const { data: answer, state, submit } = useFetcher<Answer>();
  const saved = answer?.saved;
  // What was answered before the last thing that was sent: until there is another answer that is on its way.
  const [before, setBefore] = useState(answer);
  useEffect(() => (saved === undefined ? undefined : setKept(saved)), [saved]);
  const leavesNever = report !== null && kept.order.cadence.cut === 'never' && order.cadence.cut !== 'never';
  const passesOver = leavesNever && passOver;
  const said = {
    order: JSON.stringify(order),
    name,
    version: String(kept.version),
    'pass over': passesOver ? 'yes' : 'no',
  };
  return {
    order,
    name,
    setName,
    passOver,
    setPassOver,
    leavesNever,
    passesOver,
    answer,
    busy: state !== 'idle',
    isOnItsWay: state !== 'idle' && answer === before,
    changed: canonical(order) !== canonical(kept.order) || name !== kept.name,
    say: (change: Partial<ReportDefinition>) => setOrder((before) => ({ ...before, ...change })),
    post: (intent: string, part = 0) => {
      setBefore(answer);
      void submit({ intent, part: String(part), ...said }, { method: 'post' });
    },
  };
}

function Editor(loaded: Loaded) {
  const { report, editions } = loaded;
  const [part, setPart] = useState(0);
  const said = useSaid(loaded);
  const { order, name } = said;
  const { shown, problem, pending } = usePreview(order, name, part, loaded);
  const known: Known = loaded;
  return (
    <>
      <PageHead actions={<Actions report={report} said={said} part={part} endsFirst={shown?.endsFirst ?? null} />}>
        <Where within={[{ name: 'Reports', to: '/reports' }]}>{report?.name ?? 'new'}</Where>
      </PageHead>
      <LeaveGuard unsaved={said.changed && !said.isOnItsWay} what="this report" />
      <OrderSentence order={order} known={known} onSay={said.say} />
      {report === null ? null : <Troubles report={report} />}
      <Said answer={said.answer} problem={problem} />
      {said.changed && !said.passesOver && shown?.difference != null ? <Changes {...shown.difference} /> : null}
      {said.leavesNever && report !== null ? (
        <Leaving since={report.cutAt} passOver={said.passOver} onChoose={said.setPassOver} />
      ) : null}
      <div className="grid gap-x-9 gap-y-6 border-t border-rule pt-2 lg:grid-cols-[minmax(0,1fr)_400px]">
        <NextEdition shown={shown} pending={pending} onPart={setPart} />
        <div className="flex min-w-0 flex-col">
          <Choices order={order} name={name} known={known} shown={shown} onSay={said.say} onName={said.setName} />
          {report === null ? null : <Past report={report} editions={editions} feed={loaded.feed} />}
        </div>
      </div>
    </>
  );
}

function Actions({
  report,
  said,
  part,
  endsFirst,
}: {
  report: Loaded['report'];
  said: ReturnType<typeof useSaid>;
  part: number;
  endsFirst: Previewed['endsFirst'];
}) {
  const { changed, busy, post } = said;
  return (
    <>
      <Standing report={report} said={said} endsFirst={endsFirst} />
      <Button onClick={() => post('trial', part)} disabled={busy}>
        Send me this one
      </Button>
      {report === null || changed ? null : (
        <Button onClick={() => post('cut')} disabled={busy}>
          Make it now
        </Button>
      )}
      <Button weight="strong" onClick={() => post('save')} disabled={busy || !changed}>
        {report === null ? 'Start it' : 'Save'}
      </Button>
    </>
  );
}

function Standing({
  report,
  said: { changed, passesOver },
  endsFirst,
}: {
  report: Loaded['report'];
  said: ReturnType<typeof useSaid>;
  endsFirst: Previewed['endsFirst'];
}) {
  const { place, now } = useReader();
  if (report === null) return <span className="text-glance text-third">not started yet</span>;
  const holds = holdsFrom(endsFirst, passesOver, (at) => formatRecent(at, now, place));
  return (
    <span className="text-glance text-third">
      version {report.version}
      {changed ? `; what is changed here holds ${holds}` : `; covers from ${formatRecent(report.cutAt, now, place)} on`}
    </span>
  );
}

/** From when on what is changed holds (3). */
function holdsFrom(endsFirst: Previewed['endsFirst'], passesOver: boolean, say: (at: Instant) => string): string {
  if (endsFirst?.what === 'gathering') return `after what it gathers until ${say(endsFirst.until)}`;
  if (passesOver) return 'from when it is saved';
  return endsFirst === null
    ? 'from when it is saved, for the whole running stretch'
    : 'from when it is saved: what waits is told then, as it was said before';
}

/** What came of it, or what is wrong: nothing that was said is lost. */
function Said({ answer, problem }: { answer: Answer | undefined; problem: string | null }) {
  const wrong = problem ?? answer?.problem ?? null;
  if (wrong !== null)
    return (
      <p role="alert" className="pb-2 font-medium text-chestnut">
        {wrong}
      </p>
    );
  return (
    <p role="status" className="text-second empty:hidden">
      {answer?.said}
    </p>
  );
}

/** What the news of the running stretch becomes where it is saved so (3). */
function Changes({ added, dropped }: NonNullable<Previewed['difference']>) {
  const said = [piecesWords('adds', added), piecesWords('drops', dropped)].filter(Boolean);
  return (
    <p className="pb-2 text-second" data-difference>
      {said.length === 0 ? 'Saved so, its running stretch tells of the same news.' : `Saved so, it ${listed(said)}.`}
    </p>
  );
}

function piecesWords(what: string, { count, names }: NonNullable<Previewed['difference']>['added']): string {
  if (count === 0) return '';
  const named = count > names.length ? `${names.join(', ')} …` : listed(names);
  return `${what} ${count === 1 ? 'one piece' : `${count} pieces`} of news (${named})`;
}

/**
 * A report that was cut by hand alone goes by the clock from now on: what has gathered meanwhile is told, or not (5).
 */
function Leaving({
  since,
  passOver,
  onChoose,
}: {
  since: number;
  passOver: boolean;
  onChoose: (passOver: boolean) => void;
}) {
  const { place, now } = useReader();
  return (
    <div className="pb-3" data-leaving>
      <Choice
        label="What its next edition covers"
        value={passOver ? 'from now' : 'all'}
        options={[
          {
            value: 'all',
            label: `its next edition covers everything since its last one, ${formatRecent(since, now, place)}`,
          },
          { value: 'from now', label: 'its next edition covers what comes from now on' },
        ]}
        onChange={(value) => onChoose(value === 'from now')}
      />
    </div>
  );
}

/** Whoever has its address reads every edition, without signing in, until the address is ended. */
function Feed({ feed }: Pick<Loaded, 'feed'>) {
  const [asked, setAsked] = useState(false);
  const { submit } = useFetcher();
  return feed === null ? null : (
    <span className="flex gap-3">
      <a className="link" href={feed} title="Whoever has this address reads its editions, without signing in">
        as a feed (Atom)
      </a>
      <button type="button" className="link text-third" onClick={() => setAsked(true)}>
        end this address
      </button>
      <Confirm
        open={asked}
        title="End this address?"
        go="End it"
        stay="Keep it"
        onGo={() => {
          setAsked(false);
          void submit({ intent: 'end feed' }, { method: 'post' });
        }}
        onStay={() => setAsked(false)}
      >
        Programs that read the feed by it find nothing any more. The feed has another address from then on, which they
        have to be told.
      </Confirm>
    </span>
  );
}

/** Its editions so far, and the way out. */
function Past({
  report,
  editions,
  feed,
}: {
  report: NonNullable<Loaded['report']>;
  editions: Loaded['editions'];
  feed: Loaded['feed'];
}) {
  const { place, now } = useReader();
  return (
    <Section title="Editions" className="pt-5" aside={<Feed feed={feed} />}>
      {editions.length === 0 ? <p className="text-second">None yet.</p> : null}
      <ul data-editions>
        {editions.map(({ id, number, madeAt, lines, share, sent, deliveries }) => (
          <li key={id} className="cell flex justify-between gap-4">
            <Link className="link" to={`/editions/${id}`}>
              edition {number}, {formatRecent(madeAt, now, place)}
              {share === null ? '' : `, ${shareWords(share)}`}
            </Link>
            <span className="text-second">
              {lines === null ? '' : `${countOf(lines, 'line')}, `}
              {sent} of {deliveries} sent
            </span>
          </li>
        ))}
      </ul>
      {report.editions <= editions.length ? null : (
        <Link className="link" to={`/editions?report=${report.id}`}>
          All {report.editions.toLocaleString(place.locale)}
        </Link>
      )}
      {report.problem === null ? null : <p className="mt-2 font-medium text-chestnut">{report.problem}</p>}
      <Ending {...report} />
    </Section>
  );
}

/** Takes a report away, once that was said twice. */
function Ending({ name, unsent }: Pick<NonNullable<Loaded['report']>, 'name' | 'unsent'>) {
  const [asked, setAsked] = useState(false);
  const fetcher = useFetcher();
  return (
    <p className="mt-3">
      <button type="button" className="link text-glance text-third" onClick={() => setAsked(true)}>
        Delete this report
      </button>
      <Confirm
        open={asked}
        title={`Delete ${name}?`}
        go="Delete it"
        stay="Keep it"
        onGo={() => void fetcher.submit({ intent: 'end' }, { method: 'post' })}
        onStay={() => setAsked(false)}
      >
        There will be no further cut.{' '}
        {unsent === 0
          ? 'No mail of it waits to go out.'
          : `${countOf(unsent, 'mail')} of it that ${unsent === 1 ? 'has' : 'have'} not ` +
            'gone out will be cancelled.'}{' '}
        Its editions stay and can be read.
      </Confirm>
    </p>
  );
}

/** Whether what it tells is gathered for a while, so that many alerts make one mail. */
function Gathering({ report }: { report: NonNullable<Loaded['report']> }) {
  const { place } = useReader();
  const fetcher = useFetcher<Answer>();
  const { cadence } = report.order;
  const now = cadence.cut === 'at once' ? (cadence.gather ?? 0) / MINUTE : 0;
  const say = (minutes: number) =>
    void fetcher.submit(
      { intent: 'gather', minutes: String(minutes), version: String(report.version) },
      { method: 'post' },
    );
  return (
    <div className="mt-3 max-w-md">
      <Gathered minutes={now} disabled={fetcher.state !== 'idle'} onSay={say} />
      {report.dueAt === null ? null : (
        <p className="mt-1 text-second">
          It gathers now; what it has goes {formatInstant(report.dueAt, 'moment', place)}.{' '}
          <button
            type="button"
            className="link"
            disabled={fetcher.state !== 'idle'}
            onClick={() => void fetcher.submit({ intent: 'cut' }, { method: 'post' })}
          >
            Send it now
          </button>
        </p>
      )}
      <Said answer={fetcher.data} problem={null} />
    </div>
  );
}

/** A report that tells of its rules at once: it is said in their watches’ sentences. */
function AtOnce({ report, editions, feed }: Loaded) {
  const { place, now } = useReader();
  if (report === null) return null;
  return (
    <>
      <PageHead>
        <Where within={[{ name: 'Reports', to: '/reports' }]}>{report.name}</Where>
      </PageHead>
      <h1 className="py-4 font-serif text-[22px] leading-[31px] text-pretty md:text-sentence">
        {atOnceSentence(listed(report.readers), report.rules, report.order.cadence)}
      </h1>
      <Troubles report={report} />
      <p className="max-w-xl text-second">
        Which rules those are, and who hears, is said in the sentence of each watch, and for many at once in the list of{' '}
        <Link className="link" to="/rules">
          rules
        </Link>
        . Its last edition was{' '}
        {editions[0] === undefined ? 'not made yet' : formatInstant(editions[0].madeAt, 'moment', place)}.
      </p>
      <Gathering report={report} />
      <Section title="Editions" className="pt-5" aside={<Feed feed={feed} />}>
        <ul data-editions>
          {editions.map(({ id, number, madeAt, sent, deliveries }) => (
            <li key={id} className="cell flex max-w-xl justify-between gap-4">
              <Link className="link" to={`/editions/${id}`}>
                edition {number}, {formatRecent(madeAt, now, place)}
              </Link>
              <span className="text-second">
                {sent} of {deliveries} sent
              </span>
            </li>
          ))}
        </ul>
      </Section>
    </>
  );
}
