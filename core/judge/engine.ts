import { compareDecimals, type Decimal } from '../value/decimal';
import { isMeasure, type Measure } from '../value/value';
import { DAY, type Instant } from '../when/interval';
import { keyOf, isOwn } from './asked';
import { asksIn, clausesOf, isEvent, isSilence, type Clause, type Condition } from './clause';
import { beyondBy, ZERO } from './limits';
import {
  freshFor,
  isTooOld,
  mayLeanOn,
  undecided,
  type Facts,
  type Finding,
  type Observation,
  type Latest,
  type Run,
} from './observation';
import { kindOf } from './kinds/table';
import { judge, metParts, numbered, stillHeld, type Judgement, type Part } from './tree';

/**
 * How long a condition must be met before it is raised: at so many good readings in a row, or without interruption for
 * a time in ms.
 */
type Hold = { for: 'readings'; count: number } | { for: 'time'; ms: number };

/** What is judged of a rule: its condition, how long it must hold, and what is made of a baseline that meets it. */
export interface Rule {
  when: Condition;
  hold?: Hold;
  whenAlreadyMet: 'raise' | 'wait';
  /** The same for records that turn up later; they are raised where nothing is said. */
  later?: 'raise' | 'wait';
  /** When it is told: once an episode, at every reading that meets, or at every move while it is met. */
  told?: 'episode' | 'reading' | 'move';
}

/** The value furthest beyond the limit since the opening, the first of equals. */
interface Peak {
  value: Measure;
  at: Instant;
  /** How far beyond, as an amount; what was remembered of before has none. */
  far?: Decimal;
}

/** Where a rule stands on its subject. */
type State =
  | { is: 'undecided' }
  | { is: 'calm' }
  /** Met, and not yet for long enough; `until` is when a time to hold is up, null where the next reading decides. */
  | { is: 'holding'; since: Instant; readings: number; until: Instant | null; peak: Peak | null }
  /**
   * Met and told, or opened by hand; its episode is open from `opened` on. `step`: how many further limits were met,
   * and told.
   */
  | { is: 'raised'; opened: Instant; raised: Instant; peak: Peak | null; byHand?: true; step?: number };

/**
 * All that a rule remembers of one subject. A step costs the same whatever lies behind it; only stretches keep
 * readings.
 */
export interface Memory {
  clauses: ClauseMemory[];
  state: State;
  /** Parts of the condition that count as not met until they are left: met at the baseline, or closed by hand. */
  heldBack: number[];
  /** The baseline was judged. */
  begun: boolean;
  /** Up to when the clock was judged. */
  clock: Instant;
  /** What is older than this is late: the clock has judged. */
  lateBefore: Instant;
  /** The latest good reading of its own watch. */
  latest: Instant | null;
  /** It is not there, or no longer one that the rule runs for: then but its silence, or nothing, is judged. */
  away?: 'gone' | 'dropped';
  /** Since when an open episode is undecided; and that this was said. */
  openSince: Instant | null;
  saidOpen: boolean;
}

interface ClauseMemory {
  own: unknown;
  standing: Pick<Finding, 'is' | 'unlike' | 'byMargin' | 'step'> & {
    /** What it was before it became undecided. */
    was?: 'met' | 'unmet';
  };
  /** Until when what it was found to be may be leant on: what it is held against is too old then. */
  leansUntil?: Instant;
}

/** What a step brings about. */
type Effect =
  /**
   * There is something to tell: it was raised, it happened, or inside an episode it is met again, or meets a further
   * limit.
   */
  | { do: 'alert'; of: 'raised' | 'event' | 'again' | 'further'; happened?: true }
  | { do: 'open'; at: Instant; peak: Peak | null }
  | { do: 'peak'; peak: Peak }
  | { do: 'close'; because: 'left' | 'unlike' | 'record gone' | 'by hand' }
  /** It was judged, and can no longer be: values are counted in something else. */
  | { do: 'say'; what: 'cannot be judged' | 'undecided for a day' };

