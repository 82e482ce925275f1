import type { AccountId } from '#core/id';
import { data, Form, redirect, useNavigation } from 'react-router';
import { findAccount, hasAccounts } from '#server/db/access/accounts';
import { isPassword } from '#server/passwords';
import { Attempts } from '#server/web/attempts';
import { CAME_FROM } from '#server/web/came-from';
import { readForm, textIn, writtenIn } from '../../../form.server';
import { services } from '../../../services.server';
import { isKnownBrowser, requireOwnPages, signIn, whoAsks } from '../../../session.server';
import { Button } from '../../../ui/button';
import { Doorway } from '../../../ui/doorway';
import { TextField } from '../../../ui/field';
import type { Route } from './+types/route';

export const meta: Route.MetaFunction = () => [{ title: 'Sign in · Shrike' }];

const attempts = new Attempts();
const LONGEST_NAME = 200;

export async function loader({ request }: Route.LoaderArgs) {
  if ((await whoAsks(request)) !== null) throw redirect('/');
  if (!(await hasAccounts(services().pool))) throw redirect('/first-owner');
  return { to: new URL(request.url).searchParams.get('to') ?? '/' };
}

export async function action({ request }: Route.ActionArgs) {
  requireOwnPages(request);
  const { pool, clock } = services();
  const form = await readForm(request);
  const email = textIn(form, 'email');
  const refuse = (problem: string, status: number) => data({ problem, email }, { status });
  const account = await findAccount(pool, email);
  const by = await triedBy(request, account?.id ?? null, email);
  if (!attempts.begin(by, clock()))
    return refuse('Too many attempts for this address. Wait a quarter of an hour, then try again.', 429);
  const fits = await isPassword(account?.password ?? null, writtenIn(form, 'password'));
  if (account === null || !fits)
    return refuse('Address and password do not belong together. Nothing says which of them is wrong.', 401);
  attempts.succeeded(by);
  return signIn(account.id, textIn(form, 'to'));
}

/**
 * Whose attempts are counted together: those for an account, however its address was written, from one place; and those
 * from a browser that is known to it by themselves.
 */
async function triedBy(request: Request, account: AccountId | null, email: string): Promise<string> {
  if (account !== null && (await isKnownBrowser(request, account))) return `known ${account}`;
  const whom = account ?? email.toLowerCase().slice(0, LONGEST_NAME);
  return `${whom} ${request.headers.get(CAME_FROM) ?? ''}`;
}

export default function SignIn({ loaderData, actionData }: Route.ComponentProps) {
  const busy = useNavigation().state !== 'idle';
  return (
    <Doorway title="Sign in">
      <Form method="post" className="mt-6 flex flex-col gap-5">
        <input type="hidden" name="to" value={loaderData.to} />
        <TextField
          label="Mail address"
          name="email"
          type="email"
          autoComplete="username"
          autoFocus
          required
          defaultValue={actionData?.email ?? ''}
        />
        <TextField
          label="Password"
          name="password"
          type="password"
          autoComplete="current-password"
          required
          problem={busy ? null : actionData?.problem}
        />
        <Button type="submit" weight="strong" className="self-start" disabled={busy}>
          Sign in
        </Button>
      </Form>
    </Doorway>
  );
}
