import type { Value } from '../value/value';
import type { Instant } from '../when/interval';
import { Related, isRelated } from './related';
import { keyOf } from './asked';
import { clausesOf } from './clause';
import type { Situation } from './engine';
import { rateLimitOf, throughRateLimit } from './rate-limit';
import type { Latest, Observation, Run } from './observation';
import type { RuleMemory, StateName } from './memory';
import { NO_RUNS, NOTHING_RELATED, PastAround, isThere, type History, type PastRelated, type PastRuns } from './past';
import {
  baselineOf,
  byMoment,
  lateOnes,
  timestampsOf,
  type PastOfOne,
  type ReplayedMoment,
  type Seen,
} from './past-moments';
import { reasonOf, type Reason } from './reason';
import { choiceOf, lets, type Filtered } from './records';
import { asksOfRule, isAbout, isWide, type RuleDefinition } from './rule';
import { freshSubject, hearSubject, isNotifying, learnSubject, nextOfSubject, wakeSubject, type Turn } from './subject';

/** An alert that a rule would have given: of which record, when, by which of its clauses. */
export interface TestedAlert {
  identity: string;
  at: Instant;
  told: Turn['told'][number]['what'];
  /** The clauses that were met then, by their number. */
  clauses: number[];
}

/**
 * A stretch through which a rule would have been met: one that was raised, or one that did not hold for long enough.
 */
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
 * Of a rule that is told at most once as a whole so many of what its records would tell are held against one another.
 */
const MOST_RATE_LIMITED = 200_000;

/** What a trial comes to while it runs. */
export function listing({ when, telling = {} }: RuleDefinition, { savedAt }: Situation, to: Instant) {
  const most = rateLimitOf(telling) === null ? MOST_LISTED : MOST_RATE_LIMITED;
  const tested: Backtest = {
    from: savedAt,
    to,
    readings: 0,
    alerts: [],
    alertCount: 0,
    episodes: [],
    byClause: clausesOf(when).map(() => 0),
    undecided: 0,
  };
  return {
    readings: (count: number) => void (tested.readings += count),
    undecided: () => void (tested.undecided += 1),
    alert: (identity: string, at: Instant, told: TestedAlert['told'], clauses: number[]) => {
      tested.alertCount += 1;
      for (const clause of clauses) tested.byClause[clause] = (tested.byClause[clause] ?? 0) + 1;
      if (tested.alerts.length < most) tested.alerts.push({ identity, at, told, clauses });
    },
    episode: (episode: TestedEpisode) => {
      if (tested.episodes.length < MOST_LISTED) tested.episodes.push(episode);
    },
    done: (): Backtest => {
      tested.alerts.sort((one, other) => one.at - other.at);
      if (rateLimitOf(telling) !== null) {
        const told = throughRateLimit(telling, tested.alerts, to);
        tested.alertCount = told.length;
        tested.byClause = tested.byClause.map(
          (_, clause) => told.filter(({ clauses }) => clauses.includes(clause)).length,
        );
        tested.alerts = told.slice(0, MOST_LISTED);
      }
      tested.episodes.sort((one, other) => one.opened - other.opened);
      return tested;
    },
  };
}

/** Of histories those that a rule would run for, by what is known of their records now. */
export function runsFor(rule: RuleDefinition, histories: readonly History[], now: Instant): History[] {
  const { only } = rule;
  const records = histories.map(({ identity, name, labels = {}, item, fields }) => ({
    identity,
    name,
    labels,
    item,
    fieldOf: (field: string) => fields[field]?.readings.at(-1)?.value,
  }));
  const choice = choiceOf(only, () => records, null, now);
  return histories.filter((history, at) => isAbout(rule, history) && lets(only, records[at] as Filtered, choice));
}

/**
 * Replays a rule over stored readings, record by record, reading by reading as they came, the clock between them moved
 * as it would have been: the very steps that every reading is judged by. `situation.savedAt` is when the rule is
 * pretended to have been saved: what had come before it is history, and what stood then, if it was seen within two
 * runs, is the baseline.
 */
