import { data, Form, useNavigation } from 'react-router';
import { formatInstant } from '#core/when/format';
import { inTransaction } from '#server/db/base/pool';
import { findLeaving, leaveReport, returnToReport } from '#server/db/person/readers';
import { readForm } from '../../../form.server';
import { services } from '../../../services.server';
import { Button } from '../../../ui/button';
import { Doorway } from '../../../ui/doorway';
import type { Route } from './+types/route';

export const meta: Route.MetaFunction = () => [
  { title: 'Leave a report · Shrike' },
  { name: 'robots', content: 'noindex' },
];

async function openLink(token: string) {
  const { pool, links } = services();
  const said = links.openLeave(token);
  const leaving = said === null ? null : await findLeaving(pool, said);
  return said === null || leaving === null ? null : { said, leaving };
}

const NOWHERE = 'This link is not one of ours, was cut short on its way, or has ended. Open it from a newer mail.';

/** Following a link changes nothing: whoever scans mails follows it, too. */
export async function loader({ params }: Route.LoaderArgs) {
  const opened = await openLink(params.token);
  return opened === null ? data({ leaving: null }, { status: 404 }) : data({ leaving: opened.leaving });
}

/**
 * With the button of the page; or with one click in a mail program, which posts by itself and from anywhere (RFC 8058):
 * the link is the key.
 */
export async function action({ request, params }: Route.ActionArgs) {
  const form = await readForm(request);
  const oneClick = form.get('List-Unsubscribe') === 'One-Click';
  const opened = await openLink(params.token);
  if (opened === null) return data({ problem: NOWHERE, cancelled: 0 }, { status: 404 });
  const { pool, clock, config, signals } = services();
  const { report, person } = opened.said;
  const cancelled = await inTransaction(pool, async (db) => {
    if (oneClick || form.get('intent') === 'leave') return leaveReport(db, report, person, config.mailDomain, clock());
    await returnToReport(db, report, person, clock());
    return 0;
  });
  signals.say('watches', 'outbox');
  return data({ problem: null, cancelled });
}

export default function Leave({ loaderData: { leaving }, actionData }: Route.ComponentProps) {
  const busy = useNavigation().state !== 'idle';
  if (leaving === null)
    return (
      <Doorway title="This link leads nowhere">
        <p className="mt-4 text-second" role="status">
          {NOWHERE}
        </p>
      </Doorway>
    );
  const { report, person, ended, leftAt, owner, locale, zone } = leaving;
  const cancelled = actionData?.cancelled ?? 0;
  if (ended)
    return (
      <Doorway title={`${report} has ended`}>
        <p className="mt-4 text-second">Nobody gets it any more.</p>
      </Doorway>
    );
  return (
    <Doorway title={leftAt === null ? `Leave ${report}?` : `You have left ${report}`}>
      <p className="mt-4 text-second" role="status" data-standing>
        {leftAt === null
          ? `${person}, you would get no more mails of this report. Other reports go on as they are.`
          : `Since ${formatInstant(leftAt, 'moment', { locale, zone })} no mail of it is sent to you. ` +
            `${cancelledWords(cancelled)}${owner} sees that you left, and cannot undo it. You can.`}
      </p>
      <Form method="post" className="mt-5">
        <Button
          type="submit"
          weight="strong"
          name="intent"
          value={leftAt === null ? 'leave' : 'return'}
          disabled={busy}
        >
          {leftAt === null ? 'Leave it' : 'Get it again from now on'}
        </Button>
      </Form>
    </Doorway>
  );
}

function cancelledWords(count: number): string {
  if (count === 0) return '';
  return `${count === 1 ? 'One mail that was on its way was' : `${count} mails that were on their way were`} cancelled. `;
}
