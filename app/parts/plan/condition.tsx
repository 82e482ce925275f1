import { conditionVerb } from '#core/judge/describe';
import type { Condition } from '#core/judge/rule';
import type { Field } from '#core/read/definition';
import { formatAmount, formatPercent, formatUnit, formatValue } from '#core/value/format';
import { magnitude } from '#core/value/decimal';
import { alike, isMeasure, unitOf, type Value } from '#core/value/value';
import { Choice, SelectField, TextField } from '../../ui/field';
import { labelOf, presentDistance, toCondition, type ConditionDraft, type PresentValues, type RuleDraft } from '#core/plan/plan';

type Verb = Pick<ConditionDraft, 'kind' | 'direction' | 'inclusive'>;

const CHANGE: Verb = { kind: 'change', direction: 'below', inclusive: false };
const VERBS: Verb[] = [
  { kind: 'crossing', direction: 'below', inclusive: false },
  { kind: 'crossing', direction: 'above', inclusive: false },
  CHANGE,
  { kind: 'crossing', direction: 'below', inclusive: true },
  { kind: 'crossing', direction: 'above', inclusive: true },
  { kind: 'level', direction: 'below', inclusive: false },
  { kind: 'level', direction: 'above', inclusive: false },
];

/** What sets a verb apart from its neighbour, where the verb alone does not say it. */
function hintOf(verb: Verb): string | null {
  if (verb.kind === 'level') return 'even if nobody saw it pass the limit';
  return verb.kind === 'crossing' && verb.inclusive ? 'the limit itself counts' : null;
}

const nameOf = (verb: Verb) => conditionVerb({ ...verb, field: '', limit: { kind: 'number', amount: '0' as never, unit: null } });

interface ConditionEditorProps {
  fields: Field[];
  /** Null: there is none, it is only recorded. */
  rule: RuleDraft | null;
  present: PresentValues;
  /** The units of each field, where its records differ in them. */
  units?: Record<string, string[]>;
  locale: string;
  problem?: string | null;
  onChange: (change: Partial<RuleDraft>) => void;
  /** Takes the rule away, so that nobody is told by it. */
  onNever: () => void;
}

/** What matters: which field, how it must move, past which limit; with the present value's distance from it. */
export function ConditionEditor({ fields, rule, present, units = {}, locale, problem, onChange, onNever }: ConditionEditorProps) {
  const condition = rule?.condition ?? null;
  const fieldKey = condition?.field ?? fields[0]?.key ?? '';
  const measurable = isMeasureOf(present, fieldKey);
  const verbs = measurable ? VERBS : [CHANGE];
  const set = (change: Partial<ConditionDraft>) =>
    onChange({ condition: { ...CHANGE, field: fieldKey, limit: '', ...condition, ...change }, whenAlreadyMet: null });
  return (
    <div className="flex flex-col gap-3">
      {fields.length > 1 ? (
        <SelectField
          label="When"
          value={fieldKey}
          onChange={(event) => set({ field: event.target.value, ...(isMeasureOf(present, event.target.value) ? {} : CHANGE) })}
          options={fields.map((field) => ({ value: field.key, label: field.label }))}
        />
      ) : null}
      <Choice
        label="How it must move"
        value={rule === null ? 'record' : condition === null ? null : nameOf(condition)}
        onChange={(chosen) => {
          const verb = verbs.find((each) => nameOf(each) === chosen);
          if (verb === undefined) onNever();
          else set(verb);
        }}
        options={[
          ...verbs.map((verb) => ({ value: nameOf(verb), label: <VerbLabel verb={verb} /> })),
          { value: 'record', label: 'never: only record it, tell nobody' },
        ]}
      />
      {condition !== null && condition.kind !== 'change' ? (
        <Limit condition={condition} present={present} units={units[fieldKey] ?? []} locale={locale} problem={problem} onChange={set} />
      ) : null}
      {rule === null ? null : <Standing fields={fields} rule={rule} present={present} locale={locale} onChange={onChange} />}
    </div>
  );
}

interface LimitProps {
  condition: ConditionDraft;
  present: PresentValues;
  units: string[];
  locale: string;
  problem?: string | null;
  onChange: (change: Partial<ConditionDraft>) => void;
}

/** The limit, and where records differ in their units, what it is counted in. */
function Limit({ condition, present, units, locale, problem, onChange }: LimitProps) {
  const several = units.length > 1;
  return (
    <div className="flex items-start gap-4">
      <TextField
        label={`The limit${several ? '' : unitIn(present, condition.field, locale)}`}
        className="grow"
        inputMode="decimal"
        value={condition.limit}
        onChange={(event) => onChange({ limit: event.target.value })}
        problem={condition.limit.trim() === '' ? null : problem}
      />
      {several ? (
        <SelectField
          label="in"
          value={condition.unit ?? unitOfPresent(present, condition.field)}
          options={units.map((unit) => ({ value: unit, label: unit === '' ? 'no unit' : unit }))}
          onChange={(event) => onChange({ unit: event.target.value })}
        />
      ) : null}
    </div>
  );
}

function unitOfPresent(present: PresentValues, key: string): string {
  const value = present[key];
  return value !== undefined && isMeasure(value) ? (unitOf(value) ?? '') : '';
}

function VerbLabel({ verb }: { verb: Verb }) {
  const hint = hintOf(verb);
  return (
    <>
      {nameOf(verb)}
      {hint === null ? null : <span className="ml-2 text-glance text-third">{hint}</span>}
    </>
  );
}

function isMeasureOf(present: PresentValues, key: string): boolean {
  const value = present[key];
  return value !== undefined && isMeasure(value);
}

function unitIn(present: PresentValues, key: string, locale: string): string {
  const value = present[key];
  const unit = value === undefined ? '' : formatUnit(value, locale);
  return unit === '' ? '' : `, in ${unit}`;
}

type StandingProps = Pick<ConditionEditorProps, 'fields' | 'present' | 'locale' | 'onChange'> & { rule: RuleDraft };

/** Where the present value stands, whether the limit looks like a slip, and what to do when it is met already. */
function Standing({ fields, rule, present, locale, onChange }: StandingProps) {
  if (rule.condition === null) return null;
  const condition = toCondition(rule.condition, present, locale);
  const value = present[rule.condition.field];
  if (!condition.ok || value === undefined || !countedAlike(condition.value, value)) return null;
  const label = labelOf(fields, rule.condition.field);
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
              { value: 'raise', label: 'Raise it now, at the first look' },
              { value: 'wait', label: 'Wait until it is left and met again' },
            ]}
          />
        </div>
      ) : null}
    </div>
  );
}

/** A limit for records of another unit than the first says nothing about the first. */
function countedAlike(condition: Condition, value: Value): boolean {
  return condition.kind === 'change' || alike(condition.limit, value);
}

type DistanceMove = NonNullable<ReturnType<typeof presentDistance>>['move'];

function distanceWords(move: DistanceMove, like: Parameters<typeof formatAmount>[1], locale: string): string {
  if (/^-?0+(\.0+)?$/.test(move.difference)) return 'exactly at the limit';
  const side = move.difference.startsWith('-') ? 'below' : 'above';
  const percent = move.percent === null ? '' : ` (${formatPercent(move.percent, locale)})`;
  return `${formatAmount(magnitude(move.difference), like, locale)} ${side} the limit${percent}`;
}
