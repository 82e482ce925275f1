import type { DeliveryId, PersonId } from '#core/id';
import { useState } from 'react';
import { data, Form, Link, redirect, useFetcher, useNavigation } from 'react-router';
import { isAddress } from '#core/plan/addresses';
import { byChannel } from '#core/tell/channels';
import { formatRecent } from '#core/when/format';
import { dayAt, isZone } from '#core/when/wall-clock';
import { endAccount, takeInvitationBack } from '#server/db/access/accounts';
import { listDeliveries, type OutboxRow } from '#server/db/delivery/deliveries';
import { inTransaction } from '#server/db/base/pool';
import { findReaderNow, removeReader, setReader, tryAddressAgain, type ReaderNow } from '#server/db/person/readers';
import { INVITED_LASTS } from '#server/links';
import { webhookPurpose } from '#server/deliver/channels';
import { askToConfirm, inviteToSignIn, type NotAsked } from '#server/pipeline/ask';
import { readForm, textIn } from '../../../form.server';
import { readId } from '../../../ids.server';
import type { Person } from '#server/db/person/people';
import { HoursFields } from '../../../parts/hours';
import { readHours } from '../../../parts/hours.server';
import { ChannelsFields } from '../../../parts/channels';
import { readChannels } from '../../../parts/channels.server';
import { useLive } from '../../../parts/live';
import { keepingServices, services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Button } from '../../../ui/button';
import { Confirm } from '../../../ui/confirm';
import { SelectField, TextField } from '../../../ui/field';
import { PageHead, Section, Where } from '../../../ui/page';
import { DeliveryState, editionWords } from '../../reports/outbox/route';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';
import { Reach } from './reach';
import { SigningIn } from './signing-in';

const EVERY_MS = 2_000;
const MOST_MAILS = 30;
const LONGEST_NAME = 100;

export const meta: Route.MetaFunction = ({ loaderData }) => [
  { title: `${loaderData?.reader.name ?? 'Somebody'} · Shrike` },
];

/** How numbers and dates are written for somebody: what this machine can format. */
const LOCALES = [
  'en-GB',
  'en-US',
  'de-DE',
  'de-AT',
  'de-CH',
  'fr-FR',
  'es-ES',
  'it-IT',
  'nl-NL',
  'sv-SE',
  'da-DK',
  'nb-NO',
  'fi-FI',
  'pl-PL',
  'pt-PT',
  'pt-BR',
  'en-IN',
  'ja-JP',
];

/** What a locale is called: `en-GB` is English (United Kingdom). */
const languageName = (locale: string): string =>
  new Intl.DisplayNames('en-GB', { type: 'language', languageDisplay: 'standard' }).of(locale) ?? locale;

export async function loader({ params, context }: Route.LoaderArgs) {
  const asker = asks(context, 'see', { kind: 'person' });
  const { pool } = services();
  const reader = await findReaderNow(pool, readId<PersonId>(params.person));
  if (reader === null) throw data('There is nobody of this number.', { status: 404 });
  return {
    reader,
    own: asker.id === reader.id,
    invitedUntil: reader.invitedAt === null ? null : reader.invitedAt + INVITED_LASTS,
    secret: reader.webhook === null ? null : services().secrets.derive(webhookPurpose(reader.id, reader.webhook)),
    mails: await listDeliveries(pool, { person: reader.id }, MOST_MAILS),
    zones: Intl.supportedValuesOf('timeZone'),
  };
}

interface Answer {
  problem: string | null;
  said: string | null;
}

const NOT_ASKED: Record<NotAsked, string> = {
  'no key': 'Nobody can be asked: links in mails are sealed with SHRIKE_SECRET_KEY, and none is set.',
  gone: 'This person was taken out meanwhile.',
  done: 'That was done meanwhile.',
  'asked lately': 'A mail that asks was sent within the last ten minutes. Wait a little before another one.',
};

