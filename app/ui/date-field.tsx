import { CalendarDays } from 'lucide-react';
import { Popover as Radix } from 'radix-ui';
import { useId, useRef, useState } from 'react';
import { Calendar } from './calendar';
import { LINE } from './field';
import { useLocale } from './locale';
import { formatDay, formatTimeOfDay, readDay, readTimeOfDay } from './typed-date';

interface TypedFieldProps {
  label: string;
  hideLabel?: boolean;
  /** What is said of it, in the one form that it is kept in; empty for nothing. */
  value: string;
  onChange: (value: string) => void;
  /** Its name in a form. */
  name?: string | undefined;
  required?: boolean;
  className?: string;
}

interface Reading {
  read: (typed: string, locale: string) => string | null;
  format: (value: string, locale: string) => string;
  /** What to write where it cannot be read. */
  as: (locale: string) => string;
}

const DAY: Reading = { read: readDay, format: formatDay, as: (locale) => formatDay('2026-12-31', locale) };
const TIME: Reading = {
  read: (typed) => readTimeOfDay(typed),
  format: formatTimeOfDay,
  as: (locale) => formatTimeOfDay('17:30', locale),
};

/** A line that takes what is typed in the reader's own way once she leaves it: half a day is another one. */
function TypedField({ reading, hideLabel = false, ...props }: TypedFieldProps & { reading: Reading }) {
  const { label, value, onChange, name, required = false, className = '' } = props;
  const [id, locale] = [useId(), useLocale()];
  const line = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState<string | null>(null);
  const [problem, setProblem] = useState('');
  const complain = (words: string) => {
    setProblem(words);
    line.current?.setCustomValidity(words);
  };
  const take = () => {
    if (typed === null) return;
    const next = typed.trim() === '' ? '' : reading.read(typed, locale);
    if (next === null) return complain(`Write it as ${reading.as(locale)}.`);
    setTyped(null);
    if (next !== value) onChange(next);
  };
  return (
    <div className={className}>
      <label htmlFor={id} className={hideLabel ? 'sr-only' : 'block text-glance text-third'}>
        {label}
      </label>
      <input
        ref={line}
        id={id}
        className={`${LINE} w-full`}
        autoComplete="off"
        required={required}
        aria-invalid={problem === '' ? undefined : true}
        aria-describedby={problem === '' ? undefined : `${id}-said`}
        value={typed ?? (value === '' ? '' : reading.format(value, locale))}
        onChange={(event) => {
          setTyped(event.target.value);
          complain('');
        }}
        onBlur={take}
        onKeyDown={(event) => (event.key === 'Enter' ? take() : undefined)}
      />
      {name === undefined ? null : <input type="hidden" name={name} value={value} />}
      {problem === '' ? null : (
        <p id={`${id}-said`} role="alert" className="mt-1 text-glance font-medium text-chestnut">
          {problem}
        </p>
      )}
    </div>
  );
}

/** A time of day, as 19:30. */
export const TimeField = (props: TypedFieldProps) => <TypedField reading={TIME} {...props} />;

/** A day, as 2026-12-31: typed, or chosen from a month. */
export function DateField({ className = '', ...props }: TypedFieldProps) {
  const [isOpen, setOpen] = useState(false);
  // What is chosen takes the place of what was typed.
  const [chosen, setChosen] = useState(0);
  const choose = (day: string) => {
    props.onChange(day);
    setChosen(chosen + 1);
    setOpen(false);
  };
  return (
    <div className={`flex items-start gap-1 ${className}`}>
      <TypedField key={chosen} reading={DAY} className="min-w-0 grow" {...props} />
      <Radix.Root open={isOpen} onOpenChange={setOpen}>
        <Radix.Trigger
          aria-label={`Choose ${props.label.charAt(0).toLowerCase()}${props.label.slice(1)} from a month`}
          className={`flex size-8 shrink-0 items-center justify-center text-third hover:text-ink ${props.hideLabel === true ? '' : 'mt-[17px]'}`}
        >
          <CalendarDays aria-hidden="true" className="size-4" />
        </Radix.Trigger>
        <Radix.Portal>
          <Radix.Content
            align="end"
            sideOffset={4}
            collisionPadding={12}
            className="z-30 border border-ink bg-page p-3 text-read text-ink"
          >
            <Calendar day={props.value} onChoose={choose} />
          </Radix.Content>
        </Radix.Portal>
      </Radix.Root>
    </div>
  );
}

interface TimestampFieldProps extends Omit<TypedFieldProps, 'name' | 'required'> {
  /** What its time of day is called, where that is not seen. */
  timeLabel?: string;
}

/** A day and a time of day, as 2026-12-31T19:30: said once both are. */
export function TimestampField({ value, onChange, className = '', timeLabel = 'At', ...props }: TimestampFieldProps) {
  const [half, setHalf] = useState({ day: '', time: '' });
  const [day = '', time = ''] = value === '' ? [half.day, half.time] : value.split('T');
  const say = (next: { day?: string; time?: string }) => {
    const said = { day, time: time.slice(0, 5), ...next };
    setHalf(said);
    if (said.day !== '' && said.time !== '') onChange(`${said.day}T${said.time}`);
  };
  return (
    <div className={`flex items-start gap-2 ${className}`}>
      <DateField {...props} className="min-w-0 grow" value={day} onChange={(next) => say({ day: next })} />
      <TimeField
        label={timeLabel}
        hideLabel={props.hideLabel === true}
        className="w-20 shrink-0"
        value={time.slice(0, 5)}
        onChange={(next) => say({ time: next })}
      />
    </div>
  );
}
