import { fail } from '#core/result';
import { bodyOf, describeTaskProblem } from '../reading/pool';
import type { ReadDone } from '../reading/tasks';
import type { RunContext } from './context';
import type { Pipeline } from './run';
import type { RunFacts, StoredSnapshot } from './store/facts';

/** Reads every watch of a run from its body, in a thread; what takes too long there fails that watch alone. */
export async function readWatches(
  { reading }: Pick<Pipeline, 'reading'>,
  { watches, latest }: RunContext,
  { body, address }: StoredSnapshot,
  { startedAt, source }: RunFacts,
): Promise<ReadDone[]> {
  const text = bodyOf(body);
  const asked = watches.map(({ definition }) => ({ body: { key: text.key, receivedAt: startedAt }, definition, address, latest }));
  const done = await reading.each('read', asked, [text], source.failures > 0);
  return done.map((each) =>
    each.ok ? each.value : { reading: fail({ reason: 'not workable', said: describeTaskProblem(each.error, 'reading this page') }), seems: null },
  );
}
