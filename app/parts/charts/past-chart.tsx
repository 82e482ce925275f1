import { Slider } from 'radix-ui';
import { useId } from 'react';
import type { TestedAlert, TestedEpisode } from '#core/judge/backtest';
import { formatValue } from '#core/value/format';
import { decimal } from '#core/value/decimal';
import type { OtherSide } from '#core/judge/other-side';
import { alike, type Measure } from '#core/value/value';
import { formatDuration, formatInstant, type Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import { timeTicks } from '#core/when/ticks';
import { niceTicks } from './scale';

interface PastChartProps {
  readings: { at: Instant; until: Instant; value: Measure }[];
  stepwise: boolean;
  from: Instant;
  to: Instant;
  limit: Measure | null;
  /** What is held against it in place of a limit, from moment to moment, and how that is called. */
  other: { called: string; steps: OtherSide[] } | null;
  /** With how many decimal places the limit is moved. */
  places: number;
  /** The least and the most that was read, of all records. */
  range: [number, number] | null;
  episodes: TestedEpisode[];
  alerts: TestedAlert[];
  /** How often it would have told at this very limit. */
  told: number | null;
  /** How many alerts there would be at each limit. */
  curve: { limit: number; count: number }[];
  place: Place;
  onLimit: ((amount: number) => void) | null;
}

const HEIGHT = 176;
const WIDTH = 1000;
const CURVE = 150;
/** More steps than this nobody can tell apart by hand. */
const MOST_STEPS = 1_000;

/**
 * The past of a series with a limit that is moved on it, the episodes that this would have made, and the curve of
 * alerts by limit.
 */
export function PastChart(props: PastChartProps) {
  const { readings, from, to, limit, range, curve, place, onLimit } = props;
  const id = useId();
  const shown = readings.filter(({ at, until }) => at <= to && until >= from);
  const other = otherShown(props, shown[0]?.value);
  const amounts = [
    ...other.map(({ value }) => Number(value.amount)),
    ...shown.map(({ value }) => Number(value.amount)),
    ...(limit === null ? [] : [Number(limit.amount)]),
  ];
  if (amounts.length < 2)
    return <p className="py-4 text-second">Nothing that could be drawn was read in this stretch.</p>;
  const { ticks, domain } = niceTicks(Math.min(...amounts, ...(range ?? [])), Math.max(...amounts, ...(range ?? [])));
  const y = (amount: number) => HEIGHT - ((amount - domain[0]) / (domain[1] - domain[0])) * HEIGHT;
  const x = (at: Instant) => ((Math.min(Math.max(at, from), to) - from) / (to - from)) * WIDTH;
  const like = limit ?? shown[0]?.value ?? null;
  const write = (amount: number) =>
    like === null
      ? ''
      : formatValue({ ...like, amount: decimal(String(Number(amount.toPrecision(6)))) ?? like.amount }, place.locale);
  return (
    <figure className="m-0 mt-2" data-past>
      <div
        className="grid grid-cols-[58px_minmax(0,1fr)_18px_92px] md:grid-cols-[58px_minmax(0,1fr)_18px_92px_170px]"
        style={{ height: HEIGHT }}
      >
        <div className="relative text-glance text-third" aria-hidden>
          {ticks.map((tick) => (
            <span key={tick} className="absolute right-2 -translate-y-1/2 whitespace-nowrap" style={{ top: y(tick) }}>
              {write(tick)}
            </span>
          ))}
        </div>
        <svg
          viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
          preserveAspectRatio="none"
          className="h-full w-full overflow-visible"
          role="img"
          aria-labelledby={id}
        >
          <title id={id}>
            {`What was read from ${formatInstant(from, 'day', place)} on, with the limit and where it would have ` +
              'been met'}
          </title>
          {ticks.map((tick) => (
            <line
              key={tick}
              x1="0"
              x2={WIDTH}
              y1={y(tick)}
              y2={y(tick)}
              stroke="var(--hairline)"
              vectorEffect="non-scaling-stroke"
            />
          ))}
          {limit === null ? null : (
            <line
              x1="0"
              x2={WIDTH}
              y1={y(Number(limit.amount))}
              y2={y(Number(limit.amount))}
              stroke="var(--chestnut)"
              strokeDasharray="1.5 3.5"
              vectorEffect="non-scaling-stroke"
            />
          )}
          <path
            d={pathOf(other, { stepwise: true, to }, x, y)}
            fill="none"
            stroke="var(--chestnut)"
            strokeDasharray="1.5 3.5"
            vectorEffect="non-scaling-stroke"
            data-other={other.length}
          />
          <path
            d={pathOf(shown, props, x, y)}
            fill="none"
            stroke="var(--ink)"
            strokeWidth="1.5"
            vectorEffect="non-scaling-stroke"
          />
          {props.alerts.map(({ at, told }) => (
            <line
              key={`${at} ${told}`}
              x1={x(at)}
              x2={x(at)}
              y1="0"
              y2="9"
              stroke="var(--chestnut)"
              strokeWidth="1.5"
              vectorEffect="non-scaling-stroke"
              data-mark
            />
          ))}
        </svg>
        {onLimit === null || limit === null ? (
          <span />
        ) : (
          <LimitSlider limit={limit} places={props.places} domain={domain} write={write} onLimit={onLimit} />
        )}
        <div className="relative">
          {limit === null ? null : (
            <span
              className="absolute left-2 -translate-y-1/2 bg-chestnut px-1.5 text-glance font-semibold whitespace-nowrap text-page"
              style={{ top: y(Number(limit.amount)) }}
            >
              {formatValue(limit, place.locale)}
            </span>
          )}
          <OtherLabel other={props.other} steps={other} limit={limit} y={y} locale={place.locale} />
        </div>
        <Curve
          curve={curve}
          y={y}
          at={limit === null || props.told === null ? null : { limit: Number(limit.amount), count: props.told }}
        />
      </div>
      <div className="grid grid-cols-[58px_minmax(0,1fr)_18px_92px] md:grid-cols-[58px_minmax(0,1fr)_18px_92px_170px]">
        <span />
        <Brackets {...props} />
        <span />
        <span />
        {curve.length === 0 ? null : <span className="hidden text-glance text-third md:block">alerts, by limit</span>}
      </div>
    </figure>
  );
}

/** What is held against the series in this stretch, from what stood when it began. */
function otherShown({ other, from, to }: PastChartProps, like: Measure | undefined): { at: Instant; value: Measure }[] {
  const known = (other?.steps ?? []).flatMap(({ at, value }) =>
    value === null || like === undefined || !alike(value, like) ? [] : [{ at, value }],
  );
  const before = known.filter(({ at }) => at < from).at(-1);
  return [...(before === undefined ? [] : [before]), ...known.filter(({ at }) => at >= from && at <= to)];
}

interface OtherLabelProps {
  other: PastChartProps['other'];
  steps: { value: Measure }[];
  limit: Measure | null;
  y: (amount: number) => number;
  locale: string;
}

/**
 * How what is held against it is called and where it stands at the end; where there is a limit, too, that is named in
 * its place.
 */
function OtherLabel({ other, steps, limit, y, locale }: OtherLabelProps) {
  const last = steps.at(-1);
  if (other === null || last === undefined || limit !== null) return null;
  return (
    <span
      className="absolute left-0 -translate-y-1/2 text-glance leading-tight text-chestnut"
      style={{ top: y(Number(last.value.amount)) }}
    >
      {other.called}
      <br />
      {formatValue(last.value, locale)}
    </span>
  );
}

function pathOf(
  shown: readonly { at: Instant; value: Measure }[],
  { stepwise, to }: Pick<PastChartProps, 'stepwise' | 'to'>,
  x: (at: Instant) => number,
  y: (amount: number) => number,
): string {
  const parts = shown.map(({ at, value }, index) => {
    const [across, up] = [x(at).toFixed(1), y(Number(value.amount)).toFixed(1)];
    if (index === 0) return `M${across} ${up}`;
    return stepwise ? `H${across}V${up}` : `L${across} ${up}`;
  });
  return stepwise && parts.length > 0 ? `${parts.join('')}H${x(to).toFixed(1)}` : parts.join('');
}

interface LimitSliderProps {
  limit: Measure;
  /** With how many decimal places it is moved. */
  places: number;
  domain: [number, number];
  write: (amount: number) => string;
  onLimit: (amount: number) => void;
}

/** The limit as something to take hold of, on the scale of the series itself. */
function LimitSlider({ limit, places, domain: [least, most], write, onLimit }: LimitSliderProps) {
  const amount = Math.min(most, Math.max(least, Number(limit.amount)));
  return (
    <Slider.Root
      orientation="vertical"
      min={least}
      max={most}
      step={stepOf(places, most - least)}
      value={[amount]}
      onValueChange={([next]) => (next === undefined ? undefined : onLimit(next))}
      className="relative flex h-full w-[18px] touch-none flex-col items-center"
    >
      <Slider.Track className="relative w-px grow bg-rule" />
      <Slider.Thumb
        aria-label="The limit"
        aria-valuetext={write(amount)}
        className="block h-[11px] w-[18px] cursor-ns-resize bg-chestnut"
        data-slider
      />
    </Slider.Root>
  );
}

/**
 * A step that is written with as many places as the limit, so that where it comes to is a limit that can be written.
 */
function stepOf(places: number, span: number): number {
  const least = 10 ** -places;
  return least * Math.max(1, Math.ceil(span / least / MOST_STEPS));
}

interface CurveProps {
  curve: PastChartProps['curve'];
  y: (amount: number) => number;
  /** The limit as it is, and how many it brings. */
  at: { limit: number; count: number } | null;
}

/** How many alerts each limit would bring, on the same scale. */
function Curve({ curve, y, at }: CurveProps) {
  if (curve.length === 0) return null;
  const most = Math.max(1, at?.count ?? 0, ...curve.map(({ count }) => count));
  const across = (count: number) => (count / most) * (CURVE - 24) + 2;
  return (
    <svg
      className="hidden overflow-visible md:block"
      width={CURVE}
      height={HEIGHT}
      role="img"
      aria-label={`Between none and ${most} alerts, by limit`}
      data-curve
    >
      <line x1="1" x2="1" y1="0" y2={HEIGHT} stroke="var(--rule)" />
      <polyline
        points={curve.map(({ limit, count }) => `${across(count).toFixed(1)},${y(limit).toFixed(1)}`).join(' ')}
        fill="none"
        stroke="var(--second)"
        strokeWidth="1.3"
      />
      {at === null ? null : (
        <>
          <circle cx={across(at.count)} cy={y(at.limit)} r="3.5" fill="var(--chestnut)" />
          <text x={across(at.count) + 7} y={y(at.limit) - 5} fontSize="12" fontWeight="600" fill="var(--chestnut)">
            {at.count}
          </text>
        </>
      )}
    </svg>
  );
}

/** Episodes as brackets under the series: dark where they would have been told, light where they passed before. */
function Brackets({ episodes, from, to, place }: PastChartProps) {
  const share = (at: Instant) => `${((Math.min(Math.max(at, from), to) - from) / (to - from)) * 100}%`;
  return (
    <div className="relative h-9 text-glance text-third">
      {episodes.map(({ opened, closed, raised }) => (
        <span
          key={opened}
          title={
            `${raised === null ? 'passed before it was raised' : 'raised'}, ` +
            `${formatDuration((closed ?? to) - opened)}`
          }
          className={
            'absolute top-1 h-[6px] border-x-[1.5px] border-b-[1.5px] ' +
            `${raised === null ? 'border-rule' : 'border-ink'}`
          }
          style={{ left: share(opened), right: `calc(100% - ${share(closed ?? to)})`, minWidth: 3 }}
          data-bracket={raised === null ? 'short' : 'raised'}
        />
      ))}
      {timeTicks(from, to, place).map(({ at, words }) => (
        <span key={at} className="absolute top-4 -translate-x-1/2 whitespace-nowrap" style={{ left: share(at) }}>
          {words}
        </span>
      ))}
    </div>
  );
}
