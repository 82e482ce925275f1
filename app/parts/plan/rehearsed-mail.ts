import { compareReadings } from '#core/compare/compare';
import type { RehearsedReading } from '#core/judge/rehearse';
import type { RuleDefinition } from '#core/judge/rule';
import { labelOf } from '#core/plan/plan';
import type { Field } from '#core/read/definition';
import { alertMail } from '#core/tell/mail';
import type { Message } from '#core/tell/mail-frame';
import type { News } from '#core/tell/news';
import { ABSENT } from '#core/value/value';
import type { Place } from '#core/when/format';
import type { Instant } from '#core/when/interval';

/** What a rehearsed mail is of, and for whom. */
export interface Rehearsed {
  subject: string;
  site: string;
  page: string;
  fields: Field[];
  rule: RuleDefinition;
  told: RehearsedReading;
  report: string;
  readerName: string;
  place: Place;
  now: Instant;
  /** How far apart looks are, in ms. */
  apart: number;
}

/** The mail that a rehearsed reading would bring: nothing is stored and nothing is sent. */
export function rehearsedMail(of: Rehearsed): Message {
  const { report, readerName, now, place } = of;
  return alertMail({
    report,
    edition: 1,
    readerName,
    readerNumber: 1,
    made: now,
    alerts: [{ news: newsOf(of), watch: '#' }],
    coverage: 'A rehearsal: pretended values, nothing stored and nothing sent.',
    reportLink: '#',
    place,
  });
}

function newsOf({
  subject,
  site,
  page,
  fields,
  rule,
  told: { field: key, value, previous, values },
  now,
  apart,
}: Rehearsed): News {
  const field = fields.find((each) => each.key === key);
  const change = previous === null ? null : compareReadings(previous, value, field?.polarity ?? 'neither');
  const own = rule.wording?.[change?.sense ?? 'neither'];
  return {
    subject,
    site,
    page,
    field: { key, label: labelOf(fields, key), ...(field?.role === undefined ? {} : { role: field.role }) },
    value,
    previous,
    change,
    ...(own === undefined ? {} : { own }),
    ...(rule.name === undefined ? {} : { rule: rule.name }),
    ...(rule.weight === undefined ? {} : { weight: rule.weight }),
    ...(rule.carry === undefined
      ? {}
      : { carried: rule.carry.map((each) => ({ label: labelOf(fields, each), value: values[each] ?? ABSENT })) }),
    asked: rule.when,
    labels: Object.fromEntries(fields.map((each) => [each.key, each.label])),
    seenAt: now,
    lookedBefore: previous === null ? null : now - apart,
  };
}
