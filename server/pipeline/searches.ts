import { setTimeout as sleep } from 'node:timers/promises';
import { rememberSearch, takeWanted } from '#core/read/pattern';
import { bodyOf, type ReadingPool, type TaskProblem } from '../reading/pool';

/** What a thread had its time or its memory for, and did not come to the end of. */
const OUTRUN: ReadonlySet<TaskProblem['reason']> = new Set(['too long', 'too much']);
/** The rows of a run are held meanwhile. */
const MOST_MS = 10_000;

/**
 * Judges, and once more where patterns were to be looked for in texts too long for that: a thread does so meanwhile, up
 * to its deadline. What it does not come to the end of stays undecided, and says why.
 */
export async function withSearches<Judged>(reading: ReadingPool, judge: () => Judged): Promise<Judged> {
  takeWanted();
  const judged = judge();
  const wanted = takeWanted();
  if (wanted.length === 0) return judged;
  await Promise.all(
    wanted.map(async (search) => {
      const body = bodyOf(search.text);
      const found = reading.run('search', { key: body.key, pattern: search.pattern }, [body]);
      const done = await Promise.race([found, sleep(MOST_MS, null, { ref: false })]);
      // What was only waited for in vain is asked again by the next run.
      if (done?.ok === true) rememberSearch(search, done.value);
      else if (done !== null && OUTRUN.has(done.error.reason)) rememberSearch(search, null);
    }),
  );
  return judge();
}
