import { formatValue } from '#core/value/format';
import type { Value } from '#core/value/value';
import { ConditionEditor } from '../../parts/plan/condition';
import { unitsByField } from '../../parts/plan/plan';
import { Section } from '../../ui/page';
import { useReader } from '../shell/reader';
import { Onward } from './onward';
import type { StepProps } from './route';
import type { RecordsPreview } from '#core/read/inspect/trial';

const cellsOf = (preview: RecordsPreview | null) =>
  (preview?.rows ?? []).flatMap(({ cells }) => Object.entries(cells).map(([field, { value }]) => ({ field, value })));

/** The link from value to rule: what matters. */
export function RuleStep({ page, draft, complete, onStep }: StepProps) {
  const { locale } = useReader();
  const problem = complete.ok ? undefined : complete.error.rule;
  if (draft.plan.fields.length === 0) return <p className="text-second">First say what to read.</p>;
  return (
    <div className="grid gap-10 lg:grid-cols-[minmax(0,1fr)_372px]">
      <Section title="What matters" className="max-w-lg">
        <div className="mt-2">
          <ConditionEditor
            draft={draft.plan}
            present={draft.present}
            units={unitsByField(cellsOf(page.preview))}
            locale={locale}
            problem={problem}
            onChange={draft.change}
          />
          <Onward to="On to who should hear" ready={problem === undefined} onGo={() => onStep('Report')} />
        </div>
      </Section>
      <Section title="What is read now">
        {draft.plan.fields.map((field) => (
          <p key={field.key} className="cell flex items-baseline justify-between gap-4">
            <span className="text-second">{field.label}</span>
            <span className="truncate font-serif text-day">{formatPresent(draft.present[field.key], locale)}</span>
          </p>
        ))}
        <p className="mt-3 text-glance text-third">
          There is no history yet to try a rule on: the first look is a baseline, and each one after it is judged.
        </p>
      </Section>
    </div>
  );
}

function formatPresent(value: Value | undefined, locale: string): string {
  return value === undefined ? 'not read' : formatValue(value, locale);
}
