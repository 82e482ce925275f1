import { isFound, type Field, type FieldType, type NamedState } from '#core/read/definition';
import { nameInFormula } from '#core/read/formula-name';
import type { Polarity } from '#core/value/value';
import { SelectField, TextField, Tick } from '../../ui/field';
import { KINDS, typeOfKind } from '#core/read/kinds';

const POLARITIES: { value: Polarity; label: string }[] = [
  { value: 'up is good', label: 'a rise is good' },
  { value: 'up is bad', label: 'a rise is bad' },
  { value: 'neither', label: 'neither' },
];

const LOCALES = [
  { value: '', label: 'as the source states' },
  { value: 'en-GB', label: 'Britain: 1,249.50, day first' },
  { value: 'en-US', label: 'the United States: 1,249.50, month first' },
  { value: 'de-DE', label: 'Germany: 1.249,50' },
  { value: 'de-CH', label: 'Switzerland: 1’249.50' },
  { value: 'fr-FR', label: 'France: 1 249,50' },
  { value: 'sv-SE', label: 'Sweden: 1 249,50' },
  { value: 'en-IN', label: 'India: 1,24,999.50' },
];

const list = (text: string) =>
  text
    .split(',')
    .map((each) => each.trim())
    .filter(Boolean);

interface SettingsProps {
  field: Field;
  /** The other fields of the record, for formulas. */
  others?: Field[];
  /** False where the type follows from the place alone. */
  choosesKind?: boolean;
  onChange: (change: Partial<Field>) => void;
}

/**
 * How a field is called, read and judged: its name, its kind with what that needs to know, and which way is good for
 * us.
 */
export function TypeSettings({ field, others = [], choosesKind = true, onChange }: SettingsProps) {
  const computed = !isFound(field);
  return (
    <div className="flex flex-col gap-2">
      <div className="grid grid-cols-2 gap-4">
        <TextField label="Called" value={field.label} onChange={(event) => onChange({ label: event.target.value })} />
        <SelectField
          label="For us"
          value={field.polarity}
          options={POLARITIES}
          onChange={(event) => onChange({ polarity: event.target.value as Polarity })}
        />
        {choosesKind && !computed ? (
          <SelectField
            label="Read as"
            value={field.type.kind}
            options={KINDS.map(({ kind, label }) => ({ value: kind, label }))}
            onChange={(event) => onChange({ type: typeOfKind(event.target.value as FieldType['kind'], field.type) })}
          />
        ) : null}
        <SelectField
          label="It moves"
          value={field.mode}
          options={[
            { value: 'stepwise', label: 'now and then: every move counts' },
            { value: 'measured', label: 'all the time: only rules make news' },
          ]}
          onChange={(event) => onChange({ mode: event.target.value as Field['mode'] })}
        />
      </div>
      {computed ? null : (
        <SelectField
          label="Numbers and dates are written as in"
          value={field.locale ?? ''}
          options={LOCALES}
          onChange={(event) => onChange({ locale: event.target.value === '' ? null : event.target.value })}
        />
      )}
      <OfKind type={field.type} others={others} onChange={(type) => onChange({ type })} />
      {computed || choosesKind === false ? null : (
        <TextField
          label="Absent when the record says"
          placeholder="Sold out, Price on request"
          value={(field.absentWhen ?? []).join(', ')}
          onChange={(event) =>
            onChange({
              absentWhen:
                event.target.value === '' ? undefined : event.target.value.split(',').map((each) => each.trimStart()),
            })
          }
        />
      )}
    </div>
  );
}

