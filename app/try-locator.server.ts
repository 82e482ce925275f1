import type { LocatorTrial } from '#core/read/candidates';
import { describeTaskProblem } from '#server/reading/pool';
import type { BodyAsked, TextBody } from '#server/reading/tasks';
import { readLocator, readType } from '#server/shapes/plan';
import { services } from './services.server';
import { requireOwnPages } from './session.server';

const NOTHING = { count: 0, samples: [], suggestion: null };

/** Tries the locator that a request asks for on a body. Paths and patterns are run for our own pages alone. */
export async function tryLocatorOn(request: Request, text: TextBody, body: BodyAsked): Promise<LocatorTrial> {
  requireOwnPages(request);
  const asked = new URL(request.url).searchParams;
  const [locator, type] = [readLocator(asked.get('locator')), readType(asked.get('type'))];
  if (!locator.ok || !type.ok) return { ...NOTHING, problem: 'This is not whole yet.' };
  const done = await services().reading.run('try locator', { body, locator: locator.value, type: type.value }, [text]);
  return done.ok ? done.value : { ...NOTHING, problem: describeTaskProblem(done.error, 'this path') };
}
