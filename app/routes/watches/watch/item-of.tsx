import { useId, useState } from 'react';
import { Link, useFetcher } from 'react-router';
import type { Proposal } from '#core/items/proposals';
import type { RecordNow } from '#server/db/reading/records';
import { Button } from '../../../ui/button';
import { Popover } from '../../../ui/popover';
import { Edited } from '../../items/edited';
import type { EditAnswer } from '../../items/actions.server';
import type { loader as find } from '../../items/find';

/**
 * Whether there are items to join records to, and which of them records seem to be offers of, by the number of the
 * record.
 */
export interface ItemsSeen {
  known: boolean;
  proposals: Record<number, Proposal>;
}

function useJoining() {
  const fetcher = useFetcher<EditAnswer>({ key: 'items' });
  return (pairs: { record: number; reference: string }[]) => {
    const form = new FormData();
    form.set('intent', 'join');
    for (const { record, reference } of pairs) {
      form.append('record', String(record));
      form.append('reference', reference);
    }
    void fetcher.submit(form, { method: 'post', action: '/items' });
  };
}

type Joined = Pick<RecordNow, 'id' | 'name' | 'item'>;

/** The item that a record is an offer of; the one that it seems to be; or the way to join it to one. */
export function ItemOf({ record, items }: { record: Joined; items: ItemsSeen }) {
  const join = useJoining();
  const proposal = items.proposals[record.id];
  if (record.item !== null)
    return (
      <>
        <Link className="link" to={`/items/${record.item.id}`} title={record.item.name}>
          {record.item.reference}
        </Link>{' '}
        <JoinTo record={record} word="…" />
      </>
    );
  if (proposal !== undefined)
    return (
      <button
        type="button"
        className="link"
        title={`It says ${proposal.by} ${proposal.said}`}
        onClick={() => join([{ record: record.id, reference: proposal.reference }])}
      >
        Join to {proposal.reference}
      </button>
    );
  return <JoinTo record={record} word="join" />;
}

function JoinTo({ record, word }: { record: Joined; word: string }) {
  const join = useJoining();
  const finding = useFetcher<typeof find>();
  const [typed, setTyped] = useState('');
  const list = useId();
  return (
    <Popover
      label={`The item of ${record.name}`}
      trigger={
        <button type="button" className="link text-third" aria-label={`Say which item ${record.name} is an offer of`}>
          {word}
        </button>
      }
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          join([{ record: record.id, reference: typed.trim() }]);
        }}
      >
        <label className="block text-glance text-third">
          The reference of the item
          <input
            list={list}
            value={typed}
            maxLength={60}
            autoComplete="off"
            className="h-8 w-full border-b border-third bg-transparent text-read text-ink focus:border-b-2 focus:border-ink focus:outline-none"
            onChange={(event) => {
              setTyped(event.target.value);
              void finding.load(`/items/find?q=${encodeURIComponent(event.target.value)}`);
            }}
          />
        </label>
        <datalist id={list}>
          {(finding.data?.found ?? []).map(({ reference, name }) => (
            <option key={reference} value={reference}>
              {name}
            </option>
          ))}
        </datalist>
        <p className="mt-3 flex gap-3">
          <Button type="submit" weight="strong" disabled={typed.trim() === ''}>
            Join it
          </Button>
          {record.item === null ? null : (
            <Button onClick={() => join([{ record: record.id, reference: '' }])}>
              Take it from {record.item.reference}
            </Button>
          )}
        </p>
      </form>
    </Popover>
  );
}

/** Joins all that say which item they are. */
export function ProposedItems({ records, items }: { records: RecordNow[]; items: ItemsSeen }) {
  const join = useJoining();
  const pairs = records.flatMap(({ id }) => {
    const proposal = items.proposals[id];
    return proposal === undefined ? [] : [{ record: id, reference: proposal.reference }];
  });
  if (!items.known) return null;
  return (
    <div className="flex items-baseline gap-4">
      {pairs.length < 2 ? null : (
        <p className="pt-1.5 text-glance text-second">
          {pairs.length} records say which item they are.{' '}
          <button type="button" className="link font-semibold" onClick={() => join(pairs)}>
            Join all {pairs.length}
          </button>
        </p>
      )}
      <Edited />
    </div>
  );
}

/** The item of a page that is one record. */
export function OfferOfItem({ record, items }: { record: RecordNow | null; items: ItemsSeen }) {
  if (record === null || !items.known) return null;
  return (
    <div className="mt-3 flex items-baseline gap-3 border-t border-rule pt-2" data-item>
      <span className="text-third">An offer of</span>
      <span>
        <ItemOf record={record} items={items} />
        {record.item === null ? null : <span className="ml-2 text-second">{record.item.name}</span>}
      </span>
      <Edited />
    </div>
  );
}
