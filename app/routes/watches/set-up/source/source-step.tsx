import type { DraftId } from '#core/id';
import { useState } from 'react';
import { useFetcher } from 'react-router';
import { formatRecent } from '#core/when/format';
import type { Following, Pair, SourceRequest } from '#server/fetch/request';
import { FrequencyEditor } from '../../../../parts/plan/frequency';
import type { PlanDraft } from '#core/plan/plan';
import { Button } from '../../../../ui/button';
import { Choice, SelectField, TextField } from '../../../../ui/field';
import { Section } from '../../../../ui/page';
import { useReader } from '../../../shell/frame/reader';
import type { SourceFacts } from './facts';
import { PostedSource } from './posted';
import { useSource } from '../use-source';
import { StepsEditor } from './steps';
import { Onward } from '../onward';

interface SourceStepProps {
  draftId: DraftId;
  facts: SourceFacts;
  plan: PlanDraft;
  problem?: string;
  onChange: (change: Partial<PlanDraft>) => void;
  onGo: () => void;
}

/** The source: what came, in which way it is fetched and with what, and how often. */
export function SourceStep({ draftId, facts, plan, problem, onChange, onGo }: SourceStepProps) {
  return (
    <div className="grid gap-x-8 gap-y-8 lg:grid-cols-[minmax(0,1fr)_372px]">
      <div className="flex min-w-0 flex-col gap-7">
        {facts.way === 'posted' ? (
          <PostedSource facts={facts} />
        ) : (
          <Section title="What came">
            <Address facts={facts} />
            {facts.fetchedAt === null ? (
              <p className="mt-3 text-second">
                Nothing has come from there yet. If the site asks for a sign-in, say it under the request; if something
                stands before the page, take steps past it.
              </p>
            ) : (
              <Facts facts={facts} />
            )}
          </Section>
        )}
        {canBeRendered(facts) ? <Way facts={facts} /> : null}
        {canBeRendered(facts) ? <StepsEditor draftId={draftId} facts={facts} /> : null}
        {facts.way === 'plain' ? <Request facts={facts} /> : null}
      </div>
      <Section title={facts.way === 'posted' ? 'When it is read' : 'How often it runs'}>
        {facts.way === 'posted' ? (
          <p className="mt-1 text-second">Whenever a message comes.</p>
        ) : (
          <FrequencyEditor value={plan.frequency} problem={problem} onChange={(frequency) => onChange({ frequency })} />
        )}
        <Onward to="On to the value" ready={problem === undefined} onGo={onGo} />
      </Section>
    </div>
  );
}

/** Where it is fetched from; another address may be fetched instead, with the same request. */
function Address({ facts }: { facts: SourceFacts }) {
  const fetcher = useFetcher<{ problem: string | null }>();
  const [address, setAddress] = useState(facts.address);
  return (
    <fetcher.Form
      className="mt-2 flex items-end gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        void fetcher.submit(
          { intent: 'source', address, way: facts.way, request: JSON.stringify(facts.request) },
          { method: 'post' },
        );
      }}
    >
      <TextField
        label="Address"
        className="min-w-0 grow"
        inputMode="url"
        value={address}
        problem={fetcher.data?.problem}
        onChange={(event) => setAddress(event.target.value)}
      />
      {address === facts.address ? (
        <a className="link mb-2 shrink-0" href={facts.address} target="_blank" rel="noreferrer">
          Open it
        </a>
      ) : (
        <Button type="submit" disabled={fetcher.state !== 'idle'}>
          {fetcher.state === 'idle' ? 'Fetch this instead' : 'Fetching …'}
        </Button>
      )}
    </fetcher.Form>
  );
}

const canBeRendered = ({ isPage, way, fetchedAt }: SourceFacts) =>
  way === 'rendered' || (way === 'plain' && (isPage || fetchedAt === null));

