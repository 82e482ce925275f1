import { useFetcher } from 'react-router';
import { QUOTAS, isNearlySpent, spendingWords, type Quota, type QuotaOf, type Spending } from '#core/tell/quota';
import { capital } from '#core/words';
import type { QuotaNow } from '#server/db/delivery/quotas';
import { AsSeen } from '../../../parts/as-seen';
import { Button } from '../../../ui/button';
import { TextField } from '../../../ui/field';
import { Section } from '../../../ui/page';

const NAMES: Record<QuotaOf, string> = {
  mails: 'Mails, in all',
  'mails a reader': 'Mails to each reader',
  texts: 'Short texts, in all',
};
const FIELDS: Record<QuotaOf, [name: keyof Quota, label: string][]> = {
  mails: [
    ['anHour', 'in 60 minutes'],
    ['aDay', 'in 24 hours'],
  ],
  'mails a reader': [
    ['anHour', 'in 60 minutes'],
    ['aDay', 'in 24 hours'],
  ],
  texts: [['aMonth', 'in a month']],
};

/** A bound as a form is filled in on it. */
export const boundOf = (bound: Quota | undefined) => [
  bound?.anHour ?? null,
  bound?.aDay ?? null,
  bound?.aMonth ?? null,
];

/** How much may go out, with what is used of it (25). */
export function Quotas({ allowances, spent }: { allowances: QuotaNow[]; spent: Spending[] }) {
  return (
    <Section title="At most">
      <p className="mt-1 text-second">
        Beyond a bound nothing is dropped: mails are gathered, one for each reader and report, and go when there is room
        again; short texts come as mails. Whoever set a bound is told once at eight tenths.
      </p>
      {QUOTAS.map((of) => (
        <Bound
          key={of}
          of={of}
          now={allowances.find((each) => each.of === of)}
          spent={spent.filter((each) => each.of === of)}
        />
      ))}
    </Section>
  );
}

function Bound({ of, now, spent }: { of: QuotaOf; now: QuotaNow | undefined; spent: Spending[] }) {
  const fetcher = useFetcher<{ problem: string | null; said: string | null }>();
  const answer = fetcher.state === 'idle' ? fetcher.data : undefined;
  return (
    <fetcher.Form method="post" className="cell pt-2" data-allowance={of}>
      <input type="hidden" name="of" value={of} />
      <AsSeen state={boundOf(now)} fetcher={fetcher} />
      <fieldset className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <legend className="font-medium">{NAMES[of]}</legend>
        {FIELDS[of].map(([name, label]) => (
          <TextField
            key={name}
            className="w-28"
            label={label}
            name={name}
            inputMode="numeric"
            placeholder="no bound"
            defaultValue={now?.[name] ?? ''}
          />
        ))}
        <Button type="submit" name="intent" value="bound" aria-label={`Keep the bound of ${NAMES[of].toLowerCase()}`}>
          Keep
        </Button>
      </fieldset>
      {answer?.problem == null ? null : (
        <p role="alert" className="mt-1 font-medium text-chestnut">
          {answer.problem}
        </p>
      )}
      <p role="status" className="text-second empty:hidden">
        {answer?.said}
      </p>
      {spent.map((each) => (
        <p
          key={`${each.within} ${each.about?.key ?? ''}`}
          className={isNearlySpent(each) ? 'font-medium text-chestnut' : 'text-second'}
        >
          {capital(spendingWords(each))}
        </p>
      ))}
      {now === undefined ? null : <p className="text-glance text-third">set by {now.owner}</p>}
    </fetcher.Form>
  );
}