export async function action({ request, params, context }: Route.ActionArgs): Promise<Answer | Response> {
  const asker = asks(context, 'change', { kind: 'person' });
  const form = await readForm(request);
  const id = readId<PersonId>(params.person);
  const { pool, clock, signals } = services();
  switch (form.get('intent')) {
    case 'ask': {
      const keeping = await keepingServices();
      const asked = await inTransaction(pool, (db) => askToConfirm(keeping, db, id, asker, clock()));
      signals.say('outbox');
      return asked.ok
        ? { problem: null, said: 'A mail that asks is on its way.' }
        : { problem: NOT_ASKED[asked.error], said: null };
    }
    case 'invite':
      return invite(id, asks(context, 'make', { kind: 'account' }));
    case 'take back':
      asks(context, 'end', { kind: 'account' });
      await takeInvitationBack(pool, id);
      return { problem: null, said: 'The invitation is taken back: its link leads nowhere.' };
    case 'end account':
      return shutOut(id, asks(context, 'end', { kind: 'account' }));
    case 'again':
      await tryAddressAgain(pool, id);
      signals.say('outbox');
      return { problem: null, said: 'It is tried again: what was kept back goes as one mail of each report.' };
    case 'remove':
      return takeOut(id);
    default:
      return keepSaid(id, form);
  }
}

async function invite(id: PersonId, invitedBy: Person): Promise<Answer> {
  const { pool, clock, signals } = services();
  const keeping = await keepingServices();
  const asked = await inTransaction(pool, (db) => inviteToSignIn(keeping, db, id, invitedBy, clock()));
  signals.say('outbox');
  return asked.ok
    ? { problem: null, said: 'The invitation is on its way.' }
    : { problem: NOT_ASKED[asked.error], said: null };
}

/** Ends that somebody signs in: not oneself, so that somebody always can. */
async function shutOut(id: PersonId, asker: Person): Promise<Answer> {
  if (asker.id === id) return { problem: 'Nobody shuts herself out.', said: null };
  const ended = await inTransaction(services().pool, (db) => endAccount(db, id));
  return ended
    ? { problem: null, said: 'The account has ended, and whoever was signed in with it is signed out.' }
    : { problem: 'There is no account to end, or it is the only one.', said: null };
}

/** Whether numbers and dates can be written so. */
function isLocale(name: string): boolean {
  try {
    return Intl.NumberFormat.supportedLocalesOf(name).length === 1;
  } catch {
    return false;
  }
}

/** Whether her address is what somebody signs in with: hers, or whom the configuration says. */
const signsIn = ({ account, email }: ReaderNow): boolean => account || email === services().config.signInAs;

const GONE = 'This person was taken out meanwhile.';

/** Takes somebody out, but for one who signs in: nobody is shut out here. */
async function takeOut(id: PersonId): Promise<Answer | Response> {
  const { pool, clock } = services();
  const reader = await findReaderNow(pool, id);
  if (reader !== null && !signsIn(reader) && (await inTransaction(pool, (db) => removeReader(db, id, clock()))))
    return redirect('/people');
  return { problem: reader === null ? GONE : 'Whoever signs in cannot be taken out here.', said: null };
}
const TAKEN = 'There is another person with this address.';

/** What is wrong with what is said of somebody; null where nothing is. */
function faultOf({ name, email, zone, locale }: Record<'name' | 'email' | 'zone' | 'locale', string>): string | null {
  if (name === '' || name.length > LONGEST_NAME) return `Say the name, in at most ${LONGEST_NAME} letters.`;
  if (!isAddress(email)) return 'This is not a mail address.';
  if (!isZone(zone)) return 'Say in which time zone.';
  return isLocale(locale) ? null : 'Choose how numbers and dates are written.';
}

