import type { DeliveryId, ReportId } from '#core/id';
import { data, Form, Link, useNavigation } from 'react-router';
import { formatInstant, formatRecent } from '#core/when/format';
import { findDelivery, listDeliveries } from '#server/db/delivery/deliveries';
import { placeOf } from '#server/db/person/people';
import { inTransaction } from '#server/db/base/pool';
import { closeOwnPage, findReaderNow, leaveReport, returnToReport, setHours } from '#server/db/person/readers';
import { readForm } from '../../../form.server';
import { readId, readLongId } from '../../../ids.server';
import { HoursFields } from '../../../parts/hours';
import { LocaleContext } from '../../../ui/locale';
import { readHours } from '../../../parts/hours.server';
import { services } from '../../../services.server';
import { Button } from '../../../ui/button';
import { Doorway } from '../../../ui/doorway';
import { MailSheet } from '../../../ui/mail-sheet';
import { Section } from '../../../ui/page';
import type { Route } from './+types/route';

// A reader's own page: what she got, as it was sent, and what she wants to get. It needs no account; its link ends, and
// can be ended.

export const meta: Route.MetaFunction = () => [
  { title: 'Your mails · Shrike' },
  { name: 'robots', content: 'noindex' },
];

const MOST_MAILS = 100;

async function openLink(token: string) {
  const { pool, links, clock } = services();
  const said = links.openOwnPage(token);
  if (said === null || said.until < clock()) return null;
  return findReaderNow(pool, said.person, said.page);
}

export async function loader({ request, params }: Route.LoaderArgs) {
  const reader = await openLink(params.token);
  if (reader === null) return data({ page: null }, { status: 404 });
  const { pool, clock, pictures } = services();
  const asked = readLongId<DeliveryId>(new URL(request.url).searchParams.get('mail'));
  const mails = await listDeliveries(pool, { person: reader.id, states: ['sent'] }, MOST_MAILS);
  const opened = mails.some(({ id }) => id === asked) ? await findDelivery(pool, asked) : null;
  return data({
    page: {
      reader: {
        name: reader.name,
        reports: reader.reports,
        quiet: reader.quiet,
        mailHour: reader.mailHour,
        passes: reader.passes,
      },
      place: placeOf(reader),
      now: clock(),
      mails: mails.map(({ id, subject, number, report, sentAt }) => ({
        id,
        subject,
        number,
        report: report?.name ?? null,
        sentAt,
      })),
      opened: opened === null ? null : { subject: opened.subject, html: await pictures.pageOf(opened.html ?? '') },
    },
  });
}

export async function action({ request, params }: Route.ActionArgs) {
  const reader = await openLink(params.token);
  if (reader === null) throw data('This link has ended.', { status: 404 });
  const form = await readForm(request);
  const { pool, clock, config, signals } = services();
  const report = readId<ReportId>(form.get('report'));
  const isHers = reader.reports.some(({ id }) => id === report);
  switch (form.get('intent')) {
    case 'leave':
      if (isHers) await inTransaction(pool, (db) => leaveReport(db, report, reader.id, config.mailDomain, clock()));
      break;
    case 'return':
      if (isHers) await returnToReport(pool, report, reader.id, clock());
      break;
    case 'close':
      await closeOwnPage(pool, reader.id);
      break;
    default: {
      const hours = readHours(form);
      if (!hours.ok) return { problem: hours.error, kept: false };
      await setHours(pool, reader.id, hours.value, clock());
      return { problem: null, kept: true };
    }
  }
  signals.say('watches', 'outbox');
  return { problem: null, kept: false };
}

export default function Reader({ loaderData: { page }, actionData }: Route.ComponentProps) {
  if (page === null)
    return (
      <Doorway title="This link leads nowhere">
        <p className="mt-4 text-second" role="status">
          It is not one of ours, was cut short on its way, or has ended. Every mail that you get has a new one at its
          foot.
        </p>
      </Doorway>
    );
  return <OwnPage page={page} problem={actionData?.problem ?? null} kept={actionData?.kept ?? false} />;
}

type Page = NonNullable<Route.ComponentProps['loaderData']['page']>;

