import type { WatchId } from '#core/id';
import { useMemo, useState } from 'react';
import type { Backtest, TestedEpisode } from '#core/judge/backtest';
import { heldAgainst, otherSide } from '#core/judge/other-side';
import { PastAround, type History } from '#core/judge/past';
import { namesOf } from '#core/judge/words';
import { withSaid } from '#core/judge/draft/clause';
import { describeClause, describeOther } from '#core/judge/describe';
import type { Figure } from '#core/judge/asked';
import { clausesOf } from '#core/judge/clause';
import { describeNever, neverMet } from '#core/judge/never';
import { asksItems, isWide, ownFields, type RuleDefinition } from '#core/judge/rule';
import {
  extent,
  figureVariants,
  limitedClause,
  limitVariants,
  otherVariants,
  placesFor,
  withLimit,
  type Variant,
} from '#core/judge/tune';
import type { RuleDraft } from '#core/plan/rule-draft';
import { labelOf } from '#core/plan/plan';
import type { Field } from '#core/read/definition';
import type { Counted } from '#core/judge/trial';
import { NUMBER_OF_RECORDS } from '#core/read/all-records';
import { decimal, fractionDigits } from '#core/value/decimal';
import { formatValue } from '#core/value/format';
import { alike, isMeasure, type Measure } from '#core/value/value';
import { formatDuration, formatInstant } from '#core/when/format';
import { DAY, type Instant } from '#core/when/interval';
import { SelectField } from '../../../ui/field';
import { Section } from '../../../ui/page';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import type { LikeWatch } from '#server/db/watch/views/like-watches';
import { Borrowed, NoHistory } from './borrowed';
import { PastChart } from '../../../parts/charts/past-chart';
import { LessOrMore } from './less-or-more';
import { pastAddress, useBacktest, usePast, type Past } from './use-backtest';

interface TryingProps {
  watch: WatchId;
  fields: Field[];
  /** Null while it does not say everything. */
  rule: RuleDefinition | null;
  draft: RuleDraft;
  savedAt: Instant;
  intervalMs: number;
  readers: number;
  onChange: (change: Partial<RuleDraft>) => void;
}

const BACK = [
  { days: 1, name: 'Day' },
  { days: 7, name: 'Week' },
  { days: 28, name: '4 weeks' },
  { days: 91, name: '13 weeks' },
] as const;

const CURVE_STEPS = 28;

/**
 * What the rule would have done on what was read so far: how often it would have told, where, and how a change of it
 * moves that.
 */
export function Trying(props: TryingProps) {
  const { watch, intervalMs } = props;
  const { now } = useReader();
  const [like, setLike] = useState<LikeWatch | null>(null);
  // What is borrowed has records of its own, and was read before this watch was.
  const rule = useMemo(
    () => (like === null || props.rule === null ? props.rule : ofAllRecords(props.rule)),
    [like, props.rule],
  );
  const savedAt = like?.since ?? props.savedAt;
  // What is tried stands still while she looks at it.
  const [to] = useState(now);
  const [days, setDays] = useState(28);
  const { past, failed } = usePast(pastAddress(like?.id ?? watch, rule));
  const from = Math.max(to - days * DAY, savedAt);
  const situation = useMemo(() => ({ intervalMs, savedAt: from }), [intervalMs, from]);
  const [wanted, setWanted] = useState(1);
  const curve = useMemo(
    () => (rule === null || past === null ? [] : limitVariants(rule, past.histories, CURVE_STEPS)),
    [rule, past],
  );
  const others = useMemo(
    () => (rule === null || past === null ? [] : [...figureVariants(rule), ...otherVariants(rule, intervalMs)]),
    [rule, past, intervalMs],
  );
  const variants = useMemo(() => [...curve, ...others], [curve, others]);
  const rules = useMemo(() => variants.map((variant) => variant.rule), [variants]);
  const { tested, broke, counts } = useBacktest(past, rule, rules, { situation, to });
  if (failed)
    return <Section title="What it would have done">The history could not be loaded. Load the page again.</Section>;
  if (broke)
    return (
      <Section title="What it would have done">
        This rule could not be tried on what was read. It can be saved all the same.
      </Section>
    );
  if (past === null) return <Section title="What it would have done">Loading what was read so far …</Section>;
  if (past.histories.every(({ fields }) => Object.values(fields).every(({ readings }) => readings.length < 2)))
    return <NoHistory watch={watch} fields={fieldsAsked(props)} onBorrow={setLike} />;
  return (
    <section aria-live="polite" data-trying>
      <div className="flex flex-wrap items-baseline justify-between gap-x-6">
        <h2 className="font-serif text-head font-medium">
          <Summary tested={tested} rule={rule} days={(to - from) / DAY} readers={props.readers} />
        </h2>
        <p className="flex gap-3 text-glance text-third">
          {BACK.map((back) => (
            <button
              key={back.days}
              type="button"
              aria-pressed={days === back.days}
              className="border-b-2 border-transparent hover:text-ink aria-pressed:border-chestnut aria-pressed:font-semibold aria-pressed:text-ink"
              onClick={() => setDays(back.days)}
            >
              {back.name}
            </button>
          ))}
        </p>
      </div>
      {like === null ? null : <Borrowed like={like} onGiveBack={() => setLike(null)} />}
      <Drawn {...props} rule={rule} past={past} tested={tested} curve={curve} counts={counts} from={from} to={to} />
      <Never rule={rule} past={past} fields={props.fields} />
      <Limits rule={rule} past={past} />
      <div className="mt-4 grid gap-x-10 gap-y-5 md:grid-cols-2">
        <Episodes tested={tested} past={past} />
        <LessOrMore
          variants={variants}
          counts={counts}
          weeks={Math.max((to - from) / (7 * DAY), 1 / 7)}
          wanted={wanted}
          onWanted={setWanted}
          onTake={(variant) => props.onChange(taken(props.draft, variant))}
        />
      </div>
      <ByClause tested={tested} rule={rule} fields={props.fields} />
    </section>
  );
}