export function backtest(
  rule: RuleDefinition,
  histories: readonly History[],
  situation: Situation,
  to: Instant,
  beside: PastRelated = NOTHING_RELATED,
): Backtest {
  const list = listing(rule, situation, to);
  const around = isWide({ when: rule.when }) ? new PastAround(histories, beside) : null;
  const { runs = NO_RUNS } = beside;
  for (const history of runsFor(rule, histories, to))
    new Replaying(rule, situation, { history, around, runs }, { list }).run(to);
  return list.done();
}

/** What a rule made of what was read at a moment, and the state that it was in then. */
export interface Replayed {
  at: Instant;
  reason: Reason;
  state: StateName;
}

/**
 * What a rule made of the last that was read of a record up to a moment, worked out anew from what was read before (13
 * of the design: for ordinary readings nothing is stored). Null where nothing was read since the rule was saved, and no
 * baseline was known.
 */
export function replayedAt(
  rule: RuleDefinition,
  history: History,
  situation: Situation,
  at: Instant,
  { around = null, runs = NO_RUNS }: { around?: PastAround | null; runs?: PastRuns } = {},
): Replayed | null {
  let last: { before: RuleMemory; turn: Turn } | null = null as { before: RuleMemory; turn: Turn } | null;
  const past = { history, around: isWide({ when: rule.when }) ? around : null, runs };
  const replaying = new Replaying(rule, situation, past, {
    list: listing(rule, situation, at),
    heard: (before, turn) => {
      if (turn.by === 'run') last = { before, turn };
    },
  });
  replaying.run(at);
  if (last === null) return null;
  return { at: last.turn.at, reason: reasonOf(rule, last.before, last.turn), state: replaying.state };
}

/** Where what comes of a replay goes, and who hears of each turn. */
interface ReplayedInto {
  list: ReturnType<typeof listing>;
  heard?: (before: RuleMemory, turn: Turn) => void;
}

/** One record's past, replayed. */
class Replaying {
  #memory: RuleMemory;
  #open: TestedEpisode | null = null;
  #holding: Instant | null = null;

  constructor(
    private readonly rule: RuleDefinition,
    private readonly situation: Situation,
    private readonly past: PastOfOne,
    private readonly into: ReplayedInto,
  ) {
    this.#memory = freshSubject(rule, situation);
  }

  get state(): StateName {
    return this.#memory.judged.state.is;
  }

  run(to: Instant): void {
    const { savedAt } = this.situation;
    const moments = timestampsOf(this.rule, this.past, this.situation, to);
    const first = moments.findIndex(({ at }) => at >= savedAt);
    const before = first < 0 ? moments : moments.slice(0, first);
    const after = moments.slice(before.length);
    // What is read at that very moment is the baseline itself.
    const isRead =
      after.some(({ at, own, read }) => at === savedAt && own && read.size > 0) ||
      savedAt > to ||
      !isThere(this.past.history, savedAt);
    const baseline = isRead ? new Map<string, Seen>() : baselineOf(before, this.situation, this.past.runs);
    this.#learn(before, baseline);
    if (baseline.size > 0) after.unshift({ at: savedAt, so: savedAt, own: true, read: baseline, is: 'baseline' });
    for (const moment of after) this.#take(this.#hear(moment));
    this.into.list.readings(after.filter(({ late, read }) => late === undefined || read.size > 0).length);
    this.#clockUntil(to);
    if (this.#open !== null) this.into.list.episode(this.#open);
  }

  /** What was read before, by its own times; the baseline itself is yet to be judged. */
  #learn(moments: ReplayedMoment[], baseline: ReadonlyMap<string, Seen>): void {
    const known = moments.some(({ at, so }) => at !== so) ? moments.flatMap(lateOnes).sort(byMoment) : moments;
    for (const { at, read } of known.slice(-MOST_LEARNT)) {
      for (const [field, { filled, ...reading }] of read)
        if (!filled && reading.at < (baseline.get(field)?.at ?? Infinity))
          this.#memory = learnSubject(this.rule, this.#memory, field, reading);
      for (const [key, reading] of this.#learntBeside(at))
        this.#memory = learnSubject(this.rule, this.#memory, key, reading);
    }
  }

  /**
   * What a rule learns of before it was saved from records of its watch that it names; of items and other watches it
   * learns nothing.
   */
  #learntBeside(at: Instant): [string, Latest][] {
    const named = asksOfRule(this.rule).filter(
      ({ record, sharing, watch }) => watch === undefined && (record ?? sharing) !== undefined,
    );
    if (this.past.around === null || named.length === 0) return [];
    const read = new Related(this.rule, this.past.around.at(at)).readOf(this.past.history.identity);
    return named.flatMap((asked): [string, Latest][] => {
      const latest = read.get(keyOf(asked));
      return latest?.at === at ? [[keyOf(asked), latest]] : [];
    });
  }

