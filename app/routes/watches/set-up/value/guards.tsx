import { useState } from 'react';
import { describeGuard, type Guard } from '#core/read/guard';
import { Button } from '../../../../ui/button';
import { SelectField, TextField } from '../../../../ui/field';
import { GUARD_KINDS, guardOf, type GuardDraft } from '../guard-kinds';

/** What is checked before anything is read: when it fails, the run failed, and nothing is taken for a change. */
export function Guards({ guards, onChange }: { guards: Guard[]; onChange: (guards: Guard[]) => void }) {
  const [own, setOwn] = useState<GuardDraft | null>(null);
  const made = own === null ? null : guardOf(own);
  return (
    <div data-guards>
      {guards.length === 0 ? (
        <p className="mt-1 text-second">None yet. A guard tells another page from a change.</p>
      ) : null}
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
        <button
          type="button"
          className="link mt-1.5 text-glance"
          onClick={() => setOwn({ kind: 'text here', text: '' })}
        >
          Add a guard
        </button>
      ) : (
        <div className="mt-2 flex flex-wrap items-end gap-3">
          <SelectField
            label="Check that"
            value={own.kind}
            options={GUARD_KINDS}
            onChange={(event) => setOwn({ ...own, kind: event.target.value as GuardDraft['kind'] })}
          />
          <TextField
            label={GUARD_KINDS.find((each) => each.value === own.kind)?.input ?? ''}
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
