import type { ReactNode } from 'react';
import type { ClauseChange, DraftFor, Verb } from '#core/judge/draft/clause';
import type { WindowDraft } from '#core/judge/draft/figures';
import type { LimitDraft } from '#core/judge/kinds/level/draft';
import type { MoveDraft } from '#core/judge/kinds/move/draft';
import type { ClauseDraft } from '#core/judge/kinds/table';
import type { UnusualDraft } from '#core/judge/kinds/unusual/kind';
import type { PresentValues } from '#core/plan/rule-draft';
import type { Field } from '#core/read/definition';
import { formatUnit } from '#core/value/format';
import { isMeasure, unitOf } from '#core/value/value';
import { SelectField, TextField, Tick } from '../../ui/field';
import { Another, WhichRecord, type AnotherProps } from './another';
import { shownProblem, Span } from './span-field';

interface FiguresProps<Draft = ClauseDraft> extends Omit<AnotherProps, 'clause'> {
  clause: Draft;
  field: Pick<Field, 'type'> | undefined;
  present: PresentValues;
  /** The units of the field, where its records differ in them. */
  units: string[];
}

/** The figures and words that a verb asks for. */
export function Figures(props: FiguresProps) {
  const figures = FIGURES[props.clause.verb] as ((props: FiguresProps) => ReactNode) | undefined;
  return figures?.(props) ?? null;
}

type FiguresOf<Draft> = (props: FiguresProps<Draft>) => ReactNode;
type Counted = Extract<ClauseDraft, { count: string }>;
type Worded = Extract<ClauseDraft, { words: string }>;
type Spanned = Extract<ClauseDraft, { span: unknown }>;

const limits: FiguresOf<LimitDraft> = (props) => <Limits {...props} />;
const another: FiguresOf<DraftFor<'is below another'>> = (props) => <Another {...props} />;
const words =
  (label: string): FiguresOf<Worded> =>
  ({ clause, onChange, ...props }) => (
    <Words
      {...props}
      label={label}
      value={clause.words}
      asked={clause.field}
      onChange={(said) => onChange({ words: said })}
    />
  );
const count =
  (label: string, placeholder?: string): FiguresOf<Counted> =>
  (props) => <Count {...props} label={label} placeholder={placeholder} />;
const span =
  (label: string): FiguresOf<Spanned> =>
  ({ clause, problem, onChange }) => (
    <Span label={label} span={clause.span} problem={problem} onChange={(said) => onChange({ span: said })} />
  );

const FIGURES: { [V in Verb]?: FiguresOf<DraftFor<V>> } = {
  'falls below': limits,
  'rises above': limits,
  'is below': limits,
  'is above': limits,
  'is between': limits,
  'is outside': limits,
  'moves by': (props) => <Moves {...props} />,
  changes: (props) =>
    props.field?.type.kind === 'text' ? count('By at least so many words (empty: any change)')(props) : null,
  'is unusual': (props) => <Unusual {...props} />,
  'is below another': another,
  'is above another': another,
  'moves in rank': count('By at least so many places'),
  'gets worse': count('By at least so many grades', '1'),
  'gets better': count('By at least so many grades', '1'),
  is: words('Which'),
  becomes: words('Which'),
  leaves: words('Which'),
  'is as bad as': words('Which grade'),
  'is as good as': words('Which grade'),
  'goes from': (props) => (
    <div className="grid grid-cols-2 gap-4">
      {words('From')(props)}
      <Words
        {...props}
        label="To"
        value={props.clause.to}
        asked={props.clause.field}
        onChange={(to) => props.onChange({ to })}
      />
    </div>
  ),
  'has the phrase': words('The phrase'),
  'lacks the phrase': words('The phrase'),
  'gains the phrase': words('The phrase'),
  'loses the phrase': words('The phrase'),
  matches: words('The pattern (RE2)'),
  'is silent': span('Nothing good read for'),
  'does not move': span('No move for'),
  'fails to be read': count('So many runs in a row'),
};

