import { formatInstant, type Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import type { RunTick } from '#server/db/watch/views/history';
import { CHART_LEFT, CHART_RIGHT } from './series-chart';

const SLOTS = 168;

interface Slot {
  at: Instant;
  outcome: RunTick['outcome'];
  runs: number;
  sentence: string | null;
}

const WEIGHT: Record<RunTick['outcome'], number> = { same: 0, first: 1, changed: 2, failed: 3 };

/** Runs gathered into as many places as can be told apart; of several the one that matters most is shown. */
function slotsOf(runs: RunTick[], from: Instant, to: Instant): Map<number, Slot> {
  const slots = new Map<number, Slot>();
  for (const run of runs) {
    const place = Math.min(SLOTS - 1, Math.max(0, Math.floor(((run.at - from) / (to - from)) * SLOTS)));
    const known = slots.get(place);
    const heavier = known === undefined || WEIGHT[run.outcome] > WEIGHT[known.outcome];
    const shown = heavier ? run : known;
    slots.set(place, {
      at: heavier ? run.at : (known?.at ?? run.at),
      outcome: shown.outcome,
      sentence: shown.sentence,
      runs: (known?.runs ?? 0) + 1,
    });
  }
  return slots;
}

const HEIGHTS: Record<RunTick['outcome'], { y: number; height: number }> = {
  same: { y: 6, height: 6 },
  first: { y: 0, height: 16 },
  changed: { y: 0, height: 16 },
  failed: { y: 3, height: 11 },
};

/** Every run on the chart's own time axis: low, the same; tall, changed; hollow, failed. */
export function Ribbon({ runs, from, to, place }: { runs: RunTick[]; from: Instant; to: Instant; place: Place }) {
  const count = (outcome: RunTick['outcome']) => runs.filter((run) => run.outcome === outcome).length;
  const words =
    `${runs.length} ${runs.length === 1 ? 'run' : 'runs'}, ${count('changed')} ` + `changed, ${count('failed')} failed`;
  return (
    <div className="flex items-center" data-ribbon>
      <svg
        role="img"
        aria-label={words}
        viewBox={`0 0 ${SLOTS * 5} 16`}
        preserveAspectRatio="none"
        className="h-4 grow"
        style={{ marginLeft: CHART_LEFT }}
      >
        {[...slotsOf(runs, from, to)].map(([at, slot]) => (
          <rect
            key={at}
            x={at * 5 + 1}
            width={slot.outcome === 'same' ? 2.6 : 3}
            {...HEIGHTS[slot.outcome]}
            fill={slot.outcome === 'failed' ? 'var(--page)' : slot.outcome === 'same' ? 'var(--third)' : 'var(--ink)'}
            fillOpacity={slot.outcome === 'same' ? 0.55 : 1}
            stroke={slot.outcome === 'failed' ? 'var(--chestnut)' : 'none'}
          >
            <title>
              {`${formatInstant(slot.at, 'moment', place)}: ` +
                `${slot.outcome}${slot.sentence === null ? '' : `. ${slot.sentence}`}${slot.runs > 1 ? ` (${slot.runs} runs here)` : ''}`}
            </title>
          </rect>
        ))}
      </svg>
      <span className="shrink-0 pl-2 text-glance text-third" style={{ width: CHART_RIGHT }}>
        {words}
      </span>
    </div>
  );
}
