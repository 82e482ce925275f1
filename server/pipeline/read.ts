import type { WatchRead } from '#core/judge/watch';
import { fail } from '#core/result';
import { bodyOf, describeTaskProblem, type ReadingPool } from '../reading/pool';
import type { ReadingPlan, ReadWatch } from './context';
import type { RunFacts, StoredSnapshot } from './facts';

/** Reads every watch of a run from its body, in a thread; what takes too long there fails that watch alone. */
export async function readWatches(
  reading: ReadingPool,
  { watches, latest }: ReadingPlan,
  { body, address }: StoredSnapshot,
  { startedAt, source }: RunFacts,
): Promise<ReadWatch[]> {
  const text = bodyOf(body);
  const asked = watches.map(({ definition }) => ({
    body: { key: text.key, receivedAt: startedAt },
    definition,
    address,
    latest,
  }));
  const done = await reading.each('read', asked, [text], source.failures > 0);
  return watches.map((watch, at) => {
    const each = done[at];
    if (each === undefined) return { ...watch, read: notRead('It was not read.') };
    return { ...watch, read: each.ok ? each.value : notRead(describeTaskProblem(each.error, 'reading this page')) };
  });
}

const notRead = (said: string): WatchRead => ({ reading: fail({ reason: 'not workable', said }), seems: null });
