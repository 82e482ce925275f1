import type { Value } from '../value/value';
import type { Instant } from '../when/interval';
import { Related, isRelated } from './related';
import { keyOf } from './asked';
import { clausesOf } from './clause';
import type { Situation } from './engine';
import { rateLimitOf, throughRateLimit } from './rate-limit';
import { freshFor, type Latest, type Run } from './observation';
import type { RuleMemory, StateName } from './memory';
import { NOTHING_RELATED, PastAround, type History, type PastRelated, type StoredReading } from './past';
import { reasonOf, type Reason } from './reason';
import { choiceOf, lets, type Filtered } from './records';
import { asksOfRule, countsRuns, countsRunsAlone, isAbout, isWide, ownFields, type RuleDefinition } from './rule';
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
 * Replays a rule over stored readings, record by record, reading by reading in the order of their times, the clock
 * between them moved as it would have been: the very steps that every reading is judged by. `situation.savedAt` is when
 * the rule is pretended to have been saved: what was read before it is history, and what stood then, if it was seen
 * within two runs, is the baseline.
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
  for (const history of runsFor(rule, histories, to)) new Replaying(rule, situation, history, around, { list }).run(to);
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
  around: PastAround | null = null,
): Replayed | null {
  let last: { before: RuleMemory; turn: Turn } | null = null as { before: RuleMemory; turn: Turn } | null;
  const replaying = new Replaying(rule, situation, history, isWide({ when: rule.when }) ? around : null, {
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
    private readonly history: History,
    private readonly around: PastAround | null,
    private readonly into: ReplayedInto,
  ) {
    this.#memory = freshSubject(rule, situation);
  }

  get state(): StateName {
    return this.#memory.judged.state.is;
  }

  run(to: Instant): void {
    const { savedAt } = this.situation;
    const moments = timestampsOf(this.rule, this.history, this.around, this.situation.intervalMs, to);
    const first = moments.findIndex(({ at }) => at >= savedAt);
    const before = first < 0 ? moments : moments.slice(0, first);
    this.#learn(before);
    const baseline = baselineOf(before, this.situation);
    const after = moments.slice(before.length);
    // What is read at that very moment is the baseline itself.
    if (baseline.size > 0 && after[0]?.at !== savedAt && savedAt <= to)
      after.unshift({ at: savedAt, own: true, read: baseline });
    for (const moment of after) this.#take(this.#hear(moment));
    this.into.list.readings(after.length);
    this.#clockUntil(to);
    if (this.#open !== null) this.into.list.episode(this.#open);
  }

  #learn(moments: ReplayedMoment[]): void {
    for (const { at, read } of moments.slice(-MOST_LEARNT)) {
      for (const [field, { filled, ...reading }] of read)
        if (!filled) this.#memory = learnSubject(this.rule, this.#memory, field, reading);
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
    if (this.around === null || named.length === 0) return [];
    const read = new Related(this.rule, this.around.at(at)).readOf(this.history.identity);
    return named.flatMap((asked): [string, Latest][] => {
      const latest = read.get(keyOf(asked));
      return latest?.at === at ? [[keyOf(asked), latest]] : [];
    });
  }

  #hear({ at, own, read }: ReplayedMoment): Turn[] {
    this.#clockUntil(at - 1);
    return hearSubject(
      this.rule,
      this.#memory,
      { of: 'run', at, moment: at, own, read, ...this.#besideAt(at, read) },
      this.situation,
    );
  }

  /** What the rule hears at a moment beside its record, with what was read of that. */
  #besideAt(at: Instant, read: ReadonlyMap<string, Latest>): Partial<Run> {
    if (this.around === null) return {};
    const beside = isRelated(this.rule, this.around.at(at), this.history.identity);
    return { read: new Map([...beside.read, ...read]), groups: beside.groups };
  }

  /** Moves the clock on, from one due moment to the next. */
  #clockUntil(to: Instant): void {
    const due = nextOfSubject(this.rule, this.#memory, this.situation);
    if (due !== null && due <= to) this.#take(wakeSubject(this.rule, this.#memory, to, this.situation));
  }

  #take(turns: Turn[]): void {
    for (const turn of turns) {
      if (turn.verdict === 'undecided' && turn.by === 'run') this.into.list.undecided();
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
    this.into.list.alert(this.history.identity, told.at, told.what, clauses);
  }

  /** Follows the episode that is open, and those that pass before they are raised. */
  #follow({ effects, memory, at, before, after }: Turn): void {
    for (const effect of effects) {
      if (effect.do === 'open') {
        const { state } = memory.judged;
        const raised = state.is === 'raised' ? state.raised : at;
        this.#open = {
          identity: this.history.identity,
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
        identity: this.history.identity,
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

/** What stood when a rule was saved, as far as it was seen within two runs, as what was read at that moment. */
function baselineOf(before: ReplayedMoment[], { savedAt, intervalMs }: Situation): Map<string, Seen> {
  const last = new Map<string, Seen>();
  for (const { read } of before) for (const [field, seen] of read) last.set(field, seen);
  return new Map(
    [...last].flatMap(([field, seen]): [string, Seen][] =>
      savedAt - seen.until > freshFor({ intervalMs }) ? [] : [[field, { ...seen, at: savedAt }]],
    ),
  );
}

/** Of one record at most so many moments are replayed, the latest. */
const MOST_TIMESTAMPS = 200_000;

/**
 * A value as it was read at a moment, until when it was seen, and whether it only stood there while others were read.
 */
interface Seen extends Latest {
  until: Instant;
  filled: boolean;
}

/** A moment at which something was read: of the record itself, or only of what stands beside it. */
interface ReplayedMoment {
  at: Instant;
  own: boolean;
  read: Map<string, Seen>;
}

/**
 * What was read of a record, moment by moment: what was read at one moment is judged together, with what was in force
 * then of fields that only move in steps. Where every run counts for a rule, a value that was seen at many stands for
 * each of them, evenly apart.
 */
function timestampsOf(
  rule: RuleDefinition,
  { identity, fields }: History,
  around: PastAround | null,
  intervalMs: number,
  to: Instant,
): ReplayedMoment[] {
  const named = ownFields(rule);
  const asked = (named.length === 0 ? Object.keys(fields) : named).flatMap((field) =>
    fields[field] === undefined ? [] : [{ field, ...fields[field] }],
  );
  // Beside what it says by itself a run counts where something that stands beside the record has turned since the one
  // before.
  const turns = (around?.turns(rule, identity, intervalMs) ?? []).sort((one, other) => one - other);
  const each = around === null ? countsRuns(rule) : countsRunsAlone(rule);
  const moments = new Map<Instant, Map<string, Seen>>();
  for (const { field, readings } of asked) {
    const looks = readings.flatMap((reading) => [...runsOf(reading, each), ...(each ? [] : runsAfter(reading, turns))]);
    for (const look of looks)
      if (look.at <= to) moments.set(look.at, (moments.get(look.at) ?? new Map<string, Seen>()).set(field, look));
  }
  const ordered = inOrder([...moments].map(([at, read]) => ({ at, own: true, read })));
  if (asked.length > 1) for (const { field, stepwise } of asked) if (stepwise) fillIn(ordered, field);
  const beside = (around?.moves(rule, identity) ?? []).filter((at) => at <= to && !moments.has(at));
  const all =
    beside.length === 0
      ? ordered
      : inOrder([...ordered, ...beside.map((at) => ({ at, own: false, read: new Map<string, Seen>() }))]);
  return all.slice(-MOST_TIMESTAMPS);
}

const inOrder = (moments: ReplayedMoment[]): ReplayedMoment[] => moments.sort((one, other) => one.at - other.at);

/**
 * What a stored reading stands for: one run, or, where each counts, those at which it was seen: the first and the last
 * as they were, the others evenly between; of more than so many the latest.
 */
export function runsOf({ at, until, runs, value }: StoredReading, each: boolean, most = MOST_TIMESTAMPS): Seen[] {
  if (!each) return [{ value, at, until, filled: false }];
  if (runs < 2 || until <= at) return [{ value, at, until: at, filled: false }];
  const first = Math.max(0, runs - most);
  return Array.from({ length: runs - first }, (_, look) => {
    const time = Math.round(at + ((until - at) * (first + look)) / (runs - 1));
    return { value, at: time, until: time, filled: false };
  });
}

/** The looks at which a value was seen next after each of some moments, given in order. */
function runsAfter(reading: StoredReading, turns: readonly Instant[]): Seen[] {
  const { at, until, runs, value } = reading;
  if (runs < 2 || until <= at) return [];
  const step = (until - at) / (runs - 1);
  const within = turns.filter((turn) => turn > at && turn <= until);
  return within.map((turn) => {
    const time = Math.min(until, Math.round(at + Math.ceil((turn - at) / step) * step));
    return { value, at: time, until: time, filled: false };
  });
}

/** Gives every moment what was in force then of a field. */
function fillIn(moments: ReplayedMoment[], field: string): void {
  let last: Seen | null = null;
  for (const { at, read } of moments) {
    const here = read.get(field);
    if (here !== undefined) last = here;
    else if (last !== null) read.set(field, { ...last, at, filled: true });
  }
}
