import type { Value } from '../value/value';
import type { Instant } from '../when/interval';
import { clausesOf } from './clause';
import type { Situation } from './engine';
import type { Latest } from './heard';
import type { RuleMemory } from './memory';
import { countsLooks, ownFields, type RuleDefinition } from './rule';
import { freshSubject, hearSubject, isTelling, nextOfSubject, wakeSubject, type Turn } from './subject';

/** A stored reading: a value, from when to when it was seen, and at how many looks. */
export interface StoredReading {
  at: Instant;
  until: Instant;
  runs: number;
  value: Value;
}

/** The stored readings of a record, by field, each oldest first. Of a stepwise field a value is in force until the next one. */
export interface History {
  identity: string;
  name: string;
  fields: Readonly<Record<string, { stepwise: boolean; readings: readonly StoredReading[] }>>;
}

/** An alert that a rule would have given: of which record, when, by which of its clauses. */
export interface TestedAlert {
  identity: string;
  at: Instant;
  told: Turn['told'][number]['what'];
  /** The clauses that were met then, by their number. */
  clauses: number[];
}

/** A stretch through which a rule would have been met: one that was raised, or one that did not hold for long enough. */
export interface TestedEpisode {
  identity: string;
  opened: Instant;
  /** Null of one that passed before it was raised. */
  raised: Instant | null;
  closed: Instant | null;
  peak: Value | null;
  alerts: number;
}

/** What a rule would have done over a history. */
export interface Backtest {
  from: Instant;
  to: Instant;
  readings: number;
  alerts: TestedAlert[];
  /** How many there were, of which at most so many are listed. */
  alertCount: number;
  episodes: TestedEpisode[];
  /** By clause, at how many alerts it was met. */
  byClause: number[];
  /** Moments at which it could not be said whether it is met. */
  undecided: number;
}

/** How many alerts, and episodes, are listed one by one. */
const MOST_LISTED = 2_000;

/**
 * Replays a rule over stored readings, record by record, reading by reading in the order of their times, the clock between them moved as it
 * would have been: the very steps that every reading is judged by. `situation.savedAt` is when the rule is pretended to have been saved; what
 * was read before it is history.
 */
export function backtest(rule: RuleDefinition, histories: readonly History[], situation: Situation, to: Instant): Backtest {
  const tested: Backtest = {
    from: situation.savedAt, to, readings: 0, alerts: [], alertCount: 0, episodes: [], byClause: clausesOf(rule.when).map(() => 0), undecided: 0,
  }; // prettier-ignore
  for (const history of histories) new Replaying(rule, situation, tested, history.identity).run(history, to);
  tested.alerts.sort((one, other) => one.at - other.at);
  tested.episodes.sort((one, other) => one.opened - other.opened);
  return tested;
}

/** One record's past, replayed. */
class Replaying {
  #memory: RuleMemory;
  #open: TestedEpisode | null = null;
  #holding: Instant | null = null;

  constructor(
    private readonly rule: RuleDefinition,
    private readonly situation: Situation,
    private readonly tested: Backtest,
    private readonly identity: string,
  ) {
    this.#memory = freshSubject(rule, situation);
  }

  run(history: History, to: Instant): void {
    for (const { at, read } of momentsOf(this.rule, history, to)) {
      this.#take(this.#hear(at, read));
      this.tested.readings += 1;
    }
    this.#clockUntil(to);
    if (this.#open !== null) this.#list(this.#open);
  }

  #hear(at: Instant, read: ReadonlyMap<string, Latest>): Turn[] {
    this.#clockUntil(at - 1);
    return hearSubject(this.rule, this.#memory, { of: 'run', at, moment: at, own: true, read }, this.situation);
  }

  /** Moves the clock on, from one due moment to the next. */
  #clockUntil(to: Instant): void {
    const due = nextOfSubject(this.rule, this.#memory, this.situation);
    if (due !== null && due <= to) this.#take(wakeSubject(this.rule, this.#memory, to, this.situation));
  }

  #take(turns: Turn[]): void {
    for (const turn of turns) {
      if (turn.verdict === 'undecided' && turn.by === 'run') this.tested.undecided += 1;
      this.#follow(turn);
      for (const told of turn.told) if (isTelling(told)) this.#alert(turn, told);
      this.#memory = turn.memory;
    }
  }

