import { useFetcher } from 'react-router';
import { formatRecent } from '#core/when/format';
import { Button } from '../../../../ui/button';
import { Section } from '../../../../ui/page';
import { useReader } from '../../../shell/frame/reader';
import type { SourceFacts } from './facts';

/** The signed address that another program posts to: where, with which secret, how, and what has come so far. */
export function PostedSource({ facts }: { facts: SourceFacts }) {
  const { place, now } = useReader();
  const fetcher = useFetcher<{ problem: string | null; secret?: string }>();
  const { data } = fetcher;
  return (
    <>
      <Section title="Where to post">
        <p className="mt-2 font-medium break-all" data-posting-address>
          {facts.address}
        </p>
        <p className="mt-1 text-second">
          A POST of JSON, CSV, SenML, metrics or a feed starts a run at once. The same message id is taken once.
        </p>
      </Section>
      <Section title="The secret it is signed with">
        {data?.secret === undefined ? (
          <p className="mt-1 text-second">
            {facts.hasSecret
              ? 'It is kept sealed and never shown again. A new one puts the old out of use.'
              : 'None yet: nothing is taken until there is one.'}
          </p>
        ) : (
          <>
            <p className="mt-1 font-mono break-all" data-secret>
              {data.secret}
            </p>
            <p className="mt-1 text-glance text-third">Copy it now: it is not shown again.</p>
          </>
        )}
        {data?.problem ? (
          <p role="alert" className="mt-1 font-medium text-chestnut">
            {data.problem}
          </p>
        ) : null}
        <Button
          className="mt-2"
          disabled={fetcher.state !== 'idle'}
          onClick={() => void fetcher.submit({ intent: 'secret' }, { method: 'post' })}
        >
          {facts.hasSecret ? 'Make a new secret' : 'Make the secret'}
        </Button>
      </Section>
      <Section title="How to sign">
        <pre
          className="mt-2 border border-rule bg-paper p-3 text-glance break-all whitespace-pre-wrap"
          data-example
        >{`id=$(uuidgen); time=$(date +%s)
signature=$( (printf '%s.%s.' "$id" "$time"; cat readings.json) \\
  | openssl dgst -sha256 -hmac "$SECRET" -hex | sed 's/.* //')
curl --data-binary @readings.json -H 'content-type: application/json' \\
  -H "shrike-message-id: $id" -H "shrike-time: $time" \\
  -H "shrike-signature: sha256=$signature" ${facts.address}`}</pre>
      </Section>
      <p role="status" className="font-medium" data-posted>
        {facts.fetchedAt === null
          ? 'Waiting for the first message …'
          : `A message came ${formatRecent(facts.fetchedAt, now, place)}: ${facts.format}, ` +
            `${Math.max(1, Math.round(facts.size / 1000))} kB.`}
      </p>
    </>
  );
}
