import { minutesOfDay, timeOfDay, type Cadence } from '#core/when/cadence';
import { formatDuration } from '#core/when/format';
import { MINUTE } from '#core/when/interval';
import { TimeField } from '../../../ui/date-field';
import { SelectField, TextField, Tick } from '../../../ui/field';

type Cut = Cadence['cut'];

const CUTS: { value: Cut; label: string }[] = [
  { value: 'at once', label: 'at once, with what it takes' },
  { value: 'after each run', label: 'after each run of what it follows' },
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
    case 'at once':
      return { cut, of: 'its order' };
    case 'after each run':
    case 'never':
      return { cut };
  }
}

const GATHERED = [0, 5, 10, 15, 30, 60, 120, 240];
const gatheredWords = (minutes: number) =>
  minutes === 0 ? 'as soon as it is known' : `gathered for ${formatDuration(minutes * MINUTE)}, from the first news on`;

/** For how long what is told at once is gathered, in minutes. */
export function Gathered({
  minutes,
  disabled = false,
  onSay,
}: {
  minutes: number;
  disabled?: boolean;
  onSay: (minutes: number) => void;
}) {
  return (
    <SelectField
      label="Its mails go"
      value={String(minutes)}
      options={[...new Set([...GATHERED, minutes])].map((each) => ({
        value: String(each),
        label: gatheredWords(each),
      }))}
      disabled={disabled}
      onChange={(event) => onSay(Number(event.target.value))}
    />
  );
}

const NOT_PLANNED: Partial<Record<Cut, string>> = {
  'at once': 'Each commit that brings what it takes makes an edition: whether a run, a post or the clock brought it.',
  'after each run': 'Each run of one of its watches makes an edition, where there is something to tell.',
  never: 'What happens can be read in Shrike all the time; a mail goes out only when somebody presses “Make it now”.',
};

/** When a report is cut, in the zone that it was said in. */
export function CadenceEditor({
  cadence,
  zone,
  onSay,
}: {
  cadence: Cadence;
  zone: string;
  onSay: (cadence: Cadence) => void;
}) {
  const at = (text: string) => {
    const minutes = minutesOfDay(text);
    if (minutes === null || !('zone' in cadence)) return;
    onSay(cadence.cut === 'every' ? { ...cadence, from: minutes } : { ...cadence, at: minutes });
  };
  return (
    <div className="flex flex-col gap-3">
      <SelectField
        label="It is made"
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
                onSay({
                  ...cadence,
                  days: on ? [...cadence.days, place + 1].sort() : cadence.days.filter((each) => each !== place + 1),
                })
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
          <TimeField
            label={cadence.cut === 'every' ? 'Counted from, each day' : 'At'}
            value={timeOfDay(atOf(cadence))}
            onChange={at}
          />
          <TextField
            label="Time zone"
            value={cadence.zone}
            maxLength={60}
            onChange={(event) => onSay({ ...cadence, zone: event.target.value })}
          />
        </>
      ) : (
        <p className="text-second">{NOT_PLANNED[cadence.cut]}</p>
      )}
      {cadence.cut === 'at once' ? (
        <Gathered
          minutes={(cadence.gather ?? 0) / MINUTE}
          onSay={(minutes) =>
            onSay({ cut: 'at once', of: 'its order', ...(minutes === 0 ? {} : { gather: minutes * MINUTE }) })
          }
        />
      ) : null}
    </div>
  );
}
