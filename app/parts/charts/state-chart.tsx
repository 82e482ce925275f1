import { formatValue } from '#core/value/format';
import { sameValue, type Value } from '#core/value/value';
import { formatInstant, type Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import { timeTicks } from '#core/when/ticks';
import { CHART_LEFT, CHART_RIGHT } from './series-chart';

/** How long a value in words was held. */
interface Held {
  at: Instant;
  until: Instant;
  value: Value;
}

interface StateChartProps {
  readings: Held[];
  /** The values there can be, the best first; those that come up beside them follow. */
  order: string[];
  from: Instant;
  to: Instant;
  /** Since when the last value stands unconfirmed; null while it is read. */
  staleSince: Instant | null;
  place: Place;
  label: string;
}

interface Lane {
  value: Value;
  words: string;
  held: Held[];
}

const MOST_LANES = 6;
const LANE = 26;

/** A series of states, grades, flags or texts over time: a lane for each value, a bar for as long as it was held. */
export function StateChart({ readings, order, from, to, staleSince, place, label }: StateChartProps) {
  const stretches = stretchesOf(readings, to);
  const lanes = lanesOf(stretches, place.locale);
  const shown = inOrder(lanes.slice(0, MOST_LANES), order);
  const last = stretches.at(-1);
  return (
    <figure role="img" aria-label={label} className="m-0 pt-2" data-state-chart>
      {shown.map((lane) => {
        const isNow = last !== undefined && sameValue(last.value, lane.value);
        return (
          <div key={lane.words} className="flex items-center" style={{ height: LANE }}>
            <div className="relative h-full grow border-b border-hairline" style={{ marginLeft: CHART_LEFT }}>
              {lane.held.map((held) => (
                <Bar
                  key={held.at}
                  held={held}
                  from={from}
                  to={to}
                  staleSince={staleSince}
                  place={place}
                  words={lane.words}
                />
              ))}
            </div>
            <span
              className={`shrink-0 truncate pl-2.5 text-glance ${isNow ? 'font-semibold text-chestnut' : 'text-third'}`}
              style={{ width: CHART_RIGHT }}
              title={lane.words}
            >
              {lane.words}
              {isNow ? (staleSince === null ? ' now' : ' stale') : ''}
            </span>
          </div>
        );
      })}
      <div className="relative h-5 text-glance text-third" style={{ marginLeft: CHART_LEFT, marginRight: CHART_RIGHT }}>
        {timeTicks(from, to, place).map(({ at, words }) => (
          <span
            key={at}
            className="absolute -translate-x-1/2 pt-1 whitespace-nowrap"
            style={{ left: share(at, from, to) }}
          >
            {words}
          </span>
        ))}
      </div>
      {lanes.length > MOST_LANES ? (
        <p className="pt-1 text-glance text-third" style={{ paddingLeft: CHART_LEFT }}>
          and {lanes.length - MOST_LANES} earlier {lanes.length - MOST_LANES === 1 ? 'value' : 'values'}
        </p>
      ) : null}
    </figure>
  );
}

const share = (at: Instant, from: Instant, to: Instant) =>
  `${(100 * Math.min(Math.max(at - from, 0), to - from)) / (to - from)}%`;

interface BarProps extends Pick<StateChartProps, 'from' | 'to' | 'staleSince' | 'place'> {
  held: Held;
  words: string;
}

/** A bar in ink; hollow from where nothing confirms it any more. */
function Bar({ held, from, to, staleSince, place, words }: BarProps) {
  const broken = staleSince !== null && held.until >= to ? Math.max(held.at, staleSince) : held.until;
  const said =
    `${words}, from ` +
    `${formatInstant(held.at, 'moment', place)}${held.until >= to ? '' : ` to ${formatInstant(held.until, 'moment', place)}`}`;
  const stretch = (start: Instant, end: Instant) => ({
    left: share(start, from, to),
    right: `calc(100% - ${share(end, from, to)})`,
    minWidth: 2,
  });
  return (
    <>
      <span
        className="absolute top-1/2 h-[6px] -translate-y-1/2 bg-ink"
        style={stretch(held.at, broken)}
        title={said}
      />
      {broken < held.until ? (
        <span
          className="absolute top-1/2 h-[6px] -translate-y-1/2 border border-dashed border-third"
          style={stretch(broken, held.until)}
          title={`${words}, stale`}
        />
      ) : null}
    </>
  );
}

/** Each value holds until the next one was first seen. */
function stretchesOf(readings: Held[], to: Instant): Held[] {
  return readings.map((reading, at) => ({ ...reading, until: readings[at + 1]?.at ?? to }));
}

/** The values that were held, the latest first. */
function lanesOf(stretches: Held[], locale: string): Lane[] {
  const lanes: Lane[] = [];
  for (const held of [...stretches].reverse()) {
    const lane = lanes.find((each) => sameValue(each.value, held.value));
    if (lane === undefined) lanes.push({ value: held.value, words: formatValue(held.value, locale), held: [held] });
    else lane.held.push(held);
  }
  return lanes;
}

/** By their scale, and what is not on it after that, as it came. */
function inOrder(lanes: Lane[], order: string[]): Lane[] {
  const rank = ({ words }: Lane) => (order.includes(words) ? order.indexOf(words) : order.length);
  return [...lanes].sort((a, b) => rank(a) - rank(b));
}
