import { namesOf } from '#core/judge/words';
import { describeCondition, describeTerms } from '#core/judge/describe';
import { blankClause, withSaid, withVerb } from '#core/judge/draft/clause';
import type { ClauseDraft } from '#core/judge/kinds/table';
import { labelOf } from '#core/plan/plan';
import { fieldThere } from '#core/judge/draft/subject';
import { isSaid, presentDistance, toCondition, type PresentValues, type RuleDraft } from '#core/plan/rule-draft';
import type { Field } from '#core/read/definition';
import type { Audience } from '#server/db/person/people';
import { magnitude } from '#core/value/decimal';
import { formatAmount, formatPercent, formatValue } from '#core/value/format';
import { isMeasure } from '#core/value/value';
import type { Place } from '#core/when/format';
import { Choice, SelectField, Tick } from '../../ui/field';
import { NO_ITEM, type RelatedItem, type OtherWatch } from './related-item';
import { Figures } from './clause';
import { Terms } from './terms';
import { saysOffered, verbsOf } from './verbs';
import type { OfferedRecord } from './shared-label';
import { Whose } from './whose';

interface ConditionEditorProps {
  fields: Field[];
  /** Null: there is none, it is only recorded. */
  rule: RuleDraft | null;
  present: PresentValues;
  /** The units of each field, where its records differ in them. */
  units?: Record<string, string[]>;
  /** The records of the watch, where it has several. */
  records?: OfferedRecord[];
  /** What the item of the record says that it is tried on. */
  beside?: RelatedItem;
  /** Other watches that a value can be held against. */
  elsewhere?: OtherWatch[];
  /** Who may hear of it next, and answer for it; none where that is said elsewhere. */
  audiences?: Audience[];
  place: Place;
  problem?: string | null;
  /** It stands on a page of its own: there is always a rule. */
  opened?: boolean;
  /** It is said for many watches: what one of them reads now is beside the point. */
  ofMany?: boolean;
  onChange: (change: Partial<RuleDraft>) => void;
  /** Takes the rule away, so that nobody is told by it. */
  onNever: () => void;
}

const NO_RECORDS: NonNullable<ConditionEditorProps['records']> = [];
const NOBODY: Audience[] = [];
const NO_WATCHES: OtherWatch[] = [];
const NEVER = 'record';

/** What matters: which field, how it must move, past which limit; with the present value's distance from it. */
export function ConditionEditor(props: ConditionEditorProps) {
  const { fields, rule, present, place, audiences = NOBODY, onChange } = props;
  if (rule?.kept !== undefined) return <KeptCondition {...props} rule={rule} />;
  const clauses = rule?.clauses ?? [];
  const set = (at: number, next: ClauseDraft) =>
    onChange({ clauses: clauses.length === 0 ? [next] : clauses.with(at, next), whenAlreadyMet: null });
  return (
    <div className="flex flex-col gap-3">
      {(clauses.length === 0 ? [null] : clauses).map((clause, at) => (
        <ClauseSaid
          key={at}
          {...props}
          clause={clause}
          at={at}
          of={clauses.length}
          onSet={(next) => set(at, next)}
          onTake={() => onChange({ clauses: without(clauses, at), whenAlreadyMet: null })}
        />
      ))}
      {rule === null || clauses.length === 0 ? null : (
        <>
          <AnotherClause rule={rule} fields={fields} onChange={onChange} />
          {props.ofMany === true ? null : (
            <Standing fields={fields} rule={rule} present={present} place={place} onChange={onChange} />
          )}
          <details open={hasTerms(rule)}>
            <summary className="cursor-pointer text-second">How long, how often, when it is told</summary>
            <Terms rule={rule} fields={fields} zone={place.zone} audiences={audiences} onChange={onChange} />
          </details>
        </>
      )}
    </div>
  );
}

/** What is left without one; what went with that goes with none it was not said with. */
function without(clauses: ClauseDraft[], at: number): ClauseDraft[] {
  const wasHead = clauses[at]?.tied === undefined;
  return clauses.flatMap((clause, each) =>
    each === at ? [] : each === at + 1 && wasHead ? { ...clause, tied: undefined } : clause,
  );
}

