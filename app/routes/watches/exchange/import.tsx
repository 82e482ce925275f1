import { redirect } from 'react-router';
import { readExchange, type ExchangeLine } from '#core/plan/exchange';
import { exchangeHere, holdExchange, takeExchange } from '#server/actions/exchange';
import { inTransaction } from '#server/db/base/pool';
import { webAddress } from '#server/fetch/web-address';
import { readForm, writtenIn } from '../../../form.server';
import { ImportForm } from '../../../parts/bulk/import-form';
import { notAsSeen, notTried, triedOf, type Tried } from '../../../parts/bulk/tried.server';
import { readDocument, type ReadDocument } from '../../../parts/plan/exchange-shape.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { PageHead, Where } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/import';

export const meta: Route.MetaFunction = () => [{ title: 'Import watches · Shrike' }];

export function loader({ context }: Route.LoaderArgs) {
  asks(context, 'make', { kind: 'watch' });
  return null;
}

const MOST_BYTES = 8_000_000;

export async function action({ request, context }: Route.ActionArgs): Promise<Tried | Response> {
  const person = asks(context, 'make', { kind: 'watch' });
  const form = await readForm(request, MOST_BYTES);
  const text = writtenIn(form, 'text');
  const read = await readDocument(text);
  if (!read.ok) return notTried(text, read.error);
  const { pool, clock, config, signals } = services();
  const triedNow = (lines: ExchangeLine[]) => triedOf(text, allLines(read.value, lines));
  if (form.get('intent') !== 'do') return triedNow(await linesOf(pool, read.value, person.locale));
  const otherwise = await inTransaction(pool, async (db) => {
    await holdExchange(db);
    const lines = await linesOf(db, read.value, person.locale);
    const moved = notAsSeen(triedNow(lines), writtenIn(form, 'seal'));
    if (moved === null) await takeExchange(db, lines, config.hostMostAtOnce, { person: person.id, at: clock() });
    return moved;
  });
  if (otherwise !== null) return otherwise;
  signals.say('watches');
  return redirect('/watches');
}

type AnyDb = Parameters<typeof exchangeHere>[0];

/** What each watch of a document would do; one at an address that cannot be fetched is refused. */
async function linesOf(db: AnyDb, { document }: ReadDocument, locale: string): Promise<ExchangeLine[]> {
  const watches = document.watches.map((watch) => ({
    ...watch,
    address: webAddress(watch.address)?.href ?? watch.address,
  }));
  return readExchange({ ...document, watches }, await exchangeHere(db, watches, locale)).map((line) => {
    if (line.does !== 'adds' || line.plan === null) return line;
    const problem = addressProblem(line.plan.way, line.plan.address);
    return problem === null ? line : { ...line, does: 'refused' as const, said: [problem], plan: null };
  });
}

function addressProblem(way: string, address: string): string | null {
  if (way === 'posted') return 'What another program posts to needs an address of its own here: set it up anew.';
  return webAddress(address) === null
    ? 'Its address is none that can be fetched: it has to begin with https:// or http://.'
    : null;
}

/** Those that have a shape with those that have none, each under its own line. */
function allLines({ refused }: ReadDocument, lines: ExchangeLine[]) {
  const without = new Set(refused.map(({ line }) => line));
  const numbers = Array.from({ length: lines.length + refused.length }, (_, at) => at + 1).filter(
    (line) => !without.has(line),
  );
  return [
    ...lines.map((line, at) => ({ ...line, line: numbers[at] ?? line.line })),
    ...refused.map(({ line, name, said }) => ({ line, name, does: 'refused' as const, said: [said] })),
  ];
}

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
