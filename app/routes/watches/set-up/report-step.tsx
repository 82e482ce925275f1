import { AudienceEditor, audienceNames } from '../../../parts/plan/audience';
import { changeRule } from '../../../parts/plan/rules';
import { conditionWords } from '../../../parts/plan/condition';
import { Section } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import { Onward } from './onward';
import type { StepProps } from './step-props';

/** The link from rule to report: who should hear, by rule where there are several. */
export function ReportStep({ page, draft, complete, onStep }: StepProps) {
  const { place } = useReader();
  const { rules, fields } = draft.plan;
  const editor = (at: number) => (
    <AudienceEditor
      audiences={page.audiences}
      chosen={rules[at]?.audiences ?? []}
      onChange={(audiences) => draft.change(changeRule(draft.plan, at, { audiences }))}
    />
  );
  return (
    <Section title="Who should hear" className="max-w-lg">
      {rules.length === 0 ? (
        <p className="mt-2 text-second">It is only recorded; nobody is told. Change that under Rule.</p>
      ) : null}
      {rules.length === 1 ? editor(0) : null}
      {rules.length > 1
        ? rules.map((rule, at) => (
            <details key={rule.id ?? `new ${at}`} className="cell" open={rule.audiences.length === 0}>
              <summary className="cursor-pointer">
                <span className="font-medium">
                  {conditionWords(fields, rule, draft.present, place) ?? `rule ${at + 1}`}
                </span>
                <span className="ml-2 text-third">{audienceNames(page.audiences, rule.audiences) || 'nobody yet'}</span>
              </summary>
              <div className="mt-2 mb-3 ml-4">{editor(at)}</div>
            </details>
          ))
        : null}
      <Onward
        to="On to the mail"
        ready={complete.ok || complete.error.report === undefined}
        onGo={() => onStep('Inbox')}
      />
    </Section>
  );
}