/** One step of a rule on a subject: when, what it brings about, and what each clause was found to be by it. */
export interface Step {
  at: Instant;
  by: 'stretch' | 'deed' | 'run' | 'clock';
  memory: Memory;
  effects: Effect[];
  verdict: Judgement['is'];
  findings: (Finding | null)[];
}

/** What the engine has to know besides a rule: how often its watch looks, and when it was saved. */
export interface Situation {
  intervalMs: number;
  savedAt: Instant;
  /** The record turned up later than the rule's baseline. */
  later?: boolean;
}

/** What a rule remembers before anything was heard. */
export function freshMemory(rule: Rule, situation: Situation): Memory {
  const { savedAt } = situation;
  const clauses = clausesOf(rule.when).map((clause) => ({
    own: kindOf(clause).works.fresh(clause, situation),
    standing: { is: 'undecided' as const },
  }));
  const never = -8_640_000_000_000_000;
  return {
    clauses,
    state: { is: 'undecided' },
    heldBack: [],
    begun: false,
    clock: savedAt - 1,
    lateBefore: never,
    latest: null,
    openSince: null,
    saidOpen: false,
  };
}

/** Takes a good reading of before the rule was saved: stretches and bases see it, and nothing is judged. */
export function learn(rule: Rule, memory: Memory, key: string, reading: Latest): Memory {
  const clauses = clausesOf(rule.when).map((clause, at) => {
    const known = memory.clauses[at] as ClauseMemory;
    return { ...known, own: kindOf(clause).works.learn?.(clause, known.own, key, reading) ?? known.own };
  });
  return { ...memory, clauses };
}

/**
 * Judges what was heard, after what the clock had to say before. The last step is that of what was heard; it may bring
 * nothing about.
 */
export function hear(rule: Rule, memory: Memory, heard: Observation, situation: Situation): Step[] {
  // What went by before a rule was saved is over: what was known by then comes before the clock.
  const isKnown = heard.of === 'run' && heard.known === true;
  const before = isKnown ? [] : advance(rule, memory, heard.at, 'before a run', situation);
  const known = returned(rule, before.at(-1)?.memory ?? memory, heard, situation);
  // What is due at this very moment by the clock comes after what is heard.
  const now = { ...known, clock: Math.max(known.clock, heard.at - 1) };
  return [...before, new Turning(rule, now, situation).hear(inTime(heard, known.lateBefore))];
}

/** Judges what only the clock moves, up to a moment and with it. */
export function wake(rule: Rule, memory: Memory, at: Instant, situation: Situation): Step[] {
  return advance(rule, memory, at, 'with it', situation);
}

/** When the clock may move a rule on its subject next; null where it waits for a reading. */
export function nextAt(rule: Rule, memory: Memory, situation: Situation): Instant | null {
  const [end, tick] = [nextEnd(rule, memory), nextTick(rule, memory, situation)];
  return end === null ? tick : tick === null ? end : Math.min(end, tick);
}

/** An episode that a person opens, of a rule that is not raised. */
export function openByHand(rule: Rule, memory: Memory, at: Instant, situation: Situation): Step[] {
  const before = advance(rule, memory, at, 'before a run', situation);
  const known = before.at(-1)?.memory ?? memory;
  return [...before, new Turning(rule, known, situation).openByHand(at)];
}

const isByHand = (state: State): boolean => state.is === 'raised' && state.byHand === true;

/** An episode that is closed by hand is not raised again before its levels were left. */
export function closeByHand(rule: Rule, memory: Memory, at: Instant, situation: Situation): Step[] {
  const before = advance(rule, memory, at, 'before a run', situation);
  const known = before.at(-1)?.memory ?? memory;
  return [...before, new Turning(rule, known, situation).closeByHand(at)];
}

