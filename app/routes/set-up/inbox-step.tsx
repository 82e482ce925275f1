import { audienceNames } from '../../parts/plan/audience';
import { MailPreview } from '../../parts/plan/mail-preview';
import { Section } from '../../ui/page';
import { useReader } from '../shell/reader';
import type { StepProps } from './route';

/** The last link: the mail as it would arrive. */
export function InboxStep({ page, draft, complete }: StepProps) {
  const { place, now } = useReader();
  const present = draft.present[draft.plan.condition?.field ?? draft.plan.fields[0]?.key ?? ''];
  return (
    <Section title="The mail as it would arrive" className="max-w-3xl">
      {complete.ok && present !== undefined ? (
        <MailPreview
          plan={complete.value}
          present={present}
          site={page.site}
          address={page.address}
          readerName={page.readerName}
          report={`${audienceNames(page.audiences, draft.plan.audiences)}, at once`}
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
