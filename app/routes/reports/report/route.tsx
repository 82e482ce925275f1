import type { ReportId } from '#core/id';
import { useEffect, useState } from 'react';
import { data, Link, redirect, useFetcher } from 'react-router';
import { canonical } from '#core/canonical';
import { boundsWords } from '#core/tell/quota';
import { shareWords } from '#core/tell/edition/words';
import { atOnceSentence } from '#core/tell/definition-words';
import { allReaders, type ReportDefinition } from '#core/tell/definition';
import { isOfRules } from '#core/when/cadence';
import { formatInstant, formatRecent } from '#core/when/format';
import { MINUTE } from '#core/when/interval';
import { countOf, listed } from '#core/words';
import { choosable } from '#server/db/report/views/choosable';
import { listQuotas } from '#server/db/delivery/quotas';
import { listEditions } from '#server/db/report/editions';
import { listAudiences } from '#server/db/person/people';
import { inTransaction } from '#server/db/base/pool';
import { findReport } from '#server/db/report/reports';
import { listNames } from '#server/db/watch/standings';
import { listSites } from '#server/db/source/sites';
import { placeOf } from '#server/db/person/people';
import { cutByHand } from '#server/pipeline/report/cut';
import { endReport, makeReport, saveReport } from '#server/pipeline/report/store';
import { readForm, textIn, writtenIn } from '../../../form.server';
import { readId, readNumber } from '../../../ids.server';
import { LeaveGuard } from '../../../parts/leave-guard';
import { useLive } from '../../../parts/live';
import { keepingServices, services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Button } from '../../../ui/button';
import { Confirm } from '../../../ui/confirm';
import { Choice } from '../../../ui/field';
import { PageHead, Section, Where } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';
import { beginning } from './beginning.server';
import { Gathered } from './cadence';
import { Choices } from './choices';
import { NextEdition } from './next-edition';
import { namesOf } from './names.server';
import type { PreviewAnswer } from './preview';
import { previewShown, type Previewed } from './preview.server';
import type { Known } from './known';
import { OrderSentence } from './sentence';
import { sendTrial } from './trial.server';
import { readPlan } from './shape.server';
import { Troubles } from './troubles';

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData?.report?.name ?? 'A new report'} · Shrike` },
];

const MOST_SITES = 200;
const EDITIONS_SHOWN = 8;

export async function loader({ params, context, request }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'report' });
  const { pool } = services();
  const isNew = params.report === undefined;
  const report = isNew ? null : await findReport(pool, readId<ReportId>(params.report));
  if (!isNew && report === null) throw data('There is no such report, or it was deleted.', { status: 404 });
  const [audiences, sites, { tags }] = [
    await listAudiences(pool),
    await listSites(pool, '', MOST_SITES),
    await listNames(pool),
  ];
  const said =
    report?.order ?? (await beginning(new URL(request.url).searchParams, placeOf(person).zone, audiences[0]?.key));
  // Who was taken out since is not among those who read it.
  const order = present(said, new Set(audiences.map(({ key }) => key)));
  const told = isOfRules(order.cadence);
  return {
    report,
    order,
    audiences,
    sites: sites.map(({ id, name, kind }) => ({ id, name, kind })),
    tags,
    ...(await choosable(pool)),
    names: await namesOf(pool, [order]),
    bounds: boundsWords(await listQuotas(pool)),
    first: told ? null : await previewShown({ order, report: report?.id ?? null, name: report?.name ?? '' }, person),
    editions: report === null ? [] : await listEditions(pool, report.id, EDITIONS_SHOWN),
    feed: report === null ? null : services().links.feed(report.id),
  };
}

/** An order without those who were taken out since. */
function present(order: ReportDefinition, there: ReadonlySet<string>): ReportDefinition {
  const still = (keys: string[]) => keys.filter((key) => there.has(key));
  const parts = order.split?.parts
    .map(({ value, readers }) => ({ value, readers: still(readers) }))
    .filter(({ readers }) => readers.length > 0);
  return {
    ...order,
    readers: still(order.readers),
    broken: still(order.broken),
    split: order.split === null || parts === undefined ? null : { ...order.split, parts },
  };
}

/** What came of pressing a button. */
interface Answer {
  said: string | null;
  problem: string | null;
  /** What was saved, as it stands now. */
  saved?: { version: number; name: string; order: ReportDefinition };
}

export async function action({ request, params, context }: Route.ActionArgs): Promise<Answer | Response> {
  const person = asks(context, 'change', { kind: 'report' });
  const form = await readForm(request);
  const id = readId<ReportId>(params.report);
  if (form.get('intent') === 'gather') return gather(form, id, person);
  if (await tellsAtOnce(id))
    return { said: null, problem: 'What is told at once is said in the sentences of its watches, and not here.' };
  switch (form.get('intent')) {
    case 'cut':
      return cutNow(id);
    case 'trial':
      return sendTrial(form, id, person);
    case 'end': {
      asks(context, 'end', { kind: 'report' });
      const { pool, clock } = services();
      await inTransaction(pool, (db) => endReport(db, id, services().config.mailDomain, clock()));
      return redirect('/reports');
    }
    default:
      return save(form, id, person);
  }
}

async function tellsAtOnce(id: ReportId): Promise<boolean> {
  const report = id === 0 ? null : await findReport(services().pool, id);
  return report !== null && isOfRules(report.order.cadence);
}

const MOST_GATHERED = 24 * 60;

/** Lets a report that tells at once gather for a while first, or no more. */
async function gather(form: FormData, id: ReportId, person: ReturnType<typeof asks>): Promise<Answer> {
  const { pool, ids, clock, signals } = services();
  const minutes = readNumber(form.get('minutes'));
  const report = await findReport(pool, id);
  if (report === null || !isOfRules(report.order.cadence))
    return { said: null, problem: 'There is no such report that tells at once.' };
  if (minutes > MOST_GATHERED) return { said: null, problem: 'What is gathered waits for a day at most.' };
  const cadence = minutes === 0 ? { cut: 'at once' as const } : { cut: 'at once' as const, gather: minutes * MINUTE };
  const plan = { name: report.name, order: { ...report.order, cadence } };
  const saved = { id, over: readNumber(form.get('version')), plan, passOver: false };
  const version = await inTransaction(pool, (db) => saveReport(db, ids, saved, person.id, clock()));
  signals.say('outbox');
  return version === null
    ? { said: null, problem: 'Somebody else saved or deleted this report meanwhile. Load the page again.' }
    : { said: 'Saved.', problem: null };
}

async function cutNow(id: ReportId): Promise<Answer> {
  const { pool, clock, signals } = services();
  const keeping = await keepingServices();
  const done = await inTransaction(pool, (db) => cutByHand(keeping, db, id, clock()));
  signals.say('outbox');
  return done
    ? { said: 'Made: its edition is on its way, if there is anything to tell.', problem: null }
    : { said: null, problem: 'This report was deleted meanwhile.' };
}

async function save(form: FormData, id: ReportId, person: ReturnType<typeof asks>): Promise<Answer | Response> {
  const { pool, ids, clock } = services();
  const plan = readPlan(textIn(form, 'name'), writtenIn(form, 'order'));
  if (!plan.ok) return { said: null, problem: plan.error };
  const known = new Set((await listAudiences(pool)).map(({ key }) => key));
  if (!allReaders(plan.value.order).every((key) => known.has(key)))
    return { said: null, problem: 'Somebody who should hear is not known here any more: choose again who reads it.' };
  if (id === 0)
    return redirect(
      `/reports/${await inTransaction(pool, (db) => makeReport(db, ids, plan.value, person.id, clock()))}`,
    );
  const saved = {
    id,
    over: readNumber(form.get('version')),
    plan: plan.value,
    passOver: form.get('pass over') === 'yes',
  };
  const version = await inTransaction(pool, (db) => saveReport(db, ids, saved, person.id, clock()));
  if (version !== null) return { said: 'Saved.', problem: null, saved: { version, ...plan.value } };
  return {
    said: null,
    problem:
      'Somebody else saved or deleted this report meanwhile. Load the page again: what stands here is not kept yet.',
  };
}

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
  const said = {
    order: JSON.stringify(order),
    name,
    version: String(kept.version),
    'pass over': leavesNever && passOver ? 'yes' : 'no',
  };
  return {
    order,
    name,
    setName,
    passOver,
    setPassOver,
    leavesNever,
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
      <PageHead actions={<Actions report={report} said={said} part={part} />}>
        <Where within={[{ name: 'Reports', to: '/reports' }]}>{report?.name ?? 'new'}</Where>
      </PageHead>
      <LeaveGuard unsaved={said.changed && !said.isOnItsWay} what="this report" />
      <OrderSentence order={order} known={known} onSay={said.say} />
      {report === null ? null : <Troubles report={report} />}
      <Said answer={said.answer} problem={problem} />
      {said.changed && shown?.difference != null ? <Changes {...shown.difference} /> : null}
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
  said: { changed, busy, post },
  part,
}: {
  report: Loaded['report'];
  said: ReturnType<typeof useSaid>;
  part: number;
}) {
  return (
    <>
      <Standing report={report} changed={changed} />
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

function Standing({ report, changed }: { report: Loaded['report']; changed: boolean }) {
  const { place, now } = useReader();
  if (report === null) return <span className="text-glance text-third">not started yet</span>;
  return (
    <span className="text-glance text-third">
      version {report.version}
      {changed
        ? '; what is changed here holds from when it is saved, for the whole running stretch'
        : `; covers from ${formatRecent(report.cutAt, now, place)} on`}
    </span>
  );
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

/** Whoever has its address reads every edition, without signing in. */
function Feed({ feed }: Pick<Loaded, 'feed'>) {
  return feed === null ? null : (
    <a className="link" href={feed} title="Whoever has this address reads its editions, without signing in">
      as a feed (Atom)
    </a>
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
          It gathers now; what it has goes {formatInstant(report.dueAt, 'moment', place)}.
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
