import type { WatchId } from '#core/id';
import { Link } from 'react-router';
import type { ReactNode } from 'react';
import { clausesOf } from '#core/judge/clause';
import { namesOf } from '#core/judge/words';
import { describeClause, describeCondition } from '#core/judge/describe';
import { describeReason, describeWhy, whysByClause } from '#core/judge/reason';
import { formatValue } from '#core/value/format';
import { isMeasure, type Value } from '#core/value/value';
import { formatDuration, formatInstant } from '#core/when/format';
import { leftOutWords } from '#core/tell/edition/choose';
import { describeReasonOf } from '#core/tell/delivery';
import type { Notification, Trail } from '#server/db/reading/views/changes';
import type { ReportTrailEntry } from '#server/pipeline/report/trail';
import { TextDifference } from '../../../parts/text-difference';
import { Section } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';

/** The path of one change down the chain, every decision with its reason. */
export function TrailOf({
  trail,
  passages,
  watch,
  labelOf,
}: {
  trail: Trail;
  passages: readonly ReportTrailEntry[];
  watch: WatchId;
  labelOf: (key: string) => string;
}) {
  const { place, locale } = useReader();
  const { change } = trail;
  return (
    <Section
      title={
        isShort(change.from, locale) && isShort(change.to, locale) ? (
          <>
            Trail of {formatValue(change.from, locale)} → {formatValue(change.to, locale)}
          </>
        ) : (
          `Trail of a change in ${labelOf(change.field)}`
        )
      }
      aside={formatInstant(change.seenAt, 'moment', place)}
    >
      {change.kind === 'text' && change.from.kind === 'text' && change.to.kind === 'text' ? (
        <div className="cell pt-2 pb-3">
          <TextDifference from={change.from.text} to={change.to.text} />
          <WholeTexts change={change} watch={watch} />
        </div>
      ) : null}
      <ol className="mt-1" data-trail>
        <Step name="Seen">
          {formatInstant(change.seenAt, 'exact', place)}; the last good run before was{' '}
          {formatDuration(change.seenAt - change.lookedBefore)} earlier
        </Step>
        <Step name="Read">
          {labelOf(change.field)}, under version {trail.watchVersion} of the watch
        </Step>
        {trail.verdicts.length === 0 ? <Step name="Judged">no rule looked at it</Step> : null}
        {trail.verdicts.map((verdict) => (
          <Step key={verdict.ruleId} name="Judged">
            “{describeCondition(verdict.when, namesOf(labelOf, locale))}”: {describeReason(verdict.reason, place)};{' '}
            {verdict.before === verdict.after ? verdict.after : `${verdict.before} → `}
            {verdict.before === verdict.after ? null : <strong>{verdict.after}</strong>}
            <ClauseWhys verdict={verdict} labelOf={labelOf} />
          </Step>
        ))}
        {trail.verdicts.some((verdict) => verdict.taken) && trail.tellings.length === 0 ? (
          <Step name="Told" tone="text-chestnut">
            raised, but no report takes this rule: nobody heard
          </Step>
        ) : null}
        {trail.tellings.map((telling) => (
          <NotifyingStep key={`${telling.alert} ${telling.report} ${telling.person}`} telling={telling} />
        ))}
        <ReportTrail passages={passages} />
      </ol>
      {change.kind === 'record' ? null : (
        <p className="pt-1.5 text-glance">
          <Link className="link text-third" to={ruleFrom(change, watch)}>
            a rule from this change
          </Link>
        </p>
      )}
    </Section>
  );
}

/** A rule filled in from a change: its field, its record, and what it moved to. */
function ruleFrom({ field, record, recordId, to }: Trail['change'], watch: WatchId): string {
  const asked = new URLSearchParams({
    field,
    ...(record === null || recordId === null ? {} : { record: String(recordId) }),
    ...(isMeasure(to) ? { limit: to.amount } : {}),
  });
  return `/watches/${watch}/rules/new?${asked.toString()}`;
}

/** What each of several conditions was found to be. */
function ClauseWhys({ verdict, labelOf }: { verdict: Trail['verdicts'][number]; labelOf: (key: string) => string }) {
  const { place, locale } = useReader();
  const clauses = clausesOf(verdict.when);
  const whys = whysByClause(verdict, verdict.reason);
  if (whys.length === 0) return null;
  return (
    <ul className="mt-0.5 text-glance text-third">
      {whys.map(({ clause, why }) => {
        const said = clauses[clause];
        return said === undefined ? null : (
          <li key={clause}>
            {describeClause(said, namesOf(labelOf, locale))}: {describeWhy(why, place).join('; ')}
          </li>
        );
      })}
    </ul>
  );
}

/** Where long texts can be read whole, since here only what differs of them is shown. */
function WholeTexts({ change, watch }: { change: Trail['change']; watch: WatchId }) {
  const sides = [
    ['before', change.from],
    ['after', change.to],
  ] as const;
  const long = sides.flatMap(([side, value]) =>
    value.kind === 'text' && value.whole !== undefined ? [{ side, whole: value.whole }] : [],
  );
  if (long.length === 0) return null;
  return (
    <p className="mt-2 flex gap-4 text-glance text-third" data-whole>
      {long.map(({ side, whole }) => (
        <a
          key={side}
          className="link"
          href={`/watches/${watch}/changes/${change.id}/${side}`}
          target="_blank"
          rel="noreferrer"
        >
          Whole text {side}, {whole.toLocaleString('en')} characters
        </a>
      ))}
    </p>
  );
}