  #hear(moment: ReplayedMoment): Turn[] {
    // What stood when the rule was saved is judged before the clock is.
    if (moment.is !== 'baseline') this.#clockUntil(moment.at - 1);
    return hearSubject(this.rule, this.#memory, this.#heardAt(moment), this.situation);
  }

  #heardAt({ at, own, read, late, is }: ReplayedMoment): Observation {
    if (is === 'gone' || is === 'failure') return { of: is, at };
    const times = [...read.values()].map((seen) => seen.at);
    return {
      of: 'run',
      at,
      moment: times.length === 0 ? at : Math.max(...times),
      own,
      read,
      ...(late === undefined ? {} : { late }),
      ...(is === 'came' ? { came: true } : {}),
      ...(is === 'baseline' ? { known: true } : {}),
      ...this.#besideAt(at, read),
    };
  }

  /** What the rule hears at a moment beside its record, with what was read of that. */
  #besideAt(at: Instant, read: ReadonlyMap<string, Latest>): Partial<Run> {
    if (this.past.around === null) return {};
    const beside = isRelated(this.rule, this.past.around.at(at), this.past.history.identity);
    return { read: new Map([...beside.read, ...read]), groups: beside.groups };
  }

  /** Moves the clock on, from one due moment to the next. */
  #clockUntil(to: Instant): void {
    const due = nextOfSubject(this.rule, this.#memory, this.situation);
    if (due !== null && due <= to) this.#take(wakeSubject(this.rule, this.#memory, to, this.situation));
  }

  #take(turns: Turn[]): void {
    for (const turn of turns) {
      if (turn.verdict === 'undecided' && turn.by === 'run' && turn.findings.some((each) => each !== null))
        this.into.list.undecided();
      this.into.heard?.(this.#memory, turn);
      this.#follow(turn);
      for (const told of turn.told) if (isNotifying(told)) this.#alert(turn, told);
      this.#memory = turn.memory;
    }
  }

  #alert({ findings, memory }: Turn, told: Turn['told'][number]): void {
    // What nothing moved at this moment stands as it did.
    const isMet = told.what === 'alert' || told.what === 'several' || told.what === 'reminder';
    const clauses = isMet
      ? memory.judged.clauses.flatMap(({ standing }, at) => ((findings[at] ?? standing).is === 'met' ? at : []))
      : [];
    if (this.#open !== null) this.#open.alerts += 1;
    this.into.list.alert(this.past.history.identity, told.at, told.what, clauses);
  }

  /** Follows the episode that is open, and those that pass before they are raised. */
  #follow({ effects, memory, at, before, after }: Turn): void {
    for (const effect of effects) {
      if (effect.do === 'open') {
        const { state } = memory.judged;
        const raised = state.is === 'raised' ? state.raised : at;
        this.#open = {
          identity: this.past.history.identity,
          opened: effect.at,
          raised,
          closed: null,
          peak: effect.peak?.value ?? null,
          alerts: 0,
        };
      }
      if (effect.do === 'peak' && this.#open !== null) this.#open.peak = effect.peak.value;
      if (effect.do === 'close' && this.#open !== null) {
        this.into.list.episode({ ...this.#open, closed: at });
        this.#open = null;
      }
    }
    const { state } = memory.judged;
    if (state.is === 'holding') this.#holding = state.since;
    else if (before === 'holding' && after !== 'raised' && this.#holding !== null) {
      this.into.list.episode({
        identity: this.past.history.identity,
        opened: this.#holding,
        raised: null,
        closed: at,
        peak: null,
        alerts: 0,
      });
      this.#holding = null;
    }
  }
}

/** As many readings of before are learnt as a stretch keeps. */
const MOST_LEARNT = 2_000;