async function keepSaid(id: PersonId, form: FormData): Promise<Answer> {
  const [name, email, zone, locale] = ['name', 'email', 'zone', 'locale'].map((field) => textIn(form, field)) as [
    string,
    string,
    string,
    string,
  ];
  const [hours, routes] = [readHours(form), readChannels(form, services().config.secretKey !== null)];
  if (!hours.ok) return { problem: hours.error, said: null };
  if (!routes.ok) return { problem: routes.error, said: null };
  const wrong = faultOf({ name, email, zone, locale });
  if (wrong !== null) return { problem: wrong, said: null };
  const reader = await findReaderNow(services().pool, id);
  if (reader === null) return { problem: GONE, said: null };
  const same = reader.email.toLowerCase() === email.toLowerCase();
  if (!same && signsIn(reader))
    return { problem: 'Whoever signs in does so with this address: it is not changed here.', said: null };
  const said = {
    name,
    email: same ? reader.email : email.toLowerCase(),
    zone,
    locale,
    ...hours.value,
    ...routes.value,
  };
  const kept = await setReader(services().pool, id, said, services().clock());
  if (!kept.ok) return { problem: kept.error === 'gone' ? GONE : TAKEN, said: null };
  return { problem: null, said: 'Kept.' };
}

export default function PersonPage({
  loaderData: { reader, own, invitedUntil, secret, mails, zones },
  actionData,
}: Route.ComponentProps) {
  useLive(['outbox'], EVERY_MS);
  const { place, now } = useReader();
  const today = dayAt(now, place.zone);
  return (
    <>
      <PageHead actions={<Actions reader={reader} />}>
        <Where within={[{ name: 'People', to: '/people' }]}>
          <h1 className="inline font-semibold text-ink">{reader.name}</h1>
        </Where>
      </PageHead>
      <p className="pt-3 font-serif text-story">
        {reader.confirmedAt === null || reader.pausedAt !== null ? (
          <Reach reader={reader} />
        ) : reader.lastSentAt === null ? (
          'The address is confirmed. No mail has gone out yet.'
        ) : (
          `The address is confirmed. The last mail went out ${formatRecent(reader.lastSentAt, now, place)}.`
        )}
      </p>
      {actionData?.problem == null && actionData?.said == null ? null : (
        <p
          role={actionData.problem === null ? 'status' : 'alert'}
          className={`pt-1 ${actionData.problem === null ? 'text-second' : 'font-medium text-chestnut'}`}
        >
          {actionData.problem ?? actionData.said}
        </p>
      )}
      <div className="grid gap-x-10 gap-y-8 pt-5 lg:grid-cols-[minmax(0,1fr)_320px]">
        <div className="flex min-w-0 flex-col gap-8">
          <Reports reader={reader} />
          <Section
            title="Mails"
            aside={
              <>
                <Link className="link" to={`/outbox?reader=${reader.id}&day=${today}`}>
                  what came today, and why not more
                </Link>
                {' · '}
                <Link className="link" to={`/outbox?reader=${reader.id}`}>
                  all
                </Link>
              </>
            }
          >
            {mails.length === 0 ? <p className="mt-1 text-second">None was ordered yet.</p> : null}
            <ul>
              {mails.map((mail) => (
                <Mail key={mail.id} mail={mail} />
              ))}
            </ul>
          </Section>
        </div>
        <div className="flex min-w-0 flex-col gap-8">
          <Settings key={reader.id} reader={reader} secret={secret} zones={zones} />
          <SigningIn reader={reader} own={own} until={invitedUntil} />
        </div>
      </div>
    </>
  );
}

function Mail({ mail }: { mail: OutboxRow & { id: DeliveryId } }) {
  const { place, now } = useReader();
  return (
    <li className="cell grid grid-cols-[minmax(0,1fr)_auto] gap-x-4">
      <Link className="truncate hover:underline" to={`/outbox/${mail.id}`}>
        {mail.subject ?? 'What is kept back'}
      </Link>
      <span className="text-right text-glance text-third">{formatRecent(mail.orderedAt, now, place)}</span>
      <span className="truncate text-glance text-third">
        {editionWords(mail)}
        {mail.number === null ? '' : `, mail ${mail.number}`}
        {byChannel(mail.route, ', ')}
      </span>
      <span className="max-w-56 truncate text-right text-glance">
        <DeliveryState row={mail} now={now} place={place} />
      </span>
    </li>
  );
}

