import type { ReactNode } from 'react';
import type { Decimal } from '#core/value/decimal';
import { sizeWords, showsWords } from '#core/tell/order-words';
import { MOST_LINES, SORTS, type LeastMove, type Sorting, type StandingOrder } from '#core/tell/standing-order';
import { formatInstant } from '#core/when/format';
import { unreachedWords, type ReachedBy } from '#core/tell/reach';
import { countOf } from '#core/words';
import { Choice, SelectField, TextField } from '../../ui/field';
import { Section } from '../../ui/page';
import { useReader } from '../shell/reader';
import type { Previewed } from './preview.server';
import { Part, type Known } from './sentence';

interface ChoicesProps {
  order: StandingOrder;
  name: string;
  known: Known;
  shown: Previewed | null;
  onSay: (change: Partial<StandingOrder>) => void;
  onName: (name: string) => void;
}

/** What a report is besides its sentence: each choice a line of words, under what it all would have meant last week. */
export function Choices({ order, name, known, shown, onSay, onName }: ChoicesProps) {
  const { place } = useReader();
  return (
    <Section title="Last week this would have been">
      <p className="pb-2" data-last-week>
        {shown === null ? '' : <WeekWords shown={shown} people={peopleOf(order, known)} />}
      </p>
      <dl>
        <Line name="Name">
          <TextField
            label="Its mails begin with it"
            value={name}
            maxLength={120}
            placeholder="Pricing, daily"
            onChange={(event) => onName(event.target.value)}
          />
        </Line>
        <Line name="Size">
          prices that moved,{' '}
          <Part label="How far prices must move" said={sizeWords(order, place.locale)}>
            <SizeEditor order={order} onSay={onSay} />
          </Part>
        </Line>
        <Line name="Shows">
          <Part label="What of moves is shown" said={showsWords(order)}>
            <Choice
              label="What of moves is shown"
              value={order.shows}
              options={[
                { value: 'net', label: 'net: what it comes to over the stretch, with the moves on the way' },
                { value: 'each', label: 'each move on a line of its own' },
              ]}
              onChange={(shows) => onSay({ shows })}
            />
          </Part>
          , <SortPart label="Groups" name="groups" order={order} onSay={onSay} />, <SortPart label="Lines" name="lines" order={order} onSay={onSay} />
          ,{' '}
          <Part label="At most so many lines" said={order.most === null ? `up to ${MOST_LINES} lines` : `at most ${countOf(order.most, 'line')}`}>
            <MostEditor most={order.most} onSay={(most) => onSay({ most })} />
          </Part>
        </Line>
        <Line name="Nothing moved">
          <Part label="Where nothing moved" said={order.whenNothing === 'skip' ? 'no mail; the next one says so' : 'a mail that says so'}>
            <Choice
              label="Where nothing moved"
              value={order.whenNothing}
              options={[
                { value: 'skip', label: 'no mail; the next one says how many cuts were quiet' },
                { value: 'say', label: 'a mail that says so' },
              ]}
              onChange={(whenNothing) => onSay({ whenNothing })}
            />
          </Part>
        </Line>
        <Line name="Who">
          <Who order={order} known={known} />
        </Line>
        <Line name="Next cuts">
          <span data-next-cuts>{nextWords(shown, order, place)}</span>
        </Line>
      </dl>
    </Section>
  );
}

function Line({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="cell grid grid-cols-[84px_minmax(0,1fr)] gap-x-3">
      <dt className="text-glance leading-5 text-third">{name}</dt>
      <dd className="min-w-0">{children}</dd>
    </div>
  );
}

const peopleOf = ({ readers }: StandingOrder, { audiences }: Known): Map<string, ReachedBy> =>
  new Map(
    audiences
      .filter(({ key }) => readers.includes(key))
      .flatMap(({ members }) => members.map((member): [string, ReachedBy] => [member.email, member])),
  );

function WeekWords({ shown: { week }, people }: { shown: Previewed; people: Map<string, ReachedBy> }) {
  const { cuts, editions, lines, longest, quiet } = week;
  if (cuts === 0) return <>No cut is planned by the clock: nothing would have gone out by itself.</>;
  return (
    <>
      <strong className="font-semibold">{countOf(editions, 'edition')}</strong>, {countOf(editions * people.size, 'mail')} to{' '}
      {people.size === 1 ? 'one person' : `${people.size} people`}, {countOf(lines, 'line')}
      {longest > 0 ? `; the longest ${countOf(longest, 'line')}` : ''}.{quiet > 0 ? ` ${countOf(quiet, 'cut')} had nothing to tell.` : ''}
    </>
  );
}

