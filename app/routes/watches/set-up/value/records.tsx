import type { DraftId } from '#core/id';
import { useState } from 'react';
import { haveOwnNames, isFound, type Field } from '#core/read/definition';
import { describeLocator } from '#core/read/describe';
import type { RecordsPreview } from '#core/read/inspect/trial';
import type { Listing } from '#core/read/listing/listing';
import { formatValue } from '#core/value/format';
import type { Value } from '#core/value/value';
import type { PlanDraft } from '#core/plan/plan';
import { TypeSettings } from '../../../../parts/plan/type-settings';
import { kindLabel } from '#core/read/kinds';
import { sideOf } from '../../../../parts/plan/side';
import { Ways } from '../../../../parts/plan/ways';
import { SelectField, TextField, Tick } from '../../../../ui/field';
import { Section } from '../../../../ui/page';
import { Popover } from '../../../../ui/popover';
import { Pager } from '../../../../ui/pager';
import { Table, type Column } from '../../../../ui/table';
import type { MendingShown } from '#core/read/inspect/mending';
import { computedField } from './field-of';
import { Guards } from './guards';
import { Mend } from './mend';
import { ShownPage, type Shown } from './shown-page';

interface RecordsStepProps {
  draftId: DraftId;
  draft: PlanDraft;
  listings: Listing[];
  preview: RecordsPreview;
  /** What she said last is still on its way to be read. */
  pending: boolean;
  isPage: boolean;
  shown: Shown;
  /** The numbers of the elements that the records are read from. */
  rows: number[];
  mending: MendingShown | null;
  locale: string;
  onChange: (change: Partial<PlanDraft>) => void;
  onRecords: (listing: Listing) => void;
  onPage: () => void;
}

/** The link from a body to many records: which they are, what is read of each, and what tells them apart. */
export function RecordsStep(props: RecordsStepProps) {
  const { draftId, draft, preview, pending, isPage, shown, rows, mending, locale, onPage } = props;
  const marked = mending !== null && mending.boxes.length > 0 ? mending.boxes : rows;
  const picture = (
    <ShownPage
      draftId={draftId}
      shown={shown}
      picked={marked}
      label={`The page of ${draft.subject}, its records marked`}
    />
  );
  return (
    <div className="grid gap-x-8 gap-y-8 lg:grid-cols-[minmax(0,1fr)_388px]">
      <div className="flex min-w-0 flex-col gap-5">
        {mending === null ? null : picture}
        <Section
          title={
            pending && preview.count === 0
              ? 'Reading them …'
              : `${countWords(preview.count)}${mending?.definition ? ', as they would be read' : ''}`
          }
          aside={<Chooser {...props} />}
        >
          <PreviewTable {...props} />
          <Pager param="rows" page={preview.page} size={preview.size} count={preview.count} locale={locale} />
        </Section>
        {preview.problems.map((problem) => (
          <p key={problem} role="alert" className="font-medium text-chestnut">
            {problem}
          </p>
        ))}
        {mending === null && isPage ? picture : null}
        {isPage ? (
          <button type="button" className="link self-start text-glance" onClick={onPage}>
            Read one value of the page instead
          </button>
        ) : null}
      </div>
      <div className="flex min-w-0 flex-col gap-7">
        {mending === null ? null : <Mend mending={mending} locale={locale} />}
        <Section title="What is read of each">
          <FieldList {...props} />
        </Section>
        <Section title="What tells them apart">
          <Identity {...props} />
        </Section>
        <Section title="What each is called">
          <Names {...props} />
        </Section>
        <Section title="Which of them">
          <Chosen {...props} />
        </Section>
        <Section title="Guards">
          <Guards guards={draft.guards} onChange={(guards) => props.onChange({ guards })} />
        </Section>
      </div>
    </div>
  );
}

const countWords = (count: number) =>
  count === 0 ? 'No records' : count === 1 ? 'One record' : `${count.toLocaleString('en-GB')} records`;

function Chooser({ draft, listings, onRecords, onChange }: RecordsStepProps) {
  const present = JSON.stringify(draft.records);
  const known = listings.some((listing) => JSON.stringify(listing.records) === present);
  return (
    <span className="flex items-end gap-4">
      {'path' in draft.records ? (
        <TextField
          label={draft.records.from === 'json' ? 'JSONPath' : 'XPath'}
          value={draft.records.path}
          onChange={(event) =>
            onChange({ records: { ...draft.records, path: event.target.value } as PlanDraft['records'] })
          }
        />
      ) : null}
      {listings.length < 2 ? null : (
        <SelectField
          label="Read"
          value={known ? present : ''}
          options={[
            ...(known ? [] : [{ value: '', label: 'my own' }]),
            ...listings.map((listing) => ({ value: JSON.stringify(listing.records), label: listing.said })),
          ]}
          onChange={(event) => {
            const chosen = listings.find((listing) => JSON.stringify(listing.records) === event.target.value);
            if (chosen !== undefined) onRecords(chosen);
          }}
        />
      )}
    </span>
  );
}

