import type { RuleId, WatchId } from '#core/id';
import { data } from 'react-router';
import { draftOf, unitsByField } from '#core/plan/plan';
import { BLANK_RULE } from '#core/plan/rule-draft';
import { isAllRecords } from '#core/read/all-records';
import { listOtherWatches } from '#server/db/rule/views/other-watches';
import { listAudiences } from '#server/db/person/people';
import { listRecords } from '#server/db/reading/records';
import { countResting } from '#server/db/rule/raised';
import { findWatch } from '#server/db/watch/views/watch-now';
import { readId } from '../../../ids.server';
import { MOST_ELSEWHERE } from '../../../parts/plan/related-item';
import { relatedItem } from '../../../parts/plan/related-item.server';
import { lastDayOfNew } from '../../../parts/plan/last-day.server';
import { presentOf } from '../../../parts/plan/present';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';
import { draftFrom } from './filled';
import { pretendedOf } from './pretended.server';

const MOST_RECORDS = 200;

export async function loader({ request, params, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'watch' });
  const { pool, clock } = services();
  const watch = await findWatch(pool, readId<WatchId>(params.watch));
  const kept =
    params.rule === 'new' ? null : (watch?.rules.find(({ id }) => id === readId<RuleId>(params.rule)) ?? undefined);
  if (watch === null || kept === undefined) throw data('There is no such rule.', { status: 404 });
  const [audiences, found] = await Promise.all([
    listAudiences(pool),
    listRecords(pool, watch.id, { words: '', chosen: watch.allRecords, most: MOST_RECORDS, after: null }),
  ]);
  const records = found.filter((record) => !isAllRecords(record));
  const asked = new URL(request.url).searchParams;
  const draft =
    kept === null
      ? draftFrom(watch, found, asked, lastDayOfNew(person.zone))
      : (draftOf(watch).rules.find(({ id }) => id === kept.id) ?? BLANK_RULE);
  return {
    watch,
    kept: kept === null ? null : kept.id,
    draft,
    audiences,
    records: records.map(({ identity, name, labels }) => ({ identity, name: name ?? identity, labels })),
    pretended: pretendedOf(watch, records),
    elsewhere: await listOtherWatches(pool, watch.id, MOST_ELSEWHERE),
    present: presentOf(watch),
    resting: kept === null ? 0 : await countResting(pool, kept.id),
    units: unitsByField(records.flatMap((record) => record.series)),
    beside: await relatedItem(
      pool,
      watch,
      records.find(({ goneSince }) => goneSince === null)?.identity ?? null,
      clock(),
    ),
  };
}
