import { useState } from 'react';
import { useFetcher } from 'react-router';
import type { Step, Target } from '#server/fetch/rendered/steps';
import { Button } from '../../../ui/button';
import { SelectField, TextField, Tick } from '../../../ui/field';
import { Section } from '../../../ui/page';
import { splitSecrets, type SourceFacts } from './source-step';

/** A step while it is written: a secret stands apart until it is sealed. */
export type StepDraft = Step & { secret?: string };

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

/** A step with what has to be seen after it; without, where nothing is said. */
function withGuard({ guard: _before, ...step }: StepDraft, text: string): StepDraft {
  return text === '' ? (step as StepDraft) : ({ ...step, guard: { check: 'text here', text } } as StepDraft);
}

/** What is done in the browser before the page is read, tried step by step with a picture after each. */
export function StepsEditor({ draftId, facts }: { draftId: number; facts: SourceFacts }) {
  const fetcher = useFetcher<{ problem: string | null }>();
  const [steps, setSteps] = useState<StepDraft[]>(facts.request.steps ?? []);
  const set = (at: number, step: StepDraft) => setSteps(steps.map((each, place) => (place === at ? step : each)));
  const send = (intent: 'source' | 'steps') => {
    const split = splitSecrets(steps);
    const request = { ...facts.request, steps: split.steps };
    void fetcher.submit({ intent, way: 'rendered', request: JSON.stringify(request), secrets: JSON.stringify(split.secrets) }, { method: 'post' });
  };
  return (
    <Section title="Steps before the page is read" aside={steps.length === 0 ? 'for a consent wall, a tab, a sign-in' : undefined}>
      <ol data-steps>
        {steps.map((step, at) => (
          <li key={at} className="cell flex flex-wrap items-end gap-4 pb-3">
            <span className="w-4 pb-2 text-third">{at + 1}</span>
            <SelectField label="Do" value={step.act} options={ACTS} onChange={(event) => set(at, stepOf(event.target.value as Step['act']))} />
            <StepFields step={step} onChange={(next) => set(at, next)} />
            <TextField
              label="Then this has to be there"
              className="w-40"
              placeholder="any text, if you like"
              value={step.guard?.check === 'text here' ? step.guard.text : ''}
              onChange={(event) => set(at, withGuard(step, event.target.value))}
            />
            <Tick checked={step.optional === true} onChange={(optional) => set(at, { ...step, optional })}>
              if it is there
            </Tick>
            <button
              type="button"
              className="link mb-2 text-glance"
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
            <Button onClick={() => send('steps')} disabled={fetcher.state !== 'idle' || facts.tried?.pending === true}>
              {facts.tried?.pending === true ? 'Taking them …' : 'Try the steps'}
            </Button>
            <Button onClick={() => send('source')} disabled={fetcher.state !== 'idle'}>
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

function Tried({ draftId, tried }: { draftId: number; tried: NonNullable<SourceFacts['tried']> }) {
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
            <p className="mt-1 text-glance">{step.said}</p>
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
      <TextField label="Address" className="grow" value={step.address} onChange={(event) => onChange({ ...step, address: event.target.value })} />
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
        <TextField label="Option" value={step.option} onChange={(event) => onChange({ ...step, option: event.target.value })} />
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
        onChange={(event) => onChange(secret ? { ...step, secret: event.target.value } : { ...step, text: event.target.value })}
      />
      <Tick
        checked={secret}
        onChange={(next) =>
          onChange(next ? { ...step, secret: typeof step.text === 'string' ? step.text : '' } : { act: 'fill in', at: step.at, text: '' })
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
      onChange={(event) => onChange(/^[#.[]/.test(event.target.value) ? { selector: event.target.value } : { words: event.target.value })}
    />
  );
}