/** At one moment stretches end before a run is heard, and the clock is judged after it. */
function advance(
  rule: Rule,
  memory: Memory,
  to: Instant,
  how: 'before a run' | 'with it',
  situation: Situation,
): Step[] {
  const steps: Step[] = [];
  for (let known = memory; ;) {
    const [end, tick] = [nextEnd(rule, known), nextTick(rule, known, situation)];
    const isEnd = end !== null && end <= to && (tick === null || end <= tick);
    const isTick = !isEnd && tick !== null && (tick < to || (tick === to && how === 'with it'));
    if (!isEnd && !isTick) return steps;
    const step = isEnd
      ? new Turning(rule, known, situation).end(end)
      : new Turning(rule, known, situation).tick(tick as Instant);
    steps.push(step);
    known = step.memory;
  }
}

/** What has gone by while a record was away is over, and is not judged when it is back. */
function returned(rule: Rule, memory: Memory, heard: Observation, situation: Situation): Memory {
  if (memory.away === undefined || heard.of !== 'run') return memory;
  const { away: _away, ...back } = memory;
  const facts = factsOf(rule, back, situation);
  const clauses = clausesOf(rule.when).map((clause, at) => {
    const known = back.clauses[at] as ClauseMemory;
    const { nextEnd: ends, clock } = kindOf(clause).works;
    const end = ends?.(clause, known.own) ?? null;
    if (end === null || end > heard.at) return known;
    return { ...known, own: clock?.(clause, known.own, heard.at, facts)?.memory ?? known.own };
  });
  return { ...back, clauses };
}

/** Whether the clock judges a clause of a record: of one that is away, only its silence, and of one dropped nothing. */
const isJudged = (clause: Clause, { away }: Memory): boolean =>
  away === undefined || (away === 'gone' && isSilence(clause));

/** When a stretch of the calendar ends next: before what is heard at that moment. */
function nextEnd(rule: Rule, memory: Memory): Instant | null {
  return earliest(
    clausesOf(rule.when).map((clause, at) => (isJudged(clause, memory) ? endOf(clause, memory, at) : null)),
  );
}

const endOf = (clause: Clause, { clauses }: Memory, at: number): Instant | null =>
  kindOf(clause).works.nextEnd?.(clause, clauses[at]?.own) ?? null;

/** When anything else moves next by the clock: after what is heard at that moment. */
function nextTick(rule: Rule, memory: Memory, situation: Situation): Instant | null {
  const facts = factsOf(rule, memory, situation);
  const silences = clausesOf(rule.when).map((clause, at) =>
    isJudged(clause, memory) ? tickOf(clause, memory, at, facts) : null,
  );
  const { state, openSince, saidOpen } = memory;
  const held = state.is === 'holding' && state.until !== null ? Math.max(state.until, memory.clock + 1) : null;
  const open = openSince === null || saidOpen ? null : openSince + DAY;
  return earliest([...silences, held, open]);
}

const tickOf = (clause: Clause, { clauses, clock }: Memory, at: number, facts: Facts): Instant | null =>
  kindOf(clause).works.nextAt?.(clause, clauses[at]?.own, clock, facts) ?? null;

function earliest(moments: (Instant | null)[]): Instant | null {
  const known = moments.flatMap((at) => at ?? []);
  return known.length === 0 ? null : Math.min(...known);
}

function factsOf(rule: Rule, { begun, state }: Memory, { intervalMs, savedAt, later }: Situation): Facts {
  const choice = later === true ? (rule.later ?? 'raise') : rule.whenAlreadyMet;
  return { intervalMs, savedAt, baseline: !begun, raise: choice === 'raise', raised: state.is === 'raised' };
}

