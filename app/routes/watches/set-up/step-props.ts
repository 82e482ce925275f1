import type { completePlan } from '#core/plan/plan';
import type { Route } from './+types/route';
import type { Step } from './step-nav';
import type { useDraft } from './use-draft';

/** What the view is given. */
export type Loaded = Route.ComponentProps['loaderData'];

/** The draft as it stands on screen. */
export type DraftOnScreen = ReturnType<typeof useDraft>;

/** What each step is given. */
export interface StepProps {
  page: Loaded;
  draft: DraftOnScreen;
  complete: ReturnType<typeof completePlan>;
  onStep: (step: Step) => void;
}
