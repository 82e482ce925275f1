import type { ReactNode } from 'react';
import { conditionVerb } from '#core/judge/describe';
import { formatValue } from '#core/value/format';
import { describeInterval } from '#core/when/interval';
import { labelOf, toCondition, type PlanDraft, type PresentValues } from './plan';

/** The parts of the sentence that can be changed. */
export type Part = 'frequency' | 'fields' | 'subject' | 'audiences' | 'condition';

interface SentenceProps {
  draft: PlanDraft;
  site: string;
  /** It is read whenever something is posted, and not by the clock. */
  posted?: boolean;
  present: PresentValues;
  locale: string;
  audienceNames: string;
  /** Wraps what is said of a part in whatever changes it. */
  editable: (part: Part, said: string, blank: boolean) => ReactNode;
}

/** A watch as one sentence: what is said can be changed, what is blank is asked for. */
export function Sentence({ draft, site, posted = false, present, locale, audienceNames, editable }: SentenceProps) {
  const frequency = draft.frequency === null || draft.frequency.count < 1 ? null : describeInterval(draft.frequency);
  const fields = listed(draft.fields.map((field) => field.label || '…'));
  return (
    <p data-sentence className="font-serif text-[22px] leading-[31px] font-normal text-pretty md:text-sentence">
      {posted ? 'Whenever something is posted' : <>Every {editable('frequency', frequency ?? '____', frequency === null)}</>}, read{' '}
      {editable('fields', fields || '____', fields === '')} of {editable('subject', draft.subject || '____', draft.subject === '')}
      {posted ? null : (
        <>
          {' '}
          from <span className="font-medium">{site}</span>
        </>
      )}
      {draft.onlyRecord ? (
        <>; {editable('condition', 'only record it', false)}.</>
      ) : (
        <>
          ; tell {editable('audiences', audienceNames || '____', audienceNames === '')}
          {audienceNames === '' ? '' : ' at once'} when{' '}
          {editable('condition', conditionWords(draft, present, locale) ?? '____', draft.condition === null)}.
        </>
      )}
    </p>
  );
}

const MOST_NAMED = 5;

/** `price, stock and grade`; of many the first few and how many more. */
function listed(names: string[]): string {
  if (names.length > MOST_NAMED) return `${names.slice(0, MOST_NAMED - 1).join(', ')} and ${names.length - MOST_NAMED + 1} more`;
  return names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} and ${names.at(-1) ?? ''}`;
}

function conditionWords(draft: PlanDraft, present: PresentValues, locale: string): string | null {
  if (draft.condition === null) return null;
  const label = labelOf(draft.fields, draft.condition.field);
  const condition = toCondition(draft.condition, present, locale);
  if (condition.ok && condition.value.kind !== 'change')
    return `${label} ${conditionVerb(condition.value)} ${formatValue(condition.value.limit, locale)}`;
  if (draft.condition.kind === 'change') return `${label} changes`;
  const verb = conditionVerb({ ...draft.condition, kind: draft.condition.kind, limit: { kind: 'number', amount: '0' as never, unit: null } });
  return `${label} ${verb} ${draft.condition.limit || '____'}`;
}
