import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { showsWords } from '#core/tell/definition-words';
import { allReaders, FILE_FORMS, MOST_LINES, SORTS, type Sorting, type ReportDefinition } from '#core/tell/definition';
import { cutWith, isAtOnce } from '#core/when/cadence';
import { formatInstant } from '#core/when/format';
import { unreachedWords, type ReachedBy } from '#core/tell/reach';
import { capital, countOf, listed } from '#core/words';
import { Choice, SelectField, TextField, Tick } from '../../../ui/field';
import { Section } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import type { Previewed } from './preview.server';
import type { Known } from './known';
import { BrokenPart, Parts } from './parts';
import { Part } from './sentence';
import { PresentPart } from './present';
import { SizePart } from './size';
import { WordsPart } from './words';

interface ChoicesProps {
  order: ReportDefinition;
  name: string;
  known: Known;
  shown: Previewed | null;
  onSay: (change: Partial<ReportDefinition>) => void;
  onName: (name: string) => void;
}

/** What a report is besides its sentence: each choice a line of words, under what it all would have meant last week. */
export function Choices({ order, name, known, shown, onSay, onName }: ChoicesProps) {
  const { place } = useReader();
  return (
    <Section title="Last week this would have been">
      <p className="pb-2" data-last-week>
        {shown === null ? '' : <WeekWords shown={shown} order={order} known={known} />}
      </p>
      <dl data-choices>
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
          prices that moved, <SizePart order={order} onSay={onSay} />
        </Line>
        <Line name="Tells">
          <PresentPart order={order} known={known} onSay={onSay} />
        </Line>
        <Line name="Shows">
          <Part label="What of moves is shown" said={showsWords(order)}>
            <Choice
              label="What of moves is shown"
              value={order.shows}
              options={isAtOnce(order.cadence) ? SHOWS.filter(({ value }) => value === 'each') : SHOWS}
              onChange={(shows) => onSay({ shows })}
            />
          </Part>
          , <SortPart label="Groups" name="groups" order={order} onSay={onSay} />,{' '}
          <SortPart label="Lines" name="lines" order={order} onSay={onSay} />,{' '}
          <Part
            label="At most so many lines"
            said={order.most === null ? `up to ${MOST_LINES} lines` : `at most ${countOf(order.most, 'line')}`}
          >
            <MostEditor most={order.most} onSay={(most) => onSay({ most })} />
          </Part>
        </Line>
        <Line name="Editions">
          <Parts order={order} known={known} shown={shown} onSay={onSay} />
        </Line>
        <Line name="What broke">
          <BrokenPart order={order} known={known} onSay={onSay} />
        </Line>
        <Line name="Words">
          <WordsPart order={order} onSay={onSay} />
        </Line>
        <Line name="Attached">
          <Part
            label="Files that its mails bear"
            said={
              order.attach.length === 0
                ? 'no files'
                : `every line as ${listed(order.attach.map((form) => form.toUpperCase()))}`
            }
          >
            {FILE_FORMS.map((form) => (
              <Tick
                key={form}
                checked={order.attach.includes(form)}
                onChange={(on) =>
                  onSay({ attach: FILE_FORMS.filter((each) => (each === form ? on : order.attach.includes(each))) })
                }
              >
                {form.toUpperCase()}
              </Tick>
            ))}
          </Part>
        </Line>
        <Line name="Told before">
          <Part
            label="What was told at once before"
            said={TOLD_BEFORE[isAtOnce(order.cadence) ? 'leave out' : order.toldBefore]}
          >
            <Choice
              label="What was told at once before"
              value={isAtOnce(order.cadence) ? 'leave out' : order.toldBefore}
              options={TOLD_OPTIONS.filter(({ value }) => value === 'leave out' || !isAtOnce(order.cadence))}
              onChange={(toldBefore) => onSay({ toldBefore })}
            />
          </Part>
        </Line>
        <Line name="Bounds">
          {known.bounds.length === 0
            ? 'as many mails as there are; '
            : `at most ${listed(known.bounds)}, and a warning at eight tenths; `}
          <Link className="link" to="/mail">
            {known.bounds.length === 0 ? 'set a bound' : 'set them'}
          </Link>
        </Line>
        <Line name="Nothing moved">
          {cutWith(order.cadence) === 'news' ? (
            'no mail: it is made with news alone'
          ) : (
            <Part
              label="Where nothing moved"
              said={order.whenNothing === 'skip' ? 'no mail; the next one says so' : 'a mail that says so'}
            >
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
          )}
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

const SHOWS: { value: ReportDefinition['shows']; label: string }[] = [
  { value: 'net', label: 'net: what it comes to over the stretch, with the moves on the way' },
  { value: 'each', label: 'each move on a line of its own' },
];

const TOLD_BEFORE: Record<ReportDefinition['toldBefore'], string> = {
  mark: 'what a reader was told at once is marked so',
  'leave out': 'what a reader was told at once is left out',
};
const TOLD_OPTIONS: { value: ReportDefinition['toldBefore']; label: string }[] = [
  { value: 'mark', label: 'marked ‘told at once’, with when' },
  { value: 'leave out', label: 'left out and counted; where nothing is left she gets no mail' },
];

function Line({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="cell grid grid-cols-[84px_minmax(0,1fr)] gap-x-3">
      <dt className="text-glance leading-5 text-third">{name}</dt>
      <dd className="min-w-0">{children}</dd>
    </div>
  );
}

const peopleOf = (keys: string[], { audiences }: Known): Map<string, ReachedBy> =>
  new Map(
    audiences
      .filter(({ key }) => keys.includes(key))
      .flatMap(({ members }) => members.map((member): [string, ReachedBy] => [member.email, member])),
  );

function WeekWords({ shown: { week }, order, known }: { shown: Previewed; order: ReportDefinition; known: Known }) {
  const { cuts, more, editions, lines, longest, quiet } = week;
  const people = peopleOf(allReaders(order), known);
  if (cuts === 0)
    return (
      <>
        {order.cadence.cut === 'never'
          ? 'It is made by hand alone: nothing would have gone out by itself.'
          : 'Nothing would have gone out.'}
      </>
    );
  return (
    <>
      {more ? 'At least ' : ''}
      <strong className="font-semibold">{countOf(editions, 'edition')}</strong>,{' '}
      {countOf(mailsOf(week, order, known), 'mail')} to {people.size === 1 ? 'one person' : `${people.size} people`},{' '}
      {countOf(lines, 'line')}
      {longest > 0 ? `; the longest ${countOf(longest, 'line')}` : ''}.
      {quiet > 0 ? ` ${capital(countOf(quiet, 'cut'))} had nothing to tell.` : ''}
    </>
  );
}

/**
 * How many mails a week's editions come to: each goes to those who are named for it, else to those who read the rest.
 */
function mailsOf(
  { editions, parts, broken }: Previewed['week'],
  { readers, split, broken: hear }: ReportDefinition,
  known: Known,
): number {
  const rest = peopleOf(readers, known).size;
  const ofParts = parts.map(({ value, editions: count }) => {
    const named = split?.parts.find((part) => part.value === value)?.readers;
    return count * (named === undefined ? rest : peopleOf(named, known).size);
  });
  const whole = editions - broken - parts.reduce((sum, part) => sum + part.editions, 0);
  return ofParts.reduce((sum, each) => sum + each, whole * rest + broken * peopleOf(hear, known).size);
}

function Who({ order, known }: { order: ReportDefinition; known: Known }) {
  const people = [...peopleOf(allReaders(order), known).values()];
  const unreached = unreachedWords(people);
  if (people.length === 0)
    return <span className="font-medium text-chestnut">Nobody would hear: say who reads it.</span>;
  return (
    <>
      {people.map(({ name }) => name).join(', ')}
      {unreached.length === 0 ? null : (
        <span className="block font-medium text-chestnut">{unreached.join('; ')}: what is for them is kept back.</span>
      )}
    </>
  );
}

function nextWords(
  shown: Previewed | null,
  { cadence }: ReportDefinition,
  place: { locale: string; zone: string },
): string {
  if (cadence.cut === 'at once') return 'with the next news that it takes';
  if (cadence.cut === 'after each run') return 'with the next run of what it follows';
  if (shown === null || cadence.cut === 'never') return 'none planned';
  return shown.next.map((at) => formatInstant(at, 'moment', place)).join(', ');
}

const SORT_LABELS: Record<Sorting['by'], [down: string, up: string]> = {
  percent: ['by percent, the largest first', 'by percent, the smallest first'],
  amount: ['by amount, the largest first', 'by amount, the smallest first'],
  price: ['by price, the highest first', 'by price, the lowest first'],
  weight: ['by the weight of its alerts, the weightiest first', 'by the weight of its alerts, the lightest first'],
  moved: ['by when it moved, the latest first', 'by when it moved, the earliest first'],
  name: ['by name, from Z', 'by name, from A'],
};

const SORT_OPTIONS = SORTS.flatMap((by) =>
  [true, false].map((down) => ({ value: `${by} ${String(down)}`, label: SORT_LABELS[by][down ? 0 : 1] })),
);

function SortPart({
  label,
  name,
  order,
  onSay,
}: {
  label: string;
  name: 'groups' | 'lines';
  order: ReportDefinition;
  onSay: ChoicesProps['onSay'];
}) {
  const { by, down } = order.sort[name];
  const say = (value: string) => {
    const chosen = SORTS.find((sort) => value.startsWith(`${sort} `));
    if (chosen !== undefined) onSay({ sort: { ...order.sort, [name]: { by: chosen, down: value.endsWith('true') } } });
  };
  return (
    <Part label={`${label} sorted`} said={`${name} ${SORT_LABELS[by][down ? 0 : 1]}`}>
      <SelectField
        label={`${label} stand`}
        value={`${by} ${String(down)}`}
        options={SORT_OPTIONS}
        onChange={(event) => say(event.target.value)}
      />
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
      hint="What is left out is counted in the mail, and whole in the edition’s files."
      onChange={(event) => onSay(event.target.value === '' ? null : Number(event.target.value))}
    />
  );
}
