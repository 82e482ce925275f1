import type { ClauseChange } from '#core/judge/draft/clause';
import type { AgainstDraft } from '#core/judge/kinds/against/draft';
import { NOT_SHARED } from '#core/judge/draft/subject';
import { formatValue } from '#core/value/format';
import { SelectField, TextField } from '../../ui/field';
import { MOST_ELSEWHERE, NO_ITEM, withNumbers, type RelatedItem, type OtherWatch } from './related-item';
import { labelsIn, SharedLabel, type OfferedRecord } from './shared-label';
import { shownProblem, Span } from './span-field';

export interface AnotherProps {
  clause: AgainstDraft;
  /** Other records, by identity, that a value can be held against. */
  records: OfferedRecord[];
  /** What its item says, where it is an offer of one. */
  beside?: RelatedItem;
  /** Other watches that a value can be held against. */
  elsewhere?: OtherWatch[];
  locale: string;
  problem?: string | null;
  onChange: (change: ClauseChange) => void;
}

/** What a value is held against, and by how much. */
export function Another({
  clause,
  records,
  problem,
  beside = NO_ITEM,
  elsewhere = [],
  locale,
  onChange,
}: AnotherProps) {
  return (
    <div className="flex flex-col gap-3">
      {clause.against === undefined ? (
        <WhichRecord record={clause.record} records={records} onChange={(record) => onChange({ record })} />
      ) : clause.against === 'sharing' ? (
        <SharedLabel
          said={clause.sharing ?? NOT_SHARED}
          labels={labelsIn(records)}
          onChange={(sharing) => onChange({ sharing })}
        />
      ) : clause.against === 'watch' ? (
        <OfWatch clause={clause} elsewhere={withNumbers(elsewhere)} onChange={onChange} />
      ) : (
        <OfItem clause={clause} beside={beside} locale={locale} onChange={onChange} />
      )}
      <TextField
        label="By more than"
        hint="an amount, or as 2%; empty for any"
        inputMode="decimal"
        value={clause.percent && clause.limit !== '' ? `${clause.limit}%` : clause.limit}
        onChange={(event) =>
          onChange({ limit: event.target.value.replace('%', ''), percent: event.target.value.includes('%') })
        }
        problem={shownProblem(clause.limit, problem)}
      />
    </div>
  );
}

interface WhichRecordProps {
  record: string;
  records: OfferedRecord[];
  onChange: (record: string) => void;
}

/** Which other record of the watch a value is held against. */
export function WhichRecord({ record, records, onChange }: WhichRecordProps) {
  return (
    <SelectField
      label="Which record"
      value={record}
      options={[
        { value: '', label: 'choose …' },
        ...records.map(({ identity, name }) => ({ value: identity, label: name })),
      ]}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}

const ELSEWHERE = { watch: 0, field: '', within: { count: '', unit: 'hour' } } as const;

/** Which watch, which of its fields, and how old that may be. */
function OfWatch({
  clause,
  elsewhere,
  onChange,
}: Pick<AnotherProps, 'clause' | 'onChange'> & { elsewhere: OtherWatch[] }) {
  const said = clause.elsewhere ?? ELSEWHERE;
  const watch = elsewhere.find(({ id }) => id === said.watch);
  const choose = (id: number) => {
    const chosen = elsewhere.find((each) => each.id === id);
    onChange({ called: chosen?.name, elsewhere: { ...said, watch: id, field: chosen?.fields[0]?.key ?? '' } });
  };
  return (
    <>
      <WatchField
        watch={said.watch}
        called={clause.called}
        elsewhere={elsewhere}
        none="there is no other watch with numbers"
        onChoose={choose}
      />
      {watch === undefined || watch.fields.length < 2 ? null : (
        <SelectField
          label="Which of its values"
          value={said.field}
          options={watch.fields.map(({ key, label }) => ({ value: key, label }))}
          onChange={(event) => onChange({ elsewhere: { ...said, field: event.target.value } })}
        />
      )}
      <Span
        label="No older than (empty: two of its runs)"
        span={said.within}
        onChange={(within) => onChange({ elsewhere: { ...said, within } })}
      />
    </>
  );
}

interface WatchFieldProps {
  watch: number;
  called: string | undefined;
  elsewhere: OtherWatch[];
  none: string;
  onChoose: (id: number) => void;
}

/** Which other watch, of those that are offered. */
export function WatchField({ watch, called, elsewhere, none, onChoose }: WatchFieldProps) {
  const isOffered = elsewhere.some(({ id }) => id === watch);
  return (
    <>
      <SelectField
        label="Which watch"
        value={String(watch)}
        options={[
          { value: '0', label: elsewhere.length === 0 ? none : 'choose …' },
          ...(watch > 0 && !isOffered ? [{ value: String(watch), label: called ?? 'another watch' }] : []),
          ...elsewhere.map(({ id, name, site }) => ({ value: String(id), label: `${name}, ${site}` })),
        ]}
        onChange={(event) => onChoose(Number(event.target.value))}
      />
      {elsewhere.length < MOST_ELSEWHERE ? null : (
        <p className="text-glance text-third">
          The first {MOST_ELSEWHERE} watches by name are offered here, of those that read one page each.
        </p>
      )}
    </>
  );
}

const NOWHERE = { channel: undefined, called: undefined };

interface OursAtProps {
  channel: number | undefined;
  channels: RelatedItem['channels'];
  onChange: (at: Pick<AgainstDraft, 'channel' | 'called'>) => void;
}

/** At which of our channels ours is meant, where there are several. */
export function OursAt({ channel, channels, onChange }: OursAtProps) {
  if (channels.length < 2) return null;
  return (
    <SelectField
      label="Ours at"
      value={String(channel ?? '')}
      options={[
        { value: '', label: 'our own shop' },
        ...channels.map(({ id, name }) => ({ value: String(id), label: name })),
      ]}
      onChange={(event) => {
        const chosen = channels.find(({ id }) => String(id) === event.target.value);
        onChange(chosen === undefined ? {} : { channel: chosen.id, called: chosen.name });
      }}
    />
  );
}

const SIDE_WORDS = { ours: 'Ours', minimum: 'The agreed minimum', cheapest: 'The cheapest other offer' } as const;

/** What its item says now, and at which of our channels ours is meant. */
function OfItem({
  clause,
  beside,
  locale,
  onChange,
}: Pick<AnotherProps, 'clause' | 'locale' | 'onChange'> & { beside: RelatedItem }) {
  const side =
    clause.against === undefined || clause.against === 'watch' || clause.against === 'sharing'
      ? 'ours'
      : clause.against;
  const value = beside.says[clause.field]?.[side];
  return (
    <>
      {side === 'ours' ? (
        <OursAt
          channel={clause.channel}
          channels={beside.channels}
          onChange={(at) => onChange({ ...NOWHERE, ...at })}
        />
      ) : null}
      <p className="text-glance text-third" data-beside>
        {beside.item === null
          ? 'This record is an offer of no item yet: until it is joined to one, on the page of the watch, this ' +
            'cannot be said.'
          : clause.channel !== undefined
            ? `It is an offer of ${beside.item.reference}.`
            : `${SIDE_WORDS[side]} is ` +
              `${value === undefined || value.kind === 'absent' ? 'not known' : formatValue(value, locale)} now ` +
              `(${beside.item.reference} ${beside.item.name}).`}
      </p>
    </>
  );
}
