import { useState } from 'react';
import { useFetcher } from 'react-router';
import type { Audience } from '#server/db/person/people';
import { Button } from '../../ui/button';
import { DateField, TimestampField } from '../../ui/date-field';
import { SelectField, TextField } from '../../ui/field';
import { AudienceEditor } from '../plan/audience';
import { MOST_AT_ONCE, type BulkAnswer, type Chosen, type Fitting } from './answer';

/** What can be done, by the word that asks for it. */
const OF_WATCHES = [
  { value: 'pause', label: 'pause' },
  { value: 'start', label: 'start' },
  { value: 'look', label: 'run every …' },
  { value: 'tag', label: 'tag' },
  { value: 'untag', label: 'take tags away' },
  { value: 'tell', label: 'tell others' },
  { value: 'put off', label: 'put off what their rules tell, until …' },
  { value: 'take up', label: 'take their rules up again' },
  { value: 'end on', label: 'set the last day of their rules' },
  { value: 'copy', label: 'copy, with their rules' },
  { value: 'delete', label: 'delete' },
];
const OF_RULES = [
  { value: 'off', label: 'switch off' },
  { value: 'on', label: 'switch on' },
  { value: 'tag', label: 'tag' },
  { value: 'untag', label: 'take tags away' },
  { value: 'tell', label: 'tell others' },
  { value: 'put off', label: 'put off until …' },
  { value: 'take up', label: 'take up again' },
  { value: 'end on', label: 'set their last day' },
  { value: 'end rules', label: 'end' },
];

interface BulkBarProps {
  of: 'watches' | 'rules';
  chosen: Chosen[];
  /** Where all that the list has can be asked for, once all of its page are chosen and there are more. */
  fitting: string | null;
  audiences: Audience[];
  onClear: () => void;
}

const BLANK = { tags: '', count: '1', unit: 'hour', date: '', until: '', audiences: [] as string[] };

/** Does something to those that are chosen: what it would do is said first, and what was done can be undone. */
export function BulkBar({ of, chosen: ticked, fitting, audiences, onClear }: BulkBarProps) {
  const fetcher = useFetcher<BulkAnswer>();
  const beyond = useBeyond(fitting);
  const chosen = beyond.all?.chosen ?? ticked;
  const [what, setWhat] = useState('');
  const [said, setSaid] = useState(BLANK);
  const [asked, setAsked] = useState<string | null>(null);
  const form = formOf(what, said, chosen);
  const key = JSON.stringify([...form.entries()]);
  const send = (intent: string, more?: Record<string, string>) => {
    const next = more === undefined ? formOf(what, said, chosen) : new FormData();
    next.set('intent', intent);
    for (const [name, value] of Object.entries(more ?? {})) next.set(name, value);
    void fetcher.submit(next, { method: 'post', action: '/bulk' });
    setAsked(intent === 'try' ? key : null);
  };
  // While the lists are loaded again what was done can be undone already.
  const busy = fetcher.state === 'submitting';
  const answer = fetcher.data ?? null;
  const effect = asked === key ? (answer?.effect ?? null) : null;
  if (chosen.length === 0 && isSilent(answer)) return null;
  return (
    <section
      aria-label="Those that are chosen"
      className="sticky top-0 z-10 mt-2 border-y border-ink bg-page py-2"
      data-bulk
    >
      {chosen.length === 0 ? null : (
        <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
          <HowMany chosen={chosen} beyond={beyond} />
          <SelectField
            label="What is done to them"
            hideLabel
            value={what}
            options={[{ value: '', label: 'do something to them …' }, ...(of === 'watches' ? OF_WATCHES : OF_RULES)]}
            onChange={(event) => setWhat(event.target.value)}
          />
          <Figures what={what} said={said} audiences={audiences} onSay={(change) => setSaid({ ...said, ...change })} />
          {what === '' ? null : (
            <Button disabled={busy} onClick={() => send('try')} weight={effect === null ? 'strong' : 'plain'}>
              See what it does
            </Button>
          )}
          <DoIt effect={effect} busy={busy} onDo={() => send('do')} />
          <button type="button" className="link ml-auto pb-1 text-second" onClick={onClear}>
            Choose none
          </button>
        </div>
      )}
      {effect === null ? null : <Effect effect={effect} />}
      <p className="text-second">
        <BulkStatus answer={answer} busy={busy} onUndo={(batch) => send('undo', { batch: String(batch) })} />
      </p>
    </section>
  );
}

/** All that a list has, once that is asked for; and the way to ask, where there is more than its page. */
function useBeyond(fitting: string | null) {
  const fetcher = useFetcher<Fitting>({ key: `fitting ${fitting}` });
  const all = fitting === null ? null : (fetcher.data ?? null);
  const ask = fitting === null || all !== null ? null : () => void fetcher.load(fitting);
  return { all, ask, busy: fetcher.state !== 'idle' };
}

