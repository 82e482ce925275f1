import { redirect } from 'react-router';
import type { ExchangeLine } from '#core/plan/exchange';
import type { Result } from '#core/result';
import { holdExchange, lookThroughDocument, takeExchange } from '#server/actions/exchange';
import { inTransaction } from '#server/db/base/pool';
import { readForm, writtenIn } from '../../../form.server';
import { ImportForm } from '../../../parts/bulk/import-form';
import { notAsSeen, notTried, triedOf, type Tried } from '../../../parts/bulk/tried.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { MOST_DOCUMENT } from './most.server';
import { PageHead, Where } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/import';

export const meta: Route.MetaFunction = () => [{ title: 'Import watches · Shrike' }];

export function loader({ context }: Route.LoaderArgs) {
  asks(context, 'make', { kind: 'watch' });
  return null;
}

export async function action({ request, context }: Route.ActionArgs): Promise<Tried | Response> {
  const person = asks(context, 'make', { kind: 'watch' });
  const form = await readForm(request, MOST_DOCUMENT);
  const text = writtenIn(form, 'text');
  const { pool, clock, config, signals, reading } = services();
  if (form.get('intent') !== 'do') return triedNow(text, await lookThroughDocument(pool, reading, text, person.locale));
  const otherwise = await inTransaction(pool, async (db) => {
    await holdExchange(db);
    const lines = await lookThroughDocument(db, reading, text, person.locale);
    if (!lines.ok) return notTried(text, lines.error);
    const moved = notAsSeen(triedOf(text, lines.value), writtenIn(form, 'seal'));
    if (moved === null) await takeExchange(db, lines.value, config.hostMostAtOnce, { person: person.id, at: clock() });
    return moved;
  });
  if (otherwise !== null) return otherwise;
  signals.say('watches');
  return redirect('/watches');
}

const triedNow = (text: string, lines: Result<ExchangeLine[], string>): Tried =>
  lines.ok ? triedOf(text, lines.value) : notTried(text, lines.error);

export default function ImportWatches({ actionData }: Route.ComponentProps) {
  const { locale } = useReader();
  return (
    <>
      <PageHead>
        <Where within={[{ name: 'Watches', to: '/watches' }]}>
          <h1 className="inline">import</h1>
        </Where>
      </PageHead>
      <ImportForm
        head="Watch"
        accept=".json,.csv,application/json,text/csv"
        tried={actionData ?? undefined}
        locale={locale}
      >
        <p>
          A document of watches with their rules, as JSON or as CSV, as it is exported here. A watch is known by its
          number, or its name, at its address: it is changed where it is there, and added where it is not. People are
          known by their address, lists and channels by their name.
        </p>
      </ImportForm>
    </>
  );
}