function Limits({ clause, present, units, locale, problem, onChange }: FiguresProps<LimitDraft>) {
  const [several, two] = [units.length > 1, clause.verb === 'is between' || clause.verb === 'is outside'];
  const isLevel = clause.verb !== 'falls below' && clause.verb !== 'rises above';
  return (
    <div className="flex flex-col gap-3">
      <div className="flex items-start gap-4">
        <TextField
          label={
            two
              ? `From${several ? '' : unitIn(clause, present, locale)}`
              : `The limit${several ? '' : unitIn(clause, present, locale)}`
          }
          className="grow"
          inputMode="decimal"
          value={clause.limit}
          onChange={(event) => onChange({ limit: event.target.value })}
          problem={shownProblem(clause.limit, problem)}
        />
        {two ? (
          <TextField
            label="To"
            className="grow"
            inputMode="decimal"
            value={clause.high}
            onChange={(event) => onChange({ high: event.target.value })}
          />
        ) : null}
        {several ? (
          <SelectField
            label="in"
            className="min-w-16"
            value={clause.unit ?? unitOfPresent(present, clause.field)}
            options={units.map((unit) => ({ value: unit, label: unit === '' ? 'no unit' : unit }))}
            onChange={(event) => onChange({ unit: event.target.value })}
          />
        ) : null}
      </div>
      <Tick checked={clause.inclusive} onChange={(inclusive) => onChange({ inclusive })}>
        the limit itself counts
      </Tick>
      <details open={clause.over !== null || clause.margin !== '' || clause.further !== undefined}>
        <summary className="cursor-pointer text-glance text-third">
          Of a stretch of readings, at further limits, or with a margin
        </summary>
        <div className="mt-2 flex flex-col gap-3">
          <WindowFields over={clause.over} onChange={(over) => onChange({ over })} />
          {two ? null : (
            <TextField
              label="Told again at further limits"
              hint="apart by semicolons: 22; 20"
              value={clause.further ?? ''}
              onChange={(event) => onChange({ further: event.target.value === '' ? undefined : event.target.value })}
            />
          )}
          <TextField
            label={`Not left before it is back by${isLevel ? '' : ' (once it was raised)'}`}
            hint="an amount, or as 2%"
            inputMode="decimal"
            value={clause.margin === '' || !clause.percent ? clause.margin : `${clause.margin.replace('%', '')}%`}
            onChange={(event) =>
              onChange({ margin: event.target.value.replace('%', ''), percent: event.target.value.includes('%') })
            }
          />
        </div>
      </details>
    </div>
  );
}

const MADE: { value: WindowDraft['make'] | ''; label: string }[] = [
  { value: '', label: 'the reading as it is' },
  { value: 'minimum', label: 'the lowest' },
  { value: 'maximum', label: 'the highest' },
  { value: 'mean', label: 'the mean' },
  { value: 'median', label: 'the median' },
  { value: 'range', label: 'the range' },
  { value: 'first to last', label: 'from first to last' },
  { value: 'sum', label: 'the sum' },
  { value: 'increase', label: 'the increase' },
  { value: 'readings', label: 'the number of readings' },
  { value: 'moves', label: 'the number of moves' },
  { value: 'pace', label: 'the sum at this pace' },
];

const WINDOWS: { value: WindowDraft['unit']; label: string }[] = [
  { value: 'minute', label: 'minutes' },
  { value: 'hour', label: 'hours' },
  { value: 'day', label: 'days' },
  { value: 'reading', label: 'readings' },
  { value: 'this hour', label: 'this hour' },
  { value: 'this day', label: 'today' },
  { value: 'this week', label: 'this week' },
  { value: 'this month', label: 'this month' },
];

function WindowFields({ over, onChange }: { over: WindowDraft | null; onChange: (over: WindowDraft | null) => void }) {
  const calendar = over !== null && over.unit.startsWith('this');
  return (
    <div className="flex items-end gap-3">
      <SelectField
        label="What is judged"
        className="grow"
        value={over?.make ?? ''}
        options={MADE}
        onChange={(event) => {
          const make = event.target.value as WindowDraft['make'] | '';
          onChange(make === '' ? null : { count: '2', unit: 'hour', ...over, make });
        }}
      />
      {over === null || calendar ? null : (
        <TextField
          label="Over the last"
          className="w-16"
          inputMode="numeric"
          value={over.count}
          onChange={(event) => onChange({ ...over, count: event.target.value })}
        />
      )}
      {over === null ? null : (
        <SelectField
          label={calendar ? 'Of' : 'counted in'}
          value={over.unit}
          options={WINDOWS}
          onChange={(event) => onChange({ ...over, unit: event.target.value as WindowDraft['unit'] })}
        />
      )}
    </div>
  );
}

const BASES: { value: MoveDraft['base']; label: string }[] = [
  { value: 'last', label: 'the reading before' },
  { value: 'told', label: 'what was told last' },
  { value: 'extreme', label: 'the highest or lowest since' },
  { value: 'median', label: 'the median of readings before' },
  { value: 'pinned', label: 'a value that I say' },
  { value: 'day', label: 'the same time a day before' },
  { value: 'week', label: 'the same time a week before' },
  { value: 'month', label: 'the same time a month before' },
];

