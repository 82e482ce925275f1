import type { DeliveryId } from '#core/id';
import { useState } from 'react';
import { data, Form, Link } from 'react-router';
import { describeReason } from '#core/judge/reason';
import { describeAsked } from '#core/tell/news';
import { byChannel } from '#core/tell/channels';
import { formatInstant, formatRecent } from '#core/when/format';
import { findDelivery, requeueDelivery, type OutboxRow } from '#server/db/delivery/deliveries';
import { inTransaction } from '#server/db/base/pool';
import { useLive } from '../../../parts/live';
import { readLongId } from '../../../ids.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Button } from '../../../ui/button';
import { MailSheet } from '../../../ui/mail-sheet';
import { PageHead, Section } from '../../../ui/page';
import { DeliveryState, editionWords } from '../../../parts/delivery';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/route';

const EVERY_MS = 1_000;

export const meta: Route.MetaFunction = () => [{ title: 'A mail · Shrike' }];

export async function loader({ params, context }: Route.LoaderArgs) {
  asks(context, 'see', { kind: 'outbox' });
  const { pool, pictures } = services();
  const delivery = await findDelivery(pool, readLongId<DeliveryId>(params.delivery));
  if (delivery === null) throw data('There is no such mail.', { status: 404 });
  return { delivery: { ...delivery, html: delivery.html === null ? null : await pictures.pageOf(delivery.html) } };
}

export async function action({ params, context }: Route.ActionArgs) {
  asks(context, 'change', { kind: 'outbox' });
  const { pool, jobs, clock, signals } = services();
  const queue = await jobs();
  const id = readLongId<DeliveryId>(params.delivery);
  const again = await inTransaction(pool, async (db) => {
    const requeued = await requeueDelivery(db, id, clock());
    if (requeued) await queue.enqueueMail(db, [id]);
    return requeued;
  });
  signals.say('outbox');
  return { again };
}

/** Its number for its reader, and by which channel it goes where that is not mail: `, mail 87, by a short text`. */
const numberWords = ({ number, channel }: Pick<OutboxRow, 'number' | 'channel'>): string =>
  `${number === null ? '' : `, mail ${number}`}${byChannel(channel, ', ')}`;

export default function Delivery({ loaderData, actionData }: Route.ComponentProps) {
  useLive(['outbox'], EVERY_MS);
  const { delivery } = loaderData;
  const { place, now } = useReader();
  const [plain, setPlain] = useState(false);
  const stuck =
    delivery.state === 'refused' ||
    (delivery.state === 'given up' && delivery.reason === null) ||
    (delivery.state === 'queued' && delivery.attempts > 0);
  return (
    <>
      <PageHead
        actions={
          stuck ? (
            <Form method="post">
              <Button type="submit">{actionData?.again ? 'Queued' : 'Send again now'}</Button>
            </Form>
          ) : undefined
        }
      >
        <Link className="link text-third" to="/outbox">
          Outbox
        </Link>
        <span className="text-third">/</span>
        <h1 className="min-w-0 truncate">{delivery.subject ?? 'What is kept back'}</h1>
      </PageHead>
      <div className="grid gap-x-9 gap-y-6 pt-4 lg:grid-cols-[minmax(0,1fr)_300px]">
        <div>
          <div className="mb-2 flex gap-4">
            {[false, true].map((as) => (
              <button
                key={String(as)}
                type="button"
                aria-pressed={plain === as}
                onClick={() => setPlain(as)}
                className="border-b-2 border-transparent text-third hover:text-ink aria-pressed:border-chestnut aria-pressed:font-semibold aria-pressed:text-ink"
              >
                {as ? 'Plain text' : 'HTML'}
              </button>
            ))}
          </div>
          {delivery.plain === null ? (
            <NoWords delivery={delivery} />
          ) : plain || delivery.html === null ? (
            <pre className="border border-rule p-4 font-mono text-glance whitespace-pre-wrap">{delivery.plain}</pre>
          ) : (
            <MailSheet title="The mail" html={delivery.html} className="h-[560px] w-full" />
          )}
        </div>
        <div className="flex flex-col gap-6">
          <Section title="Delivery">
            <p className="mt-1">
              To{' '}
              <Link className="hover:underline" to={`/people/${delivery.personId}`}>
                {delivery.person}
              </Link>
              , {delivery.address}
              {numberWords(delivery)}
            </p>
            <Covered delivery={delivery} />
            <p className="mt-1 break-words">
              <DeliveryState row={delivery} now={now} place={place} />
            </p>
            <p className="mt-1 text-glance break-all text-third">{delivery.messageId}</p>
            {delivery.state === 'sent' && delivery.channel === 'mail' ? (
              <p className="mt-1 text-glance">
                <a className="link" href={`/outbox/${delivery.id}/eml`} download>
                  Take it along as a mail file
                </a>
              </p>
            ) : null}
          </Section>
          <WhyItWasSent tells={delivery.tells} tellsMore={delivery.tellsMore} />
          <Section title="Attempts">
            {delivery.attemptsMade.length === 0 ? <p className="mt-1 text-second">None yet.</p> : null}
            <ol>
              {delivery.attemptsMade.map((attempt) => (
                <li key={attempt.attempt} className="cell">
                  <span className="text-glance text-third" title={formatInstant(attempt.startedAt, 'exact', place)}>
                    {formatRecent(attempt.startedAt, now, place)}
                  </span>{' '}
                  {attempt.outcome ?? 'under way'}
                  {attempt.response === null ? null : (
                    <span className="block text-glance break-words text-second">“{attempt.response.trim()}”</span>
                  )}
                </li>
              ))}
            </ol>
          </Section>
        </div>
      </div>
    </>
  );
}