const hasTerms = ({
  steps,
  tags,
  wording,
  hold,
  told,
  atMostEvery,
  remindEvery,
  putOff,
  hours,
  off,
  ends,
}: RuleDraft) =>
  steps.length > 0 ||
  tags !== '' ||
  Object.keys(wording).length > 0 ||
  off ||
  ends !== '' ||
  hold !== null ||
  told !== 'episode' ||
  atMostEvery !== null ||
  remindEvery !== null ||
  putOff !== undefined ||
  hours !== null;

/** What says more than can be said here stands as it is, until it is said anew. */
function KeptCondition({ rule, fields, place, onChange, onNever }: ConditionEditorProps & { rule: RuleDraft }) {
  return (
    <div className="flex flex-col gap-3">
      <p>
        {rule.kept === undefined
          ? ''
          : describeCondition(
              rule.kept,
              namesOf((key) => labelOf(fields, key), place.locale),
            )}
      </p>
      <p className="text-glance text-third">
        This condition says more than can be changed here. It goes on as it is, or is said anew.
      </p>
      <p className="flex gap-4">
        <button
          type="button"
          className="link"
          onClick={() => onChange({ kept: undefined, clauses: [], whenAlreadyMet: null })}
        >
          Say it anew
        </button>
        <button type="button" className="link" onClick={onNever}>
          Take the rule away
        </button>
      </p>
    </div>
  );
}

type ClauseSaidProps = ConditionEditorProps & {
  clause: ClauseDraft | null;
  at: number;
  of: number;
  onSet: (next: ClauseDraft) => void;
  onTake: () => void;
};

function ClauseSaid(props: ClauseSaidProps) {
  const { clause, at, of, rule, records = NO_RECORDS, elsewhere = NO_WATCHES, beside = NO_ITEM, onSet, onTake } = props;
  const asked = askedBy(props);
  return (
    <div
      className={at === 0 ? 'flex flex-col gap-3' : 'flex flex-col gap-3 border-t border-rule pt-3'}
      data-clause={at + 1}
    >
      {clause === null || (at === 0 && clause.subject === undefined) ? null : (
        <Whose
          clause={clause}
          fields={props.fields}
          records={records}
          elsewhere={elsewhere}
          channels={beside.channels}
          onChange={onSet}
        />
      )}
      <FieldChoice {...props} asked={asked} />
      <Verbs
        {...props}
        present={asked.present}
        field={asked.field}
        fieldKey={asked.key}
        isList={records.length > 1}
        isOther={clause?.subject !== undefined}
      />
      {clause === null ? null : <FiguresSaid {...props} clause={clause} asked={asked} />}
      {clause === null || of < 2 ? null : (
        <OneOfSeveral clause={clause} rule={rule} at={at} onSet={onSet} onTake={onTake} />
      )}
    </div>
  );
}

/** The clause that is being said; before anything is, any change of the first field. */
const begunBy = (clause: ClauseDraft | null, fields: Field[]): ClauseDraft =>
  clause ?? blankClause(fields[0]?.key ?? '', 'changes');

/** The field that a condition asks, and what is known of it: of its own watch, or of another one. */
interface AskedField {
  key: string;
  field: Pick<Field, 'type'> | undefined;
  present: PresentValues;
  units: string[];
  isElsewhere: boolean;
}

function askedBy({ clause, fields, present, units = {} }: ClauseSaidProps): AskedField {
  const key = clause?.field ?? '';
  if (clause?.subject?.of === 'watch') {
    const { like } = clause.subject;
    return {
      key,
      field: fieldThere(key, clause.subject),
      present: { [key]: like ?? undefined },
      units: [],
      isElsewhere: true,
    };
  }
  const own = key || (fields[0]?.key ?? '');
  return {
    key: own,
    field: fields.find((each) => each.key === own),
    present,
    units: units[own] ?? [],
    isElsewhere: false,
  };
}

/** Which field of the watch is asked; of another watch that is said with it. */
function FieldChoice({
  clause,
  at,
  rule,
  fields,
  asked: { key, isElsewhere },
  onSet,
}: ClauseSaidProps & { asked: AskedField }) {
  if (fields.length < 2 || isElsewhere) return null;
  return (
    <SelectField
      label={at === 0 ? 'When' : JOINS[rule?.join ?? 'all']}
      value={key}
      onChange={(event) => onSet(withVerb(begunBy(clause, fields), 'changes', event.target.value))}
      options={fields.map((each) => ({ value: each.key, label: each.label }))}
    />
  );
}

