import { AudienceEditor } from '../../parts/plan/audience';
import { Section } from '../../ui/page';
import { Onward } from './onward';
import type { StepProps } from './route';

/** The link from rule to report: who should hear. */
export function ReportStep({ page, draft, complete, onStep }: StepProps) {
  return (
    <Section title="Who should hear" className="max-w-lg">
      {draft.plan.onlyRecord ? (
        <p className="mt-2 text-second">It is only recorded; nobody is told. Change that under Rule.</p>
      ) : (
        <AudienceEditor audiences={page.audiences} chosen={draft.plan.audiences} onChange={(audiences) => draft.change({ audiences })} />
      )}
      <Onward to="On to the mail" ready={complete.ok || complete.error.report === undefined} onGo={() => onStep('Inbox')} />
    </Section>
  );
}
