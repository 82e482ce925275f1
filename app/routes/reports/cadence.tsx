import { minutesOfDay, timeOfDay, type Cadence } from '#core/when/cadence';
import { SelectField, TextField, Tick } from '../../ui/field';

type Cut = Exclude<Cadence['cut'], 'at once' | 'after each run'>;

const CUTS: { value: Cut; label: string }[] = [
  { value: 'daily', label: 'each day' },
  { value: 'weekly', label: 'on chosen days of the week' },
  { value: 'monthly', label: 'each month' },
  { value: 'every', label: 'every so many hours' },
  { value: 'never', label: 'never: by hand only' },
];

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

const atOf = (cadence: Cadence): number => ('at' in cadence ? cadence.at : 'from' in cadence ? cadence.from : 450);

/** Another cadence at the same time of day. */
function begun(cut: Cut, before: Cadence, zone: string): Cadence {
  const at = atOf(before);
  const kept = 'zone' in before ? before.zone : zone;
  switch (cut) {
    case 'daily':
      return { cut, at, zone: kept };
    case 'weekly':
      return { cut, days: [1, 2, 3, 4, 5], at, zone: kept };
    case 'monthly':
      return { cut, day: 1, at, zone: kept };
    case 'every':
      return { cut, hours: 3, from: at, zone: kept };
    case 'never':
      return { cut };
  }
}

/** When a report is cut, in the zone that it was said in. */
export function CadenceEditor({ cadence, zone, onSay }: { cadence: Cadence; zone: string; onSay: (cadence: Cadence) => void }) {
  const at = (text: string) => {
    const minutes = minutesOfDay(text);
    if (minutes === null || !('zone' in cadence)) return;
    onSay(cadence.cut === 'every' ? { ...cadence, from: minutes } : { ...cadence, at: minutes });
  };
  return (
    <div className="flex flex-col gap-3">
      <SelectField
        label="It is cut"
        value={cadence.cut}
        options={CUTS}
        onChange={(event) => onSay(begun(event.target.value as Cut, cadence, zone))}
      />
      {cadence.cut === 'weekly' ? (
        <div role="group" aria-label="Days of the week" className="grid grid-cols-2">
          {DAYS.map((day, place) => (
            <Tick
              key={day}
              checked={cadence.days.includes(place + 1)}
              onChange={(on) =>
                onSay({ ...cadence, days: on ? [...cadence.days, place + 1].sort() : cadence.days.filter((each) => each !== place + 1) })
              }
            >
              {day}
            </Tick>
          ))}
        </div>
      ) : null}
      {cadence.cut === 'monthly' ? (
        <TextField
          label="On the day; the last where a month has fewer"
          type="number"
          min={1}
          max={31}
          value={cadence.day}
          onChange={(event) => onSay({ ...cadence, day: Number(event.target.value) })}
        />
      ) : null}
      {cadence.cut === 'every' ? (
        <TextField
          label="Every so many hours"
          type="number"
          min={1}
          max={24}
          value={cadence.hours}
          onChange={(event) => onSay({ ...cadence, hours: Number(event.target.value) })}
        />
      ) : null}
      {'zone' in cadence ? (
        <>
          <TextField
            label={cadence.cut === 'every' ? 'Counted from, each day' : 'At'}
            type="time"
            value={timeOfDay(atOf(cadence))}
            onChange={(event) => at(event.target.value)}
          />
          <TextField label="Time zone" value={cadence.zone} maxLength={60} onChange={(event) => onSay({ ...cadence, zone: event.target.value })} />
        </>
      ) : (
        <p className="text-second">What happens can be read in Shrike all the time; a mail goes out only when somebody presses “Cut it now”.</p>
      )}
    </div>
  );
}
