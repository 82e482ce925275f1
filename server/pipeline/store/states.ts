import type { RuleId, WatchId } from '#core/id';
import type { Verdict } from '#core/judge/known';
import { storedMemory, type Peak } from '#core/judge/memory';
import { nextAt, type Effect } from '#core/judge/step';
import { hasMoved } from '#core/judge/watch';
import type { Value } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import { moment, type Statement } from '../../db/pool';

/** A verdict with the watch that it was given on. */
export interface WatchVerdict {
  watchId: WatchId;
  verdict: Verdict;
}

const subjectOf = ({ watchId, verdict }: WatchVerdict) => `${verdict.rule.id} ${watchId} ${verdict.reading.identity}`;

const STATES = `
WITH restood AS (
  UPDATE standing SET due_at = '-infinity' WHERE watch_id = ANY($3::int[])
)
INSERT INTO rule_state (rule_id, record_id, version, name, memory, reason, since, due_at)
SELECT n.rule, r.id, n.version, n.name, n.memory, n.reason, $2, n.due
FROM jsonb_to_recordset($1) AS n(rule int, watch int, identity text, version int, name text, memory jsonb, reason jsonb, due timestamptz)
JOIN record r ON r.watch_id = n.watch AND r.identity = n.identity
ON CONFLICT (rule_id, record_id) DO UPDATE SET version = excluded.version, name = excluded.name, memory = excluded.memory,
  reason = excluded.reason, due_at = excluded.due_at,
  since = CASE WHEN rule_state.version = excluded.version AND rule_state.name = excluded.name THEN rule_state.since ELSE excluded.since END`;

/** Keeps what every rule remembers of every record, where that moved. */
export function storeStates(startedAt: Instant, verdicts: WatchVerdict[]): Statement[] {
  const latest = new Map(verdicts.filter(({ verdict }) => hasMoved(verdict)).map((each) => [subjectOf(each), each]));
  if (latest.size === 0) return [];
  const rows = [...latest.values()].map(stateRow);
  const restood = new Set([...latest.values()].filter(standsOtherwise).map(({ watchId }) => watchId));
  return [{ name: 'store states', text: STATES, values: [JSON.stringify(rows), moment(startedAt), [...restood]] }];
}

/** Whether a watch may be in other lists by what a rule remembers now. */
function standsOtherwise({ verdict: { before, step } }: WatchVerdict): boolean {
  return before?.state.is !== step.memory.state.is || step.reason.code === 'unlike';
}

function stateRow({ watchId, verdict: { rule, reading, step } }: WatchVerdict): object {
  const { memory, reason } = step;
  const due = nextAt(memory);
  return {
    rule: rule.id,
    watch: watchId,
    identity: reading.identity,
    version: rule.version,
    name: memory.state.is,
    memory: storedMemory.write(memory),
    reason,
    due: due === null ? null : moment(due),
  };
}

/** An episode that opens in this run, and perhaps is over by its end. */
interface OpenedEpisode {
  id: number;
  opened: Instant;
  raised: Instant;
  value: Value;
  peak: Peak | null;
  closed: { at: Instant; because: string } | null;
}

/** What becomes of the episode that was open before, and those that open now, for one rule on one record. */
interface EpisodeMoves {
  rule: RuleId;
  watch: WatchId;
  identity: string;
  before: { peak: Peak | null; closed: OpenedEpisode['closed'] };
  opened: OpenedEpisode[];
}

/** How many episodes open by these verdicts. */
export const countOpened = (verdicts: WatchVerdict[]): number =>
  verdicts.flatMap(({ verdict }) => verdict.step.effects).filter(({ do: does }) => does === 'open').length;

