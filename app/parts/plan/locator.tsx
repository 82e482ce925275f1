import { useEffect, useState } from 'react';
import { useFetcher } from 'react-router';
import type { LocatorTrial } from '#core/read/candidates';
import type { FieldType } from '#core/read/definition';
import type { Locator } from '#core/read/locator';
import { formatValue } from '#core/value/format';
import { Button } from '../../ui/button';
import { SelectField, TextField } from '../../ui/field';
import { KINDS, typeOfKind } from '#core/read/kinds';

const TRY_AFTER_MS = 250;

type OwnWay = 'css' | 'xpath' | 'label' | 'structured' | 'pattern';

const WAYS: { value: OwnWay; label: string; input: string; placeholder: string }[] = [
  { value: 'css', label: 'CSS', input: 'CSS selector', placeholder: '.price, #amount, [itemprop=price]' },
  { value: 'label', label: 'label', input: 'The label it stands beside', placeholder: 'Our price' },
  { value: 'structured', label: 'structured data', input: 'Type and path', placeholder: 'Product offers.price' },
  { value: 'pattern', label: 'pattern', input: 'Pattern with a capture', placeholder: 'Total: (£[\\d.]+)' },
  { value: 'xpath', label: 'XPath', input: 'XPath', placeholder: '//td[2]' },
];

/** A locator as it is typed: one text, whatever the way. */
function locatorOf(way: OwnWay, text: string): Locator {
  const trimmed = text.trim();
  switch (way) {
    case 'css':
      return { way, selector: trimmed };
    case 'xpath':
      return { way, path: trimmed };
    case 'label':
      return { way, label: trimmed };
    case 'pattern':
      return { way, pattern: trimmed };
    case 'structured': {
      const [type = '', path = ''] = trimmed.split(/\s+/);
      return { way, type, path };
    }
  }
}

interface LocatorEditorProps {
  /** The address that tries a locator on the page at hand. */
  tryAt: string;
  type: FieldType;
  locale: string;
  /** Shown when it finds exactly one value that can be read. */
  action: { label: string; onTake: (locator: Locator, type: FieldType, trial: LocatorTrial) => void };
  /** False where the type is settled already. */
  choosesType?: boolean;
}

/** A way of finding of her own, tried on the spot: how many places it finds, and what each gives. */
export function LocatorEditor({ tryAt, type: settled, locale, action, choosesType = true }: LocatorEditorProps) {
  const [own, setOwn] = useState<{ way: OwnWay; text: string; type: FieldType }>({
    way: 'css',
    text: '',
    type: settled,
  });
  const type = choosesType ? own.type : settled;
  const locator = locatorOf(own.way, own.text);
  const trial = useTrial(tryAt, own.text === '' ? null : locator, type);
  const way = WAYS.find((each) => each.value === own.way) ?? WAYS[0];
  return (
    <div>
      <div className="flex items-end gap-3">
        <SelectField
          label="By"
          value={own.way}
          options={WAYS}
          onChange={(event) => setOwn({ ...own, way: event.target.value as OwnWay })}
        />
        <TextField
          label={way?.input ?? ''}
          placeholder={way?.placeholder}
          className="min-w-0 grow"
          value={own.text}
          onChange={(event) => setOwn({ ...own, text: event.target.value })}
          problem={trial?.problem}
        />
        {choosesType ? (
          <SelectField
            label="Read as"
            value={type.kind}
            onChange={(event) => setOwn({ ...own, type: typeOfKind(event.target.value as FieldType['kind']) })}
            options={KINDS.map(({ kind, label }) => ({ value: kind, label }))}
          />
        ) : null}
      </div>
      {trial === null ? null : (
        <TrialResult trial={trial} locale={locale} onTake={(text) => setOwn({ ...own, text })} />
      )}
      {trial !== null && isReadable(trial) ? (
        <Button
          className="mt-3"
          onClick={() => {
            action.onTake(locator, type, trial);
            setOwn({ ...own, text: '' });
          }}
        >
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

function useTrial(tryAt: string, locator: Locator | null, type: FieldType): LocatorTrial | null {
  const { load, data } = useFetcher<LocatorTrial>();
  const [asked, setAsked] = useState(false);
  const query =
    locator === null
      ? null
      : new URLSearchParams({ locator: JSON.stringify(locator), type: JSON.stringify(type) }).toString();
  useEffect(() => {
    if (query === null) return setAsked(false);
    const timer = setTimeout(() => {
      setAsked(true);
      void load(`${tryAt}?${query}`);
    }, TRY_AFTER_MS);
    return () => clearTimeout(timer);
  }, [tryAt, query, load]);
  return asked ? (data ?? null) : null;
}

function TrialResult({
  trial,
  locale,
  onTake,
}: {
  trial: LocatorTrial;
  locale: string;
  onTake: (selector: string) => void;
}) {
  const { count, samples, suggestion } = trial;
  return (
    <div data-trial className="mt-2" aria-live="polite">
      {trial.problem === null ? (
        <p className={count === 1 ? 'text-second' : 'font-medium text-chestnut'}>{countWords(count)}</p>
      ) : null}
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
                  {sample.value === null ? (
                    <span className="text-chestnut">not readable so</span>
                  ) : (
                    formatValue(sample.value, locale)
                  )}
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
  return count === 1
    ? 'One element matches.'
    : `${count} elements match; a watch needs the one place, or places that agree.`;
}
