import type { Instant } from '../when/interval';
import { backtest, runsFor, type Backtest } from './backtest';
import { columnsOf, type Columns } from './columns';
import { compile, runCompiled } from './compiled';
import type { Situation } from './engine';
import { takenUp } from './rate-limit';
import { NO_RUNS, NOTHING_RELATED, type History, type PastRelated } from './past';
import { isStaleAt } from './past-moments';
import { countsRuns, type RuleDefinition } from './rule';

/** What comes of trying a rule, in short. */
export interface Counted {
  alerts: number;
  mostlyMet: boolean;
}

/** What rules are tried on, over and over: histories with what stood beside them, and what was made of them. */
export class Trial {
  readonly #columns = new Map<boolean, Columns | null>();

  constructor(
    private readonly histories: readonly History[],
    private readonly beside: PastRelated = NOTHING_RELATED,
  ) {}

  /** Tries a rule: over columns of whole numbers where it can be compiled, else step by step. Both come to the same. */
  run(given: RuleDefinition, situation: Situation, to: Instant): Backtest {
    const rule = takenUp(given);
    const each = countsRuns(rule);
    const columns = this.#columnsFor(each);
    const compiled = columns === null ? null : compile(rule, columns);
    if (columns === null || compiled === null || (!each && this.#isStale(situation)))
      return backtest(rule, this.histories, situation, to, this.beside);
    return runCompiled(compiled, columns, situation, to);
  }

  /** How often a rule would have told, and whether it would have been met for most of the time. */
  count(rule: RuleDefinition, situation: Situation, to: Instant): Counted {
    const { alertCount, ...tested } = this.run(rule, situation, to);
    // What waits to be left is met, too, though it is not raised.
    const waits = rule.whenAlreadyMet === 'wait';
    const { episodes } = waits ? this.run({ ...rule, whenAlreadyMet: 'raise' }, situation, to) : tested;
    const met = episodes.reduce((sum, { raised, closed }) => sum + (raised === null ? 0 : (closed ?? to) - raised), 0);
    const records = runsFor(takenUp(rule), this.histories, to).length;
    return { alerts: alertCount, mostlyMet: met * 2 > records * (to - situation.savedAt) };
  }

  /** Whether the baseline of some record is only read after the rule is saved, though its value stood before. */
  #isStale(situation: Situation): boolean {
    const { read } = this.beside.runs ?? NO_RUNS;
    return this.histories.some(({ fields }) =>
      Object.values(fields).some(({ readings }) => readings.some((reading) => isStaleAt(reading, situation, read))),
    );
  }

  #columnsFor(each: boolean): Columns | null {
    const known = this.#columns.get(each);
    if (known !== undefined) return known;
    const made = columnsOf(this.histories, each, this.beside.runs);
    this.#columns.set(each, made);
    return made;
  }
}
