import type { Instant } from '#core/when/interval';
import { findPerson } from '#server/db/person/people';
import { inTransaction, type Pool } from '#server/db/base/pool';
import { askToConfirm } from '#server/pipeline/ask';
import type { Pipeline } from '#server/pipeline/run';
import { ANALYST, TOM } from './scenario';

/** Asks Tom to confirm his address, which he has not done yet. */
export async function askTom(pool: Pool, pipeline: Pipeline, now: Instant): Promise<void> {
  const [tom, analyst] = [await findPerson(pool, TOM), await findPerson(pool, ANALYST)];
  if (tom !== null && analyst !== null)
    await inTransaction(pool, (db) => askToConfirm(pipeline, db, tom.id, analyst, now));
}
