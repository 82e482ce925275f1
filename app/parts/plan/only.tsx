import { PROPERTIES, type Property } from '#core/items/item';
import { isRanking, type Ranking, type RecordTest } from '#core/judge/rule';
import type { RuleDraft } from '#core/plan/rule-draft';
import type { Field } from '#core/read/definition';
import { SelectField, TextField } from '../../ui/field';

interface OnlyProps {
  only: RuleDraft['only'];
  fields: Field[];
  /** Whose days, weeks and months those are with which they are chosen anew. */
  zone: string;
  onChange: (only: RuleDraft['only']) => void;
}

type Said = Exclude<RecordTest, { by: 'identity' | 'label' } | Ranking>;

const ASKS = [
  { value: '', label: 'all that there are' },
  { value: 'name', label: 'whose name has some words' },
  { value: 'item', label: 'whose item has a property' },
  { value: 'field', label: 'of which a field says so' },
  { value: 'highest', label: 'so many of the highest' },
  { value: 'lowest', label: 'so many of the lowest' },
];

/**
 * Which records it runs for. What a page cannot say here (several tests, named records) stands as it is, until it is
 * taken away.
 */
export function Only({ only, fields, zone, onChange }: OnlyProps) {
  const said = only.find((test): test is Said | Ranking => test.by !== 'identity' && test.by !== 'label');
  const others = only.filter((test) => test !== said);
  const [first] = fields;
  const begin = (by: string) => onChange([...others, ...(BLANK[by]?.(first?.key ?? '', zone) ?? [])]);
  const set = (test: RecordTest) => onChange([...others, test]);
  return (
    <div className="flex flex-col gap-2">
      <SelectField
        label="For which records"
        value={said?.by ?? ''}
        options={ASKS}
        onChange={(event) => begin(event.target.value)}
      />
      {said === undefined ? null : isRanking(said) ? (
        <Ranked test={said} fields={fields} onChange={set} />
      ) : (
        <Tested test={said} fields={fields} onChange={set} />
      )}
      {others.length === 0 ? null : (
        <p className="text-glance text-third">
          {others.map(otherWords).join(' ')}{' '}
          <button type="button" className="link" onClick={() => onChange(said === undefined ? [] : [said])}>
            For all of them
          </button>
        </p>
      )}
    </div>
  );
}

function otherWords(test: RecordTest): string {
  if (test.by === 'identity')
    return test.in.length === 1 ? 'For one record alone.' : `For ${test.in.length} records alone.`;
  return test.by === 'label' ? `Where ${test.label} is ${test.is}.` : 'With one more test.';
}

const BLANK: Record<string, ((field: string, zone: string) => RecordTest[]) | undefined> = {
  name: () => [{ by: 'name', holds: '' }],
  item: () => [{ by: 'item', property: 'brand', is: '' }],
  field: (field) => [{ by: 'field', field, is: '' }],
  highest: (field, zone) => [{ by: 'highest', field, count: 3, anew: 'week', zone }],
  lowest: (field, zone) => [{ by: 'lowest', field, count: 3, anew: 'week', zone }],
};

function Tested({ test, fields, onChange }: { test: Said; fields: Field[]; onChange: (test: RecordTest) => void }) {
  if (test.by === 'name')
    return (
      <TextField
        label="Words of its name"
        value={test.holds}
        maxLength={200}
        onChange={(event) => onChange({ by: 'name', holds: event.target.value })}
      />
    );
  return (
    <div className="flex items-end gap-3">
      {test.by === 'item' ? (
        <SelectField
          label="Which property"
          value={test.property}
          options={PROPERTIES.map((value) => ({ value, label: value }))}
          onChange={(event) => onChange({ ...test, property: event.target.value as Property })}
        />
      ) : (
        <FieldChoice fields={fields} value={test.field} onChange={(field) => onChange({ ...test, field })} />
      )}
      <TextField
        label="is"
        className="grow"
        value={test.is}
        maxLength={200}
        onChange={(event) => onChange({ ...test, is: event.target.value })}
      />
    </div>
  );
}

const FieldChoice = ({
  fields,
  value,
  onChange,
}: {
  fields: Field[];
  value: string;
  onChange: (field: string) => void;
}) => (
  <SelectField
    label="By which field"
    value={value}
    options={fields.map(({ key, label }) => ({ value: key, label }))}
    onChange={(event) => onChange(event.target.value)}
  />
);

const ANEW: { value: Ranking['anew']; label: string }[] = [
  { value: 'never', label: 'once, and for good' },
  { value: 'day', label: 'anew each day' },
  { value: 'week', label: 'anew each week' },
  { value: 'month', label: 'anew each month' },
];

function Ranked({ test, fields, onChange }: { test: Ranking; fields: Field[]; onChange: (test: RecordTest) => void }) {
  return (
    <div className="flex flex-wrap items-end gap-3">
      <TextField
        label="How many"
        className="w-16"
        inputMode="numeric"
        value={test.count === 0 ? '' : String(test.count)}
        onChange={(event) => onChange({ ...test, count: Number(event.target.value.replace(/\D/g, '').slice(0, 3)) })}
      />
      <FieldChoice fields={fields} value={test.field} onChange={(field) => onChange({ ...test, field })} />
      <SelectField
        label="Chosen"
        value={test.anew}
        options={ANEW}
        onChange={(event) => onChange({ ...test, anew: event.target.value as Ranking['anew'] })}
      />
    </div>
  );
}
