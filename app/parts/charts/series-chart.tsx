import { useEffect, useState } from 'react';
import {
  CartesianGrid,
  ComposedChart,
  Line,
  ReferenceDot,
  ReferenceLine,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from 'recharts';
import { formatDifference, formatValue } from '#core/value/format';
import { decimal } from '#core/value/decimal';
import type { Measure } from '#core/value/value';
import { formatInstant, type Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import { timeTicks } from '#core/when/ticks';
import { niceTicks } from './scale';

/** A reading for the chart: its height is for drawing alone; what is written beside it comes from the exact value. */
interface ChartReading {
  at: Instant;
  until: Instant;
  value: Measure;
}

interface SeriesChartProps {
  readings: ChartReading[];
  from: Instant;
  to: Instant;
  /** The limits of the rules on it, of which the nearest are drawn. */
  limits: { value: Measure; name: string }[];
  episodes: { openedAt: Instant; closedAt: Instant | null; said: string }[];
  /** Since when the last value stands unconfirmed; null while it is read. */
  staleSince: Instant | null;
  stepwise: boolean;
  place: Place;
  label: string;
  /** Hears of a moment that is pressed on; and the one that is asked about, which is marked. */
  onAsk?: (at: Instant) => void;
  asked?: Instant | null;
}

/** The margins that the ribbon of runs shares, so that both stand on one time axis. */
export const CHART_LEFT = 44;
export const CHART_RIGHT = 118;
const HEIGHT = 168;
const heightOf = (value: Measure) => Number(value.amount);

/**
 * A series over time: a step line for stepwise fields, the limit as a dotted rule with its name, episodes as brackets.
 */
export function SeriesChart(props: SeriesChartProps) {
  const mounted = useMounted();
  const { readings, label } = props;
  return (
    <figure role="img" aria-label={label} className="m-0" data-chart>
      <div style={{ height: HEIGHT }}>{mounted && readings.length > 0 ? <Plot {...props} /> : null}</div>
      <Episodes {...props} />
    </figure>
  );
}

function useMounted(): boolean {
  const [mounted, setMounted] = useState(false);
  useEffect(() => setMounted(true), []);
  return mounted;
}

interface Point {
  at: Instant;
  good: number | null;
  stale: number | null;
  value: Measure;
}

function pointsOf({ readings, from, to, staleSince }: SeriesChartProps): Point[] {
  const last = readings.at(-1);
  if (last === undefined) return [];
  const starts: Point[] = readings.map((reading) => ({
    at: Math.max(from, reading.at),
    good: heightOf(reading.value),
    stale: null,
    value: reading.value,
  }));
  const end = heightOf(last.value);
  if (staleSince === null) return [...starts, { at: to, good: end, stale: null, value: last.value }];
  const broken = Math.max(from, last.at, Math.min(staleSince, to));
  return [
    ...starts,
    { at: broken, good: end, stale: end, value: last.value },
    { at: to, good: null, stale: end, value: last.value },
  ];
}

const AXIS = { fontSize: 12, fill: 'var(--third)', fontFamily: 'var(--font-sans)' };

function Plot(props: SeriesChartProps) {
  const { from, to, stepwise, place, staleSince, readings, onAsk, asked = null } = props;
  const points = pointsOf(props);
  const last = readings.at(-1)?.value;
  const limits = nearest(props.limits, last);
  const heights = [
    ...points.map((point) => point.good ?? point.stale ?? 0),
    ...limits.map((limit) => heightOf(limit.value)),
  ];
  const { ticks, domain } = niceTicks(Math.min(...heights), Math.max(...heights));
  const marks = timeTicks(from, to, place);
  const type = stepwise ? 'stepAfter' : 'linear';
  const write = (height: number) => writeTick(height, ticks, last, place.locale);
  return (
    <ResponsiveContainer width="100%" height="100%">
      <ComposedChart
        data={points}
        margin={{ top: 10, right: CHART_RIGHT, bottom: 0, left: 0 }}
        accessibilityLayer={false}
        {...(onAsk === undefined
          ? {}
          : { onClick: ({ activeLabel }) => (activeLabel === undefined ? undefined : onAsk(Number(activeLabel))) })}
      >
        <CartesianGrid vertical={false} stroke="var(--hairline)" />
        <XAxis
          dataKey="at"
          type="number"
          domain={[from, to]}
          ticks={marks.map(({ at }) => at)}
          tickFormatter={(at: number) => marks.find((mark) => mark.at === at)?.words ?? ''}
          tick={AXIS}
          tickLine={false}
          axisLine={false}
          interval="preserveStartEnd"
        />
        <YAxis
          width={CHART_LEFT}
          domain={domain}
          ticks={ticks}
          tickFormatter={write}
          tick={{ ...AXIS, textAnchor: 'start', dx: -34 }}
          tickLine={false}
          axisLine={false}
        />
        <Tooltip
          cursor={{ stroke: 'var(--third)', strokeDasharray: '2 2' }}
          isAnimationActive={false}
          content={({ active, payload }) =>
            active ? <Told point={payload?.[0]?.payload as Point | undefined} place={place} /> : null
          }
        />
        {named(limits, last, domain).map(({ value, name }) => (
          <ReferenceLine
            key={value.amount}
            y={heightOf(value)}
            stroke="var(--second)"
            strokeDasharray="1.5 3.5"
            label={{ value: name, position: 'right', fontSize: 12, fill: 'var(--ink)' }}
          />
        ))}
        {asked === null || asked < from ? null : <ReferenceLine x={asked} stroke="var(--chestnut)" />}
        <Line
          dataKey="good"
          type={type}
          stroke="var(--ink)"
          strokeWidth={1.8}
          dot={false}
          isAnimationActive={false}
          activeDot={{ r: 3, fill: 'var(--ink)' }}
        />
        <Line
          dataKey="stale"
          type={type}
          stroke="var(--third)"
          strokeWidth={1.8}
          strokeDasharray="5 4"
          dot={false}
          isAnimationActive={false}
          activeDot={false}
        />
        {last === undefined ? null : (
          <ReferenceDot
            x={to}
            y={heightOf(last)}
            r={3.4}
            fill={staleSince === null ? 'var(--chestnut)' : 'var(--page)'}
            stroke="var(--chestnut)"
            label={{
              value: `${formatValue(last, place.locale)} ${staleSince === null ? 'now' : 'stale'}`,
              position: 'right',
              fontSize: 12,
              fontWeight: 600,
              fill: 'var(--chestnut)',
              dy: labelShift(last, limits, domain),
            }}
          />
        )}
      </ComposedChart>
    </ResponsiveContainer>
  );
}

const CLOSE = 0.12;
const MOST_LIMITS = 4;

/** The limits of the rules nearest to the last value: of twenty all would say nothing. */
function nearest(limits: SeriesChartProps['limits'], last: Measure | undefined): SeriesChartProps['limits'] {
  const away = (limit: SeriesChartProps['limits'][number]) =>
    last === undefined ? 0 : Math.abs(heightOf(limit.value) - heightOf(last));
  const each = [...new Map(limits.map((limit) => [heightOf(limit.value), limit])).values()];
  return each.sort((a, b) => away(a) - away(b)).slice(0, MOST_LIMITS);
}

/** The nearest limit has its words; any other only where they stand on nobody else's, the last value's among them. */
function named(
  limits: SeriesChartProps['limits'],
  last: Measure | undefined,
  [least, most]: [number, number],
): SeriesChartProps['limits'] {
  const share = (value: Measure) => heightOf(value) / (most - least);
  const taken: number[] = [];
  return limits.map((limit, at) => {
    const place = share(limit.value);
    const clear =
      taken.every((other) => Math.abs(other - place) > CLOSE) &&
      (last === undefined || Math.abs(share(last) - place) > 2 * CLOSE);
    if (at > 0 && !clear) return { ...limit, name: '' };
    taken.push(place);
    return limit;
  });
}

/** Keeps the last value's words off those of the nearest limit when the two lie close together. */
function labelShift(last: Measure, limits: SeriesChartProps['limits'], [least, most]: [number, number]): number {
  const gaps = limits.map((limit) => (heightOf(last) - heightOf(limit.value)) / (most - least));
  const nearest = gaps.sort((a, b) => Math.abs(a) - Math.abs(b))[0];
  if (nearest === undefined || Math.abs(nearest) > CLOSE) return 0;
  return nearest < 0 ? 13 : -13;
}

function Told({ point, place }: { point: Point | undefined; place: Place }) {
  if (point === undefined) return null;
  return (
    <p className="border border-ink bg-page px-2.5 py-1 text-glance">
      <span className="font-semibold">{formatValue(point.value, place.locale)}</span> from{' '}
      {formatInstant(point.at, 'moment', place)}
    </p>
  );
}

function writeTick(height: number, ticks: number[], like: Measure | undefined, locale: string): string {
  const places = Math.max(...ticks.map((tick) => (String(tick).split('.')[1] ?? '').length));
  const exact = decimal(height.toFixed(places));
  if (exact === null || like === undefined) return String(height);
  const sign = height < 0 ? '−' : '';
  return `${sign}${formatDifference(exact, { kind: 'number', amount: exact, unit: null }, locale)}`;
}

function Episodes({ episodes, from, to }: SeriesChartProps) {
  if (episodes.length === 0) return null;
  const share = (at: Instant) => `${((Math.min(to, Math.max(from, at)) - from) / (to - from)) * 100}%`;
  const last = episodes.at(-1);
  return (
    <div className="relative mt-0.5 h-[26px]" style={{ marginLeft: CHART_LEFT, marginRight: CHART_RIGHT }}>
      {episodes.map((episode) => (
        <span
          key={episode.openedAt}
          className={
            'absolute top-0 h-[7px] border-x-[1.5px] border-b-[1.5px] ' +
            `${episode.closedAt === null ? 'border-chestnut' : 'border-third'}`
          }
          style={{ left: share(episode.openedAt), right: `calc(100% - ${share(episode.closedAt ?? to)})`, minWidth: 3 }}
          title={episode.said}
        />
      ))}
      {last === undefined ? null : (
        <span
          className={
            'absolute top-[9px] right-0 text-glance whitespace-nowrap ' +
            `${last.closedAt === null ? 'text-chestnut' : 'text-third'}`
          }
        >
          {last.said}
        </span>
      )}
    </div>
  );
}
