import { randomUUID } from 'node:crypto';
import { Form, useNavigation } from 'react-router';
import type { OutgoingMail } from '#server/deliver/mail';
import { tryServer } from '#server/deliver/mail-trial';
import { inTransaction } from '#server/db/base/pool';
import { holdQuotas, listQuotas, setQuota, spendings } from '#server/db/delivery/quotas';
import type { Person } from '#server/db/person/people';
import { mailSettingsOf } from '#server/work/services';
import { mayKeep, MEANWHILE } from '../../../parts/as-seen';
import { readForm, writtenIn } from '../../../form.server';
import { readNumber } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Button } from '../../../ui/button';
import { PageHead, Section } from '../../../ui/page';
import type { Route } from './+types/route';
import { boundOf, Quotas } from './quotas';
import { readQuota } from './quotas.server';
import { dkimRecord } from './dkim.server';

export const meta: Route.MetaFunction = () => [{ title: 'Mail · Shrike' }];

/** Where mail goes out, as it is configured; passwords and keys are not among it. */
export async function loader({ context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'host' });
  const { config, pool, clock } = services();
  const { servers, signing, from } = mailSettingsOf(config);
  return {
    allowances: await listQuotas(pool),
    spent: (await spendings(pool, clock())).map(({ owner: _, ...spent }) => spent),
    from,
    to: person.email,
    gateway: config.textGateway,
    servers: servers.map(({ host, port, security, signIn }) => ({ host, port, security, user: signIn?.user ?? null })),
    signing:
      signing === null ? null : { domain: signing.domain, selector: signing.selector, record: dkimRecord(signing.key) },
  };
}

interface Answer {
  server: number;
  dialogue: string[];
  said: string | null;
  problem: string | null;
}

const NO_SERVER = -1;

/** Bounds how much may go out; whoever says so is told before it is spent. */
async function bound(form: FormData, person: Person): Promise<Answer> {
  const read = readQuota(form);
  const answer = { server: NO_SERVER, dialogue: [] };
  if (!read.ok) return { ...answer, said: null, problem: read.error };
  const { pool, clock } = services();
  const { of, said } = read.value;
  const kept = await inTransaction(pool, async (db) => {
    const now = (await holdQuotas(db)).find((each) => each.of === of);
    if (!mayKeep(boundOf(now), boundOf(said), writtenIn(form, 'was'))) return false;
    await setQuota(db, of, said, person.id, clock());
    return true;
  });
  if (!kept) return { ...answer, said: null, problem: MEANWHILE };
  return { ...answer, said: 'Kept.', problem: null };
}

/** Sends whoever asks a mail through one server, and shows what both sides said. */
export async function action({ request, context }: Route.ActionArgs): Promise<Answer> {
  const person = asks(context, 'change', { kind: 'host' });
  const form = await readForm(request);
  if (form.get('intent') === 'bound') return bound(form, person);
  const { config } = services();
  const { servers, signing, from } = mailSettingsOf(config);
  const place = readNumber(form.get('server'));
  const server = servers[place];
  if (server === undefined)
    return {
      server: place,
      dialogue: [],
      said: null,
      problem: 'There is no such server any more. Load the page again.',
    };
  const words =
    `This is a trial of ${server.host}:${server.port}, sent by ${person.name} from Shrike. Nothing else depends on ` +
    'it.';
  const mail: OutgoingMail = {
    messageId: `<trial.${randomUUID()}@${config.mailDomain}>`,
    to: { name: person.name, address: person.email },
    subject: 'A trial of the mail server',
    html: null,
    text: `${words}\n`,
    leave: null,
    thread: [],
    files: [],
    list: null,
    sentAgain: false,
  };
  const { dialogue, end } = await tryServer(server, signing, from, mail);
  return end.ok
    ? { server: place, dialogue, said: `Taken: ${end.value}`, problem: null }
    : { server: place, dialogue, said: null, problem: `Not taken: ${end.error}` };
}

const SAID = {
  tls: 'TLS from the first byte',
  starttls: 'TLS by STARTTLS, or nothing',
  offered: 'TLS where the server offers it',
  none: 'in the open',
} as const;

export default function MailPage({ loaderData, actionData }: Route.ComponentProps) {
  const { from, to, servers, signing, gateway, allowances, spent } = loaderData;
  const busy = useNavigation().state !== 'idle';
  return (
    <>
      <PageHead>
        <h1 className="font-serif text-day font-medium">Mail</h1>
        <span className="text-glance text-third">where mails go out, and how many at most</span>
      </PageHead>
      <p className="pt-3 font-serif text-story">From {from}.</p>
      <div className="grid gap-x-10 gap-y-8 pt-4 lg:grid-cols-[minmax(0,1fr)_320px]">
        <div className="flex min-w-0 flex-col gap-6">
          {servers.map(({ host, port, security, user }, place) => (
            <Section key={`${host}:${port}`} title={place === 0 ? 'The server' : 'The one to fall back on'}>
              <div className="mt-1 flex flex-wrap items-center justify-between gap-3">
                <p>
                  <strong className="font-semibold">
                    {host}:{port}
                  </strong>
                  , {SAID[security]}, {user === null ? 'without signing in' : `signs in as ${user}`}
                </p>
                <Form method="post">
                  <input type="hidden" name="server" value={place} />
                  <Button type="submit" disabled={busy}>
                    Send me a mail through it
                  </Button>
                </Form>
              </div>
              {actionData?.server === place ? <Dialogue answer={actionData} /> : null}
            </Section>
          ))}
          <p className="text-second">
            The servers are set where Shrike is started. A trial goes to {to}. Where the first server cannot be reached,
            or takes nothing just now, mails go by the second.
          </p>
          <Quotas allowances={allowances} spent={spent} />
        </div>
        <div className="flex flex-col gap-6">
          <Section title="Signed">
            {signing === null ? (
              <p className="mt-1 text-second">Mails are not signed (DKIM): set SHRIKE_DKIM_KEY to a key’s file.</p>
            ) : (
              <>
                <p className="mt-1">
                  With DKIM, for {signing.domain}. Its name server is to say, for{' '}
                  <span className="font-medium break-all">
                    {signing.selector}._domainkey.{signing.domain}
                  </span>
                  :
                </p>
                <code className="mt-1 block text-glance break-all">{signing.record}</code>
              </>
            )}
          </Section>
          <Section title="Short texts">
            <p className="mt-1 text-second">
              {gateway === null
                ? 'There is no gateway: set SHRIKE_TEXT_GATEWAY to its domain.'
                : `Through the gateway at ${gateway}.`}
            </p>
          </Section>
        </div>
      </div>
    </>
  );
}

function Dialogue({ answer: { dialogue, said, problem } }: { answer: Answer }) {
  return (
    <>
      <p
        role={problem === null ? 'status' : 'alert'}
        className={`pt-2 ${problem === null ? 'text-second' : 'font-medium text-chestnut'}`}
      >
        {said ?? problem}
      </p>
      <pre className="mt-2 border border-rule p-3 font-mono text-glance whitespace-pre-wrap" data-dialogue>
        {dialogue.join('\n')}
      </pre>
    </>
  );
}
