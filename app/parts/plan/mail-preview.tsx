import { describeReason, type Reason } from '#core/judge/reason';
import { rehearse } from '#core/judge/rehearse';
import { formatValue } from '#core/value/format';
import type { Place } from '#core/when/format';
import { intervalLength, type Instant } from '#core/when/interval';
import { rehearsedMail } from './rehearsed-mail';
import { labelOf, type CompletePlan } from '#core/plan/plan';
import type { CompleteRule, PresentValues } from '#core/plan/rule-draft';
import type { Value } from '#core/value/value';
import { MailSheet } from '../../ui/mail-sheet';

interface MailPreviewProps {
  plan: CompletePlan;
  /** The rule by which it would come; null where there is none. */
  rule: CompleteRule | null;
  present: PresentValues;
  site: string;
  address: string;
  readerName: string;
  report: string;
  place: Place;
  now: Instant;
}

/**
 * The mail as it would arrive, by the very steps that every reading is judged by; nothing is stored and nothing is
 * sent.
 */
export function MailPreview({ plan, rule, present, site, address, readerName, report, place, now }: MailPreviewProps) {
  if (rule === null) return <p className="text-second">Nobody is told, so there is no mail to show.</p>;
  const apart = intervalLength(plan.frequency);
  const known = Object.fromEntries(
    Object.entries(present).filter((each): each is [string, Value] => each[1] !== undefined),
  );
  const rehearsed = rehearse(rule.definition, known, apart);
  const told = rehearsed.at(-1);
  const key = told?.field ?? plan.definition.fields[0]?.key ?? '';
  const label = labelOf(plan.definition.fields, key);
  if (told === undefined || !told.told) return <Untold label={label} reason={told?.reason ?? null} place={place} />;
  const { subject, fields } = plan.definition;
  const mail = rehearsedMail({
    subject,
    site,
    page: address,
    fields,
    rule: rule.definition,
    told,
    report,
    readerName,
    place,
    now,
    apart,
  });
  const course = rehearsed.map((reading) => formatValue(reading.value, place.locale));
  return (
    <div>
      <p className="mb-2 text-second" data-rehearsed>
        {course.length === 1
          ? `${capital(label)} is ${course[0]} already, and you chose to hear of that: this arrives at the first run.`
          : `If ${label} went from ${course.join(' to ')}, this would arrive: ` +
            `${describeReason(told.reason, place)}.`}{' '}
        Nothing is stored and nothing is sent.
      </p>
      <p className="border-t border-rule py-2">
        <span className="text-third">Subject </span>
        <span className="font-medium">{mail.subject}</span>
      </p>
      <MailSheet title="The mail as it would arrive" html={mail.html} leads={false} className="h-[456px] w-full" />
    </div>
  );
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** What is read now would never be told of by this rule. */
function Untold({ label, reason, place }: { label: string; reason: Reason | null; place: Place }) {
  return (
    <p className="text-second" role="status" data-rehearsed>
      No mail would arrive of {label} as it is read now{reason === null ? '' : `: ${describeReason(reason, place)}`}.
    </p>
  );
}
