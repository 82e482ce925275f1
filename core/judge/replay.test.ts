import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { COARSE, randomRules } from '../../tests/support/random-rules';
import type { Look } from '../../tests/support/rule-play';
import { tries } from '../../tests/support/search';
import type { RecordId, RuleId, SeriesId } from '../id';
import { pageDefinition, type Field } from '../read/definition';
import type { FieldReading, ReadRecord } from '../read/reading';
import { fail, ok } from '../result';
import type { Value } from '../value/value';
import { HOUR, MINUTE, type Instant } from '../when/interval';
import { backtest } from './backtest';
import { Beginning } from './begin';
import { clausesOf } from './clause';
import type { Rule } from './engine';
import { situationOf } from './judging';
import type { GoodReading, KnownRecord, KnownRule, KnownSeries, KnownWatch, Verdict } from './known';
import { NOTHING_RELATED, type History, type StoredReading } from './past';
import { runsOf } from './past-moments';
import { countsRuns, ownFields, type RuleDefinition } from './rule';
import { isNotifying, nextOfSubject, wakeSubject, type Turn } from './subject';
import { Trial } from './trial';
import { judgeWatch } from './watch';

// What a rule did to readings as they came, against what it is said to have done to the same readings when they are
// looked back at: the watch is judged run by run, its readings are stored as they are stored, the rule begins in the
// midst of them.

const field = (key: string, mode: Field['mode'], type: Field['type']): Field => ({
  key,
  label: key,
  type,
  mode,
  polarity: 'neither',
  locale: null,
  locators: [],
});

const FIELDS = [
  field('value', 'measured', { kind: 'number' }),
  field('other', 'stepwise', { kind: 'number' }),
  field('state', 'stepwise', { kind: 'state' } as Field['type']),
  field('grade', 'stepwise', { kind: 'grade', scale: ['A', 'B', 'C', 'D', 'E', 'F'] } as Field['type']),
  field('text', 'stepwise', { kind: 'text' } as Field['type']),
];

const IDENTITY = 'hive';

/** A watch of one record, its stored readings, and what its rule does. */
class Live {
  readonly stored = new Map<string, (StoredReading & { open: boolean })[]>();
  readonly read: Instant[] = [];
  readonly failed: Instant[] = [];
  readonly done: string[] = [];
  #series = new Map<string, KnownSeries>();
  #firstSeen: Instant | null = null;
  #rule: KnownRule | null = null;

  constructor(private readonly definition: RuleDefinition) {}

  get #watch(): KnownWatch {
    return {
      definition: { ...pageDefinition('Hives', FIELDS), records: { from: 'senml' } },
      intervalMs: HOUR,
      version: 1,
      readVersion: 1,
      lastGoodAt: null,
      records: new Map(this.#record === null ? [] : [[IDENTITY, this.#record]]),
      missing: [],
      rules: this.#rule === null ? [] : [this.#rule],
    };
  }

  get #record(): KnownRecord | null {
    if (this.#firstSeen === null) return null;
    return {
      id: 1 as RecordId,
      identity: IDENTITY,
      name: IDENTITY,
      labels: {},
      firstSeen: this.#firstSeen,
      goneSince: null,
      counters: {},
      series: this.#series,
    };
  }

  begin(now: Instant): void {
    const rule: KnownRule = {
      id: 1 as RuleId,
      version: 1,
      judgedVersion: 1,
      savedAt: now,
      baselineAt: null,
      definition: this.definition,
      memories: new Map(),
    };
    this.#rule = rule;
    const beginning = new Beginning(this.#watch, rule, now);
    const before = beginning.learnt.map(({ key, series, before: end }) => {
      const looks = (this.stored.get(key) ?? []).flatMap((each) =>
        runsOf(each, countsRuns(this.definition), undefined, this.read),
      );
      return [series, looks.filter(({ at }) => at < end).sort((one, other) => one.at - other.at)] as const;
    });
    const { judged, remembered } = beginning.on(new Map(before));
    this.#take(judged);
    for (const { turn } of remembered) this.#rule = { ...this.#rule, memories: new Map([[IDENTITY, turn.memory]]) };
    if (judged.length > 0) this.#rule = { ...this.#rule, baselineAt: now };
  }

  run(now: Instant, records: ReadRecord[] | null): void {
    this.wake(now - 1);
    const reading =
      records === null ? fail({ reason: 'missing' as const }) : ok({ records, problems: [], offered: [] });
    const outcome = judgeWatch(this.#watch, { reading: reading as never, seems: null }, now);
    this.#take(outcome.verdicts);
    if (records === null) this.failed.push(now);
    else this.read.push(now);
    for (const good of outcome.good) this.#store(good, now);
    if (records !== null) this.#firstSeen ??= now;
  }

  wake(to: Instant): void {
    for (;;) {
      const memory = this.#rule?.memories.get(IDENTITY);
      if (this.#rule === null || memory === undefined) return;
      const situation = situationOf(this.#rule, { intervalMs: HOUR }, this.#record, to);
      const due = nextOfSubject(this.definition, memory, situation);
      if (due === null || due > to) return;
      this.#turn(wakeSubject(this.definition, memory, due, situation));
    }
  }

  #take(verdicts: readonly Verdict[]): void {
    this.#turn(verdicts.map(({ turn }) => turn));
  }

  #turn(turns: readonly Turn[]): void {
    for (const turn of turns) this.done.push(...told(turn));
    const memory = turns.at(-1)?.memory;
    if (memory !== undefined && this.#rule !== null)
      this.#rule = { ...this.#rule, memories: new Map([[IDENTITY, memory]]) };
  }

  #store({ field: { key }, value, opens, at, late, stamped }: GoodReading, now: Instant): void {
    const own = this.stored.get(key) ?? [];
    this.stored.set(key, own);
    const open = own.find((each) => each.open);
    if (opens || open === undefined) {
      if (open !== undefined && !late) open.open = false;
      own.push({
        at,
        until: at,
        runs: 1,
        value,
        open: !late,
        ...(now > at ? { came: now } : {}),
        ...(late ? { late } : {}),
      });
    } else {
      open.until = Math.max(open.until, at);
      open.runs += 1;
    }
    if (late) return;
    const before = this.#series.get(key);
    this.#series = new Map([
      ...this.#series,
      [
        key,
        {
          id: (FIELDS.findIndex((each) => each.key === key) + 1) as SeriesId,
          value,
          openSince: opens || before === undefined ? at : before.openSince,
          lastGoodAt: now,
          sourceAt: stamped ? at : (before?.sourceAt ?? null),
        },
      ],
    ]);
  }