function Facts({ facts }: { facts: SourceFacts }) {
  const { place, now } = useReader();
  const rows: [string, string][] = [
    ['Site', facts.site],
    ['Comes as', facts.format],
    ...(facts.isPage
      ? ([
          ['Says of itself', facts.title ?? '–'],
          ['Language', facts.locale ?? 'not stated; ambiguous numbers are refused'],
        ] as [string, string][])
      : []),
    [
      'Fetched',
      `${facts.fetchedAt === null ? '–' : formatRecent(facts.fetchedAt, now, place)}, ` +
        `${Math.max(1, Math.round(facts.size / 1000))} kB`,
    ],
  ];
  return (
    <table className="mt-1 w-full">
      <tbody>
        {rows.map(([name, said]) => (
          <tr key={name}>
            <th className="cell w-36 text-left font-normal text-third">{name}</th>
            <td className="cell break-words">{said}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Way({ facts }: { facts: SourceFacts }) {
  const { busy, set } = useSource();
  return (
    <Section title="How it is fetched">
      <p className="mt-1 mb-2 text-second" aria-live="polite" data-needed>
        {facts.needed?.said ??
          (facts.rendering === 'asked'
            ? 'The browser is opening the page, to compare …'
            : (facts.renderProblem ?? 'The browser has not seen it yet.'))}
      </p>
      <Choice
        label="How it is fetched"
        value={busy ? null : facts.way}
        onChange={(way) => set({ way, request: JSON.stringify(facts.request) })}
        options={[
          {
            value: 'plain',
            label: <>Plainly: quick, for pages that come whole{facts.needed?.way === 'plain' ? <Advised /> : null}</>,
          },
          {
            value: 'rendered',
            label: (
              <>
                Rendered in a browser: for pages that a script fills in
                {facts.needed?.way === 'rendered' ? <Advised /> : null}
              </>
            ),
          },
        ]}
      />
    </Section>
  );
}

const Advised = () => <span className="ml-2 text-glance text-third">what this page needs</span>;

/** Method, headers, query, body, sign-in and further pages: for data and lists that need more than an address. */
function Request({ facts }: { facts: SourceFacts }) {
  const source = useSource();
  const [request, setRequest] = useState<SourceRequest>(facts.request);
  const [secret, setSecret] = useState('');
  const set = (change: Partial<SourceRequest>) => setRequest({ ...request, ...change });
  const save = () => {
    source.set({ way: 'plain', request: JSON.stringify(withoutEmpty(request)), secret });
    // Once it is on its way it stands nowhere on this page.
    setSecret('');
  };
  return (
    <details open={facts.fetchedAt === null || JSON.stringify(facts.request) !== '{}'}>
      <summary className="cursor-pointer font-serif text-head font-medium">The request</summary>
      <div className="mt-2 flex flex-col gap-3">
        <div className="grid grid-cols-2 gap-5">
          <SelectField
            label="Method"
            value={request.method ?? 'GET'}
            options={[
              { value: 'GET', label: 'GET' },
              { value: 'POST', label: 'POST' },
            ]}
            onChange={(event) => set({ method: event.target.value as 'GET' | 'POST' })}
          />
          <SelectField
            label="Sign-in"
            value={request.signIn?.kind ?? ''}
            options={[
              { value: '', label: 'none' },
              { value: 'basic', label: 'name and password' },
              { value: 'bearer', label: 'token' },
            ]}
            onChange={(event) => set({ signIn: signInOf(event.target.value) })}
          />
        </div>
        <SignIn
          signIn={request.signIn}
          kept={facts.request.signIn !== undefined}
          secret={secret}
          onSecret={setSecret}
          onChange={(signIn) => set({ signIn })}
        />
        <Pairs label="Headers" pairs={request.headers ?? []} onChange={(headers) => set({ headers })} />
        <Pairs label="Query" pairs={request.query ?? []} onChange={(query) => set({ query })} />
        {request.method === 'POST' ? (
          <TextField
            label="Body"
            value={typeof request.body === 'string' ? request.body : ''}
            placeholder={request.body === undefined || typeof request.body === 'string' ? '' : KEPT}
            onChange={(event) => set({ body: event.target.value })}
          />
        ) : null}
        {facts.isPage ? <Follow follow={request.follow} onChange={(follow) => set({ follow })} /> : null}
        <div>
          <Button onClick={save} disabled={source.busy}>
            {source.busy ? 'Fetching …' : 'Fetch with this'}
          </Button>
        </div>
      </div>
    </details>
  );
}

interface SignInProps {
  signIn: SourceRequest['signIn'];
  kept: boolean;
  secret: string;
  onSecret: (secret: string) => void;
  onChange: (signIn: SourceRequest['signIn']) => void;
}

/** With what she signs in; what is kept sealed is not shown again. */
function SignIn({ signIn, kept, secret, onSecret, onChange }: SignInProps) {
  if (signIn === undefined) return null;
  return (
    <div className="grid grid-cols-2 gap-5">
      {signIn.kind === 'basic' ? (
        <TextField
          label="Name"
          value={signIn.user}
          onChange={(event) => onChange({ ...signIn, user: event.target.value })}
        />
      ) : null}
      <TextField
        label={signIn.kind === 'basic' ? 'Password' : 'Token'}
        type="password"
        autoComplete="new-password"
        value={secret}
        placeholder={kept ? KEPT : ''}
        onChange={(event) => onSecret(event.target.value)}
      />
    </div>
  );
}

function signInOf(kind: string): SourceRequest['signIn'] {
  const secret = { sealed: '' };
  if (kind === 'basic') return { kind, user: '', secret };
  return kind === 'bearer' ? { kind, secret } : undefined;
}

function withoutEmpty(request: SourceRequest): SourceRequest {
  const kept = {
    ...request,
    headers: request.headers?.filter((pair) => pair.name !== ''),
    query: request.query?.filter((pair) => pair.name !== ''),
  };
  return Object.fromEntries(
    Object.entries(kept).filter(
      ([, value]) => value !== undefined && value !== '' && !(Array.isArray(value) && value.length === 0),
    ),
  );
}

/** What stands in place of a secret. */
const KEPT = 'kept; never shown again';

function Pairs({ label, pairs, onChange }: { label: string; pairs: Pair[]; onChange: (pairs: Pair[]) => void }) {
  const set = (at: number, change: Partial<Pair>) =>
    onChange(pairs.map((pair, each) => (each === at ? { ...pair, ...change } : pair)));
  return (
    <div role="group" aria-label={label}>
      {pairs.map((pair, at) => (
        <div key={at} className="flex items-end gap-4">
          <TextField
            label={`${label}: name`}
            value={pair.name}
            onChange={(event) => set(at, { name: event.target.value })}
          />
          <TextField
            label="value"
            className="grow"
            value={typeof pair.value === 'string' ? pair.value : ''}
            placeholder={typeof pair.value === 'string' ? '' : KEPT}
            onChange={(event) => set(at, { value: event.target.value })}
          />
          <button
            type="button"
            className="link mb-2 text-glance"
            aria-label={`Drop ${pair.name || 'this'}`}
            onClick={() => onChange(pairs.filter((each) => each !== pair))}
          >
            Drop
          </button>
        </div>
      ))}
      <button type="button" className="link text-glance" onClick={() => onChange([...pairs, { name: '', value: '' }])}>
        {label === 'Headers' ? 'Add a header' : 'Add to the query'}
      </button>
    </div>
  );
}

const MOST_PAGES = 5;

function Follow({
  follow,
  onChange,
}: {
  follow: Following | undefined;
  onChange: (follow: Following | undefined) => void;
}) {
  return (
    <div className="grid grid-cols-[180px_minmax(0,1fr)_90px] items-end gap-5">
      <SelectField
        label="Further pages"
        value={follow?.by ?? ''}
        options={[
          { value: '', label: 'this one alone' },
          { value: 'link', label: 'by a link to the next' },
          { value: 'counter', label: 'by counting' },
        ]}
        onChange={(event) => onChange(followOf(event.target.value))}
      />
      {follow?.by === 'link' ? (
        <TextField
          label="The link (CSS)"
          value={follow.selector}
          onChange={(event) => onChange({ ...follow, selector: event.target.value })}
        />
      ) : null}
      {follow?.by === 'counter' ? (
        <TextField
          label="Counted in the query as"
          value={follow.parameter}
          onChange={(event) => onChange({ ...follow, parameter: event.target.value })}
        />
      ) : null}
      {follow === undefined ? null : (
        <TextField
          label="At most"
          type="number"
          min={2}
          max={20}
          value={follow.most}
          onChange={(event) => onChange({ ...follow, most: event.target.valueAsNumber || MOST_PAGES })}
        />
      )}
    </div>
  );
}

function followOf(by: string): Following | undefined {
  if (by === 'link') return { by, selector: 'a[rel="next"]', most: MOST_PAGES };
  return by === 'counter' ? { by, parameter: 'page', from: 1, most: MOST_PAGES } : undefined;
}
