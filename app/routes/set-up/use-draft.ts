import { useCallback, useEffect, useRef, useState } from 'react';
import { useFetcher } from 'react-router';
import type { Field } from '#core/read/definition';
import type { Guard } from '#core/read/guard';
import type { Value } from '#core/value/value';
import type { PlanDraft, PresentValues } from '../../parts/plan/plan';
import type { Instant } from '#core/when/interval';

const KEEP_AFTER_MS = 600;

interface LoadedDraft {
  id: number;
  plan: PlanDraft;
  present: PresentValues;
  updatedAt: Instant;
}

/** The draft on screen, kept on the server a moment after each change. */
export function useDraft(loaded: LoadedDraft) {
  const [plan, setPlanState] = useState(loaded.plan);
  const [present, setPresent] = useState(loaded.present);
  const [pending, setPending] = useState(false);
  const { submit, state } = useFetcher();
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const unkept = useRef<PlanDraft | null>(null);
  const setPlan = useCallback(
    (next: PlanDraft) => {
      setPlanState(next);
      setPending(true);
      unkept.current = next;
      clearTimeout(timer.current);
      timer.current = setTimeout(() => {
        setPending(false);
        unkept.current = null;
        void submit({ intent: 'keep', plan: JSON.stringify(next) }, { method: 'post' });
      }, KEEP_AFTER_MS);
    },
    [submit],
  );
  useEffect(() => () => keepOnLeaving(loaded.id, timer.current, unkept.current), [loaded.id]);
  const change = (part: Partial<PlanDraft>) => setPlan({ ...plan, ...part });
  const take = (field: Field, value: Value, guards: Guard[]) => {
    setPresent({ ...present, [field.key]: value });
    const known = plan.guards.map((guard) => JSON.stringify(guard));
    const more = guards.filter((guard) => !known.includes(JSON.stringify(guard)));
    change({ fields: [...plan.fields, field], guards: [...plan.guards, ...more] });
  };
  // What the server reads by the plan it keeps is truer than what was taken from a list.
  useEffect(() => {
    if (unkept.current === null) setPresent(loaded.present);
  }, [loaded.present]);
  const settle = () => {
    clearTimeout(timer.current);
    unkept.current = null;
  };
  return { plan, present, change, take, settle, keptAt: pending || state !== 'idle' ? null : loaded.updatedAt };
}

/** A change that was not yet sent when she left the page is sent after her. */
function keepOnLeaving(id: number, timer: ReturnType<typeof setTimeout> | undefined, plan: PlanDraft | null): void {
  clearTimeout(timer);
  if (plan === null) return;
  navigator.sendBeacon(`/watches/new/${id}`, new URLSearchParams({ intent: 'keep', plan: JSON.stringify(plan) }));
}