function ofAllRecords({ only: _only, ...rule }: RuleDefinition): RuleDefinition {
  return rule;
}

/** The fields that a rule asks, or, while it does not say everything, those that are said. */
const fieldsAsked = ({ rule, draft, fields }: TryingProps): readonly string[] => {
  const said = rule === null ? [...new Set(draft.clauses.map(({ field }) => field))] : ownFields(rule);
  return said.length > 0 ? said : fields.slice(0, 1).map(({ key }) => key);
};

/** What of the past is not known, or not tried. */
function Limits({ rule, past }: { rule: RuleDefinition | null; past: Past }) {
  const isTyped = Object.values(past.beside.items).some(({ offers }) => offers.some(({ watch }) => watch === null));
  return (
    <>
      {rule !== null && isTyped && asksItems(rule) ? (
        <p className="text-glance text-third" data-typed>
          A price of ours that is typed and not read is taken as it stands now: what it was before is not known.
        </p>
      ) : null}
      {past.whole ? null : (
        <p className="text-glance text-third">
          There is more history than is tried here: the latest of it is, and of long texts their beginning.
          {rule !== null && isWide({ when: rule.when })
            ? ' Of what it asks beside its record, some may be left out.'
            : ''}
        </p>
      )}
    </>
  );
}

/** Why nothing that was read could have met it. */
function Never({ rule, past, fields }: { rule: RuleDefinition | null; past: Past; fields: Field[] }) {
  const { place, now } = useReader();
  const never = useMemo(() => (rule === null ? [] : neverMet(rule, past.histories, now)), [rule, past, now]);
  if (never.length === 0) return null;
  return (
    <ul className="text-second" data-never>
      {never.map((each) => (
        <li key={JSON.stringify(each)}>{describeNever(each, (key) => labelOf(fields, key), place)}</li>
      ))}
    </ul>
  );
}

function Summary({
  tested,
  rule,
  days,
  readers,
}: {
  tested: Backtest | null;
  rule: RuleDefinition | null;
  days: number;
  readers: number;
}) {
  if (rule === null) return <>Say what matters, and it is tried on what was read.</>;
  if (tested === null) return <>Trying it on what was read …</>;
  const { alertCount, episodes } = tested;
  const short = episodes.filter(({ raised }) => raised === null).length;
  const times =
    alertCount === 0
      ? 'It would not have told'
      : alertCount === 1
        ? 'It would have told once'
        : `It would have told ${alertCount} times`;
  return (
    <>
      <span data-alerts={alertCount}>
        {times} in {spanWords(days)}
      </span>
      <span className="ml-2 font-sans text-glance font-normal text-third">
        {short === 0 ? '' : `and let ${short} short ${short === 1 ? 'one' : 'ones'} pass; `}
        {readers === 0 || alertCount === 0
          ? ''
          : `${alertCount * readers} ${alertCount * readers === 1 ? 'mail' : 'mails'} at most`}
      </span>
    </>
  );
}

const spanWords = (days: number) =>
  days >= 27.5
    ? `${Math.round(days / 7)} weeks`
    : days >= 1.5
      ? `${Math.round(days)} days`
      : formatDuration(days * DAY);

interface DrawnProps extends TryingProps {
  past: Past;
  tested: Backtest | null;
  curve: Variant[];
  counts: Counted[];
  from: Instant;
  to: Instant;
}

