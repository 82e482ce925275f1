import { Checkbox as RadixCheckbox, RadioGroup } from 'radix-ui';
import { useId, type InputHTMLAttributes, type ReactNode, type SelectHTMLAttributes } from 'react';

/** How a line to write on looks. */
export const LINE =
  'h-8 border-b border-third bg-transparent text-read text-ink placeholder:text-third focus:border-ink ' +
  'focus:outline-none focus-visible:outline-none focus:border-b-2';

/** A line to write on, with its label above and what is wrong with it below. */
export function TextField({
  label,
  problem,
  hint,
  className = '',
  ...rest
}: InputHTMLAttributes<HTMLInputElement> & { label: string; problem?: string | null; hint?: string }) {
  const id = useId();
  return (
    <div className={className}>
      <label htmlFor={id} className="block text-glance text-third">
        {label}
      </label>
      <input
        id={id}
        className={`${LINE} w-full`}
        autoComplete="off"
        spellCheck={false}
        aria-invalid={problem ? true : undefined}
        aria-describedby={problem || hint ? `${id}-said` : undefined}
        {...rest}
      />
      {problem ? (
        <p id={`${id}-said`} role="alert" className="mt-1 text-glance font-medium text-chestnut">
          {problem}
        </p>
      ) : hint ? (
        <p id={`${id}-said`} className="mt-1 text-glance text-third">
          {hint}
        </p>
      ) : null}
    </div>
  );
}

/** A line to write on within a table, whose head is its label for those who see it. */
export function CellField({
  className = '',
  ...rest
}: InputHTMLAttributes<HTMLInputElement> & { 'aria-label': string }) {
  return <input className={`${LINE} w-full ${className}`} autoComplete="off" spellCheck={false} {...rest} />;
}

/** One of a few words. */
export function SelectField({
  label,
  options,
  hideLabel = false,
  className = '',
  ...rest
}: SelectHTMLAttributes<HTMLSelectElement> & {
  label: string;
  options: { value: string; label: string }[];
  hideLabel?: boolean;
}) {
  const id = useId();
  return (
    <div className={className}>
      <label htmlFor={id} className={hideLabel ? 'sr-only' : 'block text-glance text-third'}>
        {label}
      </label>
      <select id={id} className={`${LINE} w-full cursor-pointer pr-1 [&>option]:bg-page`} {...rest}>
        {options.map((option) => (
          <option key={option.value} value={option.value}>
            {option.label}
          </option>
        ))}
      </select>
    </div>
  );
}

/** A box to tick, with its words beside it. */
export function Tick({
  checked,
  onChange,
  children,
}: {
  checked: boolean;
  onChange: (checked: boolean) => void;
  children: ReactNode;
}) {
  const id = useId();
  return (
    <div className="flex items-start gap-2.5 py-1">
      <RadixCheckbox.Root
        id={id}
        checked={checked}
        onCheckedChange={(next) => onChange(next === true)}
        className="mt-[3px] flex size-[14px] shrink-0 items-center justify-center border border-second data-[state=checked]:bg-ink"
      >
        <RadixCheckbox.Indicator className="text-[11px] leading-none text-page">✓</RadixCheckbox.Indicator>
      </RadixCheckbox.Root>
      <label htmlFor={id} className="cursor-pointer">
        {children}
      </label>
    </div>
  );
}

/** One of several sentences. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T | null;
  options: { value: T; label: ReactNode }[];
  onChange: (value: T) => void;
}) {
  const id = useId();
  return (
    <RadioGroup.Root
      aria-label={label}
      value={value ?? ''}
      onValueChange={(next) => onChange(next as T)}
      className="flex flex-col gap-1"
    >
      {options.map((option) => (
        <div key={option.value} className="flex items-start gap-2.5 py-0.5">
          <RadioGroup.Item
            id={`${id}-${option.value}`}
            value={option.value}
            className="mt-[3px] flex size-[14px] shrink-0 items-center justify-center rounded-full border border-second"
          >
            <RadioGroup.Indicator className="size-[8px] rounded-full bg-ink" />
          </RadioGroup.Item>
          <label htmlFor={`${id}-${option.value}`} className="cursor-pointer">
            {option.label}
          </label>
        </div>
      ))}
    </RadioGroup.Root>
  );
}
