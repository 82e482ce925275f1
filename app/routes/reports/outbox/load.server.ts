import type { DeliveryId, PersonId, ReportId } from '#core/id';
import { DELIVERY_STATES } from '#core/tell/delivery';
import type { Place } from '#core/when/format';
import { isDay, windowOfDay } from '#core/when/wall-clock';
import { countWaiting, listDeliveries, type AfterDelivery, type DeliveryFilter } from '#server/db/delivery/deliveries';
import { findReaderNow, readerNames } from '#server/db/person/readers';
import { reportNames } from '#server/db/report/reports';
import { notNotifiedBy } from '#server/db/delivery/views/not-notified';
import { placeOf } from '#server/db/person/people';
import { readId, readInstant, readLongId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';
import { MOST_UNSENT, PAGE } from './bounds';

const MOST_NAMED = 500;

const UNSENT = DELIVERY_STATES.filter((state) => state !== 'sent');

export async function loader({ request, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'outbox' });
  const asked = new URL(request.url).searchParams;
  const after = afterIn(asked);
  const said = saidIn(asked);
  const filter = filterOf(said, placeOf(person));
  const { pool } = services();
  const isPlain = Object.keys(filter).length === 0;
  const [found, unsent, waiting, people, reports] = await Promise.all([
    listDeliveries(pool, isPlain ? { states: ['sent'] } : filter, PAGE + 1, after),
    isPlain && after === null ? listDeliveries(pool, { states: UNSENT }, MOST_UNSENT + 1) : [],
    countWaiting(pool),
    readerNames(pool, MOST_NAMED),
    reportNames(pool, MOST_NAMED),
  ]);
  const reader = filter.person === undefined ? null : await findReaderNow(pool, filter.person);
  const explained = reader !== null && filter.day !== undefined;
  const shown = found.slice(0, PAGE);
  return {
    rows: [...unsent.slice(0, MOST_UNSENT), ...shown],
    moreUnsent: unsent.length > MOST_UNSENT,
    said,
    isPlain,
    waiting,
    people: people.map(({ id, name }) => ({ value: String(id), label: name })),
    reports: reports.map(({ id, name }) => ({ value: String(id), label: name })),
    why: explained
      ? { reader, reports: await notNotifiedBy(pool, reader.id, filter.day ?? ALL, filter.report ?? null) }
      : null,
    begun: after !== null,
    next: found.length > PAGE ? (shown.at(-1) ?? null) : null,
  };
}

const ALL = { from: 0, until: 0 };

function afterIn(asked: URLSearchParams): AfterDelivery | null {
  const [orderedAt, id] = [readInstant(asked.get('before')), readLongId<DeliveryId>(asked.get('id'))];
  return orderedAt === 0 ? null : { orderedAt, id };
}

/** What the address asks for, as it is shown in the fields. */
interface Said {
  reader: string;
  report: string;
  state: string;
  day: string;
}

function saidIn(asked: URLSearchParams): Said {
  const [reader, report] = [readId<PersonId>(asked.get('reader')), readId<ReportId>(asked.get('report'))];
  const [state, day] = [asked.get('state') ?? '', asked.get('day') ?? ''];
  const isKnown = state === 'unsent' || DELIVERY_STATES.some((each) => each === state);
  return {
    reader: reader === 0 ? '' : String(reader),
    report: report === 0 ? '' : String(report),
    state: isKnown ? state : '',
    day: isDay(day) ? day : '',
  };
}

function filterOf({ reader, report, state, day }: Said, { zone }: Place): DeliveryFilter {
  const states = state === 'unsent' ? UNSENT : DELIVERY_STATES.filter((each) => each === state);
  return {
    ...(reader === '' ? {} : { person: readId<PersonId>(reader) }),
    ...(report === '' ? {} : { report: readId<ReportId>(report) }),
    ...(states.length === 0 ? {} : { states }),
    ...(day === '' ? {} : { day: windowOfDay(day, zone) }),
  };
}
