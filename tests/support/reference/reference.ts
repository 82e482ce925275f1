import { isOwn, keyOf, type Figure, type Limits, type JudgedWindow } from '#core/judge/asked';
import { asksIn, isEvent, type Clause, type Condition } from '#core/judge/clause';
import type { Rule, Situation } from '#core/judge/engine';
import type { Latest } from '#core/judge/observation';
import { isMeasure, sameValue, type Measure, type Value } from '#core/value/value';
import { DAY, HOUR, type Instant } from '#core/when/interval';
import type { Look } from '../rule-play';
import { hasMoved, hasTurned, ofAbsence, ofAnother, ofGrade, ofPhrase } from './kinds';
import { concernsPlace, ofPlace, type Looked } from './places';
import { alike, backBy, far, likeOf, make, middle, num, stands } from './arithmetic';

// A plain and slow judge of rules: at every step of a grid it works out each clause anew from everything that was read
// so far, with binary numbers, which are exact for the small whole amounts that it is given. It shares no step with the
// engine.

interface Seen extends Latest {
  /** When it came, whether it was the baseline, and whether the rule was raised before it was judged. */
  came: Instant;
  baseline: boolean;
  raised: boolean;
  /** Not judged: of before the rule was saved, or late. */
  unjudged: boolean;
  late: boolean;
}

interface Point extends Seen {
  key: string;
}

interface Found {
  is: 'met' | 'unmet' | 'undecided';
  unlike?: boolean;
  byMargin?: boolean;
  happened?: boolean;
  moved?: boolean;
  /** How many limits beyond the first one are met. */
  step?: number;
}

type LimitClause = Extract<Clause, { kind: 'level' | 'crossing' }>;
type MoveClause = Extract<Clause, { kind: 'move' }>;
type Mark = [at: Instant, what: string];

const UNDECIDED: Found = { is: 'undecided' };
const UNLIKE: Found = { is: 'undecided', unlike: true };
const met = (yes: boolean): Found => ({ is: yes ? 'met' : 'unmet' });

/** All that a rule does to its subject, by instants of a grid, in words. */
export class Reference {
  readonly marks: Mark[] = [];
  readonly #seen: Point[] = [];
  readonly #failed: { at: Instant }[] = [];
  readonly #looked: Looked[] = [];
  /** How many readings had been seen whenever the rule told. */
  readonly #told: number[] = [];
  #state: 'undecided' | 'calm' | 'holding' | 'raised' = 'undecided';
  /** How many further limits were met, and told, in the episode that is open. */
  #step = 0;
  #since = 0;
  #readings = 0;
  #pending = false;
  #latest: Instant | null = null;
  #begun = false;
  #lateBefore = -Infinity;
  #held = new Set<Condition>();
  #now = 0;
  #run: Look | null = null;
  readonly #standing = new Map<Clause, Found>();
  /** What stretches came to when they were judged last. */
  readonly #made = new Map<Clause, Measure>();
  #isBaselineNow = false;
  /** Of calendar stretches: what stood last, by clause. */
  readonly #calendar = new Map<Clause, { begin: Instant; early: boolean; stood: Found }>();

  constructor(
    private readonly rule: Rule,
    private readonly situation: Situation,
    private readonly grid: number,
  ) {}

  play(looks: Look[], until: Instant, history: Look[]): Mark[] {
    for (const { at, read = {} } of history)
      for (const [key, value] of Object.entries(read)) this.#put(key, { value, at }, at, { unjudged: true });
    const last = Math.max(until, looks.at(-1)?.at ?? 0);
    const start = this.situation.savedAt;
    let next = 0;
    for (let now = this.situation.savedAt; now <= last; now += this.grid) {
      this.#now = now;
      this.#ends();
      while (next < looks.length && (looks[next] as Look).at <= now) this.#hear(looks[next++] as Look);
      this.#clock();
      // What is older than a time is so a millisecond after it.
      this.#now = now + 1;
      if (this.grid > 1) this.#clock();
    }
    return this.marks.map(([at, what]) => [start + Math.ceil((at - start) / this.grid) * this.grid, what]);
  }