  history(): History {
    return {
      identity: IDENTITY,
      name: IDENTITY,
      fields: Object.fromEntries(
        FIELDS.map(({ key, mode }) => [
          key,
          {
            stepwise: mode === 'stepwise',
            readings: (this.stored.get(key) ?? [])
              .map(({ open: _open, ...reading }) => reading)
              .sort((one, other) => one.at - other.at),
          },
        ]),
      ),
    };
  }
}

const told = (turn: Turn): string[] =>
  turn.told.flatMap((each) => (isNotifying(each) ? [`${each.at} ${each.what}`] : []));

const reading = (key: string, value: Value): FieldReading =>
  ({ field: key, outcome: ok({ value, lost: [], text: '', byLocale: false }) }) as unknown as FieldReading;

const point = (at: Instant, fields: [string, Value][]): ReadRecord => ({
  identity: IDENTITY,
  name: IDENTITY,
  variant: null,
  labels: {},
  marks: { at, quality: null },
  fields: fields.map(([key, value]) => reading(key, value)),
});

/** Each field is read at each look, once it was: when one alone was not is not known from what is stored. */
function readThroughout(all: Look[]): Look[] {
  let last: Record<string, Value> = {};
  return all.map((look) => {
    if (look.failed === true) return look;
    last = { ...last, ...look.read };
    return { ...look, read: last };
  });
}

/** What a look brings, each point so long after it was so. */
const recordsOf = ({ at, read = {}, late = {} }: Look, delay: number): ReadRecord[] => [
  ...(late.value ?? []).map((each) => point(each.at - delay, [['value', each.value]])),
  point(at - delay, Object.entries(read)),
];

const { rule, looks } = randomRules(COARSE);
/** Of one record: places are of several. */
const alone = rule.filter(({ when }) => clausesOf(when).every(({ kind }) => kind !== 'place' && kind !== 'rank'));

/**
 * A move against the last reading is judged again at the very next look after it was counted in something else; whether
 * that look was read at all, where it brought nothing new, is not known from what is stored.
 */
const turnsOnLooks = (given: Rule, all: readonly Look[]) =>
  clausesOf(given.when).some(({ kind }) => kind === 'move' || kind === 'change') &&
  all.some(({ read = {} }) => Object.values(read).some(({ kind }) => kind === 'money'));

describe('a rule tried on the past', () => {
  it('does what it did when the past was the present', () => {
    fc.assert(
      fc.property(
        alone,
        looks(24).map(readThroughout),
        fc.integer({ min: -1, max: 30 }),
        fc.constantFrom(0, 0, 7 * MINUTE, 25 * MINUTE),
        (given, all, saved, delay) => {
          fc.pre(!turnsOnLooks(given, all));
          const definition = given as RuleDefinition;
          const live = new Live(definition);
          const first = all[0]?.at ?? 0;
          const savedAt = first + saved * 50 * MINUTE + 1;
          let begun = false;
          for (const look of all) {
            if (!begun && look.at > savedAt) {
              begun = true;
              live.begin(savedAt);
            }
            live.run(look.at, look.failed === true ? null : recordsOf(look, delay));
          }
          // Of a field that was never read nothing is known that could be looked back at.
          fc.pre(ownFields(definition).every((key) => live.stored.has(key)));
          const to = Math.max(savedAt, all.at(-1)?.at ?? 0) + 9 * HOUR;
          if (!begun) live.begin(savedAt);
          live.wake(to);
          const beside = { ...NOTHING_RELATED, runs: { read: live.read, failed: live.failed } };
          const situation = { intervalMs: HOUR, savedAt };
          const expected = [...live.done].sort();
          const tested = [
            backtest(definition, [live.history()], situation, to, beside),
            new Trial([live.history()], beside).run(definition, situation, to),
          ];
          for (const { alerts } of tested)
            expect(alerts.map(({ at, told: what }) => `${at} ${what}`).sort()).toEqual(expected);
        },
      ),
      { numRuns: tries(1_000) },
    );
  });
});
