import Joi from 'joi';
import { data, Form, redirect, useNavigation } from 'react-router';
import { hasAccounts } from '#server/db/access/accounts';
import { addFirstOwner, isFirstOwnerCode } from '#server/db/access/first-owner';
import { inTransaction } from '#server/db/base/pool';
import { hashPassword, LEAST_PASSWORD, passwordFault } from '#server/passwords';
import { Attempts } from '#server/web/attempts';
import { CAME_FROM } from '#server/web/came-from';
import { readForm, textIn, writtenIn } from '../../../form.server';
import { services } from '../../../services.server';
import { requireOwnPages, signIn } from '../../../session.server';
import { Button } from '../../../ui/button';
import { Doorway } from '../../../ui/doorway';
import { TextField } from '../../../ui/field';
import type { Route } from './+types/route';

export const meta: Route.MetaFunction = () => [{ title: 'The first owner · Shrike' }];

async function onlyAtFirst(): Promise<void> {
  const { pool, config } = services();
  if (config.signInAs !== null || (await hasAccounts(pool))) throw redirect('/');
}

export async function loader() {
  await onlyAtFirst();
  return { least: LEAST_PASSWORD };
}

const PROBLEMS = {
  name: 'Say what you are called, in at most 80 characters.',
  email: 'This is not a mail address.',
  code: 'This is not the code that was printed last. Each start prints a new one, and the ones before are void.',
};
const TOO_MANY = 'Too many attempts. Wait a quarter of an hour, then try again, or start Shrike again for a new code.';

const attempts = new Attempts();

const schema = Joi.object<{ name: string; email: string; code: string }>({
  name: Joi.string().min(1).max(80).required(),
  email: Joi.string().email({ tlds: false }).max(200).required(),
  code: Joi.string().max(100).required(),
});

type Problems = Partial<Record<keyof typeof PROBLEMS | 'password', string>>;

export async function action({ request }: Route.ActionArgs) {
  requireOwnPages(request);
  await onlyAtFirst();
  const form = await readForm(request);
  const given = { name: textIn(form, 'name'), email: textIn(form, 'email'), code: textIn(form, 'code') };
  const password = writtenIn(form, 'password');
  const { error } = schema.validate(given, { abortEarly: false });
  const fault = passwordFault(password);
  if (error !== undefined || fault !== null) {
    const wrong = (error?.details ?? []).map(({ path }) => String(path[0]) as keyof typeof PROBLEMS);
    const problems: Problems = {
      ...Object.fromEntries(wrong.map((field) => [field, PROBLEMS[field]])),
      password: fault ?? undefined,
    };
    return data({ problems, ...given }, { status: 400 });
  }
  const { pool, clock } = services();
  const place = request.headers.get(CAME_FROM) ?? '';
  const refuse = (code: string, status: number) => data({ problems: { code }, ...given }, { status });
  if (!attempts.begin(place, clock())) return refuse(TOO_MANY, 429);
  if (!(await isFirstOwnerCode(pool, given.code))) return refuse(PROBLEMS.code, 400);
  attempts.succeeded(place);
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const owner = { ...given, zone, password: await hashPassword(password) };
  const id = await inTransaction(pool, (db) => addFirstOwner(db, owner, clock()));
  if (id === null) throw redirect('/sign-in');
  return signIn(id, '/');
}

export default function FirstOwnerPage({ loaderData, actionData }: Route.ComponentProps) {
  const busy = useNavigation().state !== 'idle';
  const problems: Problems = busy ? {} : (actionData?.problems ?? {});
  return (
    <Doorway title="Nobody owns this Shrike yet">
      <p className="mt-3 text-second">
        Whoever fills this in does: she may sign in, set up watches and say who hears of what. The code shows that it
        was you who started it.
      </p>
      <Form method="post" className="mt-6 flex flex-col gap-5">
        <TextField
          label="Code"
          name="code"
          autoComplete="one-time-code"
          autoFocus
          required
          hint="It was printed where Shrike was started, by npm start: four groups of four signs."
          defaultValue={actionData?.code ?? ''}
          problem={problems.code}
        />
        <TextField
          label="Your name"
          name="name"
          autoComplete="name"
          required
          defaultValue={actionData?.name ?? ''}
          problem={problems.name}
        />
        <TextField
          label="Mail address"
          name="email"
          type="email"
          autoComplete="username"
          required
          defaultValue={actionData?.email ?? ''}
          problem={problems.email}
        />
        <TextField
          label="Password"
          name="password"
          type="password"
          autoComplete="new-password"
          required
          hint={`At least ${loaderData.least} characters; a few words in a row are good.`}
          problem={problems.password}
        />
        <Button type="submit" weight="strong" className="self-start" disabled={busy}>
          Own this Shrike
        </Button>
      </Form>
    </Doorway>
  );
}
