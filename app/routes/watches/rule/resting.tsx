import { useFetcher } from 'react-router';
import type { RuleId, WatchId } from '#core/id';
import { Button } from '../../../ui/button';
import type { action } from './start';

interface RestingProps {
  watch: WatchId;
  rule: RuleId | null;
  /** For how many records it rests. */
  count: number;
  /** The watch has several records. */
  several: boolean;
}

/** That a rule rests since it was told, and how it is started again. */
export function Resting({ watch, rule, count, several }: RestingProps) {
  const fetcher = useFetcher<typeof action>();
  if (rule === null || count === 0) return null;
  const of = !several ? '' : count === 1 ? ' for one record' : ` for ${count} records`;
  return (
    <div className="mb-4 flex flex-wrap items-center gap-x-4 gap-y-2" data-resting>
      <p className="grow">This rule rests{of}: it was told once, and tells nothing more until it is started again.</p>
      <fetcher.Form method="post" action={`/watches/${watch}/rules/${rule}/start`}>
        <Button type="submit" disabled={fetcher.state !== 'idle'}>
          Start it again
        </Button>
      </fetcher.Form>
    </div>
  );
}
