import { data, Form, useNavigation } from 'react-router';
import { fail, ok } from '#core/result';
import { acceptInvitation } from '#server/db/access/accounts';
import { inTransaction } from '#server/db/base/pool';
import { hashPassword, LEAST_PASSWORD, passwordFault } from '#server/passwords';
import { openInvitation, type NotInvited } from '#server/pipeline/ask';
import { readForm, writtenIn } from '../../../form.server';
import { services } from '../../../services.server';
import { requireOwnPages, signIn } from '../../../session.server';
import { Button } from '../../../ui/button';
import { Doorway } from '../../../ui/doorway';
import { TextField } from '../../../ui/field';
import type { Route } from './+types/route';

export const meta: Route.MetaFunction = () => [
  { title: 'You are invited · Shrike' },
  { name: 'robots', content: 'noindex' },
];

const NOT_INVITED: Record<NotInvited, string> = {
  'not ours': 'This link is not one of ours, or was cut short on its way. Open it from the mail again.',
  'other address':
    'This invitation was for another address than the one that Shrike would write to now. Ask for another one.',
  used:
    'This invitation was used already: sign in with the address that it came to, and the password that was chosen ' +
    'then.',
  ended: 'This invitation has ended. Whoever invited you can send another one.',
  'taken back': 'This invitation does not stand any more. If another mail came after it, the link in that one counts.',
};

/** Whom a link invites; or why it leads nowhere, as a sentence. */
async function openLink(token: string) {
  const { pool, links, clock } = services();
  const opened = await openInvitation(links, pool, token, clock());
  return opened.ok ? ok(opened.value) : fail(NOT_INVITED[opened.error]);
}

/** Following a link changes nothing: whoever scans mails follows it, too. */
export async function loader({ params }: Route.LoaderArgs) {
  const opened = await openLink(params.token);
  if (!opened.ok) return data({ problem: opened.error, invited: null, least: LEAST_PASSWORD }, { status: 404 });
  const { name, address } = opened.value;
  return data({ problem: null, invited: { name, address }, least: LEAST_PASSWORD });
}

export async function action({ request, params }: Route.ActionArgs) {
  requireOwnPages(request);
  const opened = await openLink(params.token);
  if (!opened.ok) return data({ problem: opened.error, fault: null }, { status: 404 });
  const password = writtenIn(await readForm(request), 'password');
  const fault = passwordFault(password);
  if (fault !== null) return data({ problem: null, fault }, { status: 400 });
  const { pool, clock, signals } = services();
  const kept = await hashPassword(password);
  const account = await inTransaction(pool, (db) => acceptInvitation(db, opened.value, kept, clock()));
  if (account === null) return data({ problem: NOT_INVITED.used, fault: null }, { status: 409 });
  // Her address is confirmed by it: what was kept back goes, and watches that nobody heard of are heard of.
  signals.say('watches', 'outbox');
  return signIn(account, '/');
}

export default function Invited({ loaderData: { problem, invited, least }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().state !== 'idle';
  const wrong = actionData?.problem ?? problem;
  if (invited === null || wrong !== null)
    return (
      <Doorway title="This invitation does not stand">
        <p className="mt-4 text-second" role="status">
          {wrong}
        </p>
      </Doorway>
    );
  return (
    <Doorway title="Choose a password">
      <p className="mt-4 font-serif text-story">
        {invited.name}, at {invited.address}
      </p>
      <p className="mt-2 text-second">
        You sign in with this address from then on. The mails that you get stay as they are.
      </p>
      <Form method="post" className="mt-6 flex flex-col gap-5">
        <input type="text" hidden readOnly autoComplete="username" value={invited.address} />
        <TextField
          label="Password"
          name="password"
          type="password"
          autoComplete="new-password"
          autoFocus
          required
          hint={`At least ${least} characters; a few words in a row are good.`}
          problem={busy ? null : actionData?.fault}
        />
        <Button type="submit" weight="strong" className="self-start" disabled={busy}>
          Sign in
        </Button>
      </Form>
    </Doorway>
  );
}
