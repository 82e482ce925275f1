import type { RuleDefinition } from '#core/judge/rule';
import { freshSubject, hearSubject } from '#core/judge/subject';
import { money } from '#core/value/parse';
import { median, say, spread } from './figures';

// Judging 1,000,000 readings one by one, over a plain pass that compares the same amounts as numbers and counts.

const READINGS = 1_000_000;
const ROUNDS = 5;
const LIMIT = '24.00';

const RULE: RuleDefinition = {
  when: {
    kind: 'crossing',
    of: { asked: { field: 'price' } },
    limits: { is: 'below', limit: money(LIMIT, 'GBP'), inclusive: false },
  },
  whenAlreadyMet: 'wait',
};

/** Measures the step of a rule. */
export function benchJudge(): void {
  const values = Array.from({ length: 1000 }, (_, at) => money((20 + ((at * 7919) % 900) / 100).toFixed(2), 'GBP'));
  const figures = Array.from({ length: ROUNDS + 1 }, () => timed(values)).slice(1);
  const judged = median(figures.map((each) => each.judged));
  say(
    `1,000,000 readings judged one by one in ${judged.toFixed(0)} ms; over a plain pass ` +
      `${spread(figures.map((each) => each.judged / each.plain))}`,
  );
}

function timed(values: ReturnType<typeof money>[]): { judged: number; plain: number } {
  const began = performance.now();
  const situation = { intervalMs: 1, savedAt: 0 };
  let memory = freshSubject(RULE, situation);
  let told = 0;
  for (let at = 0; at < READINGS; at += 1) {
    const value = values[at % values.length];
    if (value === undefined) continue;
    const turns = hearSubject(
      RULE,
      memory,
      { of: 'run', at, moment: at, own: true, read: new Map([['price', { value, at }]]) },
      situation,
    );
    memory = turns.at(-1)?.memory ?? memory;
    told += turns.reduce((sum, turn) => sum + turn.effects.length, 0);
  }
  const between = performance.now();
  let below = 0;
  for (let at = 0; at < READINGS; at += 1) below += Number(values[at % values.length]?.amount) < Number(LIMIT) ? 1 : 0;
  if (told === 0 || below === 0) throw new Error('nothing was judged');
  return { judged: between - began, plain: performance.now() - between };
}
