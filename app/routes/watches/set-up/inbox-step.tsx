import { useState } from 'react';
import { audienceNames } from '../../../parts/plan/audience';
import { MailPreview } from '../../../parts/plan/mail-preview';
import { conditionWords } from '../../../parts/plan/condition';
import { SelectField } from '../../../ui/field';
import { Section } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import type { StepProps } from './step-props';

/** The last link: the mail as it would arrive, of one rule at a time. */
export function InboxStep({ page, draft, complete }: StepProps) {
  const { place, now } = useReader();
  const { rules, fields } = draft.plan;
  const [chosen, setChosen] = useState(0);
  const at = Math.min(chosen, Math.max(0, rules.length - 1));
  return (
    <Section title="The mail as it would arrive" className="max-w-3xl">
      {rules.length > 1 ? (
        <SelectField
          label="By the rule"
          value={String(at)}
          onChange={(event) => setChosen(Number(event.target.value))}
          options={rules.map((rule, each) => ({
            value: String(each),
            label: conditionWords(fields, rule, draft.present, place) ?? `rule ${each + 1}`,
          }))}
        />
      ) : null}
      {complete.ok ? (
        <MailPreview
          plan={complete.value}
          rule={complete.value.rules[at] ?? null}
          present={draft.present}
          site={page.site}
          address={page.address}
          readerName={page.readerName}
          report={`${audienceNames(page.audiences, rules[at]?.audiences ?? [])}, at once`}
          place={place}
          now={now}
        />
      ) : (
        <ul className="mt-2 text-second">
          {Object.values(complete.ok ? {} : complete.error).map((problem) => (
            <li key={problem}>{problem}</li>
          ))}
        </ul>
      )}
    </Section>
  );
}
