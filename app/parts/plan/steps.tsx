import type { StepDraft } from '#core/plan/rule-draft';
import type { Audience } from '#server/db/person/people';
import { SelectField } from '../../ui/field';
import { Span } from './span-field';

interface StepsProps {
  steps: StepDraft[];
  audiences: Audience[];
  onChange: (steps: StepDraft[]) => void;
}

const MOST_STEPS = 5;
const BLANK: StepDraft = { after: { count: '1', unit: 'hour' }, audiences: [] };

/** Who is told next of what nobody takes on, one after another. */
export function Steps({ steps, audiences, onChange }: StepsProps) {
  const set = (at: number, change: Partial<StepDraft>) =>
    onChange(steps.map((step, each) => (each === at ? { ...step, ...change } : step)));
  return (
    <div className="flex flex-col gap-3">
      {steps.map((step, at) => (
        <div
          key={at}
          className="ml-6 flex flex-col gap-1.5 border-l border-rule pl-3"
          role="group"
          aria-label={`Step ${at + 1}`}
        >
          <Span
            label={at === 0 ? 'If nobody has taken it on for' : 'And then, after'}
            span={step.after}
            onChange={(after) => set(at, { after })}
          />
          <SelectField
            label="tell"
            value={step.audiences[0] ?? ''}
            options={[
              { value: '', label: 'choose …' },
              ...audiences.map(({ key, name }) => ({ value: key, label: name })),
            ]}
            onChange={(event) => set(at, { audiences: event.target.value === '' ? [] : [event.target.value] })}
          />
          <button
            type="button"
            className="link self-start text-glance"
            onClick={() => onChange(steps.filter((_, each) => each !== at))}
          >
            Take this step away
          </button>
        </div>
      ))}
      {steps.length >= MOST_STEPS ? null : (
        <button type="button" className="link self-start text-second" onClick={() => onChange([...steps, BLANK])}>
          {steps.length === 0 ? 'tell others, where nobody takes it on …' : 'and then others …'}
        </button>
      )}
    </div>
  );
}