/** The editions that it covers: one as a rule, more of what was kept back. */
function Covered({ delivery }: { delivery: Route.ComponentProps['loaderData']['delivery'] }) {
  const { place, now } = useReader();
  const { covers } = delivery;
  const [only] = covers;
  if (only === undefined || covers.length === 1)
    return (
      <p className="text-second">
        {only === undefined ? (
          editionWords(delivery)
        ) : (
          <Link className="link" to={`/editions/${only.id}`}>
            {editionWords(delivery)}
          </Link>
        )}
      </p>
    );
  return (
    <details>
      <summary className="cursor-pointer text-second">{editionWords(delivery)}</summary>
      <ul className="max-h-80 overflow-y-auto text-glance text-third">
        {covers.map(({ id, number, madeAt }) => (
          <li key={id}>
            <Link className="link" to={`/editions/${id}`}>
              edition {number}
            </Link>
            , {formatRecent(madeAt, now, place)}
          </li>
        ))}
      </ul>
    </details>
  );
}

/** What of it was raised, and why, each with the way to its trail and its rule. */
function WhyItWasSent({
  tells,
  tellsMore,
}: Pick<Route.ComponentProps['loaderData']['delivery'], 'tells' | 'tellsMore'>) {
  const { place } = useReader();
  if (tells.length === 0) return null;
  return (
    <Section title="Why there is this mail">
      <ul data-why>
        {tells.map(({ alert, watch, rule, live, change, news, reason }) => (
          <li key={alert} className="cell">
            <span className="font-medium">{describeAsked(news, place.locale)}</span>
            {news.told?.what === 'escalation' ? (
              <span className="block text-second">nobody had taken it on</span>
            ) : null}
            {reason === null ? null : <span className="block text-second">{describeReason(reason, place)}</span>}
            <span className="flex gap-3 text-glance">
              {change === null ? null : (
                <Link className="link text-third" to={`/watches/${watch}?change=${change}`}>
                  its trail
                </Link>
              )}
              {live ? (
                <Link className="link text-third" to={`/watches/${watch}/rules/${rule}`}>
                  the rule
                </Link>
              ) : null}
            </span>
          </li>
        ))}
      </ul>
      {tellsMore ? <p className="pt-1 text-glance text-third">and more, which the mail itself says</p> : null}
    </Section>
  );
}

/** Why a delivery has no words: it gathers still, or they were let go. */
function NoWords({
  delivery: { state, person },
}: {
  delivery: Pick<Route.ComponentProps['loaderData']['delivery'], 'state' | 'person'>;
}) {
  if (state === 'kept back')
    return (
      <p className="text-second">
        It has no words yet: what it gathers becomes one mail when it may go to {person}. Each of its editions is read
        on the right.
      </p>
    );
  return (
    <p className="text-second">
      Its words were let go: mails are kept for a time that is chosen under{' '}
      <Link className="link" to="/retention">
        Retention
      </Link>
      . Its edition, where that is kept longer, is read on the right.
    </p>
  );
}