/** Follows the episodes of a run: which alert belongs to which of them, and the statement that keeps them. `ids` has one for each that opens. */
export function moveEpisodes(verdicts: WatchVerdict[], ids: number[]): { statements: Statement[]; episodeOf: ReadonlyMap<Verdict, number> } {
  const moves = new Map<string, EpisodeMoves>();
  const episodeOf = new Map<Verdict, number>();
  for (const each of verdicts) {
    const { verdict } = each;
    const subject = moves.get(subjectOf(each)) ?? noMoves(each);
    moves.set(subjectOf(each), subject);
    for (const effect of verdict.step.effects) {
      const opened = followEffect(subject, effect, verdict.reading.at, ids);
      if (opened !== null) episodeOf.set(verdict, opened);
    }
  }
  return { statements: episodeStatement([...moves.values()]), episodeOf };
}

/** What an effect makes of the episodes of its subject; the number of the one that opens by it. */
function followEffect(subject: EpisodeMoves, effect: Effect, raised: Instant, ids: number[]): number | null {
  const current = subject.opened.at(-1) ?? subject.before;
  if (effect.do === 'peak') current.peak = effect.peak;
  if (effect.do === 'close') current.closed = { at: effect.at, because: effect.because };
  if (effect.do !== 'open') return null;
  const [id] = ids.splice(0, 1);
  if (id === undefined) throw new Error('an episode without a number');
  subject.opened.push({ id, opened: effect.at, raised, value: effect.value, peak: effect.peak, closed: null });
  return id;
}

const noMoves = ({ watchId, verdict }: WatchVerdict): EpisodeMoves => ({
  rule: verdict.rule.id,
  watch: watchId,
  identity: verdict.reading.identity,
  before: { peak: null, closed: null },
  opened: [],
});

const EPISODES = `
WITH moved AS (
  UPDATE episode e SET peak = coalesce(n.peak, e.peak), peak_at = coalesce(n.peak_at, e.peak_at), closed_at = n.closed_at, closed_because = n.because
  FROM jsonb_to_recordset($1) AS n(rule int, watch int, identity text, peak jsonb, peak_at timestamptz, closed_at timestamptz, because text)
  JOIN record r ON r.watch_id = n.watch AND r.identity = n.identity
  WHERE e.rule_id = n.rule AND e.record_id = r.id AND e.closed_at IS NULL RETURNING e.id
)
INSERT INTO episode (id, rule_id, record_id, opened_at, raised_at, peak, peak_at, closed_at, closed_because)
SELECT n.id, n.rule, r.id, n.opened_at, n.raised_at, n.peak, n.peak_at, n.closed_at, n.because
FROM jsonb_to_recordset($2) AS n(id bigint, rule int, watch int, identity text, opened_at timestamptz, raised_at timestamptz, peak jsonb, peak_at timestamptz,
  closed_at timestamptz, because text)
JOIN record r ON r.watch_id = n.watch AND r.identity = n.identity
-- What was open is closed first: of one rule on one record one is open at most.
WHERE (SELECT count(*) FROM moved) >= 0`;

/** One statement for all episodes of a run. */
function episodeStatement(moves: EpisodeMoves[]): Statement[] {
  const before = moves.flatMap(({ rule, watch, identity, before: { peak, closed } }) =>
    peak === null && closed === null ? [] : [{ rule, watch, identity, ...peakColumns(peak), ...closedColumns(closed) }],
  );
  const opened = moves.flatMap(({ rule, watch, identity, opened: each }) =>
    each.map(({ id, opened: at, raised, value, peak, closed }) => ({
      id, rule, watch, identity, opened_at: moment(at), raised_at: moment(raised), ...peakColumns(peak ?? { value, at }), ...closedColumns(closed),
    })),
  ); // prettier-ignore
  if (before.length === 0 && opened.length === 0) return [];
  return [{ name: 'move episodes', text: EPISODES, values: [JSON.stringify(before), JSON.stringify(opened)] }];
}

const peakColumns = (peak: { value: Value; at: Instant } | null) => (peak === null ? {} : { peak: peak.value, peak_at: moment(peak.at) });

const closedColumns = (closed: OpenedEpisode['closed']) => (closed === null ? {} : { closed_at: moment(closed.at), because: closed.because });
