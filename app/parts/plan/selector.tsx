import { useEffect, useState } from 'react';
import { useFetcher } from 'react-router';
import type { LocatorTrial } from '#core/read/candidates';
import type { FieldType } from '#core/read/definition';
import { formatValue } from '#core/value/format';
import { Button } from '../../ui/button';
import { SelectField, TextField } from '../../ui/field';

const TRY_AFTER_MS = 250;

interface SelectorEditorProps {
  /** The address that tries a selector on the page at hand. */
  tryAt: string;
  selector: string;
  kind: FieldType['kind'];
  locale: string;
  onChange: (selector: string, kind: FieldType['kind']) => void;
  /** Shown when the selector finds exactly one value that can be read. */
  action?: { label: string; onTake: (trial: LocatorTrial) => void };
}

/** A CSS selector of her own, tried on the spot: how many elements it matches, and what each gives. */
export function SelectorEditor({ tryAt, selector, kind, locale, onChange, action }: SelectorEditorProps) {
  const trial = useTrial(tryAt, selector, kind);
  return (
    <div>
      <div className="flex items-end gap-3">
        <TextField
          label="CSS selector"
          placeholder=".price, #amount, [itemprop=price]"
          className="min-w-0 grow"
          value={selector}
          onChange={(event) => onChange(event.target.value, kind)}
          problem={trial?.problem}
        />
        <SelectField
          label="Read as"
          value={kind}
          onChange={(event) => onChange(selector, event.target.value as FieldType['kind'])}
          options={[
            { value: 'money', label: 'money' },
            { value: 'number', label: 'number' },
            { value: 'text', label: 'text' },
          ]}
        />
      </div>
      {trial === null ? null : <TrialResult trial={trial} locale={locale} onTake={(suggested) => onChange(suggested, kind)} />}
      {action !== undefined && trial !== null && isReadable(trial) ? (
        <Button className="mt-3" onClick={() => action.onTake(trial)}>
          {action.label}
        </Button>
      ) : null}
    </div>
  );
}

/** One value, in however many places it stands. */
function isReadable(trial: LocatorTrial): boolean {
  const [first] = trial.samples;
  return first !== undefined && first.value !== null && trial.samples.every((sample) => sample.text === first.text);
}

function useTrial(tryAt: string, selector: string, kind: string): LocatorTrial | null {
  const { load, data } = useFetcher<LocatorTrial>();
  const [asked, setAsked] = useState(false);
  useEffect(() => {
    if (selector.trim() === '') return setAsked(false);
    const timer = setTimeout(() => {
      setAsked(true);
      void load(`${tryAt}?${new URLSearchParams({ selector, kind }).toString()}`);
    }, TRY_AFTER_MS);
    return () => clearTimeout(timer);
  }, [tryAt, selector, kind, load]);
  return asked ? (data ?? null) : null;
}

function TrialResult({ trial, locale, onTake }: { trial: LocatorTrial; locale: string; onTake: (selector: string) => void }) {
  const { count, samples, suggestion } = trial;
  return (
    <div data-trial className="mt-2" aria-live="polite">
      {trial.problem === null ? <p className={count === 1 ? 'text-second' : 'font-medium text-chestnut'}>{countWords(count)}</p> : null}
      {suggestion === null ? null : (
        <p className="mt-1">
          But <code className="font-semibold">{suggestion.selector}</code> matches{' '}
          {suggestion.count === 1 ? 'one element' : `${suggestion.count} elements`}.{' '}
          <button type="button" className="link font-semibold" onClick={() => onTake(suggestion.selector)}>
            Use it
          </button>
        </p>
      )}
      {samples.length === 0 ? null : (
        <table className="mt-1 w-full">
          <tbody>
            {samples.map((sample, at) => (
              <tr key={at}>
                <td className="cell max-w-0 truncate pr-4 text-second">“{sample.text}”</td>
                <td className="cell w-32 text-right font-medium">
                  {sample.value === null ? <span className="text-chestnut">not readable so</span> : formatValue(sample.value, locale)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function countWords(count: number): string {
  if (count === 0) return 'Nothing on the page matches.';
  return count === 1 ? 'One element matches.' : `${count} elements match; a watch needs the one place, or places that agree.`;
}
