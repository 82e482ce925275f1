import type { Instant } from '#core/when/interval';
import { writeAndCommit, type Db, type Statement } from '../db/base/pool';
import { throughRateLimits } from './rate-limits';
import { orderDeliveries } from './order/order';
import type { Pipeline } from './run';
import { countJudgement, NOTHING_FOUND, storeJudgement } from './store/judgement';
import type { WatchVerdict } from './store/states';

/** What keeping what was judged works with. */
export type Keeping = Pick<Pipeline, 'pool' | 'ids' | 'jobs' | 'publicUrl' | 'mailDomain' | 'links' | 'log'>;

/** What is written with it: before it, and after. */
interface Beside {
  first?: Statement[] | undefined;
  last?: Statement[];
}

/** Keeps what was judged, with the deliveries that it orders, and commits. */
export async function keep(
  pipeline: Keeping,
  db: Db,
  at: Instant,
  verdicts: WatchVerdict[],
  { first, last = [] }: Beside = {},
): Promise<number> {
  const gated = await throughRateLimits(db, verdicts);
  return keepAll(pipeline, db, at, gated.verdicts, { first, last: [...gated.statements, ...last] });
}

/** The same of what no gate holds back. */
export async function keepAll(
  pipeline: Keeping,
  db: Db,
  at: Instant,
  verdicts: WatchVerdict[],
  { first = [], last = [] }: Beside = {},
): Promise<number> {
  const judged = { at, runId: null };
  const written = storeJudgement(
    judged,
    verdicts,
    await pipeline.ids.take(db, countJudgement(verdicts)),
    NOTHING_FOUND,
  );
  const ordered = await orderDeliveries(pipeline, db, judged, written.alerts, []);
  await writeAndCommit(db, [...first, ...written.statements, ...last, ...ordered]);
  return written.alerts.length;
}
