import type { ClauseDraft } from '#core/plan/clause-draft';
import { NO_SPAN } from '#core/plan/span-draft';
import type { SubjectDraft } from '#core/plan/subject-draft';
import type { Field } from '#core/read/definition';
import { isMeasure } from '#core/value/value';
import { SelectField } from '../../ui/field';
import type { OtherWatch } from './beside-item';
import { WatchField } from './another';
import { Span } from './span-field';
import { chosenFrom, labelsIn, SharedLabel, type OfferedRecord } from './shared-label';

interface WhoseProps {
  clause: ClauseDraft;
  /** The fields of its own watch. */
  fields: readonly Pick<Field, 'key'>[];
  records: OfferedRecord[];
  elsewhere: OtherWatch[];
  onChange: (change: Partial<ClauseDraft>) => void;
}

const OWN = '';
const WHOSE = { record: 'a record that I name', sharing: 'what shares a label with its own', watch: 'another watch' } as const;

/** Whose field a condition asks: its own record's, or that of another one, or of another watch. Nothing where there is no other. */
export function Whose({ clause, fields, records, elsewhere, onChange }: WhoseProps) {
  const { subject } = clause;
  const labels = labelsIn(records);
  const offered = [
    ...(records.length > 1 ? (['record'] as const) : []),
    ...(labels.size > 0 ? (['sharing'] as const) : []),
    ...(elsewhere.length > 0 ? (['watch'] as const) : []),
  ];
  const others = subject === undefined || offered.includes(subject.of) ? offered : [...offered, subject.of];
  if (others.length === 0) return null;
  return (
    <>
      <SelectField
        label="Of"
        value={subject?.of ?? OWN}
        options={[{ value: OWN, label: 'its own record' }, ...others.map((value) => ({ value, label: WHOSE[value] }))]}
        onChange={(event) => onChange(begun(event.target.value, ownFieldOf(clause, fields), [...labels.keys()]))}
      />
      {subject?.of === 'record' ? (
        <SelectField
          label="Which record"
          value={subject.record}
          options={chosenFrom(
            records.map(({ identity, name }) => ({ value: identity, label: name })),
            subject.record,
          )}
          onChange={(event) => onChange({ subject: { ...subject, record: event.target.value } })}
        />
      ) : null}
      {subject?.of === 'sharing' ? (
        <SharedLabel said={subject} labels={labels} onChange={(said) => onChange({ subject: { of: 'sharing', ...said } })} />
      ) : null}
      {subject?.of === 'watch' ? <OfWatch subject={subject} field={clause.field} elsewhere={elsewhere} onChange={onChange} /> : null}
    </>
  );
}

/** The field that it asks, or, where that is another watch's, the first of its own. */
const ownFieldOf = ({ field }: ClauseDraft, fields: WhoseProps['fields']): string =>
  fields.some(({ key }) => key === field) ? field : (fields[0]?.key ?? '');

/** A subject about which nothing more is said yet; what is said of another watch begins with its field. */
function begun(of: string, field: string, labels: string[]): Partial<ClauseDraft> {
  switch (of) {
    case 'record':
      return { subject: { of, record: '' }, field, verb: 'changes' };
    case 'sharing':
      return { subject: { of, label: labels[0] ?? '', where: '', is: '' }, field, verb: 'changes' };
    case 'watch':
      return { subject: { of, watch: 0, called: '', within: NO_SPAN, mode: 'stepwise', kind: 'text', like: null }, field: '', verb: 'changes' };
    default:
      return { subject: undefined, field, verb: 'changes' };
  }
}

interface OfWatchProps {
  subject: Extract<SubjectDraft, { of: 'watch' }>;
  field: string;
  elsewhere: OtherWatch[];
  onChange: (change: Partial<ClauseDraft>) => void;
}

/** Which watch, which of its values, and how old that may be. */
function OfWatch({ subject, field, elsewhere, onChange }: OfWatchProps) {
  const watch = elsewhere.find(({ id }) => id === subject.watch);
  const choose = (chosen: OtherWatch | undefined, key: string) => {
    const known = chosen?.fields.find((each) => each.key === key);
    const { mode = 'stepwise', kind = 'text', scale = null, now = null } = known ?? {};
    const like = now !== null && isMeasure(now) ? now : null;
    const { within } = subject;
    onChange({
      field: known?.key ?? '',
      verb: 'changes',
      subject: { of: 'watch', watch: chosen?.id ?? 0, called: chosen?.name ?? '', within, mode, kind, like, ...(scale === null ? {} : { scale }) },
    });
  };
  return (
    <>
      <WatchField
        watch={subject.watch}
        called={subject.called}
        elsewhere={elsewhere}
        none="there is no other watch"
        onChoose={(id) => {
          const chosen = elsewhere.find((each) => each.id === id);
          choose(chosen, chosen?.fields[0]?.key ?? '');
        }}
      />
      {watch === undefined ? null : (
        <SelectField
          label="Which of its values"
          value={field}
          options={watch.fields.map(({ key, label }) => ({ value: key, label }))}
          onChange={(event) => choose(watch, event.target.value)}
        />
      )}
      <Span
        label="No older than (empty: two of its looks)"
        span={subject.within}
        onChange={(within) => onChange({ subject: { ...subject, within } })}
      />
    </>
  );
}
