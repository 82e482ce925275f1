import type { RuleId, WatchId } from '#core/id';
import { situationOf } from '#core/judge/judging';
import type { KnownWatch, Verdict } from '#core/judge/known';
import { storedMemory } from '#core/judge/memory';
import { nextOfSubject, type Turn } from '#core/judge/subject';
import { hasMoved } from '#core/judge/watch';
import { ABSENT, type Value } from '#core/value/value';
import type { Instant } from '#core/when/interval';
import { moment, type Statement } from '../../db/base/pool';

/** The watch whose rule gave a verdict, as far as what is told of it needs that. */
export interface RuledWatch extends Pick<KnownWatch, 'definition' | 'intervalMs' | 'records'> {
  id: WatchId;
  version: number;
  site: string;
  page: string;
}

/** A verdict with the watch that it was given on. */
export interface WatchVerdict {
  watch: RuledWatch;
  verdict: Verdict;
}

/** The rule and record that a verdict is on. */
export const subjectOf = ({ watch, verdict }: WatchVerdict) => `${verdict.rule.id} ${watch.id} ${verdict.identity}`;

const STATES = `
WITH restood AS (
  UPDATE standing SET due_at = '-infinity' WHERE watch_id = ANY($3::int[])
)
INSERT INTO rule_state (rule_id, record_id, version, name, memory, reason, since, due_at)
SELECT n.rule, r.id, n.version, n.name, n.memory, n.reason, $2, n.due
FROM jsonb_to_recordset($1) AS n(rule int, watch int, identity text, version int, name text, memory jsonb, reason jsonb,
  due timestamptz)
JOIN record r ON r.watch_id = n.watch AND r.identity = n.identity
ON CONFLICT (rule_id, record_id) DO UPDATE
SET version = excluded.version, name = excluded.name, memory = excluded.memory,
  reason = excluded.reason, due_at = excluded.due_at,
  since = CASE WHEN rule_state.version = excluded.version AND rule_state.name = excluded.name THEN rule_state.since
    ELSE excluded.since END`;

/** Keeps what every rule remembers of every record, where that moved. */
export function storeStates(at: Instant, verdicts: WatchVerdict[]): Statement[] {
  const subjects = new Map<string, { last: WatchVerdict; first: Verdict }>();
  for (const each of verdicts) {
    const key = subjectOf(each);
    subjects.set(key, { last: each, first: subjects.get(key)?.first ?? each.verdict });
  }
  const moved = [...subjects.values()].filter(
    ({ first, last }) => isFresh(last.verdict) || hasMoved({ ...last.verdict, before: first.before }),
  );
  if (moved.length === 0) return [];
  const restood = new Set(moved.filter(standsOtherwise).map(({ last: { watch } }) => watch.id));
  return [
    {
      name: 'store states',
      text: STATES,
      values: [JSON.stringify(moved.map(({ last }) => stateRow(last, at))), moment(at), [...restood]],
    },
  ];
}

/** Nothing was remembered yet. */
const isFresh = ({ rule, identity }: Verdict) => !rule.memories.has(identity);

/** Whether a watch may be in other lists by what a rule remembers now. */
function standsOtherwise({ first, last }: { first: Verdict; last: WatchVerdict }): boolean {
  return first.turn.before !== last.verdict.turn.after || last.verdict.reason.code === 'unlike';
}

function stateRow({ watch, verdict: { rule, identity, turn, reason } }: WatchVerdict, at: Instant): object {
  const situation = situationOf(rule, watch, watch.records.get(identity) ?? null, at);
  const due = nextOfSubject(rule.definition, turn.memory, situation);
  return {
    rule: rule.id,
    watch: watch.id,
    identity,
    version: rule.judgedVersion,
    name: turn.after,
    memory: storedMemory.write(turn.memory),
    reason,
    due: due === null ? null : moment(due),
  };
}

/** The value furthest beyond a limit, or, of a rule without such, what stood when it was raised. */
interface Furthest {
  value: Value;
  at: Instant;
}

/** An episode that opens now, and perhaps is over at once. */
interface OpenedEpisode {
  id: number;
  opened: Instant;
  raised: Instant;
  peak: Furthest;
  /** When others are told, where nobody has taken it on by then. */
  stepAt: Instant | null;
  closed: { at: Instant; because: string } | null;
}

/** What becomes of the episode that was open before, and those that open now, for one rule on one record. */
interface EpisodeMoves {
  rule: RuleId;
  watch: WatchId;
  identity: string;
  before: { peak: Furthest | null; closed: OpenedEpisode['closed'] };
  opened: OpenedEpisode[];
}

/** How many episodes open by these verdicts. */
export const countOpened = (verdicts: WatchVerdict[]): number =>
  verdicts.flatMap(({ verdict }) => verdict.turn.effects).filter(({ do: does }) => does === 'open').length;

