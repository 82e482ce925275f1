import type { PersonId } from '#core/id';
import { DateTime } from 'luxon';
import type { HoldDraft, HoursDraft, RuleDraft } from '#core/plan/rule-draft';
import type { Field } from '#core/read/definition';
import { DAY, HOUR } from '#core/when/interval';
import { readLocal, writeLocal } from '#core/when/wall-clock';
import type { Audience } from '#server/db/person/people';
import { DateField, TimestampField } from '../../ui/date-field';
import { SelectField, TextField, Tick } from '../../ui/field';
import { Span } from './span-field';
import { Only } from './only';
import { OwnWords } from './own-words';
import { Steps } from './steps';

interface TermsProps {
  rule: RuleDraft;
  fields: Field[];
  zone: string;
  /** Who may hear next, and of those the people who may answer for it; none where that is said elsewhere. */
  audiences: Audience[];
  onChange: (change: Partial<RuleDraft>) => void;
}

const HOLDS: { value: HoldDraft['unit'] | ''; label: string }[] = [
  { value: '', label: 'at once' },
  { value: 'reading', label: 'at so many readings in a row' },
  { value: 'minute', label: 'for so many minutes' },
  { value: 'hour', label: 'for so many hours' },
  { value: 'day', label: 'for so many days' },
];

const TOLD: { value: RuleDraft['told']; label: string }[] = [
  { value: 'episode', label: 'once an episode' },
  { value: 'reading', label: 'at every reading that meets it' },
  { value: 'move', label: 'at every move while it is met' },
  { value: 'once', label: 'once, and then it rests' },
];

type Off = NonNullable<RuleDraft['putOff']>;

/** Until when nobody is told: what waits is told then. */
function PutOff({ putOff: { until, zone }, onChange }: { putOff: Off; onChange: (putOff: Off) => void }) {
  const say = (local: string) => {
    const next = readLocal(local, zone);
    if (next !== null) onChange({ until: next, zone });
  };
  return <TimestampField label="Nobody is told until" value={writeLocal(until, zone)} onChange={say} />;
}

/** What a rule asks beside its condition: how long, how often, when, and what is shown with it. */
export function Terms({ rule, fields, zone, audiences, onChange }: TermsProps) {
  const people = peopleOf(audiences);
  return (
    <div className="mt-2 flex flex-col gap-3">
      <Hold hold={rule.hold} onChange={(hold) => onChange({ hold })} />
      <SelectField
        label="It is told"
        value={rule.told}
        options={TOLD}
        onChange={(event) => onChange({ told: event.target.value as RuleDraft['told'] })}
      />
      <Optional
        label="tell it again until someone takes it on"
        on={rule.remindEvery !== null}
        onSwitch={(on) => onChange({ remindEvery: on ? { count: '6', unit: 'hour' } : null })}
      >
        {rule.remindEvery === null ? null : (
          <Span label="Every" span={rule.remindEvery} onChange={(remindEvery) => onChange({ remindEvery })} />
        )}
      </Optional>
      <Optional
        label="at most once in a time, the rest told as one"
        on={rule.atMostEvery !== null}
        onSwitch={(on) => onChange({ atMostEvery: on ? { count: '2', unit: 'hour' } : null })}
      >
        {rule.atMostEvery === null ? null : (
          <>
            <Span
              label="At most once in"
              span={rule.atMostEvery}
              onChange={(atMostEvery) => onChange({ atMostEvery })}
            />
            <Tick checked={rule.together === true} onChange={(on) => onChange({ together: on ? true : undefined })}>
              for all records together, and not for each
            </Tick>
          </>
        )}
      </Optional>
      <Optional
        label="only at some hours; what comes outside of them waits"
        on={rule.hours !== null}
        onSwitch={(on) => onChange({ hours: on ? WORKING : null })}
      >
        {rule.hours === null ? null : <Hours hours={rule.hours} onChange={(hours) => onChange({ hours })} />}
      </Optional>
      <Optional
        label="put off: nobody is told until a moment"
        on={rule.putOff !== undefined}
        onSwitch={(on) =>
          onChange({ putOff: on ? { until: Math.ceil((Date.now() + DAY) / HOUR) * HOUR, zone } : undefined })
        }
      >
        {rule.putOff === undefined ? null : <PutOff putOff={rule.putOff} onChange={(putOff) => onChange({ putOff })} />}
      </Optional>
      {audiences.length === 0 ? null : (
        <Steps steps={rule.steps} audiences={audiences} onChange={(steps) => onChange({ steps })} />
      )}
      <Tick checked={rule.tellsEnd} onChange={(tellsEnd) => onChange({ tellsEnd })}>
        tell when it is over, too
      </Tick>
      <SelectField
        label="Weight"
        value={rule.weight}
        options={[
          { value: 'high', label: 'high' },
          { value: 'usual', label: 'usual' },
          { value: 'low', label: 'low' },
        ]}
        onChange={(event) => onChange({ weight: event.target.value as RuleDraft['weight'] })}
      />
      <Only only={rule.only} fields={fields} zone={zone} onChange={(only) => onChange({ only })} />
      {fields.length < 2 ? null : (
        <fieldset>
          <legend className="text-glance text-third">Shown with it</legend>
          {fields.map(({ key, label }) => (
            <Tick
              key={key}
              checked={rule.carry.includes(key)}
              onChange={(on) =>
                onChange({ carry: on ? [...rule.carry, key] : rule.carry.filter((each) => each !== key) })
              }
            >
              {label}
            </Tick>
          ))}
        </fieldset>
      )}
      <LastDay ends={rule.ends} zone={zone} onSay={(ends) => onChange({ ends })} />
      <Tick checked={rule.off} onChange={(off) => onChange({ off })}>
        switched off: kept, and not judged
      </Tick>
      <TextField
        label="Name"
        placeholder="its sentence"
        value={rule.name}
        maxLength={120}
        onChange={(event) => onChange({ name: event.target.value })}
      />
      <TextField
        label="Tags"
        placeholder="apart by commas"
        value={rule.tags}
        maxLength={400}
        onChange={(event) => onChange({ tags: event.target.value })}
      />
      {people.length === 0 ? null : (
        <SelectField
          label="Who answers for it"
          value={String(rule.owner ?? '')}
          options={[
            { value: '', label: 'whoever made its watch' },
            ...people.map(({ id, name }) => ({ value: String(id), label: name })),
          ]}
          onChange={(event) =>
            onChange({ owner: event.target.value === '' ? undefined : (Number(event.target.value) as PersonId) })
          }
        />
      )}
      <OwnWords wording={rule.wording} onChange={(wording) => onChange({ wording })} />
      <TextField
        label="Note"
        value={rule.note}
        maxLength={500}
        onChange={(event) => onChange({ note: event.target.value })}
      />
    </div>
  );
}

