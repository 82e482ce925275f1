import { useState } from 'react';
import { TextField, Tick } from './field';

interface PickManyProps<T extends string | number> {
  legend: string;
  options: readonly { value: T; label: string }[];
  chosen: readonly T[];
  onChange: (chosen: T[]) => void;
}

/** So many are shown without being looked for. */
const SHOWN = 8;

/** Some of a list, which is looked through by name where it is long; what is chosen stands first. */
export function PickMany<T extends string | number>({ legend, options, chosen, onChange }: PickManyProps<T>) {
  const [asked, setAsked] = useState('');
  if (options.length === 0) return null;
  const words = asked.trim().toLowerCase();
  const isChosen = ({ value }: { value: T }) => chosen.includes(value);
  const others = options.filter((option) => !isChosen(option) && option.label.toLowerCase().includes(words));
  const shown = [...options.filter(isChosen), ...others.slice(0, SHOWN)];
  return (
    <fieldset>
      <legend className="text-glance text-third">{legend}</legend>
      {options.length > SHOWN ? (
        <TextField
          label={`Find among ${options.length}`}
          value={asked}
          onChange={(event) => setAsked(event.target.value)}
          hint={others.length > SHOWN ? `${others.length - SHOWN} more: write part of a name` : ''}
        />
      ) : null}
      {shown.map(({ value, label }) => (
        <Tick
          key={value}
          checked={chosen.includes(value)}
          onChange={(on) => onChange(on ? [...chosen, value] : chosen.filter((each) => each !== value))}
        >
          {label}
        </Tick>
      ))}
    </fieldset>
  );
}
