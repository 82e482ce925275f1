import type { PlanProblems } from '#core/plan/plan';

const STEPS = ['Source', 'Value', 'Rule', 'Report', 'Inbox'] as const;
export type Step = (typeof STEPS)[number];

interface StepNavProps {
  step: Step;
  problems: PlanProblems;
  onStep: (step: Step) => void;
}

/** The five links as steps: which is open, and which have what they need. */
export function StepNav({ step, problems, onStep }: StepNavProps) {
  return (
    <nav aria-label="Steps" className="mt-1 flex gap-6 overflow-x-auto border-b border-rule">
      {STEPS.map((each) => {
        const missing =
          each === 'Inbox'
            ? Object.keys(problems).length > 0
            : problems[each.toLowerCase() as keyof PlanProblems] !== undefined;
        return (
          <button
            key={each}
            type="button"
            aria-current={each === step ? 'step' : undefined}
            onClick={() => onStep(each)}
            className="-mb-px border-b-2 border-transparent py-2 text-third hover:text-ink aria-[current=step]:border-chestnut aria-[current=step]:font-semibold aria-[current=step]:text-ink data-[done]:text-ink"
            data-done={missing ? undefined : true}
          >
            {each}
            <span className="sr-only">{missing ? ', not yet said' : ', said'}</span>
          </button>
        );
      })}
    </nav>
  );
}
