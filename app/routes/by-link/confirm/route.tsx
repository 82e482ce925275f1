import { data, Form, useNavigation } from 'react-router';
import { fail, ok } from '#core/result';
import { confirmAddress, findReaderNow } from '#server/db/person/readers';
import { services } from '../../../services.server';
import { Button } from '../../../ui/button';
import { Doorway } from '../../../ui/doorway';
import type { Route } from './+types/route';

export const meta: Route.MetaFunction = () => [
  { title: 'Confirm your address · Shrike' },
  { name: 'robots', content: 'noindex' },
];

/** Whose address a link confirms; or why it leads nowhere, as a sentence. */
async function openLink(token: string) {
  const { pool, links, clock } = services();
  const said = links.openConfirm(token);
  if (said === null)
    return fail('This link is not one of ours, or was cut short on its way. Open it from the mail again.');
  if (said.until < clock()) return fail('This link has ended. Whoever asked you can have another one sent.');
  const reader = await findReaderNow(pool, said.person);
  if (reader === null || reader.email !== said.address)
    return fail('This address is not the one that Shrike would write to any more: there is nothing to confirm.');
  return ok(reader);
}

/** Following a link changes nothing: whoever scans mails follows it, too. */
export async function loader({ params }: Route.LoaderArgs) {
  const opened = await openLink(params.token);
  if (!opened.ok) return data({ problem: opened.error, offer: null }, { status: 404 });
  const { name, email, reports, confirmedAt } = opened.value;
  const hears = reports.flatMap((report) => (report.leftAt === null ? report.name : []));
  return data({ problem: null, offer: { name, email, hears, confirmed: confirmedAt !== null } });
}

export async function action({ params }: Route.ActionArgs) {
  const opened = await openLink(params.token);
  if (!opened.ok) return { problem: opened.error };
  const { pool, clock, signals } = services();
  await confirmAddress(pool, opened.value.id, opened.value.email, clock());
  signals.say('watches', 'outbox');
  return { problem: null };
}

export default function Confirm({ loaderData: { problem, offer }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().state !== 'idle';
  if (offer === null || (actionData?.problem ?? null) !== null)
    return (
      <Doorway title="This link leads nowhere">
        <p className="mt-4 text-second" role="status">
          {actionData?.problem ?? problem}
        </p>
      </Doorway>
    );
  if (offer.confirmed)
    return (
      <Doorway title="Your address is confirmed">
        <p className="mt-4 text-second" role="status">
          {offer.hears.length === 0 ? 'No report names you yet.' : 'What was kept back for you is on its way.'} Each
          mail says how to leave.
        </p>
      </Doorway>
    );
  return (
    <Doorway title="May Shrike write to you?">
      <p className="mt-4 font-serif text-story">
        {offer.name}, at {offer.email}
      </p>
      {offer.hears.length === 0 ? null : (
        <>
          <p className="mt-4 text-second">You would get:</p>
          <ul className="mt-1 list-disc pl-5">
            {offer.hears.map((name) => (
              <li key={name}>{name}</li>
            ))}
          </ul>
        </>
      )}
      <Form method="post" className="mt-6">
        <Button type="submit" weight="strong" disabled={busy}>
          Yes, confirm this address
        </Button>
      </Form>
      <p className="mt-4 text-glance text-third">If this is not for you, close the page: nothing will be sent.</p>
    </Doorway>
  );
}