function PreviewTable({ draft, preview, locale, onChange }: RecordsStepProps) {
  const call = (identity: string, name: string) => onChange({ names: withName(draft.names, identity, name) });
  return (
    <>
      <Table
        name="records"
        most="max-h-[480px]"
        columns={columnsOf(draft, preview, locale, call)}
        rows={preview.rows}
        keyOf={({ identity, at }) => `${identity} ${at ?? ''}`}
      />
      {preview.count > preview.rows.length ? (
        <p className="pt-2 text-glance text-third">
          and {(preview.count - preview.rows.length).toLocaleString('en-GB')} more
        </p>
      ) : null}
    </>
  );
}

type Row = RecordsPreview['rows'][number];

/** On a narrow screen the first two fields stay. */
const MOST_NARROW = 2;

function columnsOf(
  draft: PlanDraft,
  { rows }: RecordsPreview,
  locale: string,
  onCall: (identity: string, name: string) => void,
): Column<Row>[] {
  const name: Column<Row> = {
    head: 'called',
    className: 'max-w-72 truncate font-medium',
    title: ({ identity }) => identity,
    cell: (row) => (
      <Called row={row} own={draft.names?.own?.[row.identity]} onCall={(said) => onCall(row.identity, said)} />
    ),
  };
  const ofEach = draft.fields.filter(({ type }) => type.kind !== 'count');
  const fields = ofEach.map((field, at): Column<Row> => ({
    head: field.label || '…',
    side: sideOf(field),
    wide: at >= MOST_NARROW,
    className: ({ cells }) =>
      cells[field.key] === undefined ? 'text-third' : cellLook(cells[field.key]?.value ?? null),
    title: ({ cells }) => cells[field.key]?.problem ?? undefined,
    cell: ({ cells }) => (cells[field.key] === undefined ? '–' : valueWords(cells[field.key]?.value ?? null, locale)),
  }));
  const stamped = rows.some((row) => row.at !== null);
  return [
    ...(draft.identity.length === 0 || draft.names !== undefined ? [name] : []),
    ...fields,
    ...(stamped ? [STAMP] : []),
  ];
}

/** What a record is called; said otherwise by hand in place. */
function Called({ row, own, onCall }: { row: Row; own: string | undefined; onCall: (name: string) => void }) {
  return (
    <Popover
      label={`What ${row.name} is called`}
      trigger={
        <button type="button" className="said max-w-full truncate">
          {row.name}
        </button>
      }
    >
      <TextField
        label="Called"
        value={own ?? ''}
        placeholder={row.name}
        maxLength={LONGEST_NAME}
        hint={`Its source calls it ${row.identity}. Empty: by the pattern.`}
        onChange={(event) => onCall(event.target.value)}
      />
    </Popover>
  );
}

const LONGEST_NAME = 120;

function withName(
  { own = {}, ...names }: NonNullable<PlanDraft['names']> = {},
  identity: string,
  name: string,
): PlanDraft['names'] {
  const { [identity]: _before, ...others } = own;
  const kept = name === '' ? others : { ...others, [identity]: name };
  return { ...names, ...(Object.keys(kept).length === 0 ? {} : { own: kept }) };
}

/** What records are called: by a pattern for all, with the parts that it can be made of. */
function Names({ draft, preview, onChange }: RecordsStepProps) {
  const pattern = draft.names?.pattern ?? '';
  const set = (next: string) => {
    const { pattern: _before, ...rest } = draft.names ?? {};
    onChange({
      names: next === '' && rest.own === undefined ? undefined : { ...rest, ...(next === '' ? {} : { pattern: next }) },
    });
  };
  const first = preview.rows[0];
  return (
    <>
      <TextField
        label="By this pattern"
        value={pattern}
        placeholder="as its source calls it"
        maxLength={200}
        onChange={(event) => set(event.target.value)}
      />
      {preview.parts.length === 0 ? null : (
        <p className="mt-1.5 flex flex-wrap gap-x-3 gap-y-1 text-glance" aria-label="Parts of a name">
          {preview.parts.map(({ part, as }) => (
            <span key={part} className="text-third">
              <button
                type="button"
                className="link text-ink"
                onClick={() => set(pattern === '' ? part : `${pattern} ${part}`)}
              >
                {part}
              </button>{' '}
              {as}
            </span>
          ))}
        </p>
      )}
      {first === undefined ? null : (
        <p className="mt-1.5 text-glance text-third">
          {first.identity === first.name ? `As in “${first.name}”.` : `${first.identity} is called “${first.name}”.`}{' '}
          One by itself: press its name.
        </p>
      )}
    </>
  );
}

const valueWords = (value: Value | null, locale: string): string =>
  value === null ? 'not read' : formatValue(value, locale);

function cellLook(value: Value | null): string {
  if (value === null) return 'text-glance text-chestnut';
  return `max-w-80 truncate ${value.kind === 'absent' ? 'text-third' : ''}`;
}