function Who({ order, known }: { order: StandingOrder; known: Known }) {
  const people = [...peopleOf(order, known).values()];
  const unreached = unreachedWords(people);
  if (people.length === 0) return <span className="font-medium text-chestnut">Nobody would hear: say who reads it.</span>;
  return (
    <>
      {people.map(({ name }) => name).join(', ')}
      {unreached.length === 0 ? null : (
        <span className="block font-medium text-chestnut">{unreached.join('; ')}: what is for them is kept back.</span>
      )}
    </>
  );
}

function nextWords(shown: Previewed | null, { cadence }: StandingOrder, place: { locale: string; zone: string }): string {
  if (shown === null || !('zone' in cadence)) return 'none planned';
  return shown.next.map((at) => formatInstant(at, 'moment', place)).join(', ');
}

const SORT_LABELS: Record<Sorting['by'], [down: string, up: string]> = {
  percent: ['by percent, the largest first', 'by percent, the smallest first'],
  amount: ['by amount, the largest first', 'by amount, the smallest first'],
  price: ['by price, the highest first', 'by price, the lowest first'],
  moved: ['by when it moved, the latest first', 'by when it moved, the earliest first'],
  name: ['by name, from Z', 'by name, from A'],
};

const SORT_OPTIONS = SORTS.flatMap((by) => [true, false].map((down) => ({ value: `${by} ${String(down)}`, label: SORT_LABELS[by][down ? 0 : 1] })));

function SortPart({ label, name, order, onSay }: { label: string; name: 'groups' | 'lines'; order: StandingOrder; onSay: ChoicesProps['onSay'] }) {
  const { by, down } = order.sort[name];
  const say = (value: string) => {
    const chosen = SORTS.find((sort) => value.startsWith(`${sort} `));
    if (chosen !== undefined) onSay({ sort: { ...order.sort, [name]: { by: chosen, down: value.endsWith('true') } } });
  };
  return (
    <Part label={`${label} sorted`} said={`${name} ${SORT_LABELS[by][down ? 0 : 1]}`}>
      <SelectField label={`${label} stand`} value={`${by} ${String(down)}`} options={SORT_OPTIONS} onChange={(event) => say(event.target.value)} />
    </Part>
  );
}

function MostEditor({ most, onSay }: { most: number | null; onSay: (most: number | null) => void }) {
  return (
    <TextField
      label={`At most so many lines in a mail; empty for ${MOST_LINES}`}
      type="number"
      min={1}
      max={MOST_LINES}
      value={most ?? ''}
      hint="What is cut off is counted in the mail, and whole in the edition’s files."
      onChange={(event) => onSay(event.target.value === '' ? null : Number(event.target.value))}
    />
  );
}

const LEAST: { value: 'any' | 'off' | 'percent'; label: string }[] = [
  { value: 'any', label: 'of any size' },
  { value: 'percent', label: 'of at least so many percent' },
  { value: 'off', label: 'not told' },
];

function SizeEditor({ order, onSay }: { order: StandingOrder; onSay: ChoicesProps['onSay'] }) {
  return (
    <div className="flex flex-col gap-3">
      {(['falls', 'rises'] as const).map((way) => (
        <LeastEditor
          key={way}
          label={way === 'falls' ? 'Falls' : 'Rises'}
          least={order.size[way]}
          onSay={(least) => onSay({ size: { ...order.size, [way]: least } })}
        />
      ))}
      <p className="text-glance text-third">
        Judged exactly, on what is shown: the net move, or each. A text, a state or a rise from nought is not held back by it.
      </p>
    </div>
  );
}

function LeastEditor({ label, least, onSay }: { label: string; least: LeastMove; onSay: (least: LeastMove) => void }) {
  const start = (is: string) => onSay(is === 'percent' ? { is, least: '5' as Decimal } : { is: is === 'off' ? 'off' : 'any' });
  return (
    <div className="grid grid-cols-2 items-end gap-3">
      <SelectField label={label} value={least.is} options={LEAST} onChange={(event) => start(event.target.value)} />
      {least.is === 'percent' ? (
        <TextField
          label="Percent"
          inputMode="decimal"
          value={least.least}
          onChange={(event) => onSay({ is: 'percent', least: event.target.value.replace(',', '.') as Decimal })}
        />
      ) : null}
    </div>
  );
}
