import { useState } from 'react';
import { describeGuard, type Guard } from '#core/read/guard';
import { Button } from '../../../ui/button';
import { SelectField, TextField } from '../../../ui/field';

const KINDS = [
  { value: 'text here', label: 'this text is here', input: 'The text' },
  { value: 'says', label: 'the heading says', input: 'Exactly' },
  { value: 'contains', label: 'the heading contains', input: 'The text' },
  { value: 'label beside', label: 'this label is here', input: 'The label' },
  { value: 'least', label: 'at least so many records', input: 'How many' },
  { value: 'most', label: 'at most so many records', input: 'How many' },
  { value: 'address', label: 'the address after redirects', input: 'The address' },
] as const;

type Kind = (typeof KINDS)[number]['value'];

function guardOf(kind: Kind, text: string): Guard | null {
  const said = text.trim();
  if (said === '') return null;
  switch (kind) {
    case 'text here':
      return { check: kind, text: said };
    case 'says':
    case 'contains':
      return { check: 'says', selector: 'h1', text: said, how: kind === 'says' ? 'equal' : 'contains' };
    case 'label beside':
      return { check: kind, label: said };
    case 'address':
      return { check: kind, address: said };
    default: {
      const count = Number(said);
      if (!Number.isInteger(count) || count < 0) return null;
      return { check: 'count', least: kind === 'least' ? count : null, most: kind === 'most' ? count : null };
    }
  }
}

/** What is checked before anything is read: when it fails, the run failed, and nothing is taken for a change. */
export function Guards({ guards, onChange }: { guards: Guard[]; onChange: (guards: Guard[]) => void }) {
  const [own, setOwn] = useState<{ kind: Kind; text: string } | null>(null);
  const made = own === null ? null : guardOf(own.kind, own.text);
  return (
    <div data-guards>
      {guards.length === 0 ? <p className="mt-1 text-second">None yet. A guard tells another page from a change.</p> : null}
      <ul>
        {guards.map((guard) => (
          <li key={JSON.stringify(guard)} className="cell flex items-baseline justify-between gap-3">
            <span className="min-w-0 break-words">{describeGuard(guard)}</span>
            <button
              type="button"
              className="link shrink-0 text-glance text-second"
              aria-label={`Drop: ${describeGuard(guard)}`}
              onClick={() => onChange(guards.filter((each) => each !== guard))}
            >
              Drop
            </button>
          </li>
        ))}
      </ul>
      {own === null ? (
        <button type="button" className="link mt-1.5 text-glance" onClick={() => setOwn({ kind: 'text here', text: '' })}>
          Add a guard
        </button>
      ) : (
        <div className="mt-2 flex flex-wrap items-end gap-3">
          <SelectField
            label="Check that"
            value={own.kind}
            options={[...KINDS]}
            onChange={(event) => setOwn({ ...own, kind: event.target.value as Kind })}
          />
          <TextField
            label={KINDS.find((each) => each.value === own.kind)?.input ?? ''}
            className="min-w-0 grow"
            value={own.text}
            onChange={(event) => setOwn({ ...own, text: event.target.value })}
          />
          <Button
            disabled={made === null}
            onClick={() => {
              if (made !== null) onChange([...guards, made]);
              setOwn(null);
            }}
          >
            Add
          </Button>
        </div>
      )}
    </div>
  );
}