function OwnPage({
  page: { reader, place, now, mails, opened },
  problem,
  kept,
}: {
  page: Page;
  problem: string | null;
  kept: boolean;
}) {
  return (
    <main className="mx-auto max-w-[1080px] px-5 pt-8 pb-16">
      <header className="flex flex-wrap items-baseline justify-between gap-x-6 border-b-2 border-ink pb-2">
        <h1 className="font-serif text-lead font-medium">What Shrike sent to {reader.name}</h1>
        <p className="flex items-center gap-2.5 font-serif text-head">
          <img src="/favicon.svg" alt="" width="22" height="16" />
          Shrike
        </p>
      </header>
      <div className="grid gap-x-10 gap-y-8 pt-5 md:grid-cols-[minmax(0,1fr)_300px]">
        <div className="min-w-0">
          {opened === null ? null : (
            <section className="mb-6">
              <p className="mb-2 flex items-baseline justify-between gap-4">
                <span className="min-w-0 truncate font-medium">{opened.subject}</span>
                <Link className="link shrink-0 text-glance" to="?">
                  Close
                </Link>
              </p>
              <MailSheet title="The mail" html={opened.html} className="h-[560px] w-full" />
            </section>
          )}
          <Section title="Mails" aside={mails.length === MOST_MAILS ? `the latest ${MOST_MAILS}` : undefined}>
            {mails.length === 0 ? (
              <p className="mt-1 text-second">
                None yet. The first comes when a report that names you has something to tell.
              </p>
            ) : null}
            <ul>
              {mails.map(({ id, subject, number, report, sentAt }) => (
                <li key={id} className="cell flex items-baseline justify-between gap-4">
                  <span className="min-w-0">
                    <Link className="block truncate hover:underline" to={`?mail=${id}`}>
                      {subject}
                    </Link>
                    <span className="text-glance text-third">
                      {report === null ? 'from Shrike itself' : `${report}, mail ${number}`}
                    </span>
                  </span>
                  <span
                    className="shrink-0 text-glance text-third"
                    title={sentAt === null ? undefined : formatInstant(sentAt, 'exact', place)}
                  >
                    {sentAt === null ? '' : formatRecent(sentAt, now, place)}
                  </span>
                </li>
              ))}
            </ul>
          </Section>
        </div>
        <div className="flex flex-col gap-8">
          <Section title="Your reports">
            {reader.reports.length === 0 ? <p className="mt-1 text-second">No report names you.</p> : null}
            <ul>
              {reader.reports.map((report) => (
                <OwnReport key={report.id} report={report} place={place} now={now} />
              ))}
            </ul>
          </Section>
          <Section title="When to write to you">
            <Form method="post" className="mt-2">
              <LocaleContext value={place.locale}>
                <HoursFields quiet={reader.quiet} mailHour={reader.mailHour} passes={reader.passes} />
              </LocaleContext>
              {problem === null ? null : (
                <p role="alert" className="mt-1 font-medium text-chestnut">
                  {problem}
                </p>
              )}
              <p className="mt-3 flex items-center justify-between">
                <span role="status" className="text-glance text-third">
                  {kept ? 'Kept.' : `Times are of ${place.zone}.`}
                </span>
                <Button type="submit" weight="strong" name="intent" value="hours">
                  Keep
                </Button>
              </p>
            </Form>
          </Section>
          <Section title="This page">
            <p className="mt-1 text-glance text-third">
              Whoever has its link can read it. A link ends 90 days after its mail; you can end all of them now, with
              those that leave a report, and the next mail brings new ones.
            </p>
            <Form method="post" className="mt-2">
              <Button type="submit" name="intent" value="close">
                End all links of mails so far
              </Button>
            </Form>
          </Section>
        </div>
      </div>
    </main>
  );
}

function OwnReport({
  report: { id, name, leftAt },
  place,
  now,
}: {
  report: Page['reader']['reports'][number];
  place: Page['place'];
  now: number;
}) {
  const busy = useNavigation().state !== 'idle';
  return (
    <li className="cell flex items-baseline justify-between gap-3">
      <span className="min-w-0">
        <span className={leftAt === null ? '' : 'text-third'}>{name}</span>
        {leftAt === null ? null : (
          <span className="block text-glance text-third">left {formatRecent(leftAt, now, place)}</span>
        )}
      </span>
      <Form method="post">
        <input type="hidden" name="report" value={id} />
        <button
          className="link text-glance"
          name="intent"
          value={leftAt === null ? 'leave' : 'return'}
          disabled={busy}
          aria-label={`${leftAt === null ? 'Leave' : 'Get again'} ${name}`}
        >
          {leftAt === null ? 'Leave' : 'Get it again'}
        </button>
      </Form>
    </li>
  );
}
