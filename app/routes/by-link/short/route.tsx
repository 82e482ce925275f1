import { data } from 'react-router';
import { DAY } from '#core/when/interval';
import { findByCode } from '#server/db/delivery/deliveries';
import { services } from '../../../services.server';
import { Doorway } from '../../../ui/doorway';
import { MailSheet } from '../../../ui/mail-sheet';
import type { Route } from './+types/route';

// What a short text leads to: the whole of it, as it was sent. It needs no account; its address is unguessable, and
// ends.

export const meta: Route.MetaFunction = () => [
  { title: 'What the text told · Shrike' },
  { name: 'robots', content: 'noindex' },
];

export const headers: Route.HeadersFunction = ({ loaderHeaders }) => loaderHeaders;

/** For so long a text leads to it. */
const LASTS = 30 * DAY;
const CODE = /^[\w-]{12}$/;

export async function loader({ params }: Route.LoaderArgs) {
  const { pool, clock, pictures } = services();
  const found = CODE.test(params.code) ? await findByCode(pool, params.code, clock() - LASTS) : null;
  const told = found === null ? null : { ...found, html: await pictures.pageOf(found.html) };
  return data(
    { told },
    { status: found === null ? 404 : 200, headers: { 'referrer-policy': 'no-referrer', 'cache-control': 'no-store' } },
  );
}

export default function Short({ loaderData: { told } }: Route.ComponentProps) {
  if (told === null)
    return (
      <Doorway title="This link has ended">
        <p>What a text told can be read by its link for 30 days. Whoever signs in finds it in the outbox.</p>
      </Doorway>
    );
  return (
    <main className="mx-auto max-w-[700px]">
      <h1 className="sr-only">{told.subject}</h1>
      <MailSheet title="What the text told" html={told.html} className="h-screen w-full" />
    </main>
  );
}
