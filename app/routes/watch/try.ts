import { openBody } from '#core/read/body';
import { tryLocator, type LocatorTrial } from '#core/read/candidates';
import { findBody } from '#server/db/watch-page';
import { readLocator, readType } from '../../parts/plan/shape.server';
import { services } from '../../services.server';
import type { Route } from './+types/try';

/** Tries a locator on a watch's last good page. */
export async function loader({ request, params }: Route.LoaderArgs): Promise<LocatorTrial> {
  const nothing = { count: 0, samples: [], suggestion: null };
  const found = await findBody(services().pool, Number(params.watch) || 0);
  const asked = new URL(request.url).searchParams;
  const [locator, type] = [readLocator(asked.get('locator')), readType(asked.get('type'))];
  if (!locator.ok || !type.ok) return { ...nothing, problem: 'This is not whole yet.' };
  const opened = openBody(found?.body ?? '', 'html', 0);
  if (!opened.ok || opened.value.format !== 'html') return { ...nothing, problem: 'There is no page to try it on yet.' };
  return tryLocator(opened.value.document, locator.value, type.value);
}