/** Those who may answer for a rule. */
const peopleOf = (audiences: Audience[]) =>
  audiences.flatMap(({ key, name }) =>
    key.startsWith('person:') ? [{ id: Number(key.slice('person:'.length)), name }] : [],
  );

const WORKING: HoursDraft = { days: [1, 2, 3, 4, 5], from: '08:00', to: '18:00' };

function Hold({ hold, onChange }: { hold: HoldDraft | null; onChange: (hold: HoldDraft | null) => void }) {
  return (
    <div className="flex items-end gap-4">
      <SelectField
        label="It has to be met"
        className="grow"
        value={hold?.unit ?? ''}
        options={HOLDS}
        onChange={(event) => {
          const unit = event.target.value as HoldDraft['unit'] | '';
          onChange(unit === '' ? null : { count: hold?.count ?? '2', unit });
        }}
      />
      {hold === null ? null : (
        <TextField
          label="How many"
          className="w-20"
          inputMode="numeric"
          value={hold.count}
          onChange={(event) => onChange({ ...hold, count: event.target.value })}
        />
      )}
    </div>
  );
}

function Optional({
  label,
  on,
  onSwitch,
  children,
}: {
  label: string;
  on: boolean;
  onSwitch: (on: boolean) => void;
  children: React.ReactNode;
}) {
  return (
    <div>
      <Tick checked={on} onChange={onSwitch}>
        {label}
      </Tick>
      {on ? <div className="mt-1 ml-6">{children}</div> : null}
    </div>
  );
}

const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

function Hours({ hours, onChange }: { hours: HoursDraft; onChange: (hours: HoursDraft) => void }) {
  return (
    <div className="flex flex-col gap-2">
      <div className="flex flex-wrap gap-x-4">
        {DAYS.map((name, at) => (
          <Tick
            key={name}
            checked={hours.days.includes(at + 1)}
            onChange={(on) =>
              onChange({
                ...hours,
                days: on ? [...hours.days, at + 1].sort((a, b) => a - b) : hours.days.filter((day) => day !== at + 1),
              })
            }
          >
            {name}
          </Tick>
        ))}
      </div>
      <div className="flex gap-4">
        <TextField
          label="From"
          className="w-24"
          value={hours.from}
          onChange={(event) => onChange({ ...hours, from: event.target.value })}
        />
        <TextField
          label="To"
          className="w-24"
          value={hours.to}
          onChange={(event) => onChange({ ...hours, to: event.target.value })}
        />
      </div>
    </div>
  );
}

const LONGER = [
  { label: '4 weeks', by: { weeks: 4 } },
  { label: '3 months', by: { months: 3 } },
  { label: '12 months', by: { years: 1 } },
] as const;

/** The last day on which it is judged, and how it is kept for longer. */
function LastDay({ ends, zone, onSay }: { ends: string; zone: string; onSay: (ends: string) => void }) {
  const keepFor = (by: (typeof LONGER)[number]['by']) => {
    const [today, end] = [DateTime.now().setZone(zone), DateTime.fromISO(ends, { zone })];
    onSay((end.isValid && end > today ? end : today).plus(by).toISODate() ?? ends);
  };
  return (
    <div>
      <DateField label="Its last day" value={ends} onChange={onSay} />
      <p className="flex flex-wrap gap-x-3 pt-1 text-glance text-third">
        {ends === '' ? 'Keep it for' : 'Keep it for another'}
        {LONGER.map(({ label, by }) => (
          <button key={label} type="button" className="link" onClick={() => keepFor(by)}>
            {label}
          </button>
        ))}
      </p>
    </div>
  );
}