  #alert({ findings }: Turn, told: Turn['told'][number]): void {
    const clauses = findings.flatMap((finding, at) => (finding?.is === 'met' ? at : []));
    this.tested.alertCount += 1;
    if (this.#open !== null) this.#open.alerts += 1;
    for (const at of clauses) this.tested.byClause[at] = (this.tested.byClause[at] ?? 0) + 1;
    if (this.tested.alerts.length < MOST_LISTED) this.tested.alerts.push({ identity: this.identity, at: told.at, told: told.what, clauses });
  }

  /** Follows the episode that is open, and those that pass before they are raised. */
  #follow({ effects, memory, at, before, after }: Turn): void {
    for (const effect of effects) {
      if (effect.do === 'open') {
        const { state } = memory.judged;
        const raised = state.is === 'raised' ? state.raised : at;
        this.#open = { identity: this.identity, opened: effect.at, raised, closed: null, peak: effect.peak?.value ?? null, alerts: 0 };
      }
      if (effect.do === 'peak' && this.#open !== null) this.#open.peak = effect.peak.value;
      if (effect.do === 'close' && this.#open !== null) {
        this.#list({ ...this.#open, closed: at });
        this.#open = null;
      }
    }
    const { state } = memory.judged;
    if (state.is === 'holding') this.#holding = state.since;
    else if (before === 'holding' && after !== 'raised' && this.#holding !== null) {
      this.#list({ identity: this.identity, opened: this.#holding, raised: null, closed: at, peak: null, alerts: 0 });
      this.#holding = null;
    }
  }

  #list(episode: TestedEpisode): void {
    if (this.tested.episodes.length < MOST_LISTED) this.tested.episodes.push(episode);
  }
}

/** Of one record at most so many moments are replayed, the latest. */
const MOST_MOMENTS = 200_000;

interface Moment {
  at: Instant;
  read: Map<string, Latest>;
}

/**
 * What was read of a record, moment by moment: what was read at one moment is judged together, with what was in force then of fields that only
 * move in steps. Where every look counts for a rule, a value that was seen at many stands for each of them, evenly apart.
 */
function momentsOf(rule: RuleDefinition, { fields }: History, to: Instant): Moment[] {
  const asked = ownFields(rule).flatMap((field) => (fields[field] === undefined ? [] : [{ field, ...fields[field] }]));
  const moments = new Map<Instant, Map<string, Latest>>();
  const each = countsLooks(rule) ? looksOf : firstOf;
  for (const { field, readings } of asked) {
    const looks = readings.flatMap((reading) => each(reading).map((at): Latest => ({ at, value: reading.value })));
    for (const look of looks) if (look.at <= to) moments.set(look.at, (moments.get(look.at) ?? new Map<string, Latest>()).set(field, look));
  }
  const ordered = [...moments].map(([at, read]) => ({ at, read })).sort((one, other) => one.at - other.at);
  if (asked.length > 1) for (const { field, stepwise } of asked) if (stepwise) fillIn(ordered, field);
  return ordered.slice(-MOST_MOMENTS);
}

const firstOf = ({ at }: StoredReading): Instant[] => [at];

/** The looks at which a value was seen: the first and the last as they were, the others evenly between. */
function looksOf({ at, until, runs }: StoredReading): Instant[] {
  if (runs < 2 || until <= at) return [at];
  return Array.from({ length: runs }, (_, look) => Math.round(at + ((until - at) * look) / (runs - 1)));
}

/** Gives every moment what was in force then of a field. */
function fillIn(moments: Moment[], field: string): void {
  let last: Latest | null = null;
  for (const { at, read } of moments) {
    const here = read.get(field);
    if (here !== undefined) last = here;
    else if (last !== null) read.set(field, { ...last, at });
  }
}
