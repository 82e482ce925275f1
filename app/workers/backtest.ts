import { backtest, type Backtest, type History } from '#core/judge/backtest';
import type { Situation } from '#core/judge/engine';
import type { RuleDefinition } from '#core/judge/rule';
import type { Instant } from '#core/when/interval';

// Replays rules over what was stored, apart from the page that shows it.

/** What is asked of the worker: what to replay on, once, and then rules, each with all its variants. */
export type BacktestAsked =
  | { ask: 'load'; histories: History[] }
  | { ask: 'test'; id: number; rule: RuleDefinition; situation: Situation; to: Instant }
  /** How often each of several rules would have told. */
  | { ask: 'count'; id: number; rules: RuleDefinition[]; situation: Situation; to: Instant };

export type BacktestAnswer = { id: number; took: number } & ({ of: 'test'; tested: Backtest } | { of: 'count'; counts: number[] });

let histories: History[] = [];

self.onmessage = ({ data }: MessageEvent<BacktestAsked>) => {
  const began = performance.now();
  const answer = (found: { of: 'test'; tested: Backtest } | { of: 'count'; counts: number[] }, id: number) =>
    self.postMessage({ ...found, id, took: performance.now() - began } satisfies BacktestAnswer);
  switch (data.ask) {
    case 'load':
      histories = data.histories;
      return;
    case 'test':
      answer({ of: 'test', tested: backtest(data.rule, histories, data.situation, data.to) }, data.id);
      return;
    case 'count':
      answer({ of: 'count', counts: data.rules.map((rule) => backtest(rule, histories, data.situation, data.to).alertCount) }, data.id);
  }
};
