import type { RuleId, WatchId } from '#core/id';
import { useFetcher } from 'react-router';
import { Button } from '../../../ui/button';
import { SelectField, TextField } from '../../../ui/field';
import type { action } from './open';

interface OpenByHandProps {
  watch: WatchId;
  /** Null of a new rule, which has no episodes yet. */
  rule: RuleId | null;
  records: { identity: string; name: string }[];
}

/** Opens an episode of the rule as it is kept, though its condition does not say so. */
export function OpenByHand({ watch, rule, records }: OpenByHandProps) {
  const fetcher = useFetcher<typeof action>();
  if (rule === null) return null;
  return (
    <details className="mt-6" data-open-by-hand>
      <summary className="cursor-pointer font-serif text-head font-medium">Open an episode by hand</summary>
      <p className="mt-1 text-second">
        It is raised and told as if it were met, to those who hear of the rule as it is kept, and is over when somebody
        closes it.
      </p>
      <fetcher.Form
        method="post"
        action={`/watches/${watch}/rules/${rule}/open`}
        className="mt-2 flex flex-wrap items-end gap-4"
      >
        {records.length < 2 ? (
          <input type="hidden" name="record" value={records[0]?.identity ?? ''} />
        ) : (
          <SelectField
            label="Of"
            name="record"
            className="w-64"
            options={records.map(({ identity, name }) => ({ value: identity, label: name }))}
          />
        )}
        <TextField label="Why" name="note" className="grow" maxLength={400} />
        <Button type="submit" disabled={fetcher.state !== 'idle'}>
          Open it
        </Button>
      </fetcher.Form>
      {fetcher.data?.problem == null ? null : (
        <p role="alert" className="mt-2 font-medium text-chestnut">
          {fetcher.data.problem}
        </p>
      )}
    </details>
  );
}