/**
 * Follows the episodes of a moment: which alert belongs to which of them, and the statement that keeps them. `ids` has
 * one for each that opens.
 */
export function moveEpisodes(
  verdicts: WatchVerdict[],
  ids: number[],
): { statements: Statement[]; episodeOf: ReadonlyMap<Verdict, number> } {
  const moves = new Map<string, EpisodeMoves>();
  const episodeOf = new Map<Verdict, number>();
  for (const each of verdicts) {
    const { verdict } = each;
    const subject = moves.get(subjectOf(each)) ?? noMoves(each);
    moves.set(subjectOf(each), subject);
    for (const effect of verdict.turn.effects) {
      const opened = followEffect(subject, effect, verdict, ids);
      if (opened !== null) episodeOf.set(verdict, opened);
    }
  }
  return { statements: episodeStatement([...moves.values()]), episodeOf };
}

/** What an effect makes of the episodes of its subject; the number of the one that opens by it. */
function followEffect(
  subject: EpisodeMoves,
  effect: Turn['effects'][number],
  { rule, turn, about }: Verdict,
  ids: number[],
): number | null {
  const current = subject.opened.at(-1) ?? subject.before;
  if (effect.do === 'peak') current.peak = effect.peak;
  if (effect.do === 'close') current.closed = { at: turn.at, because: effect.because };
  if (effect.do !== 'open') return null;
  const [id] = ids.splice(0, 1);
  if (id === undefined) throw new Error('an episode without a number');
  const { state } = turn.memory.judged;
  const raised = state.is === 'raised' ? state.raised : turn.at;
  const [step] = rule.definition.steps ?? [];
  const peak = effect.peak ?? { value: about?.value ?? ABSENT, at: effect.at };
  subject.opened.push({
    id,
    opened: effect.at,
    raised,
    peak,
    stepAt: step === undefined ? null : raised + step.after,
    closed: null,
  });
  return id;
}

const noMoves = ({ watch, verdict }: WatchVerdict): EpisodeMoves => ({
  rule: verdict.rule.id,
  watch: watch.id,
  identity: verdict.identity,
  before: { peak: null, closed: null },
  opened: [],
});

const EPISODES = `
WITH moved AS (
  UPDATE episode e
  SET peak = coalesce(n.peak, e.peak), peak_at = coalesce(n.peak_at, e.peak_at), closed_at = n.closed_at,
    closed_because = n.because
  FROM jsonb_to_recordset($1) AS n(rule int, watch int, identity text, peak jsonb, peak_at timestamptz,
    closed_at timestamptz, because text)
  JOIN record r ON r.watch_id = n.watch AND r.identity = n.identity
  WHERE e.rule_id = n.rule AND e.record_id = r.id AND e.closed_at IS NULL RETURNING e.id
)
INSERT INTO episode (id, rule_id, record_id, opened_at, raised_at, peak, peak_at, step_at, closed_at, closed_because)
SELECT n.id, n.rule, r.id, n.opened_at, n.raised_at, n.peak, n.peak_at, n.step_at, n.closed_at, n.because
FROM jsonb_to_recordset($2) AS n(id bigint, rule int, watch int, identity text, opened_at timestamptz,
  raised_at timestamptz, peak jsonb, peak_at timestamptz,
  step_at timestamptz, closed_at timestamptz, because text)
JOIN record r ON r.watch_id = n.watch AND r.identity = n.identity
-- What was open is closed first: of one rule on one record one is open at most.
WHERE (SELECT count(*) FROM moved) >= 0`;

/** One statement for all episodes of a moment. */
function episodeStatement(moves: EpisodeMoves[]): Statement[] {
  const before = moves.flatMap(({ rule, watch, identity, before: { peak, closed } }) =>
    peak === null && closed === null ? [] : [{ rule, watch, identity, ...peakColumns(peak), ...closedColumns(closed) }],
  );
  const opened = moves.flatMap(({ rule, watch, identity, opened: each }) =>
    each.map(({ id, opened: at, raised, peak, stepAt, closed }) => ({
      id,
      rule,
      watch,
      identity,
      opened_at: moment(at),
      raised_at: moment(raised),
      ...peakColumns(peak),
      ...closedColumns(closed),
      ...(stepAt === null ? {} : { step_at: moment(stepAt) }),
    })),
  );
  if (before.length === 0 && opened.length === 0) return [];
  return [{ name: 'move episodes', text: EPISODES, values: [JSON.stringify(before), JSON.stringify(opened)] }];
}

const peakColumns = (peak: Furthest | null) => (peak === null ? {} : { peak: peak.value, peak_at: moment(peak.at) });

const closedColumns = (closed: OpenedEpisode['closed']) =>
  closed === null ? {} : { closed_at: moment(closed.at), because: closed.because };