const MOST_TITLE = 40;
/** Long texts that differ somewhere may well begin alike, and then head nothing. */
const isShort = (value: Value, locale: string) => formatValue(value, locale).length <= MOST_TITLE;

/** How a delivery stands, before whom it is for. */
export const STATES: Record<string, string> = {
  sent: 'accepted for',
  queued: 'queued for',
  sending: 'being sent to',
  refused: 'refused for',
  'given up': 'given up for',
};

/** What was told, as the head of its step; a start needs none but 'Told'. */
const TOLD: Record<string, string> = {
  reminder: 'Reminded',
  escalation: 'Passed on',
  over: 'Over',
  'cannot be judged': 'Undecided',
  'undecided for a day': 'Undecided',
};

/** To whom it was told, or not, and why. */
export function NotifyingStep({ telling }: { telling: Notification }) {
  const { place } = useReader();
  const name = TOLD[telling.told] ?? 'Told';
  if (telling.decision === 'stood back') {
    return (
      <Step name={name}>
        {telling.report} stood back for {telling.person}: {telling.inFavourOf} tells
      </Step>
    );
  }
  if (telling.decision === 'kept back') {
    return (
      <Step name={name} tone="text-chestnut">
        Kept back for {telling.person}:{' '}
        {telling.reason === null ? 'she cannot be reached' : describeReasonOf(telling.reason)}
      </Step>
    );
  }
  const troubled = telling.state === 'refused' || telling.state === 'given up';
  return (
    <Step name={name} tone={troubled ? 'text-chestnut' : undefined}>
      {telling.report}, edition {telling.edition}: {STATES[telling.state ?? ''] ?? telling.state}{' '}
      <Link className="link" to={`/outbox/${telling.deliveryId}`}>
        {telling.person}
      </Link>
      {telling.at === null ? null : `, ${formatInstant(telling.at, 'moment', place)}`}
      {telling.sentAgain ? '; sent again, the outcome of the first try being unknown' : ''}
    </Step>
  );
}

/** So many reports that left it out are named at once; more are opened. */
const MOST_LEFT_OUT = 3;

/** What reports that go by an order made of it: those that took it first. */
export function ReportTrail({ passages }: { passages: readonly ReportTrailEntry[] }) {
  const steps = (these: readonly ReportTrailEntry[]) =>
    these.map((passage) => <ReportTrailStep key={passage.report.id} passage={passage} />);
  const leftOut = passages.filter(({ came }) => came.to === 'left out');
  const taken = passages.filter(({ came }) => came.to !== 'left out');
  return (
    <>
      {steps(taken)}
      {leftOut.length <= MOST_LEFT_OUT ? (
        steps(leftOut)
      ) : (
        <li>
          <details>
            <summary className="cell cursor-pointer text-second">{leftOut.length} reports left it out</summary>
            <ol>{steps(leftOut)}</ol>
          </details>
        </li>
      )}
    </>
  );
}

/** What a report that goes by an order made of it, under the version of its cut. */
function ReportTrailStep({ passage: { report, version, came, alerts, at } }: { passage: ReportTrailEntry }) {
  const { place } = useReader();
  const when = at === null ? '' : formatInstant(at, 'moment', place);
  return (
    <Step name="Report" tone={came.to === 'edition' ? undefined : 'text-second'}>
      <Link className="link" to={`/reports/${report.id}`}>
        {report.name}
      </Link>
      , version {version}:{' '}
      {came.to === 'edition' ? (
        <>
          shown in{' '}
          <Link className="link" to={`/editions/${came.id}`}>
            edition {came.number}
          </Link>
          , {when}
        </>
      ) : (
        reportTrailWords(came, when)
      )}
      {alerts === null
        ? null
        : alerts === 'alone'
          ? '; what it raised stands on a line of its own'
          : `; an alert that it raised is left out: ${leftOutWords(alerts)}`}
    </Step>
  );
}

function reportTrailWords(came: Exclude<ReportTrailEntry['came'], { to: 'edition' }>, when: string): string {
  switch (came.to) {
    case 'left out':
      return leftOutWords(came.by);
    case 'size':
      return `not of the size that it tells, in its edition of ${when}`;
    case 'beyond':
      return `counted in its edition of ${when}, beyond the lines that it shows`;
    case 'nothing':
      return `at ${when} it had too little for an edition`;
    case 'not cut yet':
      return when === '' ? 'taken; it waits for its next edition' : `taken; next: ${when}`;
  }
}

/** A link of the chain on the path of a piece of news. */
export function Step({ name, tone = '', children }: { name: string; tone?: string; children: ReactNode }) {
  return (
    <li className={`cell flex gap-3 ${tone}`}>
      <span className="w-16 shrink-0 text-glance leading-5 text-third">{name}</span>
      <span className="min-w-0">{children}</span>
    </li>
  );
}