function FiguresSaid(props: ClauseSaidProps & { clause: ClauseDraft; asked: AskedField }) {
  const { clause, asked, records = NO_RECORDS, beside, elsewhere, place, problem } = props;
  return (
    <Figures
      clause={clause}
      field={asked.field}
      present={asked.present}
      units={asked.units}
      records={records}
      beside={beside}
      elsewhere={elsewhere}
      locale={place.locale}
      problem={problem}
      onChange={(change) => props.onSet(withSaid(clause, change))}
    />
  );
}

interface OneOfSeveralProps {
  clause: ClauseDraft;
  rule: RuleDraft | null;
  at: number;
  onSet: (next: ClauseDraft) => void;
  onTake: () => void;
}

const TIES = { any: 'with the one above: either is enough', all: 'with the one above: both together' } as const;

/**
 * How one of several conditions goes with the others: by itself or with the one above it, and whether it must not be
 * so.
 */
function OneOfSeveral({ clause, rule, at, onSet, onTake }: OneOfSeveralProps) {
  const { clauses = [], join = 'all' } = rule ?? {};
  const above = clauses[at - 1];
  const ties = above?.tied === undefined ? (['any', 'all'] as const) : [above.tied];
  return (
    <>
      {above === undefined || (clauses.length < 3 && clause.tied === undefined) ? null : (
        <SelectField
          label={`How condition ${at + 1} goes with the others`}
          value={clause.tied ?? ''}
          options={[{ value: '', label: 'by itself' }, ...ties.map((value) => ({ value, label: TIES[value] }))]}
          onChange={(event) =>
            onSet({
              ...clause,
              tied: event.target.value === '' ? undefined : (event.target.value as 'any' | 'all'),
              not: undefined,
            })
          }
        />
      )}
      {join === 'none' || clause.tied !== undefined ? null : (
        <Tick checked={clause.not === true} onChange={(not) => onSet({ ...clause, not: not ? true : undefined })}>
          it must not be so
        </Tick>
      )}
      <button type="button" className="link self-start text-glance" onClick={onTake}>
        Take this condition away
      </button>
    </>
  );
}

type VerbsProps = Pick<
  ClauseSaidProps,
  'clause' | 'at' | 'of' | 'rule' | 'present' | 'opened' | 'onSet' | 'onNever'
> & {
  field: Pick<Field, 'type'> | undefined;
  fieldKey: string;
  isList: boolean;
  /** It is not its own record's: of that less can be said. */
  isOther: boolean;
};

/** How a field must move: the usual verbs to choose from, the others in a list. */
function Verbs({
  clause,
  at,
  of,
  rule,
  present,
  field,
  fieldKey,
  isList,
  isOther,
  opened = false,
  onSet,
  onNever,
}: VerbsProps) {
  const { usual, more } = verbsOf(field, present[fieldKey], { isList, isOther });
  const said = clause === null ? undefined : [...usual, ...more].find((each) => saysOffered(each, clause));
  const isUsual = said !== undefined && usual.includes(said);
  const say = (chosen: string) => {
    const known = [...usual, ...more].find((each) => each.words === chosen);
    if (known !== undefined)
      onSet(withSaid(withVerb(clause ?? blankClause(fieldKey, known.verb), known.verb, fieldKey), known.preset));
    else if (chosen === NEVER) onNever();
  };
  return (
    <>
      <Choice
        label={at === 0 ? 'How it must move' : `How it must move, condition ${at + 1}`}
        value={rule === null ? NEVER : isUsual ? said.words : null}
        onChange={say}
        options={[
          ...usual.map((each) => ({ value: each.words, label: <VerbLabel words={each.words} hint={each.hint} /> })),
          ...(at === 0 && of < 2 && !opened ? [{ value: NEVER, label: 'never: only record it, tell nobody' }] : []),
        ]}
      />
      <SelectField
        label="Or something else"
        value={isUsual || said === undefined ? '' : said.words}
        options={[{ value: '', label: '…' }, ...more.map((each) => ({ value: each.words, label: each.words }))]}
        onChange={(event) => say(event.target.value)}
      />
    </>
  );
}

const JOINS = { all: 'and', any: 'or', none: 'nor' } as const;
const MOST_CLAUSES = 8;

