import { withVerb } from '#core/judge/draft/clause';
import type { ClauseDraft } from '#core/judge/kinds/table';
import { NO_SPAN } from '#core/judge/draft/span';
import type { SubjectDraft } from '#core/judge/draft/subject';
import type { Field } from '#core/read/definition';
import { isMeasure } from '#core/value/value';
import { SelectField } from '../../ui/field';
import type { RelatedItem, OtherWatch } from './related-item';
import { OursAt, WatchField } from './another';
import { Span } from './span-field';
import { chosenFrom, labelsIn, SharedLabel, type OfferedRecord } from './shared-label';

interface WhoseProps {
  clause: ClauseDraft;
  /** The fields of its own watch. */
  fields: readonly Pick<Field, 'key'>[];
  records: OfferedRecord[];
  elsewhere: OtherWatch[];
  /** Our channels, where there are items that a record may be an offer of. */
  channels: RelatedItem['channels'];
  onChange: (next: ClauseDraft) => void;
}

const OWN = '';
const WHOSE = {
  record: 'a record that I name',
  sharing: 'the same region (or another label)',
  ours: 'ours, of its item',
  cheapest: 'the cheapest other offer of its item',
  minimum: 'the agreed minimum of its item',
  watch: 'another watch',
} as const;

type Other = keyof typeof WHOSE;

const otherOf = (subject: SubjectDraft | undefined): Other | undefined =>
  subject?.of === 'item' ? subject.side : subject?.of;

/**
 * Whose field a condition asks: its own record's, or that of another one, or of another watch. Nothing where there is
 * no other.
 */
export function Whose({ clause, fields, records, elsewhere, channels, onChange }: WhoseProps) {
  const { subject } = clause;
  const labels = labelsIn(records);
  const offered: Other[] = [
    ...(records.length > 1 ? (['record'] as const) : []),
    ...(labels.size > 0 ? (['sharing'] as const) : []),
    ...(channels.length > 0 ? (['ours', 'cheapest', 'minimum'] as const) : []),
    ...(elsewhere.length > 0 ? (['watch'] as const) : []),
  ];
  const said = otherOf(subject);
  const others = said === undefined || offered.includes(said) ? offered : [...offered, said];
  if (others.length === 0) return null;
  return (
    <>
      <SelectField
        label="Of"
        value={said ?? OWN}
        options={[{ value: OWN, label: 'its own record' }, ...others.map((value) => ({ value, label: WHOSE[value] }))]}
        onChange={(event) => {
          const subject = begun(event.target.value, [...labels.keys()]);
          const field = subject?.of === 'watch' ? '' : ownFieldOf(clause, fields);
          onChange({ ...withVerb(clause, 'changes', field), subject });
        }}
      />
      <Which clause={clause} records={records} elsewhere={elsewhere} channels={channels} onChange={onChange} />
    </>
  );
}

/** Which record, label, channel or watch is meant. */
function Which({ clause, records, elsewhere, channels, onChange }: Omit<WhoseProps, 'fields'>) {
  const { subject } = clause;
  const say = (next: SubjectDraft) => onChange({ ...clause, subject: next });
  switch (subject?.of) {
    case 'record':
      return (
        <SelectField
          label="Which record"
          value={subject.record}
          options={chosenFrom(
            records.map(({ identity, name }) => ({ value: identity, label: name })),
            subject.record,
          )}
          onChange={(event) => say({ ...subject, record: event.target.value })}
        />
      );
    case 'sharing':
      return (
        <SharedLabel said={subject} labels={labelsIn(records)} onChange={(said) => say({ of: 'sharing', ...said })} />
      );
    case 'item':
      if (subject.side !== 'ours') return null;
      return (
        <OursAt
          channel={subject.channel}
          channels={channels}
          onChange={(at) => say({ of: 'item', side: 'ours', ...at })}
        />
      );
    case 'watch':
      return <OfWatch clause={clause} subject={subject} elsewhere={elsewhere} onChange={onChange} />;
    default:
      return null;
  }
}

/** The field that it asks, or, where that is another watch's, the first of its own. */
const ownFieldOf = ({ field }: ClauseDraft, fields: WhoseProps['fields']): string =>
  fields.some(({ key }) => key === field) ? field : (fields[0]?.key ?? '');

/** A subject about which nothing more is said yet; undefined is its own record. */
function begun(of: string, labels: string[]): SubjectDraft | undefined {
  switch (of) {
    case 'record':
      return { of, record: '' };
    case 'ours':
    case 'cheapest':
    case 'minimum':
      return { of: 'item', side: of };
    case 'sharing':
      return { of, label: labels[0] ?? '', where: '', is: '' };
    case 'watch':
      return { of, watch: 0, called: '', within: NO_SPAN, mode: 'stepwise', kind: 'text', like: null };
    default:
      return undefined;
  }
}

interface OfWatchProps {
  clause: ClauseDraft;
  subject: Extract<SubjectDraft, { of: 'watch' }>;
  elsewhere: OtherWatch[];
  onChange: (next: ClauseDraft) => void;
}

/** Which watch, which of its values, and how old that may be. */
function OfWatch({ clause, subject, elsewhere, onChange }: OfWatchProps) {
  const watch = elsewhere.find(({ id }) => id === subject.watch);
  const choose = (chosen: OtherWatch | undefined, key: string) => {
    const known = chosen?.fields.find((each) => each.key === key);
    const { mode = 'stepwise', kind = 'text', scale = null, now = null } = known ?? {};
    const like = now !== null && isMeasure(now) ? now : null;
    const { within } = subject;
    onChange({
      ...withVerb(clause, 'changes', known?.key ?? ''),
      subject: {
        of: 'watch',
        watch: chosen?.id ?? 0,
        called: chosen?.name ?? '',
        within,
        mode,
        kind,
        like,
        ...(scale === null ? {} : { scale }),
      },
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
          value={clause.field}
          options={watch.fields.map(({ key, label }) => ({ value: key, label }))}
          onChange={(event) => choose(watch, event.target.value)}
        />
      )}
      <Span
        label="No older than (empty: two of its runs)"
        span={subject.within}
        onChange={(within) => onChange({ ...clause, subject: { ...subject, within } })}
      />
    </>
  );
}
