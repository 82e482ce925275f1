import { describeInterval, type Interval } from '#core/when/interval';
import { SelectField, TextField } from '../../ui/field';

const OFFERED: Interval[] = [
  { count: 15, unit: 'minute' },
  { count: 1, unit: 'hour' },
  { count: 2, unit: 'hour' },
  { count: 6, unit: 'hour' },
  { count: 1, unit: 'day' },
];

const same = (a: Interval, b: Interval | null) => a.count === b?.count && a.unit === b.unit;

/** How often to look: a few offered, or any number of minutes, hours or days. */
export function FrequencyEditor({
  value,
  onChange,
  problem,
}: {
  value: Interval | null;
  onChange: (value: Interval) => void;
  problem?: string | null;
}) {
  const unit = value?.unit ?? 'hour';
  return (
    <div>
      <div role="group" aria-label="Offered" className="flex flex-wrap gap-x-4 gap-y-1">
        {OFFERED.map((offered) => (
          <button
            key={describeInterval(offered)}
            type="button"
            aria-pressed={same(offered, value)}
            onClick={() => onChange(offered)}
            className="border-b-2 border-transparent py-1 text-second hover:text-ink aria-pressed:border-chestnut aria-pressed:font-semibold aria-pressed:text-ink"
          >
            every {describeInterval(offered)}
          </button>
        ))}
      </div>
      <div className="mt-3 flex items-end gap-3">
        <TextField
          label="Or every"
          type="number"
          min={1}
          className="w-24"
          value={value === null || Number.isNaN(value.count) ? '' : value.count}
          onChange={(event) => onChange({ count: event.target.valueAsNumber || 0, unit })}
        />
        <SelectField
          label="unit"
          hideLabel
          value={unit}
          onChange={(event) => onChange({ count: value?.count ?? 1, unit: event.target.value as Interval['unit'] })}
          options={[
            { value: 'second', label: 'seconds' },
            { value: 'minute', label: 'minutes' },
            { value: 'hour', label: 'hours' },
            { value: 'day', label: 'days' },
          ]}
        />
      </div>
      {problem ? (
        <p role="alert" className="mt-2 text-glance font-medium text-chestnut">
          {problem}
        </p>
      ) : null}
    </div>
  );
}
