import type { SharingDraft } from '#core/judge/draft/subject';
import { SelectField } from '../../ui/field';

/** A record that a clause may ask. */
export interface OfferedRecord {
  identity: string;
  name: string;
  labels?: Record<string, string>;
}

/** What is offered with 'choose' before it, and what was chosen though it is not offered. */
export const chosenFrom = (offered: { value: string; label: string }[], chosen: string) => [
  { value: '', label: 'choose …' },
  ...(chosen === '' || offered.some(({ value }) => value === chosen) ? [] : [{ value: chosen, label: chosen }]),
  ...offered,
];

/** The labels of records, with what each says. */
export function labelsIn(records: readonly OfferedRecord[]): Map<string, string[]> {
  const found = new Map<string, Set<string>>();
  for (const { labels = {} } of records)
    for (const [label, value] of Object.entries(labels))
      found.set(label, (found.get(label) ?? new Set<string>()).add(value));
  return new Map([...found].map(([label, values]) => [label, [...values].sort()]));
}

interface SharedLabelProps {
  said: SharingDraft;
  labels: Map<string, string[]>;
  onChange: (said: SharingDraft) => void;
}

/** The label that two records share, and what another label of the other says. */
export function SharedLabel({ said, labels, onChange }: SharedLabelProps) {
  const names = [...labels.keys()].map((label) => ({ value: label, label }));
  const { label, where, is } = said;
  return (
    <div className="grid grid-cols-3 gap-3">
      <SelectField
        label="They share"
        value={label}
        options={chosenFrom(names, label)}
        onChange={(event) => onChange({ where, is, label: event.target.value })}
      />
      <SelectField
        label="and of the other"
        value={where}
        options={[
          { value: '', label: 'any' },
          ...chosenFrom(names, where)
            .slice(1)
            .filter((each) => each.value !== label),
        ]}
        onChange={(event) =>
          onChange({ label, where: event.target.value, is: labels.get(event.target.value)?.[0] ?? '' })
        }
      />
      {where === '' ? null : (
        <SelectField
          label="is"
          value={is}
          options={chosenFrom(
            (labels.get(where) ?? []).map((value) => ({ value, label: value })),
            is,
          ).slice(1)}
          onChange={(event) => onChange({ label, where, is: event.target.value })}
        />
      )}
    </div>
  );
}