function Moves({ clause, present, records, locale, problem, onChange }: FiguresProps<MoveDraft>) {
  const bases = records.length > 1 ? [...BASES, { value: 'record' as const, label: 'that of another record' }] : BASES;
  return (
    <div className="flex flex-col gap-3">
      <div className="flex items-start gap-4">
        <TextField
          label="A rise of at least"
          inputMode="decimal"
          placeholder="off"
          value={clause.rise}
          onChange={(event) => onChange({ rise: event.target.value })}
          problem={shownProblem(clause.rise + clause.fall, problem)}
        />
        <TextField
          label="A fall of at least"
          inputMode="decimal"
          placeholder="off"
          value={clause.fall}
          onChange={(event) => onChange({ fall: event.target.value })}
        />
        <SelectField
          label="in"
          value={clause.percent ? 'percent' : 'amount'}
          options={[
            { value: 'amount', label: unitIn(clause, present, locale).replace(', in ', '') || 'its unit' },
            { value: 'percent', label: 'percent' },
          ]}
          onChange={(event) => onChange({ percent: event.target.value === 'percent' })}
        />
      </div>
      <SelectField
        label="Against"
        value={clause.base}
        options={bases}
        onChange={(event) => onChange({ base: event.target.value as MoveDraft['base'] })}
      />
      {clause.base === 'median' ? (
        <Count clause={clause} label="Of so many readings" onChange={onChange} problem={problem} />
      ) : null}
      {clause.base === 'pinned' ? (
        <TextField
          label={`The value${unitIn(clause, present, locale)}`}
          inputMode="decimal"
          value={clause.limit}
          onChange={(event) => onChange({ limit: event.target.value })}
        />
      ) : null}
      {clause.base === 'record' ? (
        <WhichRecord record={clause.record} records={records} onChange={(record) => onChange({ record })} />
      ) : null}
    </div>
  );
}

const SIDES = [
  { value: 'either', label: 'high or low' },
  { value: 'high', label: 'high' },
  { value: 'low', label: 'low' },
];

function Unusual({ clause, problem, onChange }: FiguresProps<UnusualDraft>) {
  return (
    <div className="flex items-start gap-4">
      <SelectField
        label="Unusually"
        value={clause.side}
        options={SIDES}
        onChange={(event) => onChange({ side: event.target.value as UnusualDraft['side'] })}
      />
      <TextField
        label="About one false alarm in so many readings"
        className="grow"
        inputMode="numeric"
        placeholder="200"
        value={clause.count}
        onChange={(event) => onChange({ count: event.target.value })}
        problem={shownProblem(clause.count, problem)}
      />
    </div>
  );
}

interface CountProps {
  clause: { count: string };
  label: string;
  placeholder?: string | undefined;
  problem?: string | null | undefined;
  onChange: (change: ClauseChange) => void;
}

function Count({ clause, label, placeholder, problem, onChange }: CountProps) {
  return (
    <TextField
      label={label}
      inputMode="numeric"
      placeholder={placeholder}
      value={clause.count}
      onChange={(event) => onChange({ count: event.target.value })}
      problem={shownProblem(clause.count, problem)}
    />
  );
}

interface WordsProps extends Pick<FiguresProps, 'field' | 'present' | 'problem'> {
  label: string;
  value: string;
  /** The key of the field. */
  asked: string;
  onChange: (words: string) => void;
}

function Words({ field, present, label, value, asked, problem, onChange }: WordsProps) {
  const known = knownStates(field, present[asked]);
  if (known.length === 0)
    return (
      <TextField
        label={label}
        value={value}
        onChange={(event) => onChange(event.target.value)}
        problem={shownProblem(value, problem)}
      />
    );
  return (
    <SelectField
      label={label}
      value={value}
      options={[{ value: '', label: 'choose …' }, ...known.map((each) => ({ value: each, label: each }))]}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}

/** What a field can say, where that is a few words that are known. */
function knownStates(field: Pick<Field, 'type'> | undefined, value: PresentValues[string]): string[] {
  if (field?.type.kind === 'grade') return field.type.scale;
  if (field?.type.kind === 'flag' || value?.kind === 'flag') return ['yes', 'no'];
  return [];
}

function unitOfPresent(present: PresentValues, key: string): string {
  const value = present[key];
  return value !== undefined && isMeasure(value) ? (unitOf(value) ?? '') : '';
}

function unitIn({ field }: { field: string }, present: PresentValues, locale: string): string {
  const value = present[field];
  const unit = value === undefined ? '' : formatUnit(value, locale);
  return unit === '' ? '' : `, in ${unit}`;
}
