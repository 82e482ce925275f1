import { useState } from 'react';
import { useFetcher } from 'react-router';
import { formatBytes, RETAINED, retentionFault, type RetainedKind } from '#core/retention';
import { formatRecent } from '#core/when/format';
import { countOf } from '#core/words';
import { inTransaction } from '#server/db/base/pool';
import { chosenRetention, holdRetention, keepFor, retentionNow, type Chosen } from '#server/db/base/retention';
import { takenNow, type Taken } from '#server/db/base/views/space-taken';
import { retentionOf } from '#server/work/services';
import { asSeen, mayKeep, MEANWHILE } from '../../../parts/as-seen';
import { readForm } from '../../../form.server';
import { readNumber } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Button } from '../../../ui/button';
import { Confirm } from '../../../ui/confirm';
import { CellField } from '../../../ui/field';
import { PageHead } from '../../../ui/page';
import { Table, type Column } from '../../../ui/table';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';

export const meta: Route.MetaFunction = () => [{ title: 'Retention · Shrike' }];

/** For how long everything is kept, and what it takes. */
export async function loader({ context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'host' });
  const { pool, config, clock } = services();
  return {
    days: await retentionNow(pool, retentionOf(config)),
    chosen: await chosenRetention(pool),
    taken: await takenNow(pool, clock()),
  };
}

export async function action({ request, context }: Route.ActionArgs): Promise<{ problem: string | null }> {
  const person = asks(context, 'change', { kind: 'host' });
  const form = await readForm(request);
  const what = RETAINED.find((each) => each === form.get('what'));
  if (what === undefined) return { problem: 'Nothing of that name is kept. Load the page again.' };
  const days = readNumber(form.get('days'));
  const problem = retentionFault(days);
  if (problem !== null) return { problem };
  const { pool, config, clock } = services();
  const kept = await inTransaction(pool, async (db) => {
    const now = await holdRetention(db, retentionOf(config));
    if (!mayKeep([now[what]], [days], asSeen([readNumber(form.get('was'))]))) return false;
    await keepFor(db, what, days, person.id, clock());
    return true;
  });
  return { problem: kept ? null : MEANWHILE };
}

const WORDS: Record<RetainedKind, [name: string, of: string]> = {
  runs: ['Runs', 'that no news leans on, and what rules made of them'],
  snapshots: ['Snapshots', 'of pages that a change was read from; the latest always stays'],
  pictures: ['Pictures', 'of rendered pages; the latest always stays'],
  readings: ['Readings', 'of every series; the one in force always stays'],
  news: ['News', 'changes, alerts, episodes that are over, cuts, and who was told of what'],
  editions: ['Editions', 'each as it was made'],
  mails: ['Mails', 'their words; that they went, when and to whom, stays with the news'],
  files: ['Attached files', 'of mails, as they went out'],
  edits: ['History of edits', 'who changed what; what is gone from here cannot be undone'],
};

interface Row extends Taken {
  days: number;
  chosen: Chosen | undefined;
}

export default function Retained({ loaderData: { days, chosen, taken } }: Route.ComponentProps) {
  const { place, now } = useReader();
  const { locale } = place;
  const rows: Row[] = taken.map((each) => ({
    ...each,
    days: days[each.what],
    chosen: chosen.find(({ what }) => what === each.what),
  }));
  const total = taken.reduce((sum, { bytes }) => sum + bytes, 0);
  const columns: Column<Row>[] = [
    {
      head: 'What',
      cell: ({ what, chosen: by }) => (
        <>
          <span className="font-medium">{WORDS[what][0]}</span>
          <span className="block text-second">{WORDS[what][1]}</span>
          <span className="block text-glance text-third">
            {by === undefined ? 'as Shrike was set up' : `chosen by ${by.by}, ${formatRecent(by.at, now, place)}`}
          </span>
        </>
      ),
    },
    { head: 'Takes', side: 'right', className: 'whitespace-nowrap', cell: ({ bytes }) => formatBytes(bytes, locale) },
    {
      head: 'Grew in 7 days',
      side: 'right',
      wide: true,
      className: 'whitespace-nowrap text-second',
      cell: ({ weekBytes }) => (weekBytes === 0 ? 'not at all' : `by ${formatBytes(weekBytes, locale)}`),
    },
    {
      head: 'Comes to',
      side: 'right',
      wide: true,
      className: 'whitespace-nowrap text-second',
      cell: ({ weekBytes, days: kept, bytes }) =>
        formatBytes(Math.max((weekBytes / 7) * kept, weekBytes === 0 ? bytes : 0), locale),
    },
    {
      head: 'Kept for',
      side: 'right',
      className: 'whitespace-nowrap',
      cell: (row) => <Days key={row.days} row={row} />,
    },
  ];
  return (
    <>
      <PageHead>
        <h1 className="font-serif text-day font-medium">Retention</h1>
        <span className="text-glance text-third">
          {formatBytes(total, locale)} in all; what is older than its days goes within an hour. ‘Comes to’: at the pace
          of these 7 days, kept for its days
        </span>
      </PageHead>
      <Table name="kept" className="pt-2" columns={columns} rows={rows} keyOf={({ what }) => what} />
    </>
  );
}

/** For how many days something is kept; to keep less is asked twice, since it cannot be undone. */
function Days({ row: { what, days } }: { row: Row }) {
  const fetcher = useFetcher<typeof action>();
  const [said, setSaid] = useState(String(days));
  const [asked, setAsked] = useState(false);
  const problem = fetcher.data?.problem ?? null;
  const name = WORDS[what][0].toLowerCase();
  const send = () => {
    setAsked(false);
    void fetcher.submit({ what, days: said, was: days }, { method: 'post' });
  };
  return (
    <form
      className="inline-flex flex-col items-end"
      onSubmit={(event) => {
        event.preventDefault();
        if (Number(said) < days && retentionFault(Number(said)) === null) setAsked(true);
        else send();
      }}
    >
      <span className="inline-flex items-center gap-2">
        <span className="w-16">
          <CellField
            aria-label={`Days for which ${name} are kept`}
            className="text-right"
            inputMode="numeric"
            value={said}
            onChange={(event) => setSaid(event.target.value)}
          />
        </span>
        days
        <Button
          type="submit"
          disabled={said === String(days) || fetcher.state !== 'idle'}
          aria-label={`Keep ${name} so long`}
        >
          Keep
        </Button>
      </span>
      {problem === null ? null : (
        <span role="alert" className="font-medium text-chestnut">
          {problem}
        </span>
      )}
      <Confirm
        open={asked}
        title={`Keep ${name} for ${countOf(Number(said) || 0, 'day')} only?`}
        go="Let the older go"
        stay="Keep them"
        onGo={send}
        onStay={() => setAsked(false)}
      >
        What is older is let go of within the hour, and does not come back.
      </Confirm>
    </form>
  );
}
