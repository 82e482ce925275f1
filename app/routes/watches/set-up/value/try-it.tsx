import { useFetcher } from 'react-router';
import type { Trial } from '#core/read/inspect/trial';
import { formatValue } from '#core/value/format';
import { isMeasure } from '#core/value/value';
import { useState } from 'react';
import { Button } from '../../../../ui/button';
import { TextField } from '../../../../ui/field';
import { Section } from '../../../../ui/page';
import { Table, type Column } from '../../../../ui/table';

/** On a narrow screen the first value stays. */
const MOST_NARROW = 1;

const readOf = (trial: Trial, label: string) => trial.values.find((each) => each.label === label);

/**
 * The reading tried on this page, with its values altered, on an earlier snapshot and on other addresses, side by side.
 */
export function TryIt({ trials, locale }: { trials: Trial[]; locale: string }) {
  const fetcher = useFetcher<{ problem: string | null }>();
  const [address, setAddress] = useState('');
  const values = trials.flatMap((trial) => trial.values);
  const labels = [...new Set(values.map((each) => each.label))];
  const columns: Column<Trial>[] = [
    { head: 'Where', className: 'max-w-72 truncate', title: ({ where }) => where, cell: ({ where }) => where },
    ...labels.map((label, at): Column<Trial> => ({
      head: label,
      // Numbers stand to the right, words to the left.
      side: values.some((each) => each.label === label && each.value !== null && isMeasure(each.value))
        ? 'right'
        : 'left',
      wide: at >= MOST_NARROW,
      title: (trial) => readOf(trial, label)?.problem ?? undefined,
      cell: (trial) => {
        const value = readOf(trial, label)?.value ?? null;
        return value === null ? <span className="text-third">–</span> : formatValue(value, locale);
      },
    })),
    {
      head: 'Says',
      className: 'text-glance text-second',
      cell: ({ pending, note }) => (pending ? 'the browser is opening it …' : (note ?? '')),
    },
  ];
  return (
    <Section title="Try it" aside="the same reading, elsewhere" className="mt-8">
      <Table name="trials" columns={columns} rows={trials} keyOf={({ where }) => where} />
      <fetcher.Form
        method="post"
        className="mt-3 flex max-w-2xl items-end gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          void fetcher.submit({ intent: 'other', address }, { method: 'post' });
        }}
      >
        <TextField
          label="On another address: the same thing sold out, another product"
          className="grow"
          value={address}
          onChange={(event) => setAddress(event.target.value)}
          problem={fetcher.data?.problem}
        />
        <Button type="submit" disabled={address.trim() === '' || fetcher.state !== 'idle'}>
          {fetcher.state === 'idle' ? 'Try it there' : 'Fetching …'}
        </Button>
      </fetcher.Form>
    </Section>
  );
}
