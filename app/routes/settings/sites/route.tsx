import type { SiteId } from '#core/id';
import { fail, type Result } from '#core/result';
import { useState } from 'react';
import { Link, useFetcher } from 'react-router';
import { sanitiseText } from '#core/value/sanitise';
import { inTransactionIfOk } from '#server/db/base/pool';
import { holdSite, listSites, setSite, type SiteKind, type SiteNow } from '#server/db/source/sites';
import { AsSeen, mayKeep, MEANWHILE } from '../../../parts/as-seen';
import { useLive } from '../../../parts/live';
import { readForm, writtenIn } from '../../../form.server';
import { readId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Button } from '../../../ui/button';
import { SelectField, TextField } from '../../../ui/field';
import { Empty, PageHead } from '../../../ui/page';
import { Onward } from '../../../ui/pager';
import { Popover } from '../../../ui/popover';
import { Table, type Column } from '../../../ui/table';
import { SiteViews } from '../frame/site-views';
import type { Route } from './+types/route';
import { readSiteSettings } from './settings.server';

const EVERY_MS = 5_000;

export const meta: Route.MetaFunction = () => [{ title: 'Sites · Shrike' }];

const PAGE = 100;
const LONGEST_NAME = 500;

export async function loader({ request, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'site' });
  const after = sanitiseText(new URL(request.url).searchParams.get('after') ?? '').slice(0, LONGEST_NAME);
  const found = await listSites(services().pool, after, PAGE + 1);
  const sites = found.slice(0, PAGE);
  return { sites, begun: after !== '', next: found.length > PAGE ? (sites.at(-1)?.name ?? null) : null };
}

const saidOf = ({ name, kind }: Pick<SiteNow, 'name' | 'kind'>) => [name, kind];

const PROBLEMS = {
  gone: 'This site is gone. Load the page again to see what there is.',
  'name taken': 'There is another site of this name. Choose one that tells them apart.',
  meanwhile: MEANWHILE,
};

export async function action({ request, context }: Route.ActionArgs): Promise<{ problem: string | null }> {
  asks(context, 'change', { kind: 'site' });
  const form = await readForm(request);
  const settings = readSiteSettings(form);
  if (!settings.ok) return { problem: settings.error };
  const id = form.get('site');
  const site = readId<SiteId>(typeof id === 'string' ? id : undefined);
  const set = await inTransactionIfOk(services().pool, async (db): Promise<Result<null, keyof typeof PROBLEMS>> => {
    const now = await holdSite(db, site);
    if (now !== null && !mayKeep(saidOf(now), saidOf(settings.value), writtenIn(form, 'was'))) return fail('meanwhile');
    return setSite(db, site, settings.value);
  });
  return { problem: set.ok ? null : PROBLEMS[set.error] };
}

const WHOSE: Record<SiteKind, string> = { own: 'our own', rival: 'a rival’s', channel: 'a channel' };

export default function Sites({ loaderData }: Route.ComponentProps) {
  useLive(['watches'], EVERY_MS);
  const { sites, begun, next } = loaderData;
  return (
    <>
      <PageHead>
        <h1 className="sr-only">Sites</h1>
        <SiteViews />
        <span className="text-glance text-third">where sources live, and whose each is</span>
      </PageHead>
      {sites.length === 0 ? (
        <Empty title="No site is watched yet">
          <p>The sites of your watches are listed here. Say of each whether it is your own, a rival’s or a channel.</p>
        </Empty>
      ) : (
        <>
          <Table name="sites" className="relative pt-2" columns={COLUMNS} rows={sites} keyOf={({ id }) => id} />
          <Onward
            first={begun ? '/sites' : null}
            next={next === null ? null : `?${new URLSearchParams({ after: next }).toString()}`}
            size={PAGE}
          />
        </>
      )}
    </>
  );
}

const COLUMNS: Column<SiteNow>[] = [
  {
    head: 'Site',
    className: 'font-medium',
    cell: ({ name }) => (
      <Link className="hover:underline" to={`/watches?${new URLSearchParams({ q: name }).toString()}`}>
        {name}
      </Link>
    ),
  },
  { head: 'Whose', cell: ({ kind }) => (kind === null ? <span className="text-third">not said</span> : WHOSE[kind]) },
  { head: 'Watches', side: 'right', wide: true, cell: ({ watches }) => watches },
  {
    head: <span className="sr-only">What can be done</span>,
    side: 'right',
    className: 'whitespace-nowrap',
    cell: (site) => (
      <Popover
        label={`What ${site.name} is`}
        trigger={
          <button type="button" className="link" aria-label={`Change what ${site.name} is`}>
            Change
          </button>
        }
      >
        <Settings site={site} />
      </Popover>
    ),
  },
];

function Settings({ site }: { site: SiteNow }) {
  const fetcher = useFetcher<typeof action>();
  const [kind, setKind] = useState<string>(site.kind ?? '');
  return (
    <fetcher.Form method="post">
      <h2 className="mb-2 font-serif text-head font-medium">What {site.name} is</h2>
      <input type="hidden" name="site" value={site.id} />
      <AsSeen state={saidOf(site)} fetcher={fetcher} />
      <TextField label="What it is called" name="name" defaultValue={site.name} problem={fetcher.data?.problem} />
      <SelectField
        label="Whose it is"
        name="kind"
        className="mt-2"
        value={kind}
        onChange={(event) => setKind(event.target.value)}
        options={[
          { value: '', label: 'none of these' },
          ...Object.entries(WHOSE).map(([value, label]) => ({ value, label })),
        ]}
      />
      <p className="mt-3 flex items-center justify-between gap-3">
        <span role="status" className="text-glance text-third">
          {fetcher.state === 'idle' && fetcher.data?.problem === null ? 'Kept.' : ''}
        </span>
        <Button type="submit" weight="strong">
          Keep
        </Button>
      </p>
    </fetcher.Form>
  );
}
