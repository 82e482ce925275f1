import { useState } from 'react';
import { isFound, type Field } from '#core/read/definition';
import { formatValue } from '#core/value/format';
import { TypeSettings } from '../../../../parts/plan/type-settings';
import { kindLabel } from '#core/read/kinds';
import { Ways } from '../../../../parts/plan/ways';
import { computedField } from './field-of';
import type { OneRecordProps } from './one-record-props';
import { Masks } from './words';

/** The fields that were taken, each with its present value and how it is read. */
export function Taken(props: OneRecordProps) {
  const { draft, onChange } = props;
  if (draft.fields.length === 0)
    return <p className="mt-2 text-second">Nothing yet. Point at a value, or take one from the list.</p>;
  return (
    <>
      <ul data-taken>
        {draft.fields.map((field) => (
          <TakenField
            key={field.key}
            {...props}
            field={field}
            onField={(change) =>
              onChange({ fields: draft.fields.map((each) => (each === field ? { ...each, ...change } : each)) })
            }
          />
        ))}
      </ul>
      <button
        type="button"
        className="link mt-2 text-glance"
        onClick={() => onChange({ fields: [...draft.fields, computedField(draft.fields)] })}
      >
        Compute another from these
      </button>
    </>
  );
}

/** One field that was taken: its present value, and below, how it is read. */
function TakenField({
  draftId,
  draft,
  present,
  volatile,
  locale,
  onChange,
  field,
  onField,
}: OneRecordProps & { field: Field; onField: (change: Partial<Field>) => void }) {
  // Open from the start where something is still to be said; it must not close while she says it.
  const [openAtFirst] = useState(isUnsaid(field));
  const { type } = field;
  const value = present[field.key];
  const shown = value === undefined ? '' : formatValue(value, locale);
  return (
    <li className="cell py-2">
      <p className="flex items-baseline justify-between gap-3">
        <span className={`truncate font-serif ${type.kind === 'text' ? 'text-head' : 'text-day font-medium'}`}>
          {shown || '–'}
        </span>
        <button
          type="button"
          className="link shrink-0 text-glance text-second"
          aria-label={`Leave out ${field.label}`}
          onClick={() => onChange({ fields: draft.fields.filter((each) => each !== field) })}
        >
          Leave out
        </button>
      </p>
      {type.kind === 'text' ? (
        <Masks
          field={{ ...field, type }}
          volatile={volatile}
          onMask={(mask) => onField({ type: { ...type, masks: [...(type.masks ?? []), mask] } })}
        />
      ) : null}
      <details className="mt-0.5" open={openAtFirst}>
        <summary className="cursor-pointer text-glance text-second" aria-label={`How ${field.label} is read`}>
          {howRead(field)}
        </summary>
        <div className="pt-1.5">
          <TypeSettings field={field} others={draft.fields.filter((each) => each !== field)} onChange={onField} />
          {!isFound(field) ? null : (
            <Ways
              field={field}
              text={shown}
              locale={locale}
              tryAt={`/watches/new/${draftId}/try`}
              onChange={(locators) => onField({ locators })}
            />
          )}
        </div>
      </details>
    </li>
  );
}

/** What is still to be said of a field before it can be read. */
function isUnsaid({ type, label }: Field): boolean {
  return (
    label === '' || (type.kind === 'phrase' && type.phrase === '') || (type.kind === 'computed' && type.formula === '')
  );
}

function howRead(field: Field): string {
  const { label, type, polarity, locators } = field;
  const good = polarity === 'neither' ? '' : `, ${polarity === 'up is good' ? 'a rise is good' : 'a rise is bad'}`;
  const ways = !isFound(field)
    ? ''
    : `, ${locators.length === 1 ? 'one way' : `${locators.length} ways`} of finding it`;
  return `${label || 'unnamed'}: ${kindLabel(type.kind)}${good}${ways}`;
}
