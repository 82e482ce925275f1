import { Link, useSearchParams } from 'react-router';
import { namesOf } from '#core/judge/words';
import { describeCondition } from '#core/judge/describe';
import { describeReason } from '#core/judge/reason';
import { labelOf } from '#core/plan/plan';
import { CAUSES } from '#core/tell/failure';
import { headline } from '#core/tell/news';
import { formatValue } from '#core/value/format';
import { capital } from '#core/words';
import { formatInstant, formatRecent } from '#core/when/format';
import type { OtherNews, OtherTrail } from '#server/db/reading/views/other-news';
import type { WatchNow } from '#server/db/watch/views/watch-now';
import type { ReportTrailEntry } from '#server/pipeline/report/trail';
import { Section } from '../../../ui/page';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import { ReportTrail, STATES, Step, NotifyingStep } from './trail';

const keyOf = ({ of, id }: OtherNews) => `${of}-${id}`;

function withNews(asked: URLSearchParams, news: OtherNews): string {
  const next = new URLSearchParams(asked);
  next.set('news', keyOf(news));
  return next.toString();
}

/** What happened, in words. */
function saidOf(news: OtherNews, watch: WatchNow, locale: string): string {
  switch (news.of) {
    case 'alert':
      return headline(news.news, locale, 'was').lead;
    case 'failure':
      return news.kind === 'recovered' ? 'Read again' : capital(CAUSES[news.cause].happened);
    case 'first reading': {
      const of = watch.definition.records.from === 'page' || news.record === null ? '' : ` of ${news.record}`;
      return (
        `${capital(labelOf(watch.definition.fields, news.field))}${of} first read: ` +
        `${formatValue(news.value, locale)}`
      );
    }
  }
}

/** What there is besides changes, the latest first; each leads to its trail. */
export function OtherNewsOf({
  watch,
  others,
  other,
}: {
  watch: WatchNow;
  others: OtherNews[];
  other: OtherTrail | null;
}) {
  const { place, locale, now } = useReader();
  const [asked] = useSearchParams();
  if (others.length === 0) return null;
  const columns: Column<OtherNews>[] = [
    {
      head: 'Seen',
      className: 'text-glance whitespace-nowrap',
      cell: (news) => (
        <Link
          className="link text-second"
          to={`?${withNews(asked, news)}`}
          preventScrollReset
          replace
          aria-label={`Trail of what was seen ${formatRecent(news.at, now, place)}`}
        >
          {formatRecent(news.at, now, place)}
        </Link>
      ),
    },
    { head: 'What', className: 'max-w-96 truncate', cell: (news) => saidOf(news, watch, locale) },
  ];
  return (
    <Section title="Other news" aside="alerts that no change raised, failures, first readings">
      <Table
        name="other-news"
        most="max-h-[260px]"
        columns={columns}
        rows={others}
        keyOf={keyOf}
        isCurrent={(news) => other !== null && keyOf(news) === keyOf(other.news)}
      />
    </Section>
  );
}

/** The path of other news down the chain. */
export function OtherTrailOf({
  trail,
  passages,
  watch,
}: {
  trail: OtherTrail;
  passages: readonly ReportTrailEntry[];
  watch: WatchNow;
}) {
  const { place, locale } = useReader();
  const { news, verdict, tellings, mailed } = trail;
  const names = namesOf((key) => labelOf(watch.definition.fields, key), locale);
  return (
    <Section title={saidOf(news, watch, locale)} aside={formatInstant(news.at, 'moment', place)}>
      <ol className="mt-1" data-trail>
        <Step name="Seen">{formatInstant(news.at, 'exact', place)}</Step>
        {news.of === 'failure' ? <Step name="Read">{news.sentence}</Step> : null}
        {news.of === 'first reading' ? (
          <Step name="Compared">there was nothing before it: it is a baseline, and no change</Step>
        ) : null}
        {verdict === null ? null : (
          <Step name="Judged">
            {verdict.when === null ? '' : `“${describeCondition(verdict.when, names)}”: `}
            {describeReason(verdict.reason, place)}; {verdict.before === verdict.after ? '' : `${verdict.before} → `}
            <strong>{verdict.after}</strong>
          </Step>
        )}
        {news.of === 'alert' && tellings.length === 0 ? (
          <Step name="Told" tone="text-chestnut">
            no report is made of this rule
          </Step>
        ) : null}
        {tellings.map((telling) => (
          <NotifyingStep key={`${telling.alert} ${telling.report} ${telling.person}`} telling={telling} />
        ))}
        {mailed.map(({ person, report, edition, deliveryId, state, at }) => (
          <Step
            key={deliveryId}
            name="Told"
            tone={state === 'refused' || state === 'given up' ? 'text-chestnut' : undefined}
          >
            {report}, edition {edition}: {STATES[state] ?? state}{' '}
            <Link className="link" to={`/outbox/${deliveryId}`}>
              {person}
            </Link>
            , {formatInstant(at, 'moment', place)}
          </Step>
        ))}
        <ReportTrail passages={passages} />
      </ol>
    </Section>
  );
}