  #put(key: string, { value, at }: Latest, came: Instant, more: Partial<Seen> = {}): void {
    this.#seen.push({
      key,
      value,
      at,
      came,
      baseline: false,
      raised: this.#state === 'raised',
      unjudged: false,
      late: false,
      ...more,
    });
  }

  #clauses(condition: Condition = this.rule.when): Clause[] {
    if ('kind' in condition) return [condition];
    return ('all' in condition ? condition.all : 'any' in condition ? condition.any : condition.none).flatMap((each) =>
      this.#clauses(each),
    );
  }

  #hear(look: Look): void {
    if (look.failed === true) return this.#fails(look.at);
    const keys = this.#clauses().flatMap((clause) => asksIn(clause).filter(isOwn).map(keyOf));
    const { inTime, late, moment } = this.#placed(look);
    for (const [key, points] of late)
      for (const point of points) this.#put(key, point, look.at, { unjudged: true, late: true });
    const own = inTime.some(([key]) => keys.includes(key));
    const before = !this.#begun;
    const baseline = own && before;
    for (const [key, value] of inTime)
      this.#put(key, { value, at: look.times?.[key] ?? moment }, look.at, { baseline });
    if (own) {
      this.#begun = true;
      this.#latest = moment;
    }
    this.#run = { ...look, moment, read: Object.fromEntries(inTime) };
    this.#looked.push({ at: look.at, read: this.#run.read ?? {}, groups: look.groups ?? {}, baseline: before });
    if (this.#clauses().some((clause) => this.#isHeard(clause, look))) this.#settle({ own, baseline, moment });
    this.#run = null;
  }

  /** What of a look is in time, and what only takes its place: what is older than the clock has judged, too. */
  #placed({ at, read = {}, late = {}, moment: said = at }: Look) {
    const all = Object.entries(read);
    if (said >= this.#lateBefore && all.length > 0) return { inTime: all, late: Object.entries(late), moment: said };
    return {
      inTime: [],
      late: [...Object.entries(late), ...all.map(([key, value]): [string, Latest[]] => [key, [{ value, at: said }]])],
      moment: at,
    };
  }

  #fails(at: Instant): void {
    this.#failed.push({ at });
    if (this.#begun || this.#clauses().some((clause) => clause.kind === 'silence' && clause.how.of === 'runs'))
      this.#settle(null);
  }

  /** Whether a look says anything of what a clause asks: where none is heard of, nothing is judged. */
  #isHeard(clause: Clause, { read = {}, late = {} }: Look): boolean {
    if (clause.kind === 'place' || clause.kind === 'rank') return concernsPlace(clause, this.#looked.at(-1));
    return asksIn(clause).some((asked) => read[keyOf(asked)] !== undefined || late[keyOf(asked)] !== undefined);
  }

  #ends(): void {
    for (const clause of this.#clauses()) {
      if (clause.kind !== 'level' && clause.kind !== 'crossing') continue;
      const { over } = clause.of;
      if (over === undefined || !('this' in over.of)) continue;
      const known = this.#running(clause, over);
      if (this.#now < known.begin + lengthOf(over)) continue;
      this.#calendar.set(clause, {
        begin: this.#now,
        early: false,
        stood: this.#wasRead(clause) ? this.#atEnd(clause, over, known) : known.stood,
      });
      this.#lateBefore = this.#now;
    }
    this.#settle(null, 'end');
  }

  /** Before it was read since the rule was saved a stretch is not judged. */
  #wasRead({ of }: LimitClause): boolean {
    return this.#seen.some(({ key, unjudged }) => key === of.asked.field && !unjudged);
  }

  /** The calendar stretch that runs, from that in which the rule was saved. */
  #running(clause: Clause, over: JudgedWindow): { begin: Instant; early: boolean; stood: Found } {
    const unit = lengthOf(over);
    return (
      this.#calendar.get(clause) ?? {
        begin: Math.floor(this.situation.savedAt / unit) * unit,
        early: false,
        stood: UNDECIDED,
      }
    );
  }

  #atEnd(clause: LimitClause, over: JudgedWindow, { begin: from, early }: { begin: Instant; early: boolean }): Found {
    if (early) return met(false);
    const all = this.#of(clause.of.asked.field, 'at the end');
    const inside = all.filter(({ at }) => at >= from && at < this.#now);
    const made = make(over, all, from, this.#now, false);
    if (made === 'unlike') return UNLIKE;
    if (inside.length * 2 < lengthOf(over) / this.situation.intervalMs || made === null) return UNDECIDED;
    this.#cameTo(clause, made);
    return this.#limits(clause.limits, made);
  }

  #clock(): void {
    this.#settle(null, 'clock');
  }

  /**
   * Readings of a series in time; for stretches late ones too, once another came in time after them, or the stretch
   * ends.
   */
  #of(key: string, places: 'in time' | 'with late ones' | 'at the end' = 'in time'): Point[] {
    const own = this.#seen.filter((each) => each.key === key);
    if (places === 'in time') return own.filter(({ late }) => !late);
    const lastInTime = own.reduce((last, { late }, n) => (late ? last : n), -1);
    return own.filter(({ late }, n) => !late || n < lastInTime || places === 'at the end').sort((a, b) => a.at - b.at);
  }

  #limits(limits: Limits, value: Value): Found {
    const is = stands(limits, value);
    return is === null ? UNLIKE : met(is);
  }

  /** A limit clause on readings, by walking through all of them. */
  #ofLimit(clause: LimitClause): Found {
    let at: { found: Found; side: string } = { found: UNDECIDED, side: 'unjudged' };
    for (const seen of this.#of(clause.of.asked.field)) if (!seen.unjudged) at = this.#walked(clause, seen, at.side);
    return at.found;
  }

  #walked(
    { kind, limits, margin }: LimitClause,
    { value, raised }: Seen,
    side: string,
  ): { found: Found; side: string } {
    if (value.kind === 'absent') return { found: UNDECIDED, side };
    const found = this.#limits(limits, value);
    if (found.unlike === true) return { found, side: 'afresh' };
    if (found.is === 'met') {
      const unseen =
        kind === 'crossing' &&
        (side === 'afresh' || side === 'over' || (side === 'unjudged' && this.#choice() !== 'raise'));
      return unseen
        ? { found: met(false), side: 'over' }
        : { found: { ...found, step: this.#stepsOf(limits, value) }, side: 'beyond' };
    }
    const stays = side === 'beyond' && raised && margin !== undefined && !backBy(limits, margin, num(value as Measure));
    return stays ? { found: { is: 'met', byMargin: true }, side } : { found, side: 'clear' };
  }

  #stepsOf(limits: Limits, value: Value): number {
    if (!('limit' in limits)) return 0;
    return (limits.further ?? []).filter((limit) => stands({ ...limits, limit }, value) === true).length;
  }

  #choice(): 'raise' | 'wait' {
    return this.situation.later === true ? (this.rule.later ?? 'raise') : this.rule.whenAlreadyMet;
  }

  #ofStretch(clause: LimitClause, over: JudgedWindow): Found {
    const key = clause.of.asked.field;
    if (!this.#wasRead(clause)) return UNDECIDED;
    const all = this.#of(key, 'with late ones');
    if ('this' in over.of) return this.#ofCalendar(clause, over, all);
    if (over.of.last === 'readings') return this.#ofLast(clause, over, over.of.count, all);
    // What is heard is judged as of the time that its source gives it; where nothing of it is heard, as the clock has
    // it.
    const to = this.#run?.read?.[key] === undefined ? this.#now : (this.#run.moment ?? this.#now);
    const from = to - over.of.ms;
    const made = make(over, all, from, to, true);
    if (all.length === 0) return UNDECIDED;
    if (made === 'unlike') return UNLIKE;
    const count = all.filter(({ at }) => at > from && at <= to).length;
    const whole = from >= Math.min(...all.map(({ at }) => at)) && count * 2 >= over.of.ms / this.situation.intervalMs;
    if (made === null) return UNDECIDED;
    const stands = this.#limits(clause.limits, made);
    if (stands.unlike !== true && !whole && !isSettled(clause.limits, made, certain(over))) return UNDECIDED;
    return this.#cameTo(clause, made, stands);
  }

  /** What a stretch comes to when it is judged, and whether that is another than it came to last. */
  #cameTo(clause: Clause, made: Measure, found: Found = UNDECIDED): Found {
    const last = this.#made.get(clause);
    this.#made.set(clause, made);
    return last !== undefined && !this.#isBaselineNow && !sameValue(last, made) ? { ...found, moved: true } : found;
  }

  #ofLast(clause: LimitClause, over: JudgedWindow, count: number, all: Seen[]): Found {
    if (all.length < count) return UNDECIDED;
    const made = make(over, all, (all[all.length - count] as Seen).at, Infinity, false, all.slice(-count));
    if (made === 'unlike' || made === null) return made === null ? UNDECIDED : UNLIKE;
    return this.#cameTo(clause, made, this.#limits(clause.limits, made));
  }

  #ofCalendar(clause: LimitClause, over: JudgedWindow, all: Seen[]): Found {
    const known = this.#running(clause, over);
    const { begin } = known;
    if (this.#run?.read?.[clause.of.asked.field] === undefined) return known.stood;
    const made = make(over, all, begin, Infinity, false);
    if (made === 'unlike') return this.#stand(clause, { ...known, begin }, UNLIKE);
    const stands = made === null ? UNDECIDED : this.#limits(clause.limits, made);
    if (made !== null && (stands.unlike === true || isSettled(clause.limits, made, certain(over)))) {
      this.#stand(clause, { begin, early: known.early || stands.is === 'met' }, stands);
      return this.#cameTo(clause, made, stands);
    }
    return this.#stand(clause, { ...known, begin }, known.stood);
  }

  #stand(clause: Clause, known: { begin: Instant; early: boolean }, stood: Found): Found {
    this.#calendar.set(clause, { begin: known.begin, early: known.early, stood });
    return stood;
  }

  #ofMove(clause: MoveClause, isRead: boolean): Found {
    const all = this.#of(clause.asked.field).filter(({ value }) => value.kind !== 'absent');
    const judged = this.#of(clause.asked.field).filter(({ unjudged }) => !unjudged);
    const newest = judged.at(-1);
    if (newest === undefined || newest.value.kind === 'absent') return UNDECIDED;
    const at = all.length - 1;
    const value = newest.value as Measure;
    const event = isEvent(clause);
    const isUnfit = (figure: Figure | null) => figure?.by === 'amount' && !alike(figure.amount, value);
    if (isUnfit(clause.rise) || isUnfit(clause.fall)) return UNLIKE;
    const base = this.#base(clause, all, at, value);
    if (base?.some((each) => !alike(each, value)) === true) return UNLIKE;
    if (newest.baseline && event) return met(false);
    if (base === null) return UNDECIDED;
    const [forRise, forFall] = base;
    const up = far(forRise, value, clause.rise, 1);
    const down = far(forFall, value, clause.fall, -1);
    if (up === true || down === true) return event ? { is: 'met', happened: isRead } : met(true);
    return up === null || down === null ? UNDECIDED : met(false);
  }

  #base({ against, asked }: MoveClause, all: Seen[], at: number, value: Measure): [Measure, Measure] | null {
    const both = (base: Measure | undefined): [Measure, Measure] | null => (base === undefined ? null : [base, base]);
    const before = all.slice(0, at).map((each) => each.value as Measure);
    if (against.base === 'pinned') return both(against.value);
    if (against.base === 'last') return both(before.at(-1));
    if (against.base === 'median') {
      const few = before.slice(-against.of);
      const unlike = few.find((each) => !alike(each, value));
      return few.length < against.of ? null : both(unlike ?? likeOf(value, middle(few.map(num))));
    }
    const since = this.#sinceTold(asked.field, this.#seen.lastIndexOf(all[at] as Point));
    if (against.base === 'told' || since.length === 0) return both(since[0]);
    const sorted = [...since].sort((a, b) => num(a) - num(b));
    return [sorted[0] as Measure, sorted.at(-1) as Measure];
  }

  /**
   * The values since it was told last, or since the baseline, or since they were counted in something else, before the
   * newest.
   */
  #sinceTold(key: string, newest: number): Measure[] {
    let since: Measure[] = [];
    for (const [n, each] of this.#seen.slice(0, newest).entries()) {
      if (this.#told.includes(n)) since = this.#lastBefore(key, n);
      if (each.key !== key || each.unjudged || !isMeasure(each.value)) continue;
      const [first] = since;
      since = each.baseline || first === undefined || !alike(first, each.value) ? [each.value] : [...since, each.value];
    }
    return this.#told.includes(newest) ? this.#lastBefore(key, newest) : since;
  }

  /** The last value of a series among the first n that were seen. */
  #lastBefore(key: string, n: number): Measure[] {
    const last = this.#seen
      .slice(0, n)
      .filter((each) => each.key === key && !each.late && isMeasure(each.value))
      .at(-1);
    return last === undefined ? [] : [last.value as Measure];
  }

  #ofSilence({ asked, how }: Extract<Clause, { kind: 'silence' }>): Found {
    const all = this.#seen.filter((each) => each.key === asked.field);
    const heard = all.filter(({ unjudged, late }) => !unjudged || late);
    if (how.of === 'runs') {
      const failed = this.#failed.filter(({ at }) => heard.every(({ came }) => came < at)).length;
      return this.#failed.length === 0 && heard.length === 0 ? UNDECIDED : met(failed >= how.count);
    }
    const heardAt =
      all.length === 0 ? null : Math.max(...all.map(({ came, unjudged, late, at }) => (unjudged && !late ? at : came)));
    if (how.of === 'moves') return this.#ofMoves(asked.field, how, heardAt);
    const silent = this.#now >= (heardAt ?? this.situation.savedAt) + how.ms;
    return heard.length > 0 || silent ? met(silent) : UNDECIDED;
  }

  #ofMoves(key: string, how: { ms: number } | { times: number }, heardAt: Instant | null): Found {
    const values = this.#of(key).filter(({ value }) => value.kind !== 'absent');
    const moves = values.filter(({ value }, n) => n > 0 && !sameValue((values[n - 1] as Seen).value, value));
    const [first] = values;
    if (first === undefined || heardAt === null) return UNDECIDED;
    const times = moves.map(({ at }) => at);
    const gaps = times
      .slice(1)
      .map((at, n) => at - (times[n] as number))
      .slice(-100);
    if ('times' in how && gaps.length < 3) return UNDECIDED;
    // The clock is judged after what is read at the same moment.
    const now = this.#run === null ? this.#now : this.#now - 1;
    const due = (times.at(-1) ?? first.at) + ('ms' in how ? how.ms : how.times * middle(gaps));
    if (now > heardAt + 2 * this.situation.intervalMs) return UNDECIDED;
    return now < due && !this.#seen.some((each) => each.key === key && !each.unjudged) ? UNDECIDED : met(now >= due);
  }

  #ofState({ asked, how }: Extract<Clause, { kind: 'state' }>, isRead: boolean): Found {
    const judged = this.#of(asked.field).filter(({ unjudged }) => !unjudged);
    const newest = judged.at(-1);
    if (newest === undefined || newest.value.kind === 'absent') return UNDECIDED;
    const seen = this.#of(asked.field).filter(({ value }) => value.kind !== 'absent');
    const { value } = seen.at(-1) as Seen;
    // At the baseline nothing moved, and before it nothing was judged.
    const isMove = (n: number) => n > 0 && !(seen[n] as Seen).unjudged && !(seen[n] as Seen).baseline;
    const before = (n: number) => (seen[n - 1] as Seen).value;
    if (how === 'any move')
      return isRead && isMove(seen.length - 1) && !sameValue(before(seen.length - 1), value)
        ? { is: 'met', happened: true }
        : met(false);
    if ('is' in how) return met(sameValue(how.is, value));
    const fits = (from: Value, to: Value) =>
      'leaves' in how
        ? sameValue(from, how.leaves) && !sameValue(to, how.leaves)
        : 'becomes' in how
          ? !sameValue(from, how.becomes) && sameValue(to, how.becomes)
          : sameValue(from, how.from) && sameValue(to, how.to);
    const stays = (to: Value) =>
      'leaves' in how ? !sameValue(to, how.leaves) : sameValue(to, 'becomes' in how ? how.becomes : how.to);
    for (let n = seen.length - 1; isMove(n) && stays((seen[n] as Seen).value); n -= 1)
      if (fits(before(n), (seen[n] as Seen).value)) return met(true);
    return met(false);
  }

  #find(clause: Clause): Found {
    const key = 'of' in clause ? keyOf(clause.of.asked) : 'asked' in clause ? keyOf(clause.asked) : '';
    const isRead = this.#run?.read?.[key] !== undefined;
    if (clause.kind === 'level' || clause.kind === 'crossing')
      return clause.of.over === undefined ? this.#ofLimit(clause) : this.#ofStretch(clause, clause.of.over);
    switch (clause.kind) {
      case 'move':
        return this.#ofMove(clause, isRead);
      case 'state':
        return this.#ofState(clause, isRead);
      case 'silence':
        return this.#ofSilence(clause);
      case 'change':
        return this.#ofChange(key, isRead);
      case 'against':
        return this.#ofAnother(clause);
      default:
        return this.#findOther(clause, key, isRead);
    }
  }

  /** Kinds that turn on the last readings, or on those of others, alone. */
  #findOther(clause: Clause, key: string, isRead: boolean): Found {
    switch (clause.kind) {
      case 'grade':
        return ofGrade(clause, this.#of(key), isRead);
      case 'text':
        return ofPhrase(clause, this.#of(key));
      case 'absence':
        return ofAbsence(clause, this.#of(key), isRead);
      case 'place':
      case 'rank':
        return this.#ofPlace(clause);
      default:
        throw new Error(`no reference for ${clause.kind}`);
    }
  }

  /** Before either side was read since the rule was saved it is not judged. */
  #ofAnother(clause: Extract<Clause, { kind: 'against' }>): Found {
    const sides = [clause.asked, clause.other].map((asked) => this.#of(keyOf(asked)));
    const isJudged = sides.flat().some(({ unjudged }) => !unjudged);
    return isJudged
      ? ofAnother(
          clause,
          sides.map((all) => all.at(-1)?.value ?? null),
        )
      : UNDECIDED;
  }

  #ofPlace(clause: Extract<Clause, { kind: 'place' | 'rank' }>): Found {
    const before =
      this.#seen.filter(({ key, unjudged, late }) => key === clause.asked.field && unjudged && !late).at(-1)?.value ??
      null;
    const found = ofPlace(clause, this.#looked, before, 2 * this.situation.intervalMs);
    const isNow = this.#run !== null && concernsPlace(clause, this.#looked.at(-1));
    return found.happened === true && !isNow ? met(false) : found;
  }

  #ofChange(key: string, isRead: boolean): Found {
    const newest = this.#of(key)
      .filter(({ unjudged }) => !unjudged)
      .at(-1);
    if (newest === undefined || newest.value.kind === 'absent') return UNDECIDED;
    const last = this.#of(key)
      .filter(({ value }) => value.kind !== 'absent')
      .at(-2);
    const happened = isRead && !newest.baseline && last !== undefined && !sameValue(last.value, newest.value);
    return happened ? { is: 'met', happened } : met(false);
  }

  /** Whether what is heard now concerns a silence. */
  #concerns({ asked: { field }, how }: Extract<Clause, { kind: 'silence' }>): boolean {
    if (this.#run === null) return how.of === 'runs';
    return this.#run.read?.[field] !== undefined || this.#run.late?.[field] !== undefined;
  }

  #moved(clause: Clause): boolean {
    const key = 'of' in clause ? keyOf(clause.of.asked) : 'asked' in clause ? keyOf(clause.asked) : '';
    if (
      this.#run?.read?.[key] === undefined ||
      ('of' in clause && clause.of.over !== undefined) ||
      clause.kind === 'silence'
    )
      return false;
    const list = this.#of(key);
    if (clause.kind === 'absence') return hasTurned(list);
    return hasMoved(list);
  }

  #verdict(condition: Condition, of: (clause: Clause) => Found, held: Set<Condition>): Found {
    if (held.has(condition)) return met(false);
    if ('kind' in condition) return of(condition);
    const parts = ('all' in condition ? condition.all : 'any' in condition ? condition.any : condition.none).map(
      (each) => this.#verdict(each, of, held),
    );
    const decides = 'all' in condition ? 'unmet' : 'met';
    const open = parts.filter(({ is }) => is === 'undecided');
    const any: Found = parts.some(({ is }) => is === decides)
      ? { is: decides }
      : open.length > 0
        ? { is: 'undecided', unlike: open.some(({ unlike }) => unlike) }
        : { is: decides === 'met' ? 'unmet' : 'met' };
    if (!('none' in condition)) return any;
    return { ...any, is: any.is === 'met' ? 'unmet' : any.is === 'unmet' ? 'met' : 'undecided' };
  }

  #release(condition: Condition, of: (clause: Clause) => Found): void {
    const parts =
      'kind' in condition
        ? []
        : 'all' in condition
          ? condition.all
          : 'any' in condition
            ? condition.any
            : condition.none;
    const { is, unlike = false } = this.#verdict(condition, of, new Set());
    if (is === 'unmet' || unlike) this.#drop(condition);
    else for (const each of parts) this.#release(each, of);
  }

  #drop(condition: Condition): void {
    this.#held.delete(condition);
    const parts =
      'kind' in condition
        ? []
        : 'all' in condition
          ? condition.all
          : 'any' in condition
            ? condition.any
            : condition.none;
    for (const each of parts) this.#drop(each);
  }

  #alone(condition: Condition, of: (clause: Clause) => Found): Condition[] {
    if (this.#verdict(condition, of, new Set()).is !== 'met') return [];
    if ('kind' in condition || 'none' in condition) return [condition];
    return ('all' in condition ? condition.all : condition.any).flatMap((each) => this.#alone(each, of));
  }

  /** Judges everything anew at this moment, and moves the state by it. */
  #settle(
    run: { own: boolean; baseline: boolean; moment: Instant } | null,
    phase: 'end' | 'run' | 'clock' = 'run',
  ): void {
    if (phase !== 'run' && !this.#begun && !this.#isSilent(phase)) return;
    this.#isBaselineNow = run?.baseline === true;
    const found = new Map(this.#clauses().map((clause) => [clause, this.#foundAt(clause, phase)]));
    const at = (clause: Clause) => found.get(clause) ?? UNDECIDED;
    const standing = (clause: Clause): Found =>
      isEvent(clause) && at(clause).unlike !== true ? met(false) : at(clause);
    this.#release(this.rule.when, standing);
    if (
      this.#isBaseline(run, phase) &&
      this.#choice() === 'wait' &&
      this.#verdict(this.rule.when, standing, new Set()).is === 'met'
    )
      this.#held = new Set(this.#alone(this.rule.when, standing));
    const verdict = this.#verdict(this.rule.when, standing, this.#held);
    const before = this.#state;
    const raised = this.#move(verdict, run, phase);
    const told = this.#tellsFurther(raised, before === 'raised' && verdict.is === 'met', [...found.values()]) || raised;
    if (!told)
      this.#tellMoments(
        before,
        verdict,
        run,
        (clause) => (isEvent(clause) && at(clause).happened === true ? met(true) : standing(clause)),
        (clause) => (at(clause).byMargin === true ? met(false) : standing(clause)),
        [...found.values()],
      );
    if (phase !== 'run' && run === null && this.#state !== before)
      this.#lateBefore = Math.max(this.#lateBefore, this.#now);
  }

  /** The baseline is the first reading; what is silent already when the rule is saved meets it then. */
  #isBaseline(run: { baseline: boolean } | null, phase: string): boolean {
    return run?.baseline === true || (phase === 'clock' && !this.#begun && this.#now === this.situation.savedAt);
  }

  /** Before anything was heard the clock has nothing to judge but a silence that can be told. */
  #isSilent(phase: 'end' | 'clock'): boolean {
    return (
      phase === 'clock' &&
      this.#clauses().some((clause) => clause.kind === 'silence' && this.#ofSilence(clause).is !== 'undecided')
    );
  }

  /** What a clause is now. What only the clock moves is not moved by the ends of stretches, nor the other way about. */
  #foundAt(clause: Clause, phase: 'end' | 'run' | 'clock'): Found {
    const before = this.#standing.get(clause) ?? UNDECIDED;
    const found = this.#waits(clause, phase) ? { ...before, happened: false, moved: false } : this.#findNow(clause);
    // What was counted in something else stays so while nothing is read.
    const stays = isEvent(clause) && found.is === 'undecided' && before.unlike === true;
    const now = stays ? { ...found, unlike: true } : found;
    this.#standing.set(clause, now);
    return now;
  }

  #findNow(clause: Clause): Found {
    const found = this.#find(clause);
    return { ...found, moved: found.moved === true || this.#moved(clause) };
  }

  /** Stretches of the calendar end before what is heard; silence and what slides is moved by the clock after it. */
  #waits(clause: Clause, phase: 'end' | 'run' | 'clock'): boolean {
    const over = clause.kind === 'level' || clause.kind === 'crossing' ? clause.of.over : undefined;
    const isCalendar = over !== undefined && 'this' in over.of;
    const isSilence = clause.kind === 'silence';
    if (phase === 'end') return !isCalendar;
    if (phase === 'clock') return isCalendar || (over === undefined && !isSilence);
    return isSilence && !this.#concerns(clause);
  }

  /** In an episode each further limit is told, once. */
  #tellsFurther(raised: boolean, stays: boolean, found: Found[]): boolean {
    const steps = found.reduce((sum, { is, step = 0 }) => sum + (is === 'met' ? step : 0), 0);
    const isFurther = stays && steps > this.#step;
    if (raised || isFurther) this.#step = steps;
    if (isFurther) this.marks.push([this.#now, 'alert further']);
    if (isFurther) this.#told.push(this.#seen.length);
    return isFurther;
  }

  /** Moves the state by a verdict; true where it is raised. */
  #move(verdict: Found, run: { own: boolean; moment: Instant } | null, phase: string): boolean {
    if (verdict.is === 'met') return this.#state !== 'raised' && this.#holds(verdict, run, phase);
    if (verdict.is === 'unmet') {
      if (this.#state === 'raised') this.marks.push([this.#now, 'close left']);
      this.#state = 'calm';
      return false;
    }
    if (verdict.unlike === true && this.#state !== 'undecided') {
      if (this.#state === 'raised') this.marks.push([this.#now, 'close unlike']);
      this.marks.push([this.#now, 'cannot be judged']);
      this.#state = 'undecided';
    }
    if (this.#state === 'holding' && phase === 'clock') this.#upBy(verdict);
    return false;
  }

  #holds(verdict: Found, run: { own: boolean; moment: Instant } | null, phase: string): boolean {
    const { hold } = this.rule;
    const began = this.#state !== 'holding';
    if (began) {
      this.#since = run?.moment ?? this.#now;
      this.#readings = 0;
      this.#pending = hold?.for === 'time';
    }
    const own = run?.own === true;
    if (own) this.#readings += 1;
    this.#state = 'holding';
    if (hold === undefined || (hold.for === 'readings' && this.#readings >= hold.count)) return this.#raise();
    if (hold.for === 'time' && !this.#pending && !began && own) return this.#raise();
    return phase === 'clock' ? this.#upBy(verdict) : false;
  }

  /** Whether a time to hold is up by the clock. */
  #upBy(verdict: Found): boolean {
    const { hold } = this.rule;
    if (hold?.for !== 'time' || !this.#pending || this.#now < this.#since + hold.ms) return false;
    const fresh = this.#latest !== null && this.#now - this.#latest <= 2 * this.situation.intervalMs;
    if (verdict.is === 'met' && fresh) return this.#raise();
    this.#pending = false;
    return false;
  }

  #raise(): boolean {
    this.#state = 'raised';
    this.marks.push([this.#now, `open ${(this.#since - this.situation.savedAt) / HOUR}`], [this.#now, 'alert raised']);
    this.#told.push(this.#seen.length);
    return true;
  }

  #tellMoments(
    before: string,
    verdict: Found,
    run: { own: boolean } | null,
    happening: (clause: Clause) => Found,
    bare: (clause: Clause) => Found,
    found: Found[],
  ): void {
    const happened =
      found.some((each) => each.happened) && this.#verdict(this.rule.when, happening, this.#held).is === 'met';
    const inside = before === 'raised' && this.#state === 'raised';
    const meets = run?.own === true && this.#verdict(this.rule.when, bare, this.#held).is === 'met';
    const again =
      inside &&
      (this.rule.told === 'reading'
        ? meets
        : this.rule.told === 'move' && (happened || (meets && found.some((each) => each.moved))));
    const event = !inside && happened && verdict.is !== 'met';
    if (!again && !event) return;
    this.marks.push([this.#now, event ? 'alert event' : 'alert again']);
    this.#told.push(this.#seen.length);
  }
}

const lengthOf = ({ of }: JudgedWindow) => ('this' in of ? (of.this === 'hour' ? HOUR : DAY) : 0);

/** Whether how what can only grow, or only fall, stands to its limits can no longer be undone. */
function isSettled(limits: Limits, value: Measure, side: 'above' | 'below' | null): boolean {
  if (side === null) return false;
  // However much further it goes, the answer stays.
  const further = [...Array.from({ length: 40 }, (_, n) => n / 2), 1000].map((more) =>
    side === 'above' ? more : -more,
  );
  return further.every((more) => stands(limits, likeOf(value, num(value) + more)) === stands(limits, value));
}

function certain({ make: what, grows }: JudgedWindow): 'above' | 'below' | null {
  if (what === 'sum') return grows ? 'above' : null;
  if (what === 'minimum') return 'below';
  return what === 'mean' || what === 'median' || what === 'first to last' ? null : 'above';
}
