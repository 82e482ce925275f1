import { useState } from 'react';
import { describeLocator } from '#core/read/describe';
import { evidenceOf, surenessOf, warningOf } from '#core/read/evidence';
import type { Field } from '#core/read/definition';
import type { Locator } from '#core/read/locator';
import { LocatorEditor } from './locator';

interface WaysProps {
  field: Pick<Field, 'locators' | 'type'>;
  /** The text that is read now, to tell a way that leans on it. */
  text: string;
  locale: string;
  tryAt: string;
  onChange: (locators: Locator[]) => void;
}

/** The ways in which a value is found, in plain words, each with what speaks against it; she may drop and add. */
export function Ways({ field, text, locale, tryAt, onChange }: WaysProps) {
  const [adding, setAdding] = useState(false);
  const { locators, type } = field;
  return (
    <div data-ways>
      <ol>
        {locators.map((locator, at) => {
          const warning = warningOf(locator, text);
          return (
            <li key={JSON.stringify(locator)} className="cell flex items-baseline gap-2.5">
              <span className="w-4 shrink-0 text-third">{at + 1}</span>
              <span className="min-w-0 grow break-words">
                {describeLocator(locator)}
                {warning === null ? null : <span className="block text-glance text-third">{warning}</span>}
              </span>
              <span className="shrink-0 text-glance text-third">{surenessOf(locator, text)}</span>
              {locators.length > 1 ? (
                <button
                  type="button"
                  className="link shrink-0 text-glance text-second"
                  aria-label={`Drop: ${describeLocator(locator)}`}
                  onClick={() => onChange(locators.filter((each) => each !== locator))}
                >
                  Drop
                </button>
              ) : null}
            </li>
          );
        })}
      </ol>
      <p className="pt-1.5 text-glance text-third">{sureness(locators)}</p>
      {adding ? (
        <div className="mt-2 border-t border-rule pt-2">
          <LocatorEditor
            tryAt={tryAt}
            type={type}
            locale={locale}
            choosesType={false}
            action={{
              label: 'Find it this way too',
              onTake: (locator) => {
                setAdding(false);
                onChange([...locators, locator]);
              },
            }}
          />
        </div>
      ) : (
        <button type="button" className="link mt-1 text-glance" onClick={() => setAdding(true)}>
          Add a way
        </button>
      )}
    </div>
  );
}

/** How sure the ways are together: those that lean on the same evidence count as one. */
function sureness(locators: Locator[]): string {
  const strong = new Set(locators.map(evidenceOf).filter((evidence) => evidence !== 'position')).size;
  if (strong >= 3) return `${strong} independent ways: it is found again even if one stops working.`;
  if (strong === 2) return 'Two independent ways: if one stops working, the other and its position have to agree.';
  return strong === 1
    ? 'One way only: when it stops working, nothing is read until you point again.'
    : 'Position alone: any change of the layout loses it.';
}
