import type { ReportId } from '#core/id';
import type { Result } from '#core/result';
import { data } from 'react-router';
import { boundsWords } from '#core/tell/quota';
import type { ReportDefinition } from '#core/tell/definition';
import { isOfRules } from '#core/when/cadence';
import { choosable } from '#server/db/report/views/choosable';
import { listQuotas } from '#server/db/delivery/quotas';
import { listEditions } from '#server/db/report/editions';
import { listAudiences } from '#server/db/person/people';
import { findReport } from '#server/db/report/reports';
import { listNames } from '#server/db/watch/standings';
import { listSites } from '#server/db/source/sites';
import { placeOf } from '#server/db/person/people';
import { readId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';
import { beginning } from './beginning.server';
import { namesOf } from './names.server';
import { previewShown, type Previewed } from './preview.server';

const MOST_SITES = 200;

const EDITIONS_SHOWN = 8;

export async function loader({ params, context, request }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'report' });
  const { pool } = services();
  const isNew = params.report === undefined;
  const report = isNew ? null : await findReport(pool, readId<ReportId>(params.report));
  if (!isNew && report === null) throw data('There is no such report, or it was deleted.', { status: 404 });
  const [audiences, sites, { tags }] = [
    await listAudiences(pool),
    await listSites(pool, '', MOST_SITES),
    await listNames(pool),
  ];
  const said =
    report?.order ?? (await beginning(new URL(request.url).searchParams, placeOf(person).zone, audiences[0]?.key));
  // Who was taken out since is not among those who read it.
  const order = present(said, new Set(audiences.map(({ key }) => key)));
  const told = isOfRules(order.cadence);
  return {
    report,
    order,
    audiences,
    sites: sites.map(({ id, name, kind }) => ({ id, name, kind })),
    tags,
    ...(await choosable(pool)),
    names: await namesOf(pool, [order]),
    bounds: boundsWords(await listQuotas(pool)),
    first: told
      ? null
      : shownIn(await previewShown({ order, report: report?.id ?? null, name: report?.name ?? '' }, person)),
    editions: report === null ? [] : await listEditions(pool, report.id, EDITIONS_SHOWN),
    feed: report === null ? null : services().links.feed(report.id, report.feed),
  };
}

/** What could be shown in time; without it the page shows nothing until it is asked again. */
const shownIn = (shown: Result<Previewed, string>) => (shown.ok ? shown.value : null);

/** An order without those who were taken out since. */
function present(order: ReportDefinition, there: ReadonlySet<string>): ReportDefinition {
  const still = (keys: string[]) => keys.filter((key) => there.has(key));
  const parts = order.split?.parts
    .map(({ value, readers }) => ({ value, readers: still(readers) }))
    .filter(({ readers }) => readers.length > 0);
  return {
    ...order,
    readers: still(order.readers),
    broken: still(order.broken),
    split: order.split === null || parts === undefined ? null : { ...order.split, parts },
  };
}
