import { useState } from 'react';
import type { Candidate, LocatorTrial } from '#core/read/candidates';
import type { Field, FieldType } from '#core/read/definition';
import { formatValue } from '#core/value/format';
import type { Polarity, Value } from '#core/value/value';
import { freeKey } from '#core/read/keys';
import type { PlanDraft, PresentValues } from '../../parts/plan/plan';
import { SelectorEditor } from '../../parts/plan/selector';
import { Button } from '../../ui/button';
import { SelectField, TextField } from '../../ui/field';
import { Section } from '../../ui/page';

interface ValuesStepProps {
  draft: PlanDraft;
  candidates: Candidate[];
  present: PresentValues;
  tryAt: string;
  locale: string;
  onTake: (field: Field, value: Value) => void;
  onChange: (change: Partial<PlanDraft>) => void;
}

/** The link from page to value: what Shrike found, a place of her own, and what she took. */
export function ValuesStep(props: ValuesStepProps) {
  return (
    <div className="grid gap-x-10 gap-y-8 lg:grid-cols-[minmax(0,1fr)_372px]">
      <Section title="What can be read there" aside="its structured data first, then prices in sight">
        <Candidates {...props} />
      </Section>
      <div className="flex flex-col gap-8">
        <Section title="What is read">
          <Taken {...props} />
        </Section>
        <Section title="Somewhere else on the page">
          <OwnSelector {...props} />
        </Section>
      </div>
    </div>
  );
}

const samePlace = (field: Field, candidate: Candidate) => JSON.stringify(field.locators) === JSON.stringify(candidate.locators);

function fieldOf(label: string, type: FieldType, locators: Field['locators'], taken: Field[]): Field {
  const keys = taken.map((field) => field.key);
  return {
    key: freeKey(label, keys),
    label,
    type,
    mode: 'stepwise',
    polarity: type.kind === 'money' ? 'up is good' : 'neither',
    locale: null,
    locators,
  };
}

function Candidates({ draft, candidates, locale, onTake, onChange }: ValuesStepProps) {
  if (candidates.length === 0) {
    return (
      <p className="mt-2 text-second">
        Nothing on this page looks like a price, and it carries no structured data. Give a place of your own, on the right.
      </p>
    );
  }
  return (
    <div className="max-h-[470px] overflow-y-auto">
      <table className="w-full" data-candidates>
        <thead className="sticky top-0 bg-page">
          <tr>
            <th className="head-cell text-left">Found at</th>
            <th className="head-cell pr-5 text-right">Value</th>
            <th className="head-cell w-20">
              <span className="sr-only">Take it</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {candidates.map((candidate) => {
            const taken = draft.fields.find((field) => samePlace(field, candidate));
            return (
              <tr key={candidate.where}>
                <td className="cell max-w-0 truncate pr-4" title={candidate.where}>
                  {candidate.locators[0]?.way === 'structured' ? (
                    <span>{candidate.where}</span>
                  ) : (
                    <code className="text-glance text-second">{shortPlace(candidate.where)}</code>
                  )}
                </td>
                <td className="cell w-52 max-w-52 truncate pr-5 text-right font-medium" title={candidate.text}>
                  {formatValue(candidate.value, locale)}
                  {candidate.byLocale ? <span className="block text-glance font-normal text-third">by the page’s language</span> : null}
                </td>
                <td className="cell w-20 text-right">
                  {taken === undefined ? (
                    <button
                      type="button"
                      className="link font-semibold"
                      aria-label={`Take ${candidate.where}`}
                      onClick={() => onTake(fieldOf(candidate.label, candidate.type, candidate.locators, draft.fields), candidate.value)}
                    >
                      Take
                    </button>
                  ) : (
                    <button
                      type="button"
                      className="link text-chestnut"
                      onClick={() => onChange({ fields: draft.fields.filter((field) => field !== taken) })}
                    >
                      Leave out
                    </button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

const SHOWN_STEPS = 3;

/** The end of a long way down the page says more than its beginning. */
function shortPlace(selector: string): string {
  const steps = selector.split(' > ');
  return steps.length <= SHOWN_STEPS ? selector : `… > ${steps.slice(-SHOWN_STEPS).join(' > ')}`;
}

const POLARITIES: { value: Polarity; label: string }[] = [
  { value: 'up is good', label: 'a rise is good' },
  { value: 'up is bad', label: 'a rise is bad' },
  { value: 'neither', label: 'neither' },
];

function Taken({ draft, present, locale, onChange }: ValuesStepProps) {
  if (draft.fields.length === 0) return <p className="mt-2 text-second">Nothing yet. Take a value from the list, or give its place below.</p>;
  const set = (field: Field, change: Partial<Field>) =>
    onChange({ fields: draft.fields.map((each) => (each === field ? { ...each, ...change } : each)) });
  return (
    <ul>
      {draft.fields.map((field) => {
        const value = present[field.key];
        return (
          <li key={field.key} className="cell py-3">
            <p className="flex items-baseline justify-between gap-3">
              <span className="truncate font-serif text-lead">{value === undefined ? '–' : formatValue(value, locale)}</span>
              <button
                type="button"
                className="link shrink-0 text-glance text-second"
                aria-label={`Leave out ${field.label}`}
                onClick={() => onChange({ fields: draft.fields.filter((each) => each !== field) })}
              >
                Leave out
              </button>
            </p>
            <div className="mt-1 grid grid-cols-2 gap-4">
              <TextField label="Called" value={field.label} onChange={(event) => set(field, { label: event.target.value })} />
              <SelectField
                label="For us"
                value={field.polarity}
                options={POLARITIES}
                onChange={(event) => set(field, { polarity: event.target.value as Polarity })}
              />
            </div>
          </li>
        );
      })}
    </ul>
  );
}

function OwnSelector({ draft, tryAt, locale, onTake }: ValuesStepProps) {
  const [own, setOwn] = useState<{ selector: string; kind: FieldType['kind'] }>({ selector: '', kind: 'money' });
  const take = (trial: LocatorTrial) => {
    const value = trial.samples[0]?.value;
    if (value == null) return;
    const type: FieldType =
      value.kind === 'money' ? { kind: 'money', currency: value.currency } : { kind: value.kind === 'number' ? 'number' : 'text' };
    onTake(fieldOf(value.kind === 'money' ? 'price' : 'value', type, [{ way: 'css', selector: own.selector.trim() }], draft.fields), value);
    setOwn({ selector: '', kind: 'money' });
  };
  return (
    <div className="mt-2">
      <SelectorEditor
        tryAt={tryAt}
        selector={own.selector}
        kind={own.kind}
        locale={locale}
        onChange={(selector, kind) => setOwn({ selector, kind })}
        action={{ label: 'Take this value', onTake: take }}
      />
    </div>
  );
}

/** The button that leads on, when a step has what it needs. */
export function Onward({ to, onGo, ready }: { to: string; onGo: () => void; ready: boolean }) {
  return (
    <Button weight={ready ? 'strong' : 'plain'} className="mt-6" onClick={onGo}>
      {to}
    </Button>
  );
}
