import type { DraftId } from '#core/id';
import { useCallback, useEffect, useRef, useState } from 'react';
import { useFetcher } from 'react-router';
import type { Field } from '#core/read/definition';
import type { Value } from '#core/value/value';
import type { PlanDraft } from '#core/plan/plan';
import type { PresentValues } from '#core/plan/rule-draft';
import type { Instant } from '#core/when/interval';

const KEEP_AFTER_MS = 600;

interface LoadedDraft {
  id: DraftId;
  revision: number;
  plan: PlanDraft;
  present: PresentValues;
  updatedAt: Instant;
  /** What the page calls its subject. */
  title: string | null;
}

/** The draft on screen, kept on the server a moment after each change. */
export function useDraft(loaded: LoadedDraft) {
  const [plan, setPlanState] = useState(loaded.plan);
  const [present, setPresent] = useState(loaded.present);
  const [pending, setPending] = useState(false);
  const { submit, state, data: kept } = useFetcher<Kept>();
  // A tab goes on from what it saw first and what it kept itself; what another one keeps meanwhile is not its own.
  const [tab, setTab] = useState('');
  useEffect(() => setTab(newTab()), []);
  const [revision, setRevision] = useState(loaded.revision);
  const [theirs, setTheirs] = useState<number | null>(null);
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
        void submit({ intent: 'keep', plan: JSON.stringify(next), revision, tab }, { method: 'post' });
      }, KEEP_AFTER_MS);
    },
    [submit, revision, tab],
  );
  useEffect(() => {
    if (kept?.revision != null) setRevision(kept.revision);
    if (kept !== undefined) setTheirs(kept.theirs);
  }, [kept]);
  const keeping = useRef({ revision, tab });
  useEffect(() => {
    keeping.current = { revision, tab };
  }, [revision, tab]);
  useEffect(() => () => keepOnLeaving(loaded.id, timer.current, unkept.current, keeping.current), [loaded.id]);
  /** Keeps what stands here over what another tab has kept. */
  const insist = () =>
    void submit(
      { intent: 'keep', plan: JSON.stringify(plan), revision: theirs ?? loaded.revision, tab },
      { method: 'post' },
    );
  const change = (part: Partial<PlanDraft>) => setPlan({ ...plan, ...part });
  const take = (field: Field, value: Value) => {
    setPresent({ ...present, [field.key]: value });
    change({ fields: [...plan.fields, field] });
  };
  // What the server reads by the plan it keeps is truer than what was taken from a list.
  useEffect(() => {
    if (unkept.current === null) setPresent(loaded.present);
  }, [loaded.present]);
  // What it is called is what the page calls it, for as long as nobody has said otherwise.
  const called = useRef(loaded.title);
  useEffect(() => {
    const [before, now] = [called.current, loaded.title];
    called.current = now;
    if (now !== null && now !== before && (plan.subject === before || plan.subject === ''))
      setPlan({ ...plan, subject: now });
  }, [loaded.title, plan, setPlan]);
  const stopKeeping = () => {
    clearTimeout(timer.current);
    unkept.current = null;
  };
  const keptAt = pending || state !== 'idle' || theirs !== null ? null : loaded.updatedAt;
  return {
    plan,
    present,
    change,
    take,
    stopKeeping,
    insist,
    elsewhere: theirs !== null,
    keeping: { revision, tab },
    keptAt,
  };
}

interface Kept {
  revision: number | null;
  /** The revision that another tab has kept meanwhile, where this one was refused for it. */
  theirs: number | null;
}

/** Tells the tabs of one reader apart. */
function newTab(): string {
  return typeof crypto === 'undefined' || crypto.randomUUID === undefined ? String(Math.random()) : crypto.randomUUID();
}

/** A change that was not yet sent when she left the page is sent after her. */
function keepOnLeaving(
  id: DraftId,
  timer: ReturnType<typeof setTimeout> | undefined,
  plan: PlanDraft | null,
  { revision, tab }: { revision: number; tab: string },
): void {
  clearTimeout(timer);
  if (plan === null) return;
  const kept = { intent: 'keep', plan: JSON.stringify(plan), revision: String(revision), tab };
  navigator.sendBeacon(`/watches/new/${id}`, new URLSearchParams(kept));
}
