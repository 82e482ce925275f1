import { decimal, fractionDigits } from '../value/decimal';
import type { Measure } from '../value/value';
import { DAY, type Instant } from '../when/interval';
import { listing, runsFor, type Backtest, type TestedEpisode } from './backtest';
import { clausesOf } from './clause';
import { CELL, FILLED, type Column, type Columns, type Table } from './columns';
import { freshFor } from './observation';
import { lastSeen } from './past-moments';
import { scaled, type CompiledTest } from './whole-steps';
import { kindOf } from './kinds/table';
import type { Situation } from './engine';
import type { RuleDefinition } from './rule';
import {
  freshThrottle,
  nextThrottle,
  tellAt,
  tellOf,
  type Throttle,
  type ThrottleEvent,
  type ThrottleMemory,
  type ThrottleTransition,
} from './throttle';

// A rule compiled to run over columns of whole numbers: levels and crossings of the readings themselves, joined by all
// or any, with holds and margins. What it cannot say is judged by the engine; the two are held to each other by the
// tests.

/** What a clause stands at. */
const UNDECIDED = 0;
const MET = 1;
const UNMET = 2;

/** What a crossing saw last. */
const UNJUDGED = 0;
const AFRESH = 1;
const CLEAR = 2;
const BEYOND = 3;
const PASSED_OVER = 4;

/** The state of the rule. */
const NOWHERE = 0;
const CALM = 1;
const HOLDING = 2;
const RAISED = 3;

interface Compiled {
  tests: CompiledTest[];
  all: boolean;
  single: boolean;
  rule: RuleDefinition;
}

/** Compiles a rule for some columns; null where it says more than this can run. */
export function compile(rule: RuleDefinition, columns: Columns): Compiled | null {
  const { when, told, hold } = rule;
  if (told !== undefined && told !== 'episode') return null;
  if (hold?.for === 'readings' && hold.count < 1) return null;
  if (!isFlat(when)) return null;
  const tests: CompiledTest[] = [];
  for (const clause of clausesOf(when)) {
    const test = kindOf(clause).compile?.(clause, columns) ?? null;
    if (test === null) return null;
    tests.push(test);
  }
  // Of several series each point that came later has a time of its own.
  const isOne = new Set(tests.map(({ field }) => field)).size === 1;
  return tests.length === 0 || tests.length > 30 || (columns.stamped && !isOne)
    ? null
    : { tests, all: !('any' in when), single: tests.length === 1, rule };
}

const isFlat = (when: RuleDefinition['when']): boolean =>
  'kind' in when ||
  (!('none' in when) && Object.values(when).every((parts: object[]) => parts.every((part) => 'kind' in part)));

/** Runs a compiled rule over columns, as the engine would judge it. */
export function runCompiled(compiled: Compiled, columns: Columns, situation: Situation, to: Instant): Backtest {
  const { tables } = columns;
  const list = listing(compiled.rule, situation, to);
  const among = new Set(
    runsFor(
      compiled.rule,
      tables.map(({ history }) => history),
      to,
    ),
  );
  for (const table of tables.filter(({ history }) => among.has(history)))
    new Running(compiled, table, situation, columns, list).run(to);
  return list.done();
}

type List = ReturnType<typeof listing>;

/** One record, run through. */
class Running {
  readonly #standing: Uint8Array;
  readonly #side: Uint8Array;
  readonly #byUnlike: Uint8Array;
  #state = NOWHERE;
  #heldBack = 0;
  #begun = false;
  #since = 0;
  #readings = 0;
  /** When a time to hold is up; NaN where the next reading decides. */
  #until = NaN;
  #latest = NaN;
  /** What is older than this is late: the clock has judged. */
  #lateBefore = -Infinity;
  #openSince = NaN;
  #saidOpen = false;
  #peak = NaN;
  #open: TestedEpisode | null = null;
  #telling: ThrottleMemory;
  readonly #tells: Throttle | null;
  #clockAt = Infinity;
  #judged = 0;
  /** When the clock has something to tell; infinite where it has not. */
  #tellAt = Infinity;