/** The field that a rule is about, or that is said first while it says not everything. */
const fieldDrawn = ({ rule, draft, fields }: DrawnProps): string =>
  (rule === null ? draft.clauses[0]?.field : ownFields(rule)[0]) ?? fields[0]?.key ?? '';

/** The limit that can be drawn on a field's own readings. */
function limitDrawn(rule: RuleDefinition | null, key: string): Measure | null {
  const limited = rule === null ? null : limitedClause(rule);
  if (limited === null || limited.clause.of.asked.field !== key || limited.clause.of.over !== undefined) return null;
  return limited.clause.limits.limit;
}

/** The series that the rule is about, with its limit to be moved, its episodes, and the alerts by limit. */
function Drawn(props: DrawnProps) {
  const { past, fields, tested } = props;
  const [chosen, setChosen] = useState<string | null>(null);
  const key = fieldDrawn(props);
  const withField = past.histories.filter(({ fields: own }) => (own[key]?.readings.length ?? 0) > 0);
  const busiest = tested?.episodes[0]?.identity;
  const history = withField.find(({ identity }) => identity === (chosen ?? busiest)) ?? withField[0];
  if (history === undefined)
    return <p className="py-4 text-second">Nothing was read of {labelOf(fields, key)} that could be drawn.</p>;
  return (
    <>
      {withField.length < 2 ? null : (
        <SelectField
          label="Drawn here"
          hideLabel
          className="mt-1 mb-3 max-w-xs"
          value={history.identity}
          options={withField.map(({ identity, name }) => ({ value: identity, label: name }))}
          onChange={(event) => setChosen(event.target.value)}
        />
      )}
      <DrawnRecord {...props} history={history} field={key} />
    </>
  );
}

function DrawnRecord({
  history,
  field: key,
  past,
  rule,
  draft,
  tested,
  curve,
  counts,
  from,
  to,
  onChange,
}: DrawnProps & { history: History; field: string }) {
  const { place } = useReader();
  const limit = limitDrawn(rule, key);
  const own = history.fields[key];
  const readings = (own?.readings ?? []).flatMap(({ at, until, value }) =>
    isMeasure(value) && (limit === null || alike(value, limit)) ? [{ at, until, value }] : [],
  );
  const range = limit === null ? null : extent(past.histories, key, limit);
  const places =
    limit === null || range === null
      ? 0
      : placesFor(limit, past.histories, key, (range[1] - range[0]) / CURVE_STEPS || 1);
  const other = useMemo(() => otherDrawn(rule, key, history, past, to), [rule, key, history, past, to]);
  const ofIt = <T extends { identity: string }>(all: T[] = []) =>
    all.filter(({ identity }) => identity === history.identity);
  return (
    <PastChart
      readings={readings}
      stepwise={key === NUMBER_OF_RECORDS || (own?.stepwise ?? true)}
      from={from}
      to={to}
      limit={limit}
      places={places}
      other={other}
      range={range}
      episodes={ofIt(tested?.episodes)}
      alerts={ofIt(tested?.alerts)}
      told={tested?.alertCount ?? null}
      curve={curve.flatMap(({ of }, at) =>
        of.what === 'limit' ? [{ limit: Number(of.limit.amount), count: counts[at]?.alerts ?? 0 }] : [],
      )}
      place={place}
      onLimit={
        rule === null || limit === null ? null : (amount) => onChange(limitTo(draft, rule, limit, amount, places))
      }
    />
  );
}

/** What the field that is drawn is held against, as it stood over time. */
function otherDrawn(
  rule: RuleDefinition | null,
  key: string,
  history: History,
  { histories, beside }: Past,
  to: Instant,
) {
  const other = rule === null ? null : heldAgainst(rule, key);
  if (rule === null || other === null) return null;
  const nameOf = (identity: string) => histories.find((each) => each.identity === identity)?.name;
  return {
    called: describeOther(other, nameOf),
    steps: otherSide(rule, other, history, new PastAround(histories, beside), to),
  };
}

/** A draft with its limit where the slider was moved to, written with as many places as before. */
function limitTo(
  draft: RuleDraft,
  rule: RuleDefinition,
  limit: Measure,
  amount: number,
  places: number,
): Partial<RuleDraft> {
  const exact = decimal(amount.toFixed(places));
  const at = limitedClause(withLimit(rule, limit.amount))?.at ?? -1;
  if (exact === null || at < 0) return {};
  return {
    clauses: draft.clauses.map((clause, each) => (each === at ? withSaid(clause, { limit: exact }) : clause)),
    whenAlreadyMet: draft.whenAlreadyMet ?? 'wait',
  };
}

