import type { DeliveryId } from '#core/id';
import { useEffect, useState } from 'react';
import { Form, Link, useFetcher, useNavigation } from 'react-router';
import { byChannel } from '#core/tell/channels';
import { formatRecent } from '#core/when/format';
import { dayAt } from '#core/when/wall-clock';
import type { OutboxRow } from '#server/db/delivery/deliveries';
import type { ReaderNow } from '#server/db/person/readers';
import { HoursFields } from '../../../parts/hours';
import { ChannelsFields } from '../../../parts/channels';
import { useLive } from '../../../parts/live';
import { Button } from '../../../ui/button';
import { Confirm } from '../../../ui/confirm';
import { SelectField, TextField } from '../../../ui/field';
import { PageHead, Section, Where } from '../../../ui/page';
import { DeliveryState, editionWords } from '../../../parts/delivery';
import { useReader } from '../../shell/frame/reader';
import type { action } from './act.server';
import type { Route } from './+types/route';
import { Reach } from './reach';
import { SigningIn } from './signing-in';
import { languageName, LOCALES } from './locales';
import { LONGEST_NAME } from './bounds';

const EVERY_MS = 2_000;

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
        {byChannel(mail.channel, ', ')}
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
  // What is loaded meanwhile is not what she has before her.
  const [over, setOver] = useState(reader.version);
  const kept = answer?.version;
  useEffect(() => (kept === undefined ? undefined : setOver(kept)), [kept]);
  return (
    <Section title="Address and hours">
      <fetcher.Form method="post" className="mt-2 flex flex-col gap-2.5">
        <input type="hidden" name="version" value={over} />
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
        <SelectField
          label="Where nobody knows whether a mail arrived"
          name="unknown"
          defaultValue={reader.ratherLose ? 'lose' : 'again'}
          options={[
            { value: 'again', label: 'send it again, marked' },
            { value: 'lose', label: 'rather lose it than have it twice' },
          ]}
        />
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
