import { useState } from 'react';
import { timeOfDay } from '#core/when/cadence';
import type { Reachable } from '#core/tell/hold';
import { TimeField } from '../ui/date-field';
import { SelectField, Tick } from '../ui/field';

const PASSES = [
  { value: '', label: 'nothing' },
  { value: 'high', label: 'alerts of high weight' },
  { value: 'usual', label: 'alerts of usual or high weight' },
  { value: 'low', label: 'every alert' },
];

const NIGHT = { from: 22 * 60, to: 7 * 60 };
const EVENING = 17 * 60;

/** When a reader wants to be reached: fields of a form, read by `readHours`. */
export function HoursFields({ quiet, mailHour, passes }: Omit<Reachable, 'zone'>) {
  const [isQuiet, setQuiet] = useState(quiet !== null);
  const [gathers, setGathers] = useState(mailHour !== null);
  return (
    <div className="flex flex-col gap-2">
      <input type="hidden" name="isQuiet" value={isQuiet ? 'yes' : 'no'} />
      <input type="hidden" name="gathers" value={gathers ? 'yes' : 'no'} />
      <Tick checked={isQuiet} onChange={setQuiet}>
        Quiet hours: nothing is sent in them
      </Tick>
      {isQuiet ? (
        <div className="grid grid-cols-2 gap-4 pl-6">
          <TimeSaid label="From" name="quietFrom" said={quiet?.from ?? NIGHT.from} />
          <TimeSaid label="Until" name="quietTo" said={quiet?.to ?? NIGHT.to} />
        </div>
      ) : null}
      <Tick checked={gathers} onChange={setGathers}>
        A mail hour: what is told at once waits for it
      </Tick>
      {gathers ? (
        <div className="pl-6">
          <TimeSaid label="At" name="mailHour" said={mailHour ?? EVENING} />
        </div>
      ) : null}
      {isQuiet || gathers ? (
        <SelectField
          label="What is sent all the same, at once"
          name="passes"
          defaultValue={passes ?? ''}
          options={PASSES}
        />
      ) : (
        <input type="hidden" name="passes" value={passes ?? ''} />
      )}
    </div>
  );
}

/** A time of day in a form, from what is said so far, in minutes of the day. */
function TimeSaid({ label, name, said }: { label: string; name: string; said: number }) {
  const [time, setTime] = useState(timeOfDay(said));
  return <TimeField label={label} name={name} required value={time} onChange={setTime} />;
}

/** When a reader wants to be reached, in a few words. */
export function hoursWords({ quiet, mailHour }: Pick<Reachable, 'quiet' | 'mailHour'>): string {
  const said = [
    quiet === null ? '' : `quiet ${timeOfDay(quiet.from)} to ${timeOfDay(quiet.to)}`,
    mailHour === null ? '' : `mail hour ${timeOfDay(mailHour)}`,
  ];
  return said.filter(Boolean).join(', ');
}