/** Another condition beside those that are said, and how they are joined. */
function AnotherClause({
  rule,
  fields,
  onChange,
}: Pick<ConditionEditorProps, 'fields' | 'onChange'> & { rule: RuleDraft }) {
  const { clauses, join } = rule;
  return (
    <div className="flex flex-wrap items-end gap-4">
      {clauses.length < 2 ? null : (
        <SelectField
          label="It is met when"
          value={join}
          options={[
            { value: 'all', label: 'all of these are so' },
            { value: 'any', label: 'any of these is so' },
            { value: 'none', label: 'none of these is so' },
          ]}
          onChange={(event) => onChange({ join: event.target.value as RuleDraft['join'], whenAlreadyMet: null })}
        />
      )}
      {clauses.length >= MOST_CLAUSES ? null : (
        <button
          type="button"
          className="link self-end pb-1 text-second"
          onClick={() =>
            onChange({ clauses: [...clauses, blankClause(fields[0]?.key ?? '', 'changes')], whenAlreadyMet: null })
          }
        >
          and when …
        </button>
      )}
    </div>
  );
}

function VerbLabel({ words, hint }: { words: string; hint?: string | undefined }) {
  return (
    <>
      {words}
      {hint === undefined ? null : <span className="ml-2 text-glance text-third">{hint}</span>}
    </>
  );
}

type StandingProps = Pick<ConditionEditorProps, 'fields' | 'present' | 'place' | 'onChange'> & { rule: RuleDraft };

/** Where the present value stands, whether the limit looks like a slip, and what to do when it is met already. */
function Standing({ fields, rule, present, place, onChange }: StandingProps) {
  const { locale } = place;
  const condition = toCondition(rule, { present, fields, ...place });
  const [first] = rule.clauses;
  const value = first === undefined ? undefined : present[first.field];
  if (!condition.ok || value === undefined || first === undefined) return null;
  const label = labelOf(fields, first.field);
  const distance = presentDistance(condition.value, present);
  return (
    <div className="border-t border-rule pt-3" aria-live="polite">
      <p data-standing className="text-second">
        {label.charAt(0).toUpperCase() + label.slice(1)} is {formatValue(value, locale)} now
        {distance === null || !isMeasure(value) ? '.' : `, ${distanceWords(distance.move, value, locale)}.`}
      </p>
      {distance?.farAway ? (
        <p data-query className="mt-1 font-medium text-chestnut">
          That is a hundred times away or more. Is the decimal mark where you meant it?
        </p>
      ) : null}
      {distance?.met ? (
        <div className="mt-2">
          <p className="font-semibold">It is met already.</p>
          <Choice
            label="It is met already"
            value={rule.whenAlreadyMet}
            onChange={(whenAlreadyMet) => onChange({ whenAlreadyMet })}
            options={[
              { value: 'raise', label: 'Raise it now, at the first run' },
              { value: 'wait', label: 'Wait until it is left and met again' },
            ]}
          />
        </div>
      ) : null}
    </div>
  );
}

type DistanceMove = NonNullable<ReturnType<typeof presentDistance>>['move'];

function distanceWords(move: DistanceMove, like: Parameters<typeof formatAmount>[1], locale: string): string {
  if (/^-?0+(\.0+)?$/.test(move.difference)) return 'exactly at the limit';
  const side = move.difference.startsWith('-') ? 'below' : 'above';
  const percent = move.percent === null ? '' : ` (${formatPercent(move.percent, locale)})`;
  return `${formatAmount(magnitude(move.difference), like, locale)} ${side} the limit${percent}`;
}

/** When a rule is met, as far as it is said; null where that is not begun. */
export function conditionWords(fields: Field[], rule: RuleDraft, present: PresentValues, place: Place): string | null {
  if (!isSaid(rule)) return null;
  const condition = toCondition(rule, { present, fields, ...place });
  const names = namesOf((key) => labelOf(fields, key), place.locale);
  if (condition.ok) return describeCondition(condition.value, names);
  return rule.clauses
    .map(({ field, verb, ...figures }) => {
      const limit = 'limit' in figures ? figures.limit : '';
      return `${labelOf(fields, field)} ${verb} ${limit || '____'}`;
    })
    .join(` ${JOINS[rule.join]} `);
}

/** What a rule asks beside its condition, in a few words each. */
export const termWords = (rule: Parameters<typeof describeTerms>[0]): string => describeTerms(rule).join(' · ');
