import { useFetcher } from 'react-router';
import type { Trial } from '#core/read/inspect/trial';
import { formatValue } from '#core/value/format';
import { isMeasure } from '#core/value/value';
import { useState } from 'react';
import { Button } from '../../../ui/button';
import { TextField } from '../../../ui/field';
import { Section } from '../../../ui/page';

/** The reading tried on this page, with its values altered, on an earlier snapshot and on other addresses, side by side. */
export function TryIt({ trials, locale }: { trials: Trial[]; locale: string }) {
  const fetcher = useFetcher<{ problem: string | null }>();
  const [address, setAddress] = useState('');
  const values = trials.flatMap((trial) => trial.values);
  const labels = [...new Set(values.map((each) => each.label))];
  // Numbers stand to the right, words to the left.
  const sideOf = (label: string) =>
    values.some((each) => each.label === label && each.value !== null && isMeasure(each.value)) ? 'text-right' : 'text-left';
  return (
    <Section title="Try it" aside="the same reading, elsewhere" className="mt-8">
      <div className="overflow-x-auto">
        <table className="w-full" data-trials>
          <thead>
            <tr>
              <th className="head-cell pr-5 text-left">Where</th>
              {labels.map((label) => (
                <th key={label} className={`head-cell pr-5 ${sideOf(label)}`}>
                  {label}
                </th>
              ))}
              <th className="head-cell text-left">Says</th>
            </tr>
          </thead>
          <tbody>
            {trials.map((trial) => (
              <tr key={trial.where}>
                <td className="cell max-w-72 truncate pr-5" title={trial.where}>
                  {trial.where}
                </td>
                {labels.map((label) => {
                  const read = trial.values.find((each) => each.label === label);
                  return (
                    <td key={label} className={`cell pr-5 ${sideOf(label)}`} title={read?.problem ?? undefined}>
                      {read?.value == null ? <span className="text-third">–</span> : formatValue(read.value, locale)}
                    </td>
                  );
                })}
                <td className="cell text-glance text-second">{trial.pending ? 'the browser is opening it …' : (trial.note ?? '')}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
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
