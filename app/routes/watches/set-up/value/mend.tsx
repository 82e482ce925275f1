import { Form } from 'react-router';
import { describeGuard } from '#core/read/guard';
import { formatValue } from '#core/value/format';
import { Button } from '../../../../ui/button';
import { Section } from '../../../../ui/page';
import type { MendingShown } from '#core/read/inspect/mending';

const NOT_PROPOSED = {
  'nothing like it': 'Nothing on the page is like it. Point at it, if you see it.',
  'several alike': 'Several places are as likely as each other. Point at the right one.',
};

/** Where each lost value seems to have gone, why, and one click to accept all of it. */
export function Mend({ mending, locale }: { mending: MendingShown; locale: string }) {
  return (
    <Section title="Where it went" className="border-b border-rule pb-5">
      <div data-mending>
        {mending.rows === null ? (
          <Places fields={mending.fields} locale={locale} />
        ) : (
          <Moved rows={mending.rows} fields={mending.fields} locale={locale} />
        )}
        {mending.guards.map(({ guard, proposal }) => (
          <p
            key={JSON.stringify(guard)}
            className={proposal === null ? 'mt-2 font-medium text-chestnut' : 'mt-2 text-second'}
          >
            {describeGuard(guard)}: not any more.{' '}
            {proposal === null
              ? 'If this is still the right page, drop that guard below.'
              : `Instead: ${describeGuard(proposal)}.`}
          </p>
        ))}
        {mending.definition === null ? null : (
          <>
            <p className="mt-3 text-glance text-third">What accepting changes</p>
            <ul>
              {mending.said
                .filter((said) => said !== mending.rows?.said)
                .map((said) => (
                  <li key={said} className="cell break-words text-second">
                    {said}
                  </li>
                ))}
            </ul>
            <Form method="post" className="mt-3 flex justify-end">
              <Button type="submit" name="intent" value="mend" weight="strong">
                Accept and save
              </Button>
            </Form>
          </>
        )}
      </div>
    </Section>
  );
}

type Fields = Pick<MendingShown, 'fields'> & { locale: string };

/** Each lost value of a page: what it would be, why it is not read, and what speaks for its new place. */
function Places({ fields, locale }: Fields) {
  return fields.map(({ key, label, problem, lost, proposal }) => (
    <div key={key} className="mt-2">
      <p className="flex items-baseline justify-between gap-3">
        <span className="text-second">{label}</span>
        {proposal.ok ? (
          <span className="font-serif text-lead font-medium">{formatValue(proposal.value.value, locale)}</span>
        ) : null}
      </p>
      <p className="text-glance text-third">{problem ?? `No longer found by ${lost.join(', ')}.`}</p>
      {proposal.ok ? (
        <ul className="mt-1">
          {proposal.value.because.map((because) => (
            <li key={because} className="text-second">
              – {because}
            </li>
          ))}
        </ul>
      ) : (
        <p className="mt-1 font-medium text-chestnut">{NOT_PROPOSED[proposal.error]}</p>
      )}
    </div>
  ));
}

/** Where the records of a listing went, and what says which part of them is which field. */
function Moved({ rows, fields, locale }: Fields & { rows: NonNullable<MendingShown['rows']> }) {
  return (
    <>
      <p className="mt-1 font-medium">{rows.said}</p>
      <ul className="mt-2">
        {fields.map(({ key, label, proposal }) => (
          <li key={key} className="cell">
            <p className="flex items-baseline justify-between gap-3">
              <span>{label}</span>
              {proposal.ok ? <span className="font-medium">{formatValue(proposal.value.value, locale)}</span> : null}
            </p>
            <p className={proposal.ok ? 'text-glance text-third' : 'text-glance font-medium text-chestnut'}>
              {proposal.ok ? proposal.value.because.join('; ') : NOT_PROPOSED[proposal.error]}
            </p>
          </li>
        ))}
      </ul>
    </>
  );
}