const STAMP: Column<Row> = {
  head: 'source’s time',
  wide: true,
  className: 'text-glance whitespace-nowrap text-third',
  cell: ({ at, quality }) => (
    <>
      {at ?? '–'}
      {quality !== null && quality !== 'good' ? <span className="ml-2 text-chestnut">{quality}</span> : null}
    </>
  ),
};

function FieldList({ draftId, draft, locale, onChange }: RecordsStepProps) {
  const [open, setOpen] = useState<string | null>(null);
  const set = (field: Field, change: Partial<Field>) =>
    onChange({ fields: draft.fields.map((each) => (each === field ? { ...each, ...change } : each)) });
  return (
    <>
      <ul data-taken>
        {draft.fields.map((field) => (
          <li key={field.key} className="cell">
            <p className="flex items-baseline justify-between gap-3">
              <button
                type="button"
                className="min-w-0 truncate text-left"
                aria-expanded={open === field.key}
                onClick={() => setOpen(open === field.key ? null : field.key)}
              >
                <span className="font-medium">{field.label || 'unnamed'}</span>{' '}
                <span className="text-glance text-third">{kindLabel(field.type.kind)}</span>
              </button>
              <button
                type="button"
                className="link shrink-0 text-glance text-second"
                aria-label={`Leave out ${field.label}`}
                onClick={() =>
                  onChange({
                    fields: draft.fields.filter((each) => each !== field),
                    identity: draft.identity.filter((key) => key !== field.key),
                  })
                }
              >
                Leave out
              </button>
            </p>
            {open === field.key ? (
              <div className="pt-2 pb-3">
                <TypeSettings
                  field={field}
                  others={draft.fields.filter((each) => each !== field)}
                  onChange={(change) => set(field, change)}
                />
                <div className="mt-2">
                  {draft.records.from === 'rows' && isFound(field) ? (
                    <Ways
                      field={field}
                      text=""
                      locale={locale}
                      tryAt={`/watches/new/${draftId}/try`}
                      onChange={(locators) => set(field, { locators })}
                    />
                  ) : (
                    field.locators.map((locator) => (
                      <p key={JSON.stringify(locator)} className="text-glance text-third">
                        {describeLocator(locator)}
                      </p>
                    ))
                  )}
                </div>
              </div>
            ) : null}
          </li>
        ))}
      </ul>
      <button
        type="button"
        className="link mt-2 text-glance"
        onClick={() => onChange({ fields: [...draft.fields, computedField(draft.fields)] })}
      >
        Compute another from these
      </button>
    </>
  );
}

function Identity({ draft, onChange }: RecordsStepProps) {
  if (haveOwnNames(draft.records)) return <p className="mt-1 text-second">The source itself: each has its own name.</p>;
  return (
    <>
      <div role="group" aria-label="What tells them apart" className="mt-1 grid grid-cols-2 gap-x-4">
        {draft.fields.filter(isFound).map((field) => (
          <Tick
            key={field.key}
            checked={draft.identity.includes(field.key)}
            onChange={(checked) =>
              onChange({
                identity: checked ? [...draft.identity, field.key] : draft.identity.filter((key) => key !== field.key),
              })
            }
          >
            {field.label}
          </Tick>
        ))}
      </div>
      <SelectField
        label="One of several variants of the same thing, named by"
        value={draft.variant ?? ''}
        options={[
          { value: '', label: 'no variants' },
          ...draft.fields.map((field) => ({ value: field.key, label: field.label })),
        ]}
        onChange={(event) => onChange({ variant: event.target.value === '' ? null : event.target.value })}
      />
    </>
  );
}

const MOST_TO_CHOOSE = 60;

function Chosen({ draft, preview, onChange }: RecordsStepProps) {
  const all = draft.chosen === null;
  const names = preview.rows.map((row) => ({ identity: row.identity, name: row.name }));
  const distinct = names.filter((row, at) => names.findIndex((other) => other.identity === row.identity) === at);
  return (
    <>
      <Tick
        checked={all}
        onChange={(checked) =>
          onChange(
            checked ? { chosen: null, leftOut: [] } : { chosen: distinct.map((row) => row.identity), leftOut: [] },
          )
        }
      >
        All of them, and whatever turns up later
      </Tick>
      {all ? null : (
        <div
          role="group"
          aria-label="Chosen records"
          className="mt-1 max-h-60 overflow-y-auto border-t border-rule pt-1"
        >
          {distinct.slice(0, MOST_TO_CHOOSE).map((row) => {
            const checked = draft.chosen?.includes(row.identity) ?? false;
            return (
              <Tick
                key={row.identity}
                checked={checked}
                onChange={(next) =>
                  onChange(
                    next
                      ? {
                          chosen: [...(draft.chosen ?? []), row.identity],
                          leftOut: draft.leftOut.filter((each) => each !== row.identity),
                        }
                      : {
                          chosen: (draft.chosen ?? []).filter((each) => each !== row.identity),
                          leftOut: [...draft.leftOut, row.identity],
                        },
                  )
                }
              >
                {row.name}
              </Tick>
            );
          })}
          <p className="mt-1 text-glance text-third">What turns up later is offered to you.</p>
        </div>
      )}
    </>
  );
}