/** Readings older than what the clock has judged only take their place. */
function inTime(heard: Observation, lateBefore: Instant): Observation {
  if (heard.of !== 'run' || [...heard.read.values()].every(({ at }) => at >= lateBefore)) return heard;
  const late = new Map(heard.late);
  const read = new Map<string, Latest>();
  for (const [key, reading] of heard.read) {
    if (reading.at >= lateBefore) read.set(key, reading);
    else late.set(key, [...(late.get(key) ?? []), reading]);
  }
  // What only takes its place is of no moment but that at which it came.
  return { ...heard, read, late, moment: read.size === 0 ? heard.at : heard.moment };
}

/** One step in the making. */
class Turning {
  readonly #clauses: readonly Clause[];
  readonly #root: Part;
  readonly #facts: Facts;
  readonly #known: ClauseMemory[];
  readonly #findings: (Finding | null)[];
  readonly #effects: Effect[] = [];

  constructor(
    private readonly rule: Rule,
    private readonly memory: Memory,
    private readonly situation: Situation,
  ) {
    this.#clauses = clausesOf(rule.when);
    this.#root = numbered(rule.when);
    this.#facts = factsOf(rule, memory, situation);
    this.#known = [...memory.clauses];
    this.#findings = this.#clauses.map(() => null);
  }

