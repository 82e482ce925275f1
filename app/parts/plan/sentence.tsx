import { useState, type ReactNode } from 'react';
import { MOST_RULES, type PlanDraft } from '#core/plan/plan';
import { isSaid, toRule, type PresentValues, type RuleDraft } from '#core/plan/rule-draft';
import type { Place } from '#core/when/format';
import { describeInterval, HOUR } from '#core/when/interval';
import { conditionWords, termWords } from './condition';
import { listed } from '#core/words';

/** The parts of the sentence that can be changed. */
export type Part = 'frequency' | 'fields' | 'subject' | 'audiences' | 'condition';

interface SentenceProps {
  draft: PlanDraft;
  site: string;
  /** It is read whenever something is posted, and not by the clock. */
  posted?: boolean;
  present: PresentValues;
  place: Place;
  /** Who hears, in words. */
  namesOf: (audiences: string[]) => string;
  /** Wraps what is said of a part in whatever changes it; of what a rule says, which of them. */
  editable: (part: Part, said: string, of: { rule: number; isBlank?: boolean }) => ReactNode;
  onAdd: () => void;
  onRemove: (rule: number) => void;
  /** What else can be begun from it, at its end. */
  beside?: ReactNode;
}

/**
 * A watch as one sentence: what is said can be changed, what is blank is asked for. Several rules stand below it, a
 * line each.
 */
export function Sentence(props: SentenceProps) {
  const { draft, site, posted = false, editable, onAdd } = props;
  const frequency = draft.frequency === null || draft.frequency.count < 1 ? null : describeInterval(draft.frequency);
  const fields = listed(
    draft.fields.map((field) => field.label || '…'),
    MOST_NAMED,
  );
  const [only, ...more] = draft.rules;
  return (
    <div data-sentence>
      <p className="font-serif text-[22px] leading-[31px] font-normal text-pretty md:text-sentence">
        {posted ? (
          'Whenever something is posted'
        ) : (
          <>Every {editable('frequency', frequency ?? '____', { rule: 0, isBlank: frequency === null })}</>
        )}
        , read {editable('fields', fields || '____', { rule: 0, isBlank: fields === '' })} of{' '}
        {editable('subject', draft.subject || '____', { rule: 0, isBlank: draft.subject === '' })}
        {posted ? null : (
          <>
            {' '}
            from <span className="font-medium">{site}</span>
          </>
        )}
        {only === undefined ? (
          <>; {editable('condition', 'only record it', { rule: 0 })}.</>
        ) : more.length === 0 ? (
          <>
            ; tell <RuleWords {...props} rule={only} at={0} />.
          </>
        ) : (
          '; tell'
        )}
        {only !== undefined && more.length === 0 && isSaid(only) ? (
          <AddRule words="and by another rule" onAdd={onAdd} />
        ) : null}
        {more.length === 0 ? props.beside : null}
      </p>
      {more.length === 0 ? null : <Rules {...props} />}
    </div>
  );
}

function AddRule({ words, onAdd }: { words: string; onAdd: () => void }) {
  return (
    <button type="button" className={BESIDE} onClick={onAdd} data-add-rule>
      {words}
    </button>
  );
}

/** How it stands at the end of the sentence. */
export const BESIDE = 'link ml-2.5 font-sans text-glance leading-5 font-normal text-third';

const MOST_LINES = 5;

/** Each rule on a line of its own, of many the first few. */
function Rules(props: SentenceProps) {
  const { rules } = props.draft;
  const [all, setAll] = useState(false);
  const shown = all ? rules : rules.slice(0, MOST_LINES);
  return (
    <>
      <ol className="mt-1 font-serif text-[17px] leading-[27px]" data-rules>
        {shown.map((rule, at) => (
          <li key={rule.id ?? `new ${at}`} className="group flex items-baseline gap-2">
            <span className="w-5 shrink-0 text-right font-sans text-glance text-third tabular-nums">{at + 1}</span>
            <span className="min-w-0">
              <RuleWords {...props} rule={rule} at={at} />
            </span>
            <button
              type="button"
              className="link font-sans text-glance text-third opacity-60 group-hover:opacity-100 focus:opacity-100"
              aria-label={`Take rule ${at + 1} away`}
              onClick={() => props.onRemove(at)}
            >
              remove
            </button>
          </li>
        ))}
      </ol>
      <p className="ml-5">
        {rules.length > shown.length ? (
          <AddRule words={`and by ${rules.length - shown.length} more`} onAdd={() => setAll(true)} />
        ) : null}
        {rules.length < MOST_RULES ? <AddRule words="another rule" onAdd={props.onAdd} /> : null}
        {props.beside}
      </p>
    </>
  );
}

/** `Pricing at once when price falls below £24.00`. */
function RuleWords({
  draft,
  present,
  place,
  namesOf,
  editable,
  rule,
  at,
}: SentenceProps & { rule: RuleDraft; at: number }) {
  const names = namesOf(rule.audiences);
  return (
    <>
      {editable('audiences', names || '____', { rule: at, isBlank: names === '' })}
      {names === '' ? '' : ' at once'} when{' '}
      {editable('condition', conditionWords(draft.fields, rule, present, place) ?? '____', {
        rule: at,
        isBlank: !isSaid(rule),
      })}
      <RuleTerms draft={draft} rule={rule} present={present} place={place} />
    </>
  );
}

/** What it asks beside its condition, set small behind it. */
function RuleTerms({
  draft,
  rule,
  present,
  place,
}: Pick<SentenceProps, 'draft' | 'present' | 'place'> & { rule: RuleDraft }) {
  const whole = toRule(
    { ...rule, whenAlreadyMet: rule.whenAlreadyMet ?? 'wait' },
    { present, fields: draft.fields, ...place },
    HOUR,
  );
  const words = whole.ok ? termWords(whole.value) : '';
  return words === '' ? null : <span className="font-sans text-glance text-third"> ({words})</span>;
}

const MOST_NAMED = 5;
