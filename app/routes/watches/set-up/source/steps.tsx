import type { DraftId } from '#core/id';
import { useState } from 'react';
import { useFetcher } from 'react-router';
import type { Target } from '#core/read/inspect/wall';
import type { Step } from '#server/fetch/rendered/steps';
import { Button } from '../../../../ui/button';
import { SelectField, TextField, Tick } from '../../../../ui/field';
import { GUARD_KINDS, guardDraftOf, guardOf, type GuardDraft } from '../guard-kinds';
import { Section } from '../../../../ui/page';
import { useSource } from '../use-source';
import type { SourceFacts } from './facts';

/** A step while it is written: a secret stands apart until it is sealed, and its check until it is wholly said. */
export type StepDraft = Step & { secret?: string; check?: GuardDraft };

const draftOf = (step: Step): StepDraft =>
  step.guard === undefined ? step : { ...step, check: guardDraftOf(step.guard) };

const ACTS: { value: Step['act']; label: string }[] = [
  { value: 'click', label: 'click' },
  { value: 'fill in', label: 'fill in' },
  { value: 'choose', label: 'choose' },
  { value: 'wait for', label: 'wait for' },
  { value: 'scroll', label: 'scroll' },
  { value: 'go to', label: 'go to' },
];

function stepOf(act: Step['act']): StepDraft {
  const at: Target = { words: '' };
  switch (act) {
    case 'go to':
      return { act, address: '' };
    case 'fill in':
      return { act, at, text: '' };
    case 'choose':
      return { act, at, option: '' };
    case 'scroll':
      return { act, screens: 1 };
    default:
      return { act, at };
  }
}

/** A page has no records before it is read. */
const STEP_GUARDS = [
  { value: '', label: 'nothing' },
  ...GUARD_KINDS.filter(({ value }) => value !== 'least' && value !== 'most'),
];

/** What has to be so after a step; until it is said, nothing. */
function StepGuard({
  guard,
  onChange,
}: {
  guard: GuardDraft | undefined;
  onChange: (guard: GuardDraft | undefined) => void;
}) {
  return (
    <>
      <SelectField
        label="Then check"
        value={guard?.kind ?? ''}
        options={STEP_GUARDS}
        onChange={({ target }) =>
          onChange(
            target.value === '' ? undefined : { kind: target.value as GuardDraft['kind'], text: guard?.text ?? '' },
          )
        }
      />
      {guard === undefined ? null : (
        <TextField
          label={GUARD_KINDS.find(({ value }) => value === guard.kind)?.input ?? ''}
          className="w-40"
          value={guard.text}
          onChange={(event) => onChange({ ...guard, text: event.target.value })}
        />
      )}
    </>
  );
}

/** What is done in the browser before the page is read, tried step by step with a picture after each. */
export function StepsEditor({ draftId, facts }: { draftId: DraftId; facts: SourceFacts }) {
  const fetcher = useFetcher<{ problem: string | null }>();
  const [steps, setSteps] = useState<StepDraft[]>((facts.request.steps ?? []).map(draftOf));
  const set = (at: number, step: StepDraft) => setSteps(steps.map((each, place) => (place === at ? step : each)));
  const source = useSource();
  const said = () => {
    const { steps: sent, secrets } = splitSecrets(steps);
    return {
      way: 'rendered',
      request: JSON.stringify({ ...facts.request, steps: sent }),
      secrets: JSON.stringify(secrets),
    };
  };
  return (
    <Section
      title="Steps before the page is read"
      aside={steps.length === 0 ? 'for a consent wall, a tab, a sign-in' : undefined}
    >
      <ol data-steps>
        {steps.map((step, at) => (
          <li key={at} className="cell grid grid-cols-[1rem_minmax(0,1fr)_auto] items-baseline gap-x-3 pb-3">
            <span className="text-third">{at + 1}</span>
            <div className="flex flex-col gap-2">
              <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
                <SelectField
                  label="Do"
                  value={step.act}
                  options={ACTS}
                  onChange={(event) => set(at, stepOf(event.target.value as Step['act']))}
                />
                <StepFields step={step} onChange={(next) => set(at, next)} />
              </div>
              <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
                <StepGuard guard={step.check} onChange={(check) => set(at, { ...step, check })} />
                <Tick checked={step.optional === true} onChange={(optional) => set(at, { ...step, optional })}>
                  only if it is there
                </Tick>
              </div>
            </div>
            <button
              type="button"
              className="link text-glance"
              aria-label={`Drop step ${at + 1}`}
              onClick={() => setSteps(steps.filter((_, place) => place !== at))}
            >
              Drop
            </button>
          </li>
        ))}
      </ol>
      <p className="mt-2 flex flex-wrap items-center gap-4">
        <button type="button" className="link" onClick={() => setSteps([...steps, stepOf('click')])}>
          Add a step
        </button>
        {steps.length === 0 ? null : (
          <>
            <Button
              onClick={() => void fetcher.submit({ intent: 'steps', ...said() }, { method: 'post' })}
              disabled={fetcher.state !== 'idle' || facts.tried?.pending === true}
            >
              {facts.tried?.pending === true ? 'Taking them …' : 'Try the steps'}
            </Button>
            <Button onClick={() => source.set(said())} disabled={source.busy}>
              Fetch with these steps
            </Button>
          </>
        )}
      </p>
      {fetcher.data?.problem ? (
        <p role="alert" className="mt-2 font-medium text-chestnut">
          {fetcher.data.problem}
        </p>
      ) : null}
      {facts.tried === null || facts.tried.pending ? null : <Tried draftId={draftId} tried={facts.tried} />}
    </Section>
  );
}

