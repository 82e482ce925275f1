import { useState } from 'react';
import { useFetcher } from 'react-router';
import { formatInstant } from '#core/when/format';
import type { Instant } from '#core/when/interval';
import type { ReaderNow } from '#server/db/person/readers';
import { Button } from '../../../ui/button';
import { Confirm } from '../../../ui/confirm';
import { Section } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';

/** Whether somebody who is told signs in, too, and how she comes to, or ceases to. */
export function SigningIn({
  reader: { name, account },
  own,
  until,
}: {
  reader: ReaderNow;
  own: boolean;
  until: Instant | null;
}) {
  const { submit, state, data } = useFetcher<{ problem: string | null; said: string | null }>();
  const [asking, setAsking] = useState(false);
  const busy = state !== 'idle';
  const say = (intent: string) => void submit({ intent }, { method: 'post' });
  return (
    <Section title="Signing in">
      <p className="mt-1 text-second">{account ? accountWords(name, own) : <Invited name={name} until={until} />}</p>
      <p className="mt-2 flex gap-2.5">
        {account ? null : (
          <Button disabled={busy} onClick={() => say('invite')}>
            {until === null ? 'Invite to sign in' : 'Invite again'}
          </Button>
        )}
        {account || until === null ? null : (
          <Button weight="quiet" disabled={busy} onClick={() => say('take back')}>
            Take back
          </Button>
        )}
        {!account || own ? null : (
          <Button weight="quiet" disabled={busy} onClick={() => setAsking(true)}>
            End the account
          </Button>
        )}
      </p>
      {busy || data === undefined ? null : (
        <p
          role={data.problem === null ? 'status' : 'alert'}
          className={data.problem === null ? 'mt-1 text-second' : 'mt-1 font-medium text-chestnut'}
        >
          {data.problem ?? data.said}
        </p>
      )}
      <Confirm
        open={asking}
        title={`End the account of ${name}?`}
        go="End it"
        stay="Keep"
        onGo={() => {
          setAsking(false);
          say('end account');
        }}
        onStay={() => setAsking(false)}
      >
        {name} is signed out everywhere and cannot sign in again without another invitation. The mails go on.
      </Confirm>
    </Section>
  );
}

const accountWords = (name: string, own: boolean): string =>
  own ? 'This is you.' : `${name} signs in with this address, and may do everything here.`;

/** Whether an invitation stands, and until when. */
function Invited({ name, until }: { name: string; until: Instant | null }) {
  const { now, place } = useReader();
  if (until === null) return `${name} hears, and does not sign in.`;
  const at = formatInstant(until, 'moment', place);
  return until < now
    ? `${name} was invited; the invitation ended on ${at}.`
    : `${name} is invited; the invitation stands until ${at}.`;
}
