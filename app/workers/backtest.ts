import type { Backtest } from '#core/judge/backtest';
import type { History, PastRelated } from '#core/judge/past';
import type { Situation } from '#core/judge/engine';
import type { RuleDefinition } from '#core/judge/rule';
import { Trial, type Counted } from '#core/judge/trial';
import type { Instant } from '#core/when/interval';

// Replays rules over what was stored, apart from the page that shows it.

/** What is asked of the worker: what to replay on, once, and then rules, each with all its variants. */
export type BacktestAsked =
  | { ask: 'load'; histories: History[]; beside: PastRelated }
  | { ask: 'test'; rule: RuleDefinition; situation: Situation; to: Instant }
  /** How often each of several rules would have told. */
  | { ask: 'count'; rules: RuleDefinition[]; situation: Situation; to: Instant };

export type BacktestAnswer = { of: 'test'; tested: Backtest } | { of: 'count'; counts: Counted[] };

let trial = new Trial([]);

self.onmessage = ({ data }: MessageEvent<BacktestAsked>) => {
  if (data.ask === 'load') trial = new Trial(data.histories, data.beside);
  else self.postMessage(answerTo(data));
};

function answerTo(asked: Exclude<BacktestAsked, { ask: 'load' }>): BacktestAnswer {
  const { situation, to } = asked;
  return asked.ask === 'test'
    ? { of: 'test', tested: trial.run(asked.rule, situation, to) }
    : { of: 'count', counts: asked.rules.map((rule) => trial.count(rule, situation, to)) };
}