  hear(heard: Observation): Step {
    const own = heard.of === 'run' && heard.own && this.#asksOf(heard.read);
    const heardOf = this.#clauses.map((clause, at) => this.#take(at, this.#heardBy(clause, at, heard)));
    if (heard.of === 'run') for (const [at, clause] of this.#clauses.entries()) this.#lean(clause, at, heard);
    const baseline = !this.memory.begun && own;
    const moment = heard.of === 'run' ? heard.moment : heard.at;
    const memory = { ...this.memory, begun: this.memory.begun || own, latest: own ? moment : this.memory.latest };
    if (heard.of === 'gone' || heard.of === 'dropped') return this.#leaves(memory, heard);
    if (!heardOf.some(Boolean)) return this.#step('run', heard.at, memory);
    this.#slide(heard.at);
    return this.#judged('run', { at: heard.at, moment, own, baseline }, memory);
  }

  /** What slides is judged as of the moment at which anything is read, whether it was itself read or not. */
  #slide(at: Instant): void {
    for (const [n, clause] of this.#clauses.entries())
      if (this.#findings[n] === null && !isSilence(clause) && isDue(tickOf(clause, this.memory, n, this.#facts), at))
        this.#tick(clause, n, at);
  }

  end(at: Instant): Step {
    for (const [n, clause] of this.#clauses.entries())
      if (isJudged(clause, this.memory) && isDue(endOf(clause, this.memory, n), at)) this.#tick(clause, n, at);
    const memory = { ...this.memory, lateBefore: at };
    // Before its baseline a stretch ends nothing, save of what was heard of others.
    if (!memory.begun && this.#findings.every((finding) => finding === null)) return this.#step('stretch', at, memory);
    return this.#judged('stretch', { at, moment: at, own: false, baseline: false }, memory);
  }

  tick(at: Instant): Step {
    for (const [n, clause] of this.#clauses.entries())
      if (isJudged(clause, this.memory) && isDue(tickOf(clause, this.memory, n, this.#facts), at))
        this.#tick(clause, n, at);
    const { state, openSince, saidOpen } = this.memory;
    const open = openSince !== null && !saidOpen && openSince + DAY <= at;
    if (open) this.#effects.push({ do: 'say', what: 'undecided for a day' });
    const memory = { ...this.memory, clock: at, saidOpen: saidOpen || open };
    // Before its baseline only what does not come is judged.
    if (!memory.begun && !open && this.#findings.every((finding) => finding === null))
      return this.#step('clock', at, memory);
    // What is silent already when the rule is saved meets it then.
    const baseline = !this.memory.begun && at <= this.situation.savedAt;
    return state.is === 'holding' && isDue(state.until, at) && this.#goesOn()
      ? this.#holdIsUp(memory, state, at)
      : this.#judged('clock', { at, moment: at, own: false, baseline }, memory);
  }

  /** Whether what holds has neither ended by now, nor become something that cannot be judged. */
  #goesOn(): boolean {
    const { is, unlike } = judge(this.#root, this.#standing, this.memory.heldBack);
    return is === 'met' || (is === 'undecided' && !unlike);
  }

  closeByHand(at: Instant): Step {
    const { state } = this.memory;
    if (state.is !== 'raised') return this.#step('deed', at, this.memory);
    this.#effects.push({ do: 'close', because: 'by hand' });
    const heldBack = [...new Set([...this.memory.heldBack, ...metParts(this.#root, this.#stoodLast)])];
    return this.#step('deed', at, {
      ...this.memory,
      openSince: null,
      saidOpen: false,
      state: { is: 'calm' },
      heldBack,
    });
  }

  /** What a clause makes of what was heard. */
  #heardBy(clause: Clause, at: number, heard: Observation): { memory: unknown; finding: Finding | null } | null {
    const { works } = kindOf(clause);
    const old = heard.of === 'run' ? this.#tooOld(clause, heard) : [];
    const [first] = old;
    if (heard.of !== 'run' || first === undefined) return works.hear(clause, this.#ownOf(at), heard, this.#facts);
    // Nothing can be said of it; what was read beside what is too old is known from now on.
    const read = new Map(heard.read);
    for (const [key] of old) read.delete(key);
    const turn = works.hear(clause, this.#ownOf(at), { ...heard, read }, this.#facts);
    return { memory: turn?.memory ?? this.#ownOf(at), finding: undecided({ code: 'too old', at: first[1].at }) };
  }

  /** What a clause asks of another watch that is too old to go by. */
  #tooOld(clause: Clause, heard: Run): [string, Latest][] {
    return asksIn(clause).flatMap((asked): [string, Latest][] => {
      const latest = heard.read.get(keyOf(asked));
      return latest !== undefined && isTooOld(asked, latest, heard.at, this.situation) ? [[keyOf(asked), latest]] : [];
    });
  }

  /** Until when what a clause says of others may be leant on. */
  #lean(clause: Clause, at: number, { read }: Run): void {
    const ends = asksIn(clause).flatMap((asked) => {
      const latest = read.get(keyOf(asked));
      const end = latest === undefined ? Infinity : latest.at + mayLeanOn(asked, latest, this.situation);
      return Number.isFinite(end) ? end : [];
    });
    const known = this.#known[at];
    if (known !== undefined && ends.length > 0) this.#known[at] = { ...known, leansUntil: Math.min(...ends) };
  }

  /** Opened by hand it does not end because its condition is not met. */
  openByHand(at: Instant): Step {
    if (this.memory.state.is === 'raised') return this.#step('deed', at, this.memory);
    this.#effects.push({ do: 'open', at, peak: null }, { do: 'alert', of: 'raised' });
    return this.#step('deed', at, {
      ...this.memory,
      openSince: null,
      saidOpen: false,
      state: { is: 'raised', opened: at, raised: at, peak: null, byHand: true },
      heldBack: [],
    });
  }

  #ownOf(at: number): unknown {
    return this.#known[at]?.own;
  }

  #tick(clause: Clause, n: number, at: Instant): void {
    this.#take(n, kindOf(clause).works.clock?.(clause, this.#ownOf(n), at, this.#facts) ?? null);
  }

  /** Keeps what became of a clause; an event stands as not met once its moment has passed. */
  #take(at: number, turn: { memory: unknown; finding: Finding | null } | null): boolean {
    const known = this.#known[at];
    if (turn === null || known === undefined) return false;
    const { finding } = turn;
    this.#findings[at] = finding;
    const said = this.#clauses[at];
    this.#known[at] = {
      ...known,
      own: turn.memory,
      standing: finding === null ? known.standing : standingAfter(known.standing, finding, said),
    };
    return true;
  }

  /** How a clause stood when it was known last. */
  readonly #stoodLast = (clause: number, said: Clause): Judgement => {
    const { is, was } = this.#known[clause]?.standing ?? { is: 'undecided' };
    return is === 'undecided' && was !== undefined ? { is: was, unlike: false } : this.#standing(clause, said);
  };

  /** How a clause stands at a moment, what is too old by then left out. */
  readonly #leanedOn =
    (at: Instant) =>
    (clause: number, said: Clause): Judgement =>
      (this.#known[clause]?.leansUntil ?? at) < at ? { is: 'undecided', unlike: false } : this.#standing(clause, said);

  /** Whether anything was read that the rule asks of its own record; where it asks for no field, any run will do. */
  #asksOf(read: ReadonlyMap<string, Latest>): boolean {
    const keys = this.#clauses.flatMap(ownKeys);
    return keys.length === 0 || keys.some((key) => read.has(key));
  }

  /** How a clause stands for the state: an event as not met, save where it cannot be judged. */
  readonly #standing = (clause: number, said: Clause): Judgement => {
    const { is, unlike = false } = this.#known[clause]?.standing ?? { is: 'undecided' };
    return isEvent(said) && !unlike ? { is: 'unmet', unlike: false } : { is, unlike };
  };

  /** How a clause stands at this moment, its event with it. */
  readonly #atThisMoment = (clause: number, said: Clause): Judgement =>
    isEvent(said) && this.#findings[clause]?.happened === true
      ? { is: 'met', unlike: false }
      : this.#standing(clause, said);

  /** How a clause stands without its margin. */
  readonly #withoutMargin = (clause: number, said: Clause): Judgement =>
    this.#known[clause]?.standing.byMargin === true ? { is: 'unmet', unlike: false } : this.#standing(clause, said);

  #judged(by: Step['by'], moment: Moment, memory: Memory): Step {
    const held = this.#heldBack(memory, moment.baseline);
    const verdict = judge(this.#root, this.#standing, held);
    const state = this.#moved(memory, verdict, moment);
    const isOpen = state.is === 'raised' && verdict.is === 'undecided';
    const openSince = isOpen ? (memory.openSince ?? moment.at) : null;
    this.#tellMoments(memory, verdict, state, moment, held);
    const changed = by !== 'run' && state.is !== memory.state.is;
    const next = {
      ...memory,
      openSince,
      saidOpen: isOpen && memory.saidOpen,
      ...(changed ? { lateBefore: Math.max(memory.lateBefore, moment.at) } : {}),
    };
    return this.#step(by, moment.at, { ...next, state, heldBack: held }, verdict);
  }

  /** What is met at a baseline waits to be left, where she chose so. */
  #heldBack({ heldBack }: Memory, baseline: boolean): number[] {
    const still = stillHeld(this.#root, this.#standing, heldBack);
    if (!baseline || this.#facts.raise || judge(this.#root, this.#standing).is !== 'met') return still;
    return metParts(this.#root, this.#standing);
  }

  #moved({ state }: Memory, { is, unlike }: Judgement, moment: Moment): State {
    if (is === 'undecided') return unlike ? this.#unlike(state) : state;
    if (is === 'unmet') return this.#unmet(state);
    if (state.is === 'raised') return this.#stays(state, moment);
    return this.#holds(state, moment);
  }

  #unlike(state: State): State {
    if (state.is === 'undecided') return state;
    if (state.is === 'raised') this.#effects.push({ do: 'close', because: 'unlike' });
    this.#effects.push({ do: 'say', what: 'cannot be judged' });
    return { is: 'undecided' };
  }

  #unmet(state: State): State {
    if (isByHand(state)) return state;
    if (state.is === 'raised') this.#effects.push({ do: 'close', because: 'left' });
    return state.is === 'calm' ? state : { is: 'calm' };
  }

  #stays(state: Extract<State, { is: 'raised' }>, moment: Moment): State {
    const peak = this.#further(state.peak, moment);
    const step = this.#steps();
    if (step > (state.step ?? 0)) this.#effects.push({ do: 'alert', of: 'further' });
    const known = step > (state.step ?? 0) ? { ...state, step } : state;
    if (peak === null || peak === state.peak) return known;
    this.#effects.push({ do: 'peak', peak });
    return { ...known, peak };
  }

  /** How many further limits are met, of all clauses together. */
  #steps(): number {
    return this.#known.reduce((sum, { standing: { is, step = 0 } }) => sum + (is === 'met' ? step : 0), 0);
  }

