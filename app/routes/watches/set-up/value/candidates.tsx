import type { Candidate } from '#core/read/candidates';
import type { Field } from '#core/read/definition';
import { formatValue } from '#core/value/format';
import { Table, type Column } from '../../../../ui/table';
import { fieldOf } from './field-of';
import type { OneRecordProps } from './one-record-props';

const samePlace = (field: Field, candidate: Candidate) =>
  JSON.stringify(field.locators[0]) === JSON.stringify(candidate.locators[0]);

/** What Shrike found on the page by itself, to take or to leave out. */
export function Candidates({ draft, candidates, locale, onTake, onChange }: OneRecordProps) {
  if (candidates.length === 0) {
    return (
      <p className="mt-2 text-second">
        Nothing on this page looks like a price, and it carries no structured data. Point at it, or give a place of your
        own.
      </p>
    );
  }
  const takenAs = (candidate: Candidate) => draft.fields.find((field) => samePlace(field, candidate));
  const columns: Column<Candidate>[] = [
    {
      head: 'Found at',
      className: 'max-w-0 truncate',
      title: ({ where }) => where,
      cell: ({ label, where }) => (
        <>
          {label} <span className="ml-1 text-glance text-third">{where}</span>
        </>
      ),
    },
    {
      head: 'Value',
      side: 'right',
      className: 'w-36 max-w-36 truncate font-medium',
      title: ({ text }) => text,
      cell: ({ value, byLocale }) => (
        <>
          {formatValue(value, locale)}
          {byLocale ? <span className="block text-glance font-normal text-third">by the page’s language</span> : null}
        </>
      ),
    },
    {
      head: <span className="sr-only">Take it</span>,
      side: 'right',
      className: 'w-24',
      cell: (candidate) => (
        <TakeOrLeave
          candidate={candidate}
          taken={takenAs(candidate)}
          draft={draft}
          onTake={onTake}
          onChange={onChange}
        />
      ),
    },
  ];
  return (
    <Table
      name="candidates"
      most="max-h-[420px]"
      columns={columns}
      rows={candidates}
      keyOf={({ locators }) => JSON.stringify(locators)}
    />
  );
}

type Actions = Pick<OneRecordProps, 'draft' | 'onTake' | 'onChange'> & {
  candidate: Candidate;
  taken: Field | undefined;
};

function TakeOrLeave({ candidate, taken, draft, onTake, onChange }: Actions) {
  const { label, type, locators, value, where } = candidate;
  if (taken !== undefined) {
    return (
      <button
        type="button"
        className="link text-chestnut"
        onClick={() => onChange({ fields: draft.fields.filter((field) => field !== taken) })}
      >
        Leave out
      </button>
    );
  }
  return (
    <button
      type="button"
      className="link font-semibold"
      aria-label={`Take ${where}`}
      onClick={() => onTake(fieldOf(label, type, locators, draft.fields), value)}
    >
      Take
    </button>
  );
}
