import { Link } from 'react-router';
import type { WatchId } from '#core/id';
import { withNumber } from '#core/read/all-records';
import { isFound, type Field } from '#core/read/definition';
import type { Audience } from '#server/db/person/people';
import { AudienceEditor, audienceNames } from '../../../parts/plan/audience';
import { ConditionEditor } from '../../../parts/plan/condition';
import { FrequencyEditor } from '../../../parts/plan/frequency';
import type { PlanDraft, PlanProblems } from '#core/plan/plan';
import type { PresentValues } from '#core/plan/rule-draft';
import type { Place } from '#core/when/format';
import { addRule, changeRule, removeRule } from '../../../parts/plan/rules';
import { Ways } from '../../../parts/plan/ways';
import { BESIDE, Sentence, type Part } from '../../../parts/plan/sentence';
import { TextField } from '../../../ui/field';
import { Popover } from '../../../ui/popover';

interface EditableSentenceProps {
  watch: WatchId;
  draft: PlanDraft;
  site: string;
  posted: boolean;
  present: PresentValues;
  units: Record<string, string[]>;
  records: { identity: string; name: string }[];
  place: Place;
  audiences: Audience[];
  problems: PlanProblems;
  tryAt: string;
  onChange: (change: Partial<PlanDraft>) => void;
}

const TITLES: Record<Part, string> = {
  frequency: 'How often it runs',
  fields: 'What is read, and where',
  subject: 'What it is called',
  audiences: 'Who should hear',
  condition: 'What matters',
};

/** The watch's sentence, each part opening what changes it. */
export function EditableSentence(props: EditableSentenceProps) {
  const { watch, draft, site, posted, present, place, audiences } = props;
  return (
    <Sentence
      draft={draft}
      site={site}
      posted={posted}
      present={present}
      place={place}
      namesOf={(chosen) => audienceNames(audiences, chosen)}
      onAdd={() => props.onChange(addRule(draft))}
      onRemove={(at) => props.onChange(removeRule(draft, at))}
      beside={
        <Link className={BESIDE} to={`/reports/new?watch=${watch}`}>
          a report on it
        </Link>
      }
      editable={(part, said, { rule, isBlank }) => (
        <Popover
          label={TITLES[part]}
          wide={part === 'fields'}
          trigger={
            <button
              type="button"
              className="said"
              data-part={part}
              data-blank={isBlank || undefined}
              title={TITLES[part]}
            >
              {said}
            </button>
          }
        >
          <h2 className="mb-2 font-serif text-head font-medium">{TITLES[part]}</h2>
          <PartEditor part={part} rule={rule} {...props} />
        </Popover>
      )}
    />
  );
}

function PartEditor(props: EditableSentenceProps & { part: Part; rule: number }) {
  const { part, rule: at, watch, draft, present, units, records, place, audiences, problems, tryAt, onChange } = props;
  const rule = draft.rules[at] ?? null;
  switch (part) {
    case 'frequency':
      return (
        <FrequencyEditor
          value={draft.frequency}
          problem={problems.source}
          onChange={(frequency) => onChange({ frequency })}
        />
      );
    case 'subject':
      return (
        <TextField label="Name" value={draft.subject} onChange={(event) => onChange({ subject: event.target.value })} />
      );
    case 'audiences':
      return (
        <AudienceEditor
          audiences={audiences}
          chosen={rule?.audiences ?? []}
          onChange={(chosen) => onChange(changeRule(draft, at, { audiences: chosen }))}
        />
      );
    case 'condition':
      return (
        <>
          <p className="mb-3 text-glance text-third">
            <Link className="link" to={`/watches/${watch}/rules/${rule?.id ?? 'new'}`}>
              Try it on what was read
            </Link>
          </p>
          <ConditionEditor
            fields={withNumber(draft)}
            rule={rule}
            present={present}
            units={units}
            records={records}
            place={place}
            problem={problems.rule}
            onChange={(change) => onChange(changeRule(draft, at, change))}
            onNever={() => onChange(removeRule(draft, at))}
          />
        </>
      );
    case 'fields':
      return (
        <FieldsEditor
          fields={draft.fields}
          locale={place.locale}
          tryAt={tryAt}
          onChange={(fields) => onChange({ fields })}
        />
      );
  }
}

function FieldsEditor({
  fields,
  locale,
  tryAt,
  onChange,
}: {
  fields: Field[];
  locale: string;
  tryAt: string;
  onChange: (fields: Field[]) => void;
}) {
  const set = (field: Field, change: Partial<Field>) =>
    onChange(fields.map((each) => (each === field ? { ...each, ...change } : each)));
  return (
    <ul className="flex flex-col gap-4">
      {fields.map((field) => (
        <li key={field.key}>
          <TextField
            label="Called"
            value={field.label}
            onChange={(event) => set(field, { label: event.target.value })}
          />
          <div className="mt-2">
            <FieldPlace field={field} locale={locale} tryAt={tryAt} onChange={(change) => set(field, change)} />
          </div>
        </li>
      ))}
    </ul>
  );
}

function FieldPlace({
  field,
  locale,
  tryAt,
  onChange,
}: {
  field: Field;
  locale: string;
  tryAt: string;
  onChange: (change: Partial<Field>) => void;
}) {
  if (!isFound(field)) return null;
  return <Ways field={field} text="" locale={locale} tryAt={tryAt} onChange={(locators) => onChange({ locators })} />;
}
