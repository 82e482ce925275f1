import { compareReadings } from '#core/compare/compare';
import type { Condition } from '#core/judge/rule';
import { alertMail } from '#core/tell/mail';
import type { News } from '#core/tell/news';
import { multiply, subtract, type Decimal } from '#core/value/decimal';
import { formatValue } from '#core/value/format';
import { isMeasure, type Value } from '#core/value/value';
import type { Place } from '#core/when/format';
import { intervalLength, type Instant } from '#core/when/interval';
import { labelOf, type CompletePlan } from './plan';

interface MailPreviewProps {
  plan: CompletePlan;
  present: Value;
  site: string;
  address: string;
  readerName: string;
  report: string;
  place: Place;
  now: Instant;
}

/** The mail as it would arrive, for a value that is pretended; nothing is stored and nothing is sent. */
export function MailPreview({ plan, present, site, address, readerName, report, place, now }: MailPreviewProps) {
  if (plan.rule === null) return <p className="text-second">Nobody is told, so there is no mail to show.</p>;
  const { condition } = plan.rule;
  const value = pretended(condition, present);
  const field = plan.definition.fields.find((each) => each.key === condition.field);
  const news: News = {
    subject: plan.definition.subject,
    site,
    field: { key: condition.field, label: labelOf(plan.definition.fields, condition.field) },
    value,
    previous: present,
    change: compareReadings(present, value, field?.polarity ?? 'neither'),
    condition,
    seenAt: now,
    lookedBefore: now - intervalLength(plan.frequency),
  };
  const mail = alertMail({
    report,
    edition: 1,
    readerName,
    readerNumber: 1,
    made: now,
    alerts: [{ news, page: address, watch: '#' }],
    coverage: 'A rehearsal: pretended values, nothing stored and nothing sent.',
    reportLink: '#',
    place,
  });
  return (
    <div>
      <p className="mb-2 text-second">
        If {news.field.label} moved from {formatValue(present, place.locale)} to {formatValue(value, place.locale)}, this would arrive. Nothing is
        stored and nothing is sent.
      </p>
      <p className="border-t border-rule py-2">
        <span className="text-third">Subject </span>
        <span className="font-medium">{mail.subject}</span>
      </p>
      <iframe title="The mail as it would arrive" sandbox="" srcDoc={mail.html} className="h-[456px] w-full border border-rule bg-white" />
    </div>
  );
}

const JUST_PAST = '0.50' as Decimal;

function pretended(condition: Condition, present: Value): Value {
  if (condition.kind === 'change') {
    if (present.kind === 'text') return { kind: 'text', text: 'something else' };
    return isMeasure(present) ? { ...present, amount: subtract(present.amount, multiply(present.amount, '0.1' as Decimal)) } : present;
  }
  const { limit, direction } = condition;
  const step = direction === 'below' ? JUST_PAST : (`-${JUST_PAST}` as Decimal);
  return { ...limit, amount: subtract(limit.amount, step) };
}