function HowMany({ chosen, beyond: { all, ask, busy } }: { chosen: Chosen[]; beyond: ReturnType<typeof useBeyond> }) {
  return (
    <>
      <p className="pb-1 font-semibold" data-chosen={chosen.length}>
        {chosen.length} chosen{all?.more === true ? `, the first of more: at most ${MOST_AT_ONCE} at once` : ''}
      </p>
      {ask === null ? null : (
        <button type="button" className="link pb-1 text-second" disabled={busy} onClick={ask}>
          Choose all that fit, beyond this page
        </button>
      )}
    </>
  );
}

const isSilent = (answer: BulkAnswer | null) => answer === null || (answer.said === null && answer.problem === null);

function DoIt({ effect, busy, onDo }: { effect: BulkAnswer['effect']; busy: boolean; onDo: () => void }) {
  if (effect === null || effect.changed === 0) return null;
  return (
    <Button disabled={busy} onClick={onDo} weight="strong">
      {effect.words}
    </Button>
  );
}

/** What was done last, and the way to undo it; or why it was not done. */
export function BulkStatus({
  answer,
  busy,
  onUndo,
}: {
  answer: BulkAnswer | null;
  busy: boolean;
  onUndo: (batch: number) => void;
}) {
  const { problem = null, said = null, batch = null } = answer ?? {};
  return (
    <span role="status">
      {problem === null ? null : <span className="font-medium text-chestnut">{problem}</span>}
      {said === null ? null : <span>{said}. </span>}
      {batch === null ? null : (
        <button type="button" className="link" disabled={busy} onClick={() => onUndo(batch)}>
          {said === 'Undone' ? 'Do it again' : 'Undo'}
        </button>
      )}
    </span>
  );
}

function formOf(what: string, said: typeof BLANK, chosen: Chosen[]): FormData {
  const form = new FormData();
  form.set('do', what);
  for (const [name, value] of Object.entries(said)) if (typeof value === 'string') form.set(name, value);
  for (const key of said.audiences) form.append('audience', key);
  for (const watch of new Set(chosen.map((each) => each.watch))) form.append('watch', String(watch));
  for (const { rule } of chosen) if (rule !== undefined) form.append('rule', String(rule));
  return form;
}

interface FiguresProps {
  what: string;
  said: typeof BLANK;
  audiences: Audience[];
  onSay: (change: Partial<typeof BLANK>) => void;
}

/** What a deed asks for besides. */
function Figures({ what, said, audiences, onSay }: FiguresProps) {
  switch (what) {
    case 'tag':
    case 'untag':
      return (
        <TextField
          label="Tags, apart by commas"
          value={said.tags}
          maxLength={400}
          onChange={(event) => onSay({ tags: event.target.value })}
        />
      );
    case 'look':
      return (
        <>
          <TextField
            label="Every"
            className="w-16"
            inputMode="numeric"
            value={said.count}
            onChange={(event) => onSay({ count: event.target.value })}
          />
          <SelectField
            label="counted in"
            value={said.unit}
            options={['minute', 'hour', 'day'].map((value) => ({ value, label: `${value}s` }))}
            onChange={(event) => onSay({ unit: event.target.value })}
          />
        </>
      );
    case 'end on':
      return <DateField label="Last day (empty: they go on)" value={said.date} onChange={(date) => onSay({ date })} />;
    case 'put off':
      return <TimestampField label="Nobody is told until" value={said.until} onChange={(until) => onSay({ until })} />;
    case 'tell':
      return (
        <div className="max-h-40 overflow-auto">
          <AudienceEditor
            audiences={audiences}
            chosen={said.audiences}
            onChange={(chosen) => onSay({ audiences: chosen })}
          />
        </div>
      );
    default:
      return null;
  }
}

function Effect({ effect }: { effect: NonNullable<BulkAnswer['effect']> }) {
  const more = effect.changed - effect.some.length;
  return (
    <div className="mt-2 max-h-48 overflow-auto text-glance" data-effect>
      <p className="font-semibold">
        {effect.changed === 0
          ? 'Nothing would change'
          : effect.changed === 1
            ? 'One watch would change'
            : `${effect.changed} watches would change`}
        {effect.same === 0
          ? ''
          : `; ${effect.same} ${effect.same === 1 ? 'stays' : 'stay'} as ${effect.same === 1 ? 'it is' : 'they are'}`}
        .
      </p>
      <ul>
        {effect.some.map(({ name, said }, at) => (
          <li key={at}>
            <span className="font-medium">{name}</span>: {said.join('; ')}
          </li>
        ))}
      </ul>
      {more > 0 ? <p className="text-third">and {more} more</p> : null}
    </div>
  );
}