/** A draft with what a variant asks. */
function taken(draft: RuleDraft, { of, rule }: Variant): Partial<RuleDraft> {
  if (of.what === 'limit')
    return limitTo(draft, rule, of.limit, Number(of.limit.amount), fractionDigits(of.limit.amount));
  if (of.what === 'figure')
    return {
      clauses: draft.clauses.map((clause) => (isAgainst(clause) ? withSaid(clause, figureSaid(of.figure)) : clause)),
    };
  if (of.what === 'strictness') {
    return {
      clauses: draft.clauses.map((clause) =>
        clause.verb === 'is unusual' ? { ...clause, count: String(of.oneIn) } : clause,
      ),
    };
  }
  const { hold } = of;
  if (hold.for === 'readings')
    return { hold: hold.count === 1 ? null : { count: String(hold.count), unit: 'reading' } };
  const hours = hold.ms / 3_600_000;
  return {
    hold: hours < 1 ? { count: String(hold.ms / 60_000), unit: 'minute' } : { count: String(hours), unit: 'hour' },
  };
}

const isAgainst = ({ verb }: RuleDraft['clauses'][number]) =>
  verb === 'is below another' || verb === 'is above another';

const figureSaid = (figure: Figure) =>
  figure.by === 'percent' ? { limit: figure.percent, percent: true } : { limit: figure.amount.amount, percent: false };

const MOST_SHOWN = 5;

function Episodes({ tested, past }: { tested: Backtest | null; past: Past }) {
  const { place, locale } = useReader();
  const many = new Set(tested?.episodes.map(({ identity }) => identity)).size > 1;
  const raised = (tested?.episodes ?? [])
    .filter((episode) => episode.raised !== null)
    .slice(-MOST_SHOWN)
    .reverse();
  const nameOf = (identity: string) =>
    past.histories.find((history) => history.identity === identity)?.name ?? identity;
  const columns: Column<TestedEpisode>[] = [
    {
      head: 'Raised',
      className: 'text-glance text-third',
      cell: ({ raised: at, identity }) => (
        <>
          {many ? <span className="block max-w-32 truncate text-read text-ink">{nameOf(identity)}</span> : null}
          <span className="whitespace-nowrap">{at === null ? '' : formatInstant(at, 'moment', place)}</span>
        </>
      ),
    },
    {
      head: 'For',
      side: 'right',
      className: 'whitespace-nowrap',
      cell: ({ opened, closed }) => (closed === null ? 'still open' : formatDuration(closed - opened)),
    },
    {
      head: 'Furthest',
      side: 'right',
      className: 'whitespace-nowrap',
      cell: ({ peak }) => (peak === null ? '–' : formatValue(peak, locale)),
    },
    {
      head: 'Told',
      side: 'right',
      className: 'text-glance whitespace-nowrap text-third',
      cell: ({ alerts }) => (alerts === 1 ? 'once' : `${alerts} times`),
    },
  ];
  if (tested === null) return <span />;
  const alerts = tested.alerts.slice(-MOST_SHOWN).reverse();
  if (raised.length > 0)
    return (
      <Section title={raised.length < MOST_SHOWN ? 'When it would have been raised' : 'The last five'}>
        <Table
          name="tested"
          columns={columns}
          rows={raised}
          keyOf={({ identity, opened }) => `${identity} ${opened}`}
        />
      </Section>
    );
  return (
    <Section title={alerts.length === 0 ? 'No alert' : 'The last of them'}>
      <ul>
        {alerts.map(({ identity, at, told }) => (
          <li key={`${identity} ${at} ${told}`} className="cell flex justify-between gap-4">
            <span className="min-w-0 truncate">{many ? nameOf(identity) : 'told'}</span>
            <span className="text-glance whitespace-nowrap text-third">{formatInstant(at, 'moment', place)}</span>
          </li>
        ))}
      </ul>
      {alerts.length === 0 ? <p className="mt-1 text-second">Nothing in this stretch would have met it.</p> : null}
    </Section>
  );
}

/** Which of several conditions contribute. */
function ByClause({ tested, rule, fields }: { tested: Backtest | null; rule: RuleDefinition | null; fields: Field[] }) {
  const { locale } = useReader();
  const clauses = rule === null ? [] : clausesOf(rule.when);
  if (tested === null || clauses.length < 2) return null;
  return (
    <Section title="By condition" className="mt-5">
      <ul>
        {clauses.map((clause, at) => (
          <li key={at} className="cell flex justify-between gap-4">
            <span>
              {describeClause(
                clause,
                namesOf((key) => labelOf(fields, key), locale),
              )}
            </span>
            <span className="text-glance whitespace-nowrap text-third">
              met at {tested.byClause[at] ?? 0} of {tested.alertCount} alerts
            </span>
          </li>
        ))}
      </ul>
    </Section>
  );
}
