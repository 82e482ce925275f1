import type { AlertId, ChangeId, RecordId, WatchId } from '#core/id';
import { data } from 'react-router';
import { sanitiseText } from '#core/value/sanitise';
import type { Place } from '#core/when/format';
import { DAY, type Instant } from '#core/when/interval';
import { listAudiences } from '#server/db/person/people';
import { listReadings } from '#server/db/reading/views/readings';
import { chainFactsOf, findWatch, type WatchNow } from '#server/db/watch/views/watch-now';
import { countChanges, findTrail, listChanges } from '#server/db/reading/views/changes';
import {
  findOtherTrail,
  isOther,
  listOtherNews,
  type OtherNews,
  type OtherTrail,
} from '#server/db/reading/views/other-news';
import { reportTrailOf } from '#server/pipeline/report/trail';
import { findPunctuality, listEpisodes, listRuns } from '#server/db/watch/views/history';
import { listOffered, listRecords, type AfterRecord, type RecordNow } from '#server/db/reading/records';
import { neverSaid } from '../../../parts/never.server';
import { isAllRecords } from '#core/read/all-records';
import { labelOf } from '#core/plan/plan';
import { readId, readInstant, readLongId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';
import { beforeAfter } from './before-after.server';
import { itemsSeen } from './items.server';
import { questionsShown } from './questions.server';
import { timestampViewOf, type TimestampView } from './timestamp.server';
import { MOST_WORDS } from './act.server';
import { MOST_OFFERED } from './act.server';

const RANGES = { day: DAY, week: 7 * DAY, weeks: 28 * DAY, quarter: 91 * DAY } as const;

const MOST_CHANGES = 50;

/** Of each sort of other news. */
const MOST_OTHERS = 12;

function windowOf(range: string, watch: WatchNow, now: Instant): Instant {
  const length = Object.hasOwn(RANGES, range) ? RANGES[range as keyof typeof RANGES] : RANGES.weeks;
  // What is younger than the stretch is shown from its beginning, so that it fills the chart.
  const young = Math.min(watch.createdAt, now - RANGES.day);
  return range === 'all' ? young : Math.max(now - length, young);
}

export async function loader({ request, params, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'watch' });
  const { pool, clock } = services();
  const watch = await findWatch(pool, readId<WatchId>(params.watch));
  if (watch === null) throw data('There is no such watch.', { status: 404 });
  const asked = new URL(request.url).searchParams;
  const now = clock();
  const range = asked.get('range') ?? 'weeks';
  const from = windowOf(range, watch, now);
  const words = sanitiseText(asked.get('among') ?? '').slice(0, MOST_WORDS);
  const recordAsked = readLongId<RecordId>(asked.get('record'));
  const after = afterIn(asked);
  const found = await listRecords(pool, watch.id, {
    words,
    chosen: recordAsked || null,
    most: MOST_RECORDS + 1,
    after,
  });
  const record = found.find((each) => each.id === recordAsked) ?? found[0] ?? null;
  const records = found.filter((each) => !isAllRecords(each)).slice(0, MOST_RECORDS);
  const [readings, changes, changeCount, runs, episodes, audiences, offered, punctuality] = await Promise.all([
    listReadings(
      pool,
      (record?.series ?? watch.series).map((series) => series.id),
      from,
    ),
    listChanges(pool, watch.id, MOST_CHANGES),
    countChanges(pool, watch.id),
    listRuns(pool, watch.id, from),
    listEpisodes(pool, watch.id, from),
    listAudiences(pool),
    watch.offeredCount === 0 ? [] : listOffered(pool, watch.id, MOST_OFFERED),
    findPunctuality(pool, watch.id, from),
  ]);
  const questions = await questionsShown(watch);
  const moment = record === null ? null : await timestampAsked(watch, record, asked);
  return {
    watch,
    facts: await factsOf(watch, person),
    range,
    from,
    to: now,
    readings,
    changes,
    changeCount,
    runs,
    episodes,
    audiences,
    ...(await trailsAsked(watch.id, asked, changes[0]?.id)),
    records,
    record,
    words,
    page: { begun: after !== null, more: found.length > MOST_RECORDS, size: MOST_RECORDS },
    offered,
    punctuality,
    questions,
    moment,
    items: await itemsSeen(watch, records),
  };
}

/**
 * What else there is to tell than changes, and the trail of what is asked for: else of the latest change, or of the
 * latest of the rest.
 */
async function trailsAsked(watch: WatchId, asked: URLSearchParams, latest: ChangeId | undefined) {
  const { pool } = services();
  const chosen = readLongId<ChangeId>(asked.get('change')) || latest;
  const trail = chosen === undefined ? null : await findTrail(pool, watch, chosen);
  const others = await listOtherNews(pool, watch, MOST_OTHERS);
  const other = await otherAsked(watch, asked.get('news'), trail === null ? others[0] : undefined);
  const passages = await reportTrailOf(
    pool,
    other?.news ?? (trail === null ? null : { of: 'change', id: trail.change.id }),
  );
  const pictures = trail === null || other !== null ? null : await beforeAfter(watch, trail.change.id);
  return { trail, others, other, passages, pictures };
}

/** The trail of other news than a change: of what is asked for as `alert-12`, else of what is said. */
async function otherAsked(
  watch: WatchId,
  word: string | null,
  otherwise: OtherNews | undefined,
): Promise<OtherTrail | null> {
  const [of = '', id = ''] = word?.split('-') ?? [otherwise?.of, String(otherwise?.id)];
  return isOther(of) ? findOtherTrail(services().pool, watch, of, readLongId<AlertId>(id)) : null;
}

/** What was made of the reading that she asks about, by its field and a moment; null where she asks about none. */
function timestampAsked(
  watch: WatchNow,
  record: RecordNow,
  asked: URLSearchParams,
): Promise<TimestampView | null> | null {
  const [field, at] = [asked.get('field') ?? '', readInstant(asked.get('at'))];
  return at <= 0 || field === '' ? null : timestampViewOf(watch, record, field, at);
}

/** What the chain says of a watch, and of each rule whether anything that was read so far could have met it. */
async function factsOf(watch: WatchNow, place: Place) {
  const facts = chainFactsOf(watch, place.locale);
  const asked = watch.rules.map(({ definition }) => ({ watchId: watch.id, definition }));
  const never = await neverSaid(asked, () => (key) => labelOf(watch.definition.fields, key), place);
  return {
    ...facts,
    rules: facts.rules.map((rule, at) => ({ ...rule, never: never.get(asked[at] as (typeof asked)[number]) ?? null })),
  };
}

const MOST_RECORDS = 200;

/** `after=12` and `after=gone-12`: where a page of records begins. */
function afterIn(asked: URLSearchParams): AfterRecord | null {
  const [, gone, id] = /^(gone-)?(\d{1,16})$/.exec(asked.get('after') ?? '') ?? [];
  return id === undefined ? null : { gone: gone !== undefined, id: readLongId<RecordId>(id) };
}
