import { lookThroughDocument } from '#server/actions/exchange';
import { readForm, writtenIn } from '../../../form.server';
import { linesFile } from '../../../parts/bulk/tried.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { MOST_DOCUMENT } from './most.server';
import type { Route } from './+types/lines';

/** What every line of a document of watches would do, as a file. */
export async function action({ request, context }: Route.ActionArgs) {
  const person = asks(context, 'make', { kind: 'watch' });
  const text = writtenIn(await readForm(request, MOST_DOCUMENT), 'text');
  const { pool, reading } = services();
  return linesFile('Watch', await lookThroughDocument(pool, reading, text, person.locale));
}
