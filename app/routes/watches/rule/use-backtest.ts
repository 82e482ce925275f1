import { useEffect, useMemo, useRef, useState } from 'react';
import type { Backtest } from '#core/judge/backtest';
import type { History, PastRelated } from '#core/judge/past';
import type { Situation } from '#core/judge/engine';
import { askedRelated, type RuleDefinition } from '#core/judge/rule';
import type { Counted } from '#core/judge/trial';
import type { WatchId } from '#core/id';
import type { Instant } from '#core/when/interval';
import type { BacktestAnswer, BacktestAsked } from '../../../workers/backtest';

type Question = Exclude<BacktestAsked, { ask: 'load' }>;

/**
 * One question at a time; of those that come meanwhile only the last of each kind is asked, so that the answer keeps up
 * with a slider.
 */
class Asking {
  readonly #worker: Worker;
  readonly #waiting = new Map<
    Question['ask'],
    { question: Question; onAnswer: (answer: BacktestAnswer | null) => void }
  >();
  #open: ((answer: BacktestAnswer | null) => void) | null = null;

  constructor({ histories, beside }: Past) {
    this.#worker = new Worker(new URL('../../../workers/backtest.ts', import.meta.url), { type: 'module' });
    this.#worker.onmessage = ({ data }: MessageEvent<BacktestAnswer>) => this.#answer(data);
    this.#worker.onerror = () => this.#answer(null);
    this.#worker.postMessage({ ask: 'load', histories, beside } satisfies BacktestAsked);
  }

  ask(question: Question, onAnswer: (answer: BacktestAnswer | null) => void): void {
    this.#waiting.set(question.ask, { question, onAnswer });
    if (this.#open === null) this.#next();
  }

  close(): void {
    this.#waiting.clear();
    this.#worker.terminate();
  }

  /** Hands on an answer, null where the question broke the trial; then the next is asked. */
  #answer(answer: BacktestAnswer | null): void {
    this.#open?.(answer);
    this.#open = null;
    this.#next();
  }

  #next(): void {
    const [first] = this.#waiting;
    if (first === undefined) return;
    const [kind, { question, onAnswer }] = first;
    this.#waiting.delete(kind);
    this.#open = onAnswer;
    this.#worker.postMessage(question);
  }
}

/** What a rule is tried on, once it has come. */
export interface Past {
  histories: History[];
  beside: PastRelated;
  whole: boolean;
}

/** Where what a rule is tried on comes from: what was read of the watch, and of what that rule asks beside it. */
export function pastAddress(watch: WatchId, rule: RuleDefinition | null): string {
  const asked = new URLSearchParams({ days: '91' });
  const { items, elsewhere: others } = rule === null ? askedRelated() : askedRelated(rule);
  if (items) asked.set('items', '1');
  const elsewhere = others.map(({ watch: other, record, field }) => ({ watch: other, record, field }));
  if (elsewhere.length > 0) asked.set('elsewhere', JSON.stringify(elsewhere));
  return `/watches/${watch}/history?${asked}`;
}

/**
 * Counts one rule after another, so that whatever is asked meanwhile waits for one of them alone; hands on all counts
 * once they are known. What it gives ends that.
 */
function countEach(
  asking: Asking | null,
  rules: RuleDefinition[],
  asked: Pick<Extract<Question, { ask: 'count' }>, 'ask' | 'situation' | 'to'>,
  onCounted: (counts: Counted[]) => void,
): () => void {
  const counts: Counted[] = [];
  let ended = false;
  const next = () => {
    const rule = rules[counts.length];
    if (ended) return;
    if (rule === undefined) onCounted(counts);
    else
      asking?.ask({ ...asked, rules: [rule] }, (answer) => {
        if (answer?.of !== 'count') return onCounted([]);
        counts.push(...answer.counts);
        next();
      });
  };
  next();
  return () => {
    ended = true;
  };
}

/** Loads what a rule is tried on; null until it has come, or where none is asked for. */
export function usePast(address: string | null): { past: Past | null; failed: boolean } {
  const [past, setPast] = useState<Past | null>(null);
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    const leaving = new AbortController();
    setPast(null);
    if (address === null) return;
    fetch(address, { signal: leaving.signal })
      .then((response) =>
        response.ok ? (response.json() as Promise<Past>) : Promise.reject(new Error(response.statusText)),
      )
      .then(setPast)
      .catch(() => (leaving.signal.aborted ? undefined : setFailed(true)));
    return () => leaving.abort();
  }, [address]);
  return { past, failed };
}

interface Tried {
  situation: Situation;
  to: Instant;
}

/** Tries a rule, and its variants, on the past while it is said. What was found last stands until the next is. */
export function useBacktest(
  past: Past | null,
  rule: RuleDefinition | null,
  variants: RuleDefinition[],
  { situation, to }: Tried,
) {
  const asking = useRef<Asking | null>(null);
  const [tested, setTested] = useState<Backtest | 'failed' | null>(null);
  const [counts, setCounts] = useState<Counted[]>([]);
  useEffect(() => {
    if (past === null) return;
    const opened = new Asking(past);
    asking.current = opened;
    return () => {
      opened.close();
      asking.current = null;
    };
  }, [past]);
  const said = useMemo(() => JSON.stringify(rule), [rule]);
  const saidVariants = useMemo(() => JSON.stringify(variants), [variants]);
  const at = JSON.stringify(situation);
  useEffect(() => {
    if (past === null || said === 'null') return;
    const question = {
      ask: 'test' as const,
      rule: JSON.parse(said) as RuleDefinition,
      situation: JSON.parse(at) as Situation,
      to,
    };
    asking.current?.ask(question, (answer) => setTested(answer?.of === 'test' ? answer.tested : 'failed'));
  }, [past, said, at, to]);
  useEffect(() => {
    if (past === null || saidVariants === '[]') return;
    const asked = { ask: 'count' as const, situation: JSON.parse(at) as Situation, to };
    return countEach(asking.current, JSON.parse(saidVariants) as RuleDefinition[], asked, setCounts);
  }, [past, saidVariants, at, to]);
  // What was counted for other variants says nothing of these.
  return {
    tested: rule === null || tested === 'failed' ? null : tested,
    broke: rule !== null && tested === 'failed',
    counts: counts.length === variants.length ? counts : [],
  };
}
