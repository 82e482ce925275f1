import type { EditionId } from '#core/id';
import type { ReactNode } from 'react';
import { data, Link } from 'react-router';
import { heldAgainst } from '#core/tell/edition/against';
import type { EditionDocument } from '#core/tell/edition/document';
import { shareWords } from '#core/tell/edition/words';
import { byChannel } from '#core/tell/channels';
import { FILE_FORMS } from '#core/tell/definition';
import { describeReasonOf } from '#core/tell/delivery';
import { formatInstant } from '#core/when/format';
import { editionBefore, findEdition } from '#server/db/report/editions';
import { placeOf } from '#server/db/person/people';
import { readLongId, readNumber } from '../../../ids.server';
import { useLive } from '../../../parts/live';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { ButtonLink } from '../../../ui/button';
import { MailSheet } from '../../../ui/mail-sheet';
import { PageHead, Section, Where } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';
import { AgainstBefore } from './against';
import { EveryLine } from './every-line';
import { pageOfLines } from './lines.server';
import { editionMail } from '../../../parts/edition-mail.server';

const EVERY_MS = 2_000;

export const meta: Route.MetaFunction = ({ loaderData }) => [
  {
    title: `${loaderData === undefined ? 'An edition' : `${loaderData.edition.name}, edition ${loaderData.edition.number}`} · Shrike`,
  },
];

export async function loader({ params, request, context }: Route.LoaderArgs) {
  const person = asks(context, 'see', { kind: 'report' });
  const found = await findEdition(services().pool, readLongId<EditionId>(params.edition));
  if (found === null) throw data('There is no such edition.', { status: 404 });
  const { document, order: _, fromSeq: __, toSeq: ___, alerts: ____, notices: _____, ...edition } = found;
  const asked = new URL(request.url).searchParams;
  const against = document !== null && asked.has('against') ? await heldAgainstBefore(found.id, document) : null;
  const lines =
    document !== null && asked.has('lines')
      ? await pageOfLines(found, readNumber(asked.get('page')), placeOf(person))
      : null;
  return {
    against,
    lines,
    edition,
    isTable: document !== null,
    part: shareWords(document?.share ?? null),
    // Only what is shown is written and drawn.
    html:
      against === null && lines === null
        ? await services().pictures.pageOf(editionMail(found, { ...person, place: placeOf(person) }).html)
        : '',
  };
}

/** The edition against the one before, of the same part; null where there is none. */
async function heldAgainstBefore(id: EditionId, document: EditionDocument) {
  const before = await editionBefore(services().pool, id);
  return before === null
    ? { number: null, rows: [] }
    : { number: before.number, rows: heldAgainst(before.document, document) };
}

const FORMS = [...FILE_FORMS, 'html', 'txt'] as const;

export default function Edition({
  loaderData: { edition, isTable, part, html, against, lines },
}: Route.ComponentProps) {
  // What an edition tells does not move any more.
  useLive(lines === null ? ['outbox'] : [], EVERY_MS);
  const { place } = useReader();
  const { id, report, name, number, madeAt, fromAt, before, after, deliveries, ended } = edition;
  const within = [{ name: 'Reports', to: '/reports' }, ...(ended ? [] : [{ name, to: `/reports/${report}` }])];
  return (
    <>
      <PageHead
        actions={
          <>
            {before === null ? null : <ButtonLink to={`/editions/${before}`}>The one before</ButtonLink>}
            {after === null ? null : <ButtonLink to={`/editions/${after}`}>The next</ButtonLink>}
          </>
        }
      >
        <Where within={within}>
          {ended ? `${name}, ` : ''}edition {number}
          {part === '' ? '' : `, ${part}`}
        </Where>
        <h1 className="sr-only">
          {name}, edition {number}
        </h1>
      </PageHead>
      <div className="grid gap-x-9 gap-y-6 pt-4 lg:grid-cols-[minmax(0,1fr)_300px]">
        <div>
          {isTable ? (
            <nav aria-label="How it is shown" className="mb-2 flex gap-4">
              <Way to="?" current={against === null && lines === null}>
                As it reads
              </Way>
              <Way to="?lines" current={lines !== null}>
                Every line
              </Way>
              <Way to="?against" current={against !== null}>
                Against the one before
              </Way>
            </nav>
          ) : null}
          {lines !== null ? (
            <EveryLine lines={lines} />
          ) : against === null ? (
            <MailSheet title="The edition" html={html} className="h-[max(40rem,calc(100dvh-9rem))] w-full" />
          ) : (
            <AgainstBefore before={against.number} now={number} rows={against.rows} />
          )}
        </div>
        <div className="flex flex-col gap-6">
          <Section title="Covers">
            <p className="mt-1 text-second">
              {fromAt === null ? '' : `${formatInstant(fromAt, 'moment', place)} to `}
              {formatInstant(madeAt, 'moment', place)}
            </p>
          </Section>
          <Section title="Who got it">
            {deliveries.length === 0 ? <p className="mt-1 text-second">Nobody.</p> : null}
            <ul data-deliveries>
              {deliveries.map(({ id: delivery, person, channel, number: nth, state, reason }) => (
                <li key={delivery} className="cell">
                  <Link className="link" to={`/outbox/${delivery}`}>
                    {person}
                    {nth === null ? '' : `, mail ${nth}`}
                    {byChannel(channel, ', ')}
                  </Link>{' '}
                  <span className={state === 'sent' ? 'text-second' : 'font-medium text-chestnut'}>
                    {state}
                    {reason === null ? '' : `: ${describeReasonOf(reason)}`}
                  </span>
                  {nth === null || channel === 'webhook' ? null : (
                    <a
                      className="link float-right text-glance text-second"
                      href={`/outbox/${delivery}/eml`}
                      download
                      aria-label={`The mail to ${person} as a file`}
                    >
                      .eml
                    </a>
                  )}
                </li>
              ))}
            </ul>
          </Section>
          <Section title="Take it along">
            <p className="mt-1 flex flex-wrap gap-x-4">
              {FORMS.map((form) => (
                <a key={form} className="link" href={`/editions/${id}/as/${form}`} download>
                  {form === 'txt' ? 'plain text' : form.toUpperCase()}
                </a>
              ))}
            </p>
            {isTable ? (
              <p className="mt-1 text-glance text-third">
                CSV, XLSX and JSON hold every line, also those that the mail has no room for.
              </p>
            ) : null}
          </Section>
        </div>
      </div>
    </>
  );
}

function Way({ to, current, children }: { to: string; current: boolean; children: ReactNode }) {
  return (
    <Link
      to={to}
      replace
      preventScrollReset
      aria-current={current ? 'page' : undefined}
      className="border-b-2 border-transparent text-third hover:text-ink aria-[current]:border-chestnut aria-[current]:font-semibold aria-[current]:text-ink"
    >
      {children}
    </Link>
  );
}
