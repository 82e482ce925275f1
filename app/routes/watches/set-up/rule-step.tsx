import { formatValue } from '#core/value/format';
import { withNumber } from '#core/read/all-records';
import type { Value } from '#core/value/value';
import { ConditionEditor } from '../../../parts/plan/condition';
import { MOST_RULES, unitsByField } from '#core/plan/plan';
import type { ReactNode } from 'react';
import { addRule, changeRule, removeRule } from '../../../parts/plan/rules';
import { Section } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import { Onward } from './onward';
import type { StepProps } from './step-props';
import type { RecordsPreview } from '#core/read/inspect/trial';

const cellsOf = (preview: RecordsPreview | null) =>
  (preview?.rows ?? []).flatMap(({ cells }) => Object.entries(cells).map(([field, { value }]) => ({ field, value })));

/** The records that are read, where there are several. */
const recordsIn = (preview: RecordsPreview | null) =>
  (preview?.rows ?? []).map(({ identity, name }) => ({ identity, name }));

/** The link from value to rule: what matters. */
export function RuleStep({ page, draft, complete, onStep }: StepProps) {
  const { place, locale } = useReader();
  const problem = complete.ok ? undefined : complete.error.rule;
  const { plan } = draft;
  if (plan.fields.length === 0) return <p className="text-second">First say what to read.</p>;
  return (
    <div className="grid gap-10 lg:grid-cols-[minmax(0,1fr)_372px]">
      <Section title="What matters" className="max-w-lg">
        <div className="mt-2">
          {(plan.rules.length === 0 ? [null] : plan.rules).map((rule, at) => (
            <RuleSaid
              key={rule?.id ?? `new ${at}`}
              at={at}
              of={plan.rules.length}
              onRemove={() => draft.change(removeRule(plan, at))}
            >
              <ConditionEditor
                fields={withNumber(plan)}
                rule={rule}
                present={draft.present}
                units={unitsByField(cellsOf(page.preview))}
                records={recordsIn(page.preview)}
                place={place}
                problem={problem}
                onChange={(change) => draft.change(changeRule(plan, at, change))}
                onNever={() => draft.change(removeRule(plan, at))}
              />
            </RuleSaid>
          ))}
          {plan.rules.length === 0 || plan.rules.length >= MOST_RULES ? null : (
            <button type="button" className="link mt-3 block" onClick={() => draft.change(addRule(plan))}>
              Another rule
            </button>
          )}
          <Onward to="On to who should hear" ready={problem === undefined} onGo={() => onStep('Report')} />
        </div>
      </Section>
      <Section title="What is read now">
        {plan.fields.map((field) => (
          <p key={field.key} className="cell flex items-baseline justify-between gap-4">
            <span className="text-second">{field.label}</span>
            <span className="truncate font-serif text-day">{formatPresent(draft.present[field.key], locale)}</span>
          </p>
        ))}
        <p className="mt-3 text-glance text-third">
          There is no history yet to try a rule on: the first run is a baseline, and each one after it is judged.
        </p>
      </Section>
    </div>
  );
}

/** One of the rules that are being said; several are told apart. */
function RuleSaid({
  at,
  of,
  onRemove,
  children,
}: {
  at: number;
  of: number;
  onRemove: () => void;
  children: ReactNode;
}) {
  if (of < 2) return children;
  return (
    <section aria-label={`Rule ${at + 1}`} className="border-b border-rule pt-3 pb-5">
      <h3 className="flex items-baseline justify-between pb-2 font-semibold">
        Rule {at + 1}
        <button type="button" className="link text-glance font-normal" onClick={onRemove}>
          Take it away
        </button>
      </h3>
      {children}
    </section>
  );
}

function formatPresent(value: Value | undefined, locale: string): string {
  return value === undefined ? 'not read' : formatValue(value, locale);
}
