import { readForm, writtenIn } from '../../form.server';
import { linesFile } from '../../parts/bulk/tried.server';
import { services } from '../../services.server';
import { asks } from '../../session.server';
import { lookThrough, MOST_SHEET } from './look-through.server';
import type { Route } from './+types/lines';

/** What every line of a sheet of items would do, as a file. */
export async function action({ request, context }: Route.ActionArgs) {
  const person = asks(context, 'make', { kind: 'item' });
  const text = writtenIn(await readForm(request, MOST_SHEET), 'text');
  return linesFile('Reference', (await lookThrough(services().pool, text, person.locale)).lines);
}
