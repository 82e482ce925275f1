import type { Weight } from '../judge/rule';
import type { Instant } from '../when/interval';
import type { Value } from '../value/value';
import type { EditionDocument } from './edition/document';
import type { News } from './news';

// An edition as a program gets it: JSON in the envelope of CloudEvents 1.0, structured mode. What `data` holds is said
// in docs/webhook.schema.json.

/** One piece of news of an edition. */
export interface Fact {
  kind: string;
  subject: string;
  site: string;
  page: string;
  field: string | null;
  was: Value | null;
  now: Value | null;
  seen: string | null;
  /** Our own reference of the item that it is of. */
  item: string | null;
}

const moment = (at: Instant): string => new Date(at).toISOString();

/** An alert as a fact. */
export const alertFact = ({ told, subject, site, page, field, previous, value, seenAt }: News): Fact => ({
  kind: told?.what ?? 'alert',
  subject,
  site,
  page,
  field: field.label,
  was: previous,
  now: value,
  seen: moment(seenAt),
  item: null,
});

/** Word of a watch as a whole, as a fact: that it broke, or is read again. */
export const noticeFact = ({
  kind,
  subject,
  site,
  page,
  since,
}: {
  kind: string;
  subject: string;
  site: string;
  page: string;
  since: Instant;
}): Fact => ({ kind, subject, site, page, field: null, was: null, now: null, seen: moment(since), item: null });

/** What an edition tells, line by line, as far as the mail has room for it. */
export function editionFacts({ alerts, groups, broken }: EditionDocument): Fact[] {
  const rows = groups.flatMap((group) => group.rows.filter(({ moved }) => moved));
  return [
    ...alerts.map(({ news }) => alertFact(news)),
    ...rows.map(({ record, site, field, was, now, kind, movedAt }): Fact => ({
      kind: kind ?? 'changed',
      subject: record?.name ?? site.name,
      site: site.name,
      page: record?.page ?? '',
      field: field?.label ?? null,
      was,
      now,
      seen: movedAt === null ? null : moment(movedAt),
      item: record?.item?.reference ?? null,
    })),
    ...broken.map(noticeFact),
  ];
}

/** What an edition is, for one reader. */
export interface EventOf {
  /** Its identity, the same however often it is sent. */
  id: string;
  /** Where this Shrike answers. */
  source: string;
  made: Instant;
  report: { id: number; name: string };
  edition: { id: number; number: number };
  number: number;
  weight: Weight | null;
  subject: string;
  text: string;
  facts: Fact[];
}

/** The type of an event: what `data` is shaped like. */
const TYPE = 'shrike.edition.v1';
/** A program that wants all of a long edition fetches its files. */
const MOST_FACTS = 1_000;

/** An edition as an event, in JSON. */
export function cloudEvent({
  id,
  source,
  made,
  report,
  edition,
  number,
  weight,
  subject,
  text,
  facts,
}: EventOf): string {
  return JSON.stringify({
    specversion: '1.0',
    id,
    source,
    type: TYPE,
    subject: `reports/${report.id}/editions/${edition.number}`,
    time: moment(made),
    datacontenttype: 'application/json',
    data: {
      report,
      edition: { ...edition, link: `${source}/editions/${edition.id}` },
      number,
      weight,
      subject,
      text,
      facts: facts.slice(0, MOST_FACTS),
      more: Math.max(0, facts.length - MOST_FACTS),
    },
  });
}