  constructor(
    private readonly compiled: Compiled,
    private readonly table: Table,
    private readonly situation: Situation,
    private readonly columns: Pick<Columns, 'places' | 'read'>,
    private readonly list: List,
  ) {
    const count = compiled.tests.length;
    this.#standing = new Uint8Array(count);
    this.#side = new Uint8Array(count);
    this.#byUnlike = new Uint8Array(count);
    this.#telling = freshThrottle(situation.savedAt - 1);
    this.#tells = compiled.rule.telling ?? null;
  }

  run(to: Instant): void {
    const { at, so } = this.table;
    const columns = this.compiled.tests.map(({ field }) => this.table.fields.get(field) ?? null);
    const first = this.#begin(columns, to);
    for (let row = first; row < at.length; row += 1) {
      const now = at[row] as number;
      if (now > to) break;
      if (now > this.#clockAt) this.#clockUntil(now, false);
      if ((so[row] as number) < this.#lateBefore) this.#judged += isRead(columns, row) ? 1 : 0;
      else if (this.#read(columns, row)) this.#judge(now, so[row] as number, columns, row);
    }
    this.#clockUntil(to, true);
    if (this.#open !== null) this.list.episode(this.#open);
    this.list.readings(this.#judged);
  }

  /**
   * Judges what stood when the rule is pretended to have been saved, as far as it was seen within two runs; the first
   * row that comes after.
   */
  #begin(columns: (Column | null)[], to: Instant): number {
    const { at } = this.table;
    const { savedAt } = this.situation;
    let first = 0;
    while (first < at.length && (at[first] as number) < savedAt) first += 1;
    // What is read at that very moment is the baseline itself.
    let same = first;
    while (at[same] === savedAt && !isRead(columns, same)) same += 1;
    if (first === 0 || savedAt > to || at[same] === savedAt) return first;
    let last = first - 1;
    while (last >= 0 && !isRead(columns, last)) last -= 1;
    const baselines = columns.map((column) => this.#baseline(column, last));
    baselines.forEach((baseline, clause) => {
      const column = columns[clause];
      if (column == null || baseline === null) return;
      const { row } = baseline;
      this.#find(
        clause,
        this.compiled.tests[clause] as CompiledTest,
        (column.cell[row] as number) & ~FILLED,
        column.amount[row] as number,
        column.unit[row] as number,
      );
    });
    const known = baselines.flatMap((baseline) => baseline?.at ?? []);
    if (known.length > 0) this.#judge(savedAt, Math.max(...known), columns, baselines[0]?.row ?? -1);
    return first;
  }

  /** The last row up to one at which a column held something, and when that was seen last; null if too long ago. */
  #baseline(column: Column | null, from: number): { row: number; at: Instant } | null {
    const { savedAt } = this.situation;
    let row = from;
    while (column !== null && row >= 0 && column.cell[row] === CELL.none) row -= 1;
    if (column === null || row < 0) return null;
    // What stands there while others are read was read with them.
    const times = isFilled(column, row) ? this.table.at : this.table.so;
    const [at, until] = [times[row] as number, column.until[row] as number];
    const of = { runs: column.runs[row] as number };
    const { at: seen, came } = lastSeen(
      { at, until, came: this.table.at[row] as number, of },
      savedAt,
      this.columns.read,
    );
    return savedAt - came > freshFor(this.situation) ? null : { row, at: seen };
  }

  /** Takes what was read in a row; false where nothing was that the rule asks. */
  #read(columns: (Column | null)[], row: number): boolean {
    const { tests } = this.compiled;
    if (!isRead(columns, row)) return false;
    for (let clause = 0; clause < tests.length; clause += 1) {
      const column = columns[clause];
      const cell = column == null ? CELL.none : (column.cell[row] as number) & ~FILLED;
      if (cell === CELL.none || column == null) continue;
      this.#find(clause, tests[clause] as CompiledTest, cell, column.amount[row] as number, column.unit[row] as number);
    }
    return true;
  }

  #find(clause: number, test: CompiledTest, cell: number, amount: number, unit: number): void {
    this.#byUnlike[clause] = 0;
    if (cell === CELL.absent) this.#standing[clause] = UNDECIDED;
    else if (cell === CELL.other || unit !== test.unit) {
      this.#standing[clause] = UNDECIDED;
      this.#byUnlike[clause] = 1;
      this.#side[clause] = AFRESH;
    } else if ((amount >= test.least && amount <= test.most) !== test.elsewhere) this.#beyond(clause, test);
    else if (this.#side[clause] === BEYOND && this.#state === RAISED && test.isLeft !== null && !test.isLeft(amount))
      this.#standing[clause] = MET;
    else {
      this.#side[clause] = CLEAR;
      this.#standing[clause] = UNMET;
    }
  }

  #beyond(clause: number, { crossing }: CompiledTest): void {
    const side = this.#side[clause];
    const raise = this.compiled.rule.whenAlreadyMet === 'raise';
    const unseen = crossing && (side === AFRESH || side === PASSED_OVER || (side === UNJUDGED && !raise));
    this.#side[clause] = unseen ? PASSED_OVER : BEYOND;
    this.#standing[clause] = unseen ? UNMET : MET;
  }

  /** The verdict with some clauses counting as not met. */
  #verdict(heldBack: number): number {
    const deciding = this.compiled.all ? UNMET : MET;
    let open = false;
    for (let clause = 0; clause < this.#standing.length; clause += 1) {
      const standing = (heldBack >> clause) & 1 ? UNMET : (this.#standing[clause] as number);
      if (standing === deciding) return deciding;
      if (standing === UNDECIDED) open = true;
    }
    return open ? UNDECIDED : this.compiled.all ? MET : UNMET;
  }

  #isUnlike(heldBack: number): boolean {
    for (let clause = 0; clause < this.#byUnlike.length; clause += 1)
      if (!((heldBack >> clause) & 1) && this.#byUnlike[clause] === 1) return true;
    return false;
  }

  #judge(now: Instant, so: Instant, columns: (Column | null)[], row: number): void {
    const baseline = !this.#begun;
    this.#begun = true;
    this.#latest = so;
    this.#letGo();
    if (baseline && this.compiled.rule.whenAlreadyMet === 'wait' && this.#verdict(0) === MET)
      this.#heldBack = this.#metClauses();
    const verdict = this.#verdict(this.#heldBack);
    if (verdict === UNDECIDED) {
      this.list.undecided();
      if (this.#isUnlike(this.#heldBack)) this.#unlike(now);
    } else if (verdict === UNMET) this.#unmet(now);
    else this.#met(now, so, columns, row);
    this.#followOpen(verdict, now);
    this.#judged += 1;
    // Only what holds or is open waits for the clock.
    if (this.#state >= HOLDING || this.#clockAt !== Infinity) this.#clockAt = this.#nextClock;
  }

  /** What is held back lets go once it is found not met, or counted in something else. */
  #letGo(): void {
    if (this.#heldBack === 0) return;
    const verdict = this.#verdict(0);
    if (verdict === UNMET || (verdict === UNDECIDED && this.#isUnlike(0))) this.#heldBack = 0;
    else
      for (let clause = 0; clause < this.#standing.length; clause += 1)
        if (this.#standing[clause] === UNMET || this.#byUnlike[clause] === 1) this.#heldBack &= ~(1 << clause);
  }

  #metClauses(): number {
    let held = 0;
    for (let clause = 0; clause < this.#standing.length; clause += 1)
      if (this.#standing[clause] === MET) held |= 1 << clause;
    return held;
  }

  /** Since when an open episode is undecided. */
  #followOpen(verdict: number, now: Instant): void {
    if (this.#state === RAISED && verdict === UNDECIDED) {
      if (Number.isNaN(this.#openSince)) this.#openSince = now;
      return;
    }
    this.#openSince = NaN;
    this.#saidOpen = false;
  }

  #unlike(now: Instant): void {
    if (this.#state === NOWHERE) return;
    if (this.#state === RAISED) this.#close(now);
    else this.#endHolding(now);
    this.#state = NOWHERE;
    this.list.alert(this.table.history.identity, now, 'cannot be judged', []);
  }

  #unmet(now: Instant): void {
    if (this.#state === RAISED) this.#close(now);
    else this.#endHolding(now);
    this.#state = CALM;
  }

  #endHolding(now: Instant): void {
    if (this.#state === HOLDING)
      this.list.episode({
        identity: this.table.history.identity,
        opened: this.#since,
        raised: null,
        closed: now,
        peak: null,
        alerts: 0,
      });
  }

  #met(now: Instant, so: Instant, columns: (Column | null)[], row: number): void {
    const { hold } = this.compiled.rule;
    const amount = this.#peakIn(columns, row);
    if (this.#state === RAISED) {
      this.#further(amount);
      return;
    }
    const begins = this.#state !== HOLDING;
    if (begins) [this.#since, this.#readings, this.#peak] = [so, 0, NaN];
    this.#further(amount);
    this.#readings += 1;
    if (hold === undefined) return this.#raise(now);
    if (begins) {
      this.#until = hold.for === 'time' ? Math.max(so + hold.ms, now) : NaN;
      this.#state = HOLDING;
      if (hold.for === 'readings' && this.#readings >= hold.count) this.#raise(now);
      return;
    }
    if (hold.for === 'readings' ? this.#readings >= hold.count : Number.isNaN(this.#until)) this.#raise(now);
  }

  /** The value of the only clause; of several there is no peak. */
  #peakIn(columns: (Column | null)[], row: number): number {
    const [column] = columns;
    if (!this.compiled.single || column == null || row < 0) return NaN;
    return ((column.cell[row] as number) & ~FILLED) === CELL.value ? (column.amount[row] as number) : NaN;
  }

  #further(amount: number): void {
    if (Number.isNaN(amount)) return;
    if (
      Number.isNaN(this.#peak) ||
      isFurther(this.compiled.tests[0] as CompiledTest, amount, this.#peak, this.columns.places)
    )
      this.#peak = amount;
    if (this.#open !== null) this.#open.peak = this.#peakValue();
  }

  #peakValue(): Measure | null {
    const limits = this.compiled.tests[0]?.limits;
    if (limits === undefined || Number.isNaN(this.#peak)) return null;
    const like = 'limit' in limits ? limits.limit : limits.low;
    return {
      ...like,
      amount: decimal(plainly(this.#peak, this.columns.places, fractionDigits(like.amount))) ?? like.amount,
    };
  }

  #raise(now: Instant): void {
    this.#state = RAISED;
    this.#open = {
      identity: this.table.history.identity,
      opened: this.#since,
      raised: now,
      closed: null,
      peak: this.#peakValue(),
      alerts: 0,
    };
    this.#tell({ is: 'alert', of: 'raised' }, now);
  }

  #close(now: Instant): void {
    // An end that nobody was told the beginning of is no news.
    const tellsEnd =
      this.compiled.rule.tellsEnd === true &&
      (this.#tells === null || (this.#telling.open && this.#telling.untold !== true));
    this.#tell({ is: 'closed' }, now);
    if (this.#open !== null) this.list.episode({ ...this.#open, closed: now });
    if (tellsEnd) this.list.alert(this.table.history.identity, now, 'over', []);
    this.#open = null;
    this.#peak = NaN;
  }

  #tell(event: ThrottleEvent, now: Instant): void {
    if (this.#tells === null) {
      if (event.is === 'alert') this.#alert(now, 'alert');
      return;
    }
    this.#tellUntil(now - 1);
    this.#takeTold(tellOf(this.#tells, this.#telling, event, now), this.#tells);
  }

  #takeTold({ memory, told }: ThrottleTransition, telling: Throttle): void {
    this.#telling = memory;
    this.#tellAt = nextThrottle(telling, memory) ?? Infinity;
    for (const each of told) if (each.what !== 'kept') this.#alert(each.at, each.what);
  }

  #tellUntil(to: Instant): void {
    if (this.#tells !== null && this.#tellAt <= to) this.#takeTold(tellAt(this.#tells, this.#telling, to), this.#tells);
  }

  #alert(at: Instant, what: 'alert' | 'several' | 'reminder'): void {
    if (this.#open !== null) this.#open.alerts += 1;
    const met = this.#standing.reduce<number[]>(
      (found, standing, clause) => (standing === MET ? [...found, clause] : found),
      [],
    );
    this.list.alert(this.table.history.identity, at, what, met);
  }

  /** When the clock may have something to bring next. */
  get #nextClock(): number {
    const held = this.#state === HOLDING && !Number.isNaN(this.#until) ? this.#until : Infinity;
    const open = this.#saidOpen || Number.isNaN(this.#openSince) ? Infinity : this.#openSince + DAY;
    return Math.min(held, open, this.#tellAt);
  }

  /** What the clock brings until a moment, and with it where nothing is read then. */
  #clockUntil(to: Instant, withIt: boolean): void {
    const isDue = (at: number) => at < to || (withIt && at === to);
    if (this.#state === HOLDING && !Number.isNaN(this.#until) && isDue(this.#until)) {
      const at = this.#until;
      const fresh = at - this.#latest <= 2 * this.situation.intervalMs;
      this.#until = NaN;
      if (this.#verdict(this.#heldBack) === MET && fresh) {
        this.#lateBefore = Math.max(this.#lateBefore, at);
        this.#raise(at);
      }
    }
    if (!this.#saidOpen && !Number.isNaN(this.#openSince) && isDue(this.#openSince + DAY)) {
      this.#saidOpen = true;
      if (this.#open !== null) this.#open.alerts += 1;
      this.list.alert(this.table.history.identity, this.#openSince + DAY, 'undecided for a day', []);
    }
    this.#tellUntil(withIt ? to : to - 1);
    this.#clockAt = this.#nextClock;
  }
}

/** Whether something that is asked was read in a row, and does not only stand there. */
function isRead(columns: (Column | null)[], row: number): boolean {
  for (const column of columns) {
    const cell = column === null ? CELL.none : (column.cell[row] as number);
    if (cell !== CELL.none && cell < FILLED) return true;
  }
  return false;
}

const isFilled = ({ cell }: Column, row: number): boolean => (cell[row] as number) >= FILLED;

function isFurther({ limits }: CompiledTest, amount: number, than: number, places: number): boolean {
  if ('limit' in limits) return limits.is === 'below' ? amount < than : amount > than;
  const [low, high] = [scaled(limits.low.amount, places) ?? 0, scaled(limits.high.amount, places) ?? 0];
  const outside = (each: number) => Math.max(low - each, each - high);
  return limits.is === 'outside' ? outside(amount) > outside(than) : outside(amount) < outside(than);
}

/** A whole number of steps of `10 ** -places` as a decimal, without zeros at its end beyond so many places. */
function plainly(steps: number, places: number, least: number): string {
  const written = (steps / 10 ** places).toFixed(places);
  const spare = Math.min(/0*$/.exec(written)?.[0].length ?? 0, places - least);
  return spare <= 0 ? written : written.slice(0, written.length - (spare === places ? spare + 1 : spare));
}