  #holds(state: Exclude<State, { is: 'raised' }>, moment: Moment): State {
    const { hold } = this.rule;
    const peak = this.#further(state.is === 'holding' ? state.peak : null, moment);
    if (hold === undefined) return this.#raise(moment.moment, moment.at, peak);
    const readings = (state.is === 'holding' ? state.readings : 0) + (moment.own ? 1 : 0);
    if (state.is !== 'holding') {
      const until = hold.for === 'time' ? moment.moment + hold.ms : null;
      const holding: State = { is: 'holding', since: moment.moment, readings, until, peak };
      return hold.for === 'readings' && readings >= hold.count ? this.#raise(holding.since, moment.at, peak) : holding;
    }
    const isUp = hold.for === 'readings' ? readings >= hold.count : state.until === null && moment.own;
    return isUp ? this.#raise(state.since, moment.at, peak) : { ...state, readings, peak };
  }

  /**
   * A time to hold is up: raised where it is still met and was heard of lately, else at the next good reading that
   * meets.
   */
  #holdIsUp(memory: Memory, state: Extract<State, { is: 'holding' }>, at: Instant): Step {
    const verdict = judge(this.#root, this.#leanedOn(at), memory.heldBack);
    const fresh = memory.latest !== null && at - memory.latest <= freshFor(this.situation);
    if (verdict.is !== 'met' || !fresh)
      return this.#step('clock', at, { ...memory, state: { ...state, until: null } }, verdict);
    const raised = this.#raise(state.since, at, state.peak);
    const lateBefore = Math.max(memory.lateBefore, at);
    return this.#step('clock', at, { ...memory, lateBefore, state: raised }, verdict);
  }

  #raise(opened: Instant, raised: Instant, peak: Peak | null): State {
    this.#effects.push({ do: 'open', at: opened, peak }, { do: 'alert', of: 'raised' });
    const step = this.#steps();
    return { is: 'raised', opened, raised, peak, ...(step === 0 ? {} : { step }) };
  }

  /** The furthest value beyond its limit so far: of a rule of one clause that has one. */
  #further(peak: Peak | null, { moment }: Moment): Peak | null {
    const [only, another] = this.#clauses;
    const { value, far } = this.#findings[0] ?? {};
    if (only === undefined || another !== undefined || value === undefined || far === undefined || !isMeasure(value))
      return peak;
    return peak === null || compareDecimals(far, farOf(peak, only)) > 0 ? { value, at: moment, far } : peak;
  }

  /**
   * What is told besides a raising: an event outside of an episode; inside of one what she asked to hear of each time.
   */
  #tellMoments(
    { state: before }: Memory,
    verdict: Judgement,
    after: State,
    moment: Moment,
    held: readonly number[],
  ): void {
    if (this.#effects.some((effect) => effect.do === 'alert')) return;
    const now = judge(this.#root, this.#atThisMoment, held);
    const happened = this.#findings.some((finding) => finding?.happened === true) && now.is === 'met';
    if (before.is !== 'raised' || after.is !== 'raised') {
      if (happened && verdict.is !== 'met') this.#effects.push({ do: 'alert', of: 'event' });
      return;
    }
    const meets = moment.own && judge(this.#root, this.#withoutMargin, held).is === 'met';
    const moved = this.#findings.some((finding) => finding?.moved === true);
    const again = this.rule.told === 'reading' ? meets : this.rule.told === 'move' && (happened || (meets && moved));
    if (again) this.#effects.push({ do: 'alert', of: 'again', ...(happened ? { happened } : {}) });
  }

  /**
   * A record that vanished, or that the rule no longer runs for: an event of that is told, an episode closes, and what
   * it is found to be when it comes back is judged afresh. Of one that vanished silence goes on.
   */
  #leaves(memory: Memory, { of, at }: Extract<Observation, { of: 'gone' | 'dropped' }>): Step {
    const isOver = (clause: Clause) => of === 'dropped' || !isSilence(clause);
    if (!this.#clauses.some(isOver)) return this.#step('run', at, memory);
    for (const [n, clause] of this.#clauses.entries()) {
      const known = this.#known[n];
      if (known !== undefined && isOver(clause)) this.#known[n] = { ...known, standing: { is: 'undecided' } };
    }
    const happened =
      judge(this.#root, this.#atThisMoment, memory.heldBack).is === 'met' &&
      this.#findings.some((finding) => finding?.happened === true);
    if (memory.state.is === 'raised') this.#effects.push({ do: 'close', because: 'record gone' });
    if (happened) this.#effects.push({ do: 'alert', of: 'event' });
    const state: State = { is: 'undecided' };
    const away = memory.away === 'dropped' ? 'dropped' : of;
    return this.#step('run', at, { ...memory, away, openSince: null, saidOpen: false, state });
  }

  #step(by: Step['by'], at: Instant, memory: Memory, verdict?: Judgement): Step {
    const told = this.#effects.some((effect) => effect.do === 'alert');
    const clauses = told ? this.#known.map((known, n) => this.#toldOf(known, this.#clauses[n] as Clause)) : this.#known;
    const is = verdict?.is ?? judge(this.#root, this.#standing, memory.heldBack).is;
    return {
      at,
      by,
      memory: { ...memory, clauses },
      effects: this.#effects,
      verdict: is,
      findings: this.#findings,
    };
  }

  #toldOf(known: ClauseMemory, clause: Clause): ClauseMemory {
    return { ...known, own: kindOf(clause).works.told?.(clause, known.own) ?? known.own };
  }
}

/**
 * The moment of a step: when it is judged, when it was so, whether its own watch was read, and whether that is the
 * baseline.
 */
interface Moment {
  at: Instant;
  moment: Instant;
  own: boolean;
  baseline: boolean;
}

const isDue = (next: Instant | null, at: Instant): boolean => next !== null && next <= at;

/** The fields of its own record that a clause asks. */
const ownKeys = (clause: Clause): string[] => asksIn(clause).flatMap((asked) => (isOwn(asked) ? asked.field : []));

/**
 * How a clause stands after what it was found to be. What was counted in something else stays so while nothing is read,
 * of an event, too, which stands as not met otherwise.
 */
function standingAfter(
  before: ClauseMemory['standing'],
  { is, unlike, byMargin, step }: Finding,
  clause: Clause | undefined,
): ClauseMemory['standing'] {
  const stillUnlike = is === 'undecided' && before.unlike === true && clause !== undefined && isEvent(clause);
  const was = is !== 'undecided' || unlike === true ? undefined : before.is === 'undecided' ? before.was : before.is;
  return {
    is,
    ...(unlike === true || stillUnlike ? { unlike: true } : {}),
    ...(byMargin === undefined ? {} : { byMargin }),
    ...(step === undefined ? {} : { step }),
    ...(was === undefined ? {} : { was }),
  };
}

/** How far beyond its limit a peak is; of one remembered without that, as far as its limits say. */
const farOf = ({ value, far }: Peak, clause: Clause): Decimal =>
  far ?? ('limits' in clause ? beyondBy(clause.limits, value) : ZERO);
