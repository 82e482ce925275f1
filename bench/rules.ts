import type { History } from '#core/judge/past';
import type { Condition } from '#core/judge/clause';
import type { RuleDefinition } from '#core/judge/rule';
import { Trial } from '#core/judge/trial';
import type { Decimal } from '#core/value/decimal';
import type { Measure } from '#core/value/value';
import { MINUTE } from '#core/when/interval';
import { median, say, spread } from './figures';

// A rule of two conditions with a hold tried on 1,000,000 readings, and on what a slider is moved over, each over one
// plain pass through arrays of the same amounts as numbers.

const ROUNDS = 3;
const MANY = 1_000_000;
const UNDER_A_SLIDER = 20_000;

const celsius = (amount: string): Measure => ({ kind: 'number', amount: amount as Decimal, unit: 'Cel' });

/** Readings of two fields, a minute apart, in records of at most so many. */
function historiesOf(readings: number, each: number): History[] {
  return Array.from({ length: Math.ceil(readings / each) }, (_, record) => {
    const of = (phase: number) =>
      Array.from({ length: each }, (_unused, at) => {
        const amount = (18 + 3 * Math.sin((at + phase + record) / 40) + (((at * 7919) % 100) - 50) / 100).toFixed(2);
        return { at: at * MINUTE, until: at * MINUTE, runs: 1, value: celsius(amount) };
      });
    return {
      identity: `r${record}`,
      name: `r${record}`,
      fields: { one: { stepwise: false, readings: of(0) }, other: { stepwise: false, readings: of(20) } },
    };
  });
}

const above = (field: string, limit: string): Condition => ({
  kind: 'level',
  of: { asked: { field } },
  limits: { is: 'above', limit: celsius(limit), inclusive: false },
});
const RULE: RuleDefinition = {
  when: { all: [above('one', '19.50'), above('other', '18.00')] },
  hold: { for: 'readings', count: 3 },
  whenAlreadyMet: 'wait',
};

/** Measures trying a rule on the past. */
export function benchRules(): void {
  // Two readings a moment, so half as many moments.
  const large = figuresOf(historiesOf(MANY / 2, 10_000), ROUNDS);
  say(
    `a compound rule tried on 1,000,000 readings in ${large.took.toFixed(0)} ms; over one plain pass ` +
      `${spread(large.ratios)}`,
  );
  const small = figuresOf(historiesOf(UNDER_A_SLIDER / 2, 2_500), ROUNDS * 3);
  say(
    `the same on ${UNDER_A_SLIDER.toLocaleString('en')} readings, as a slider is moved, in ` +
      `${small.took.toFixed(0)} ms; over one plain pass ${spread(small.ratios)}`,
  );
}

function figuresOf(histories: History[], rounds: number): { took: number; ratios: number[] } {
  // What a rule is tried on is loaded once, and tried over and over.
  const trial = new Trial(histories);
  const arrays = histories.map(({ fields }) =>
    ['one', 'other'].map((field) =>
      Float64Array.from(fields[field]?.readings ?? [], ({ value }) => Number((value as Measure).amount)),
    ),
  );
  const figures = Array.from({ length: rounds + 1 }, () => timed(trial, arrays)).slice(1);
  return { took: median(figures.map(({ tried }) => tried)), ratios: figures.map(({ tried, plain }) => tried / plain) };
}

function timed(trial: Trial, arrays: Float64Array[][]): { tried: number; plain: number } {
  const began = performance.now();
  const tested = trial.run(RULE, { intervalMs: MINUTE, savedAt: 0 }, 100_000 * MINUTE);
  const between = performance.now();
  let met = 0;
  for (const [one, other] of arrays)
    for (let at = 0; at < (one?.length ?? 0); at += 1)
      met += (one?.[at] ?? 0) > 19.5 && (other?.[at] ?? 0) > 18 ? 1 : 0;
  if (tested.alertCount === 0 || met === 0) throw new Error('nothing was tried');
  return { tried: between - began, plain: performance.now() - between };
}
