import type { Backtest, History } from '#core/judge/backtest';
import type { Situation } from '#core/judge/engine';
import type { RuleDefinition } from '#core/judge/rule';
import { Trial } from '#core/judge/trial';
import type { Instant } from '#core/when/interval';

// Replays rules over what was stored, apart from the page that shows it.

/** What is asked of the worker: what to replay on, once, and then rules, each with all its variants. */
export type BacktestAsked =
  | { ask: 'load'; histories: History[] }
  | { ask: 'test'; id: number; rule: RuleDefinition; situation: Situation; to: Instant }
  /** How often each of several rules would have told. */
  | { ask: 'count'; id: number; rules: RuleDefinition[]; situation: Situation; to: Instant };

export type BacktestAnswer = { id: number; took: number } & ({ of: 'test'; tested: Backtest } | { of: 'count'; counts: number[] });

let trial = new Trial([]);

self.onmessage = ({ data }: MessageEvent<BacktestAsked>) => {
  const began = performance.now();
  const answer = (found: { of: 'test'; tested: Backtest } | { of: 'count'; counts: number[] }, id: number) =>
    self.postMessage({ ...found, id, took: performance.now() - began } satisfies BacktestAnswer);
  switch (data.ask) {
    case 'load':
      trial = new Trial(data.histories);
      return;
    case 'test':
      answer({ of: 'test', tested: trial.run(data.rule, data.situation, data.to) }, data.id);
      return;
    case 'count':
      answer({ of: 'count', counts: data.rules.map((rule) => trial.run(rule, data.situation, data.to).alertCount) }, data.id);
  }
};