function Reports({ reader: { name, reports, lists } }: { reader: ReaderNow }) {
  const { place, now } = useReader();
  return (
    <Section title="Reports" aside={lists.length === 0 ? undefined : `on ${lists.map(({ name }) => name).join(', ')}`}>
      {reports.length === 0 ? (
        <p className="mt-1 text-second">
          No report names {name}, nor a list with {name} on it.
        </p>
      ) : null}
      <ul>
        {reports.map(({ id, name: report, leftAt }) => (
          <li key={id} className="cell flex justify-between gap-4">
            <Link
              className={`hover:underline ${leftAt === null ? '' : 'text-third line-through'}`}
              to={`/reports/${id}`}
            >
              {report}
            </Link>
            {leftAt === null ? null : (
              <span className="text-glance text-chestnut">
                left it {formatRecent(leftAt, now, place)}; nobody else can undo that
              </span>
            )}
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** What can be done about one who cannot be reached, and with her. */
function Actions({ reader }: { reader: ReaderNow }) {
  const { submit } = useFetcher();
  const busy = useNavigation().state !== 'idle';
  const [asking, setAsking] = useState(false);
  return (
    <>
      <Form method="post" className="flex gap-2.5">
        {reader.confirmedAt === null ? (
          <Button type="submit" weight="strong" name="intent" value="ask" disabled={busy}>
            {reader.askedAt === null ? 'Ask to confirm' : 'Ask again'}
          </Button>
        ) : null}
        {reader.pausedAt === null ? null : (
          <Button type="submit" weight="strong" name="intent" value="again" disabled={busy}>
            Try the address again
          </Button>
        )}
      </Form>
      {reader.account ? null : (
        <Button weight="quiet" onClick={() => setAsking(true)}>
          Take out
        </Button>
      )}
      <Confirm
        open={asking}
        title={`Take ${reader.name} out?`}
        go="Take out"
        stay="Keep"
        onGo={() => {
          setAsking(false);
          void submit({ intent: 'remove' }, { method: 'post' });
        }}
        onStay={() => setAsking(false)}
      >
        No report reaches {reader.name} any more, and what is unsent is cancelled
        {reader.keptBack === 0 ? '' : ` (${reader.keptBack} kept back)`}. What was sent stays in the outbox.
      </Confirm>
    </>
  );
}

function Settings({ reader, secret, zones }: { reader: ReaderNow; secret: string | null; zones: string[] }) {
  const fetcher = useFetcher<typeof action>();
  const answer = fetcher.data;
  return (
    <Section title="Address and hours">
      <fetcher.Form method="post" className="mt-2 flex flex-col gap-2.5">
        <TextField label="Name" name="name" required maxLength={LONGEST_NAME} defaultValue={reader.name} />
        <TextField
          label="Address"
          name="email"
          type="email"
          required
          defaultValue={reader.email}
          hint={
            reader.confirmedAt === null ? undefined : 'Another one has to be confirmed before anything is sent to it.'
          }
        />
        <SelectField
          label="Time zone"
          name="zone"
          defaultValue={reader.zone}
          options={[...new Set([reader.zone, ...zones])].map((zone) => ({ value: zone, label: zone }))}
        />
        <SelectField
          label="Numbers and dates as in"
          name="locale"
          defaultValue={reader.locale}
          options={[...new Set([reader.locale, ...LOCALES])].map((locale) => ({
            value: locale,
            label: languageName(locale),
          }))}
        />
        <HoursFields quiet={reader.quiet} mailHour={reader.mailHour} passes={reader.passes} />
        <ChannelsFields phone={reader.phone} webhook={reader.webhook} routes={reader.routes} secret={secret} />
        {answer?.problem == null ? null : (
          <p role="alert" className="font-medium text-chestnut">
            {answer.problem}
          </p>
        )}
        <p className="flex items-center justify-between gap-3">
          <span role="status" className="text-glance text-third">
            {fetcher.state === 'idle' ? (answer?.said ?? '') : ''}
          </span>
          <Button type="submit" weight="strong" name="intent" value="keep" disabled={fetcher.state !== 'idle'}>
            Keep
          </Button>
        </p>
      </fetcher.Form>
    </Section>
  );
}
