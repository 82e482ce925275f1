import { compareReadings } from '#core/compare/compare';
import { describeReason, type Reason } from '#core/judge/reason';
import { rehearse } from '#core/judge/rehearse';
import { alertMail } from '#core/tell/mail';
import type { News } from '#core/tell/news';
import { formatValue } from '#core/value/format';
import type { Value } from '#core/value/value';
import type { Place } from '#core/when/format';
import { intervalLength, type Instant } from '#core/when/interval';
import { labelOf, type CompletePlan, type CompleteRule } from '#core/plan/plan';

interface MailPreviewProps {
  plan: CompletePlan;
  /** The rule by which it would come; null where there is none. */
  rule: CompleteRule | null;
  present: Value;
  site: string;
  address: string;
  readerName: string;
  report: string;
  place: Place;
  now: Instant;
}

/** The mail as it would arrive, by the very steps that every reading is judged by; nothing is stored and nothing is sent. */
export function MailPreview({ plan, rule, present, site, address, readerName, report, place, now }: MailPreviewProps) {
  if (rule === null) return <p className="text-second">Nobody is told, so there is no mail to show.</p>;
  const { condition } = rule.definition;
  const apart = intervalLength(plan.frequency);
  const rehearsed = rehearse(rule.definition, present, apart);
  const told = rehearsed.at(-1);
  const label = labelOf(plan.definition.fields, condition.field);
  if (told === undefined || !told.told) return <Untold label={label} reason={told?.reason ?? null} />;
  const field = plan.definition.fields.find((each) => each.key === condition.field);
  const { value, previous } = told;
  const news: News = {
    subject: plan.definition.subject,
    site,
    page: address,
    field: { key: condition.field, label, ...(field?.role === undefined ? {} : { role: field.role }) },
    value,
    previous,
    change: previous === null ? null : compareReadings(previous, value, field?.polarity ?? 'neither'),
    condition,
    seenAt: now,
    lookedBefore: previous === null ? null : now - apart,
  };
  const mail = alertMail({
    report,
    edition: 1,
    readerName,
    readerNumber: 1,
    made: now,
    alerts: [{ news, watch: '#' }],
    coverage: 'A rehearsal: pretended values, nothing stored and nothing sent.',
    reportLink: '#',
    place,
  });
  const course = rehearsed.map((reading) => formatValue(reading.value, place.locale));
  return (
    <div>
      <p className="mb-2 text-second" data-rehearsed>
        {course.length === 1
          ? `${capital(label)} is ${course[0]} already, and you chose to hear of that: this arrives at the first look.`
          : `If ${label} went from ${course.join(' to ')}, this would arrive: ${describeReason(told.reason)}.`}{' '}
        Nothing is stored and nothing is sent.
      </p>
      <p className="border-t border-rule py-2">
        <span className="text-third">Subject </span>
        <span className="font-medium">{mail.subject}</span>
      </p>
      <iframe title="The mail as it would arrive" sandbox="" srcDoc={mail.html} className="h-[456px] w-full border border-rule bg-white" />
    </div>
  );
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** What is read now would never be told of by this rule. */
function Untold({ label, reason }: { label: string; reason: Reason | null }) {
  return (
    <p className="text-second" role="status" data-rehearsed>
      No mail would arrive of {label} as it is read now{reason === null ? '' : `: ${describeReason(reason)}`}.
    </p>
  );
}