function OfKind({ type, others, onChange }: { type: FieldType; others: Field[]; onChange: (type: FieldType) => void }) {
  switch (type.kind) {
    case 'money':
      return (
        <TextField
          label="Currency where none is shown"
          placeholder="GBP"
          maxLength={3}
          value={type.currency ?? ''}
          onChange={(event) =>
            onChange({
              ...type,
              currency: /^[A-Za-z]{3}$/.test(event.target.value) ? event.target.value.toUpperCase() : null,
            })
          }
        />
      );
    case 'number':
      return (
        <>
          <TextField
            label="Unit where none is shown"
            value={type.unit ?? ''}
            onChange={(event) => onChange({ ...type, unit: event.target.value || null })}
          />
          <Tick checked={type.increase === true} onChange={(increase) => onChange({ ...type, increase })}>
            A running counter: read what was added since the last run
          </Tick>
        </>
      );
    case 'text':
      return (
        <TextField
          label="Leave out what these patterns match"
          placeholder="visitor \d+"
          value={(type.masks ?? []).join(' , ')}
          onChange={(event) =>
            onChange({ ...type, masks: event.target.value.split(' , ').filter((each) => each.trim() !== '') })
          }
        />
      );
    case 'flag':
      return (
        <div className="grid grid-cols-2 gap-4">
          <TextField
            label="Yes is said as"
            placeholder="yes, open, on"
            value={type.yes.join(', ')}
            onChange={(event) => onChange({ ...type, yes: list(event.target.value) })}
          />
          <TextField
            label="No is said as"
            placeholder="no, closed, off"
            value={type.no.join(', ')}
            onChange={(event) => onChange({ ...type, no: list(event.target.value) })}
          />
        </div>
      );
    case 'phrase':
      return (
        <TextField
          label="The phrase looked for"
          value={type.phrase}
          onChange={(event) => onChange({ ...type, phrase: event.target.value })}
        />
      );
    case 'grade':
      return (
        <TextField
          label="The scale, the best first"
          value={type.scale.join(', ')}
          onChange={(event) => onChange({ ...type, scale: [...new Set(list(event.target.value))] })}
        />
      );
    case 'moment':
      return (
        <TextField
          label="Time zone where none is stated"
          placeholder="UTC"
          value={type.zone ?? ''}
          onChange={(event) => onChange({ ...type, zone: event.target.value || undefined })}
        />
      );
    case 'state':
      return <States type={type} onChange={onChange} />;
    case 'computed':
      return <Formula formula={type.formula} others={others} onChange={(formula) => onChange({ ...type, formula })} />;
    default:
      return null;
  }
}

/** The states a text may say, each by its phrases; the first whose phrase stands in the text is taken. */
function States({ type, onChange }: { type: FieldType & { kind: 'state' }; onChange: (type: FieldType) => void }) {
  const set = (states: NamedState[]) => onChange({ ...type, states });
  const change = (at: number, part: Partial<NamedState>) =>
    set(type.states.map((state, each) => (each === at ? { ...state, ...part } : state)));
  return (
    <details>
      <summary className="cursor-pointer text-glance text-second">
        States: {type.states.map((state) => state.name).join(', ')}
      </summary>
      <div className="mt-2 flex flex-col gap-2">
        {type.states.map((state, at) => (
          <div key={at} className="grid grid-cols-[110px_minmax(0,1fr)_auto] items-end gap-3">
            <TextField
              label="State"
              value={state.name}
              onChange={(event) => change(at, { name: event.target.value })}
            />
            <TextField
              label={`Said as, of ${state.name}`}
              value={state.phrases.join(', ')}
              onChange={(event) => change(at, { phrases: list(event.target.value) })}
            />
            <button
              type="button"
              className="link mb-2 text-glance disabled:opacity-45"
              aria-label={`Drop the state ${state.name}`}
              disabled={type.states.length === 1}
              onClick={() => set(type.states.filter((each) => each !== state))}
            >
              Drop
            </button>
          </div>
        ))}
        <button
          type="button"
          className="link self-start text-glance"
          onClick={() => set([...type.states, { name: `state ${type.states.length + 1}`, phrases: [] }])}
        >
          Add a state
        </button>
      </div>
    </details>
  );
}

function Formula({
  formula,
  others,
  onChange,
}: {
  formula: string;
  others: Field[];
  onChange: (formula: string) => void;
}) {
  const names = others.filter((field) => field.type.kind !== 'computed').map((field) => nameInFormula(field.label));
  return (
    <TextField
      label="Formula"
      placeholder="price + shipping"
      value={formula}
      hint={`${names.length === 0 ? '' : `Names: ${names.join(', ')}. `}Of another watch: latest("its name", "price").`}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