function Tried({ draftId, tried }: { draftId: DraftId; tried: NonNullable<SourceFacts['tried']> }) {
  return (
    <div className="mt-3" data-tried>
      {tried.problem === null ? null : <p className="font-medium text-chestnut">{tried.problem}</p>}
      <ol className="flex gap-4 overflow-x-auto pb-2">
        {tried.steps.map((step) => (
          <li key={step.place} className="w-56 shrink-0">
            <img
              src={`/watches/new/${draftId}/image/${tried.lookId}?step=${step.place}`}
              alt={`After: ${step.said}`}
              className="w-full border border-rule"
            />
            <p className="mt-1 text-glance break-words">{step.said}</p>
            {step.problem === null ? null : <p className="text-glance font-medium text-chestnut">{step.problem}</p>}
          </li>
        ))}
      </ol>
    </div>
  );
}

function StepFields({ step, onChange }: { step: StepDraft; onChange: (step: StepDraft) => void }) {
  if (step.act === 'go to')
    return (
      <TextField
        label="Address"
        className="grow"
        value={step.address}
        onChange={(event) => onChange({ ...step, address: event.target.value })}
      />
    );
  if (step.act === 'scroll') {
    return (
      <TextField
        label="Screens"
        type="number"
        min={1}
        max={20}
        className="w-20"
        value={step.screens}
        onChange={(event) => onChange({ ...step, screens: event.target.valueAsNumber || 1 })}
      />
    );
  }
  return (
    <>
      <TargetField target={step.at} onChange={(at) => onChange({ ...step, at })} />
      {step.act === 'choose' ? (
        <TextField
          label="Option"
          value={step.option}
          onChange={(event) => onChange({ ...step, option: event.target.value })}
        />
      ) : null}
      {step.act === 'fill in' ? <FillFields step={step} onChange={onChange} /> : null}
    </>
  );
}

function FillFields({ step, onChange }: { step: StepDraft & { act: 'fill in' }; onChange: (step: StepDraft) => void }) {
  const secret = step.secret !== undefined || typeof step.text !== 'string';
  return (
    <>
      <TextField
        label="With"
        type={secret ? 'password' : 'text'}
        autoComplete="new-password"
        value={secret ? (step.secret ?? '') : typeof step.text === 'string' ? step.text : ''}
        placeholder={typeof step.text === 'string' ? '' : 'kept; never shown again'}
        onChange={(event) =>
          onChange(secret ? { ...step, secret: event.target.value } : { ...step, text: event.target.value })
        }
      />
      <Tick
        checked={secret}
        onChange={(next) =>
          onChange(
            next
              ? { ...step, secret: typeof step.text === 'string' ? step.text : '' }
              : { act: 'fill in', at: step.at, text: '', check: step.check },
          )
        }
      >
        secret
      </Tick>
    </>
  );
}

/** By the words on it, unless it begins like a selector. */
function TargetField({ target, onChange }: { target: Target; onChange: (target: Target) => void }) {
  const text = 'words' in target ? target.words : target.selector;
  return (
    <TextField
      label="The words on it, or a selector"
      value={text}
      placeholder="Accept, or #yes"
      onChange={(event) =>
        onChange(/^[#.[]/.test(event.target.value) ? { selector: event.target.value } : { words: event.target.value })
      }
    />
  );
}

/** Steps as they are sent: what is secret apart, to be sealed on the server. */
function splitSecrets(steps: StepDraft[]): { steps: Step[]; secrets: Record<string, string> } {
  const secrets: Record<string, string> = {};
  const sent = steps.map(({ check, guard: _before, ...step }, at): Step => {
    const guard = check === undefined ? null : guardOf(check);
    const guarded = guard === null ? {} : { guard };
    if (step.act !== 'fill in') return { ...step, ...guarded };
    const { secret, ...rest } = step;
    if (secret === undefined) return { ...rest, ...guarded };
    if (secret !== '') secrets[String(at)] = secret;
    return { ...rest, ...guarded, text: typeof rest.text === 'string' ? { sealed: '-' } : rest.text };
  });
  return { steps: sent, secrets };
}
