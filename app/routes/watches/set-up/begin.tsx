import type { DraftId, PersonId } from '#core/id';
import { randomBytes } from 'node:crypto';
import { Form, Link, redirect, useNavigation } from 'react-router';
import type { Offer } from '#core/read/inspect/offer';
import { cut } from '#core/value/sanitise';
import { formatRecent } from '#core/when/format';
import { beginDraft, dropDraft, findFreshDraft, listDrafts } from '#server/db/watch/drafts';
import { inTransaction } from '#server/db/base/pool';
import { makePosting } from '#server/db/source/postings';
import type { Person } from '#server/db/person/people';
import { webAddress } from '#server/fetch/web-address';
import { describeFetchProblem } from '#server/fetch/problem';
import { emptyPlan, type PlanDraft } from '#core/plan/plan';
import { readForm, writtenIn } from '../../../form.server';
import { readId } from '../../../ids.server';
import { lastDayOfNew } from '../../../parts/plan/last-day.server';
import { services } from '../../../services.server';
import { asks } from '../../../session.server';
import { Button } from '../../../ui/button';
import { TextField } from '../../../ui/field';
import { PageHead, Section } from '../../../ui/page';
import { useReader } from '../../shell/frame/reader';
import type { Route } from './+types/begin';
import { askPreview, fetchPlainly } from './actions.server';

export const meta: Route.MetaFunction = () => [{ title: 'New watch · Shrike' }];

export async function loader({ context }: Route.LoaderArgs) {
  const drafts = await listDrafts(services().pool, asks(context, 'see', { kind: 'draft', maker: null }).id);
  return {
    drafts: drafts.map(({ id, address, content, updatedAt }) => ({ id, address, subject: content.subject, updatedAt })),
  };
}

export async function action({ request, context }: Route.ActionArgs) {
  const person = asks(context, 'make', { kind: 'draft', maker: null });
  const form = await readForm(request);
  if (form.get('intent') === 'drop') {
    await dropDraft(services().pool, person.id, readId(form.get('draft')));
    return redirect('/watches/new');
  }
  if (form.get('intent') === 'posted') return beginPosted(person);
  return begin(person, writtenIn(form, 'address').trim());
}

const MOST_ADDRESS = 2000;

/** Who begins it, and whose calendar its days are of. */
type Beginner = Pick<Person, 'id' | 'zone'>;
type Beginning = Parameters<typeof beginDraft>[2];

/** Begins a draft, or finds the one that a press a moment ago has begun. */
function beginOnce(personId: PersonId, draft: Beginning): Promise<{ id: DraftId; made: boolean }> {
  const { pool, clock } = services();
  return inTransaction(pool, async (db) => {
    const fresh = await findFreshDraft(db, personId, draft.address, clock());
    return fresh === null
      ? { id: await beginDraft(db, personId, draft, clock()), made: true }
      : { id: fresh, made: false };
  });
}

/** The addresses that a text may mean: without a scheme, the encrypted one first. */
function addressesMeant(text: string): URL[] {
  const hasScheme = /^[a-z][a-z0-9+.-]*:/i.test(text) && !/^[^/]+:\d+(\/|$)/.test(text);
  const tried = hasScheme ? [text] : [`https://${text}`, `http://${text}`];
  return tried.flatMap((each) => webAddress(each) ?? []);
}

/** What the first address brings at which a site speaks at all; what is wrong with the first one where none does. */
async function fetchFirst(addresses: URL[]) {
  let first: { address: URL; fetched: Awaited<ReturnType<typeof fetchPlainly>> } | null = null;
  for (const address of addresses) {
    const fetched = await fetchPlainly(address.href, {});
    if (fetched.ok || !fetched.unheard) return { address, fetched };
    first ??= { address, fetched };
  }
  if (first === null) throw new Error('no address was meant');
  return first;
}

async function begin({ id: personId, zone }: Beginner, text: string) {
  if (text === '' || text.length > MOST_ADDRESS)
    return { address: text, problem: text === '' ? 'Paste an address first.' : 'This address is too long.' };
  const meant = addressesMeant(text);
  if (meant.length === 0) return { address: text, problem: describeFetchProblem({ reason: 'bad address' }) };
  const { address, fetched } = await fetchFirst(meant);
  if (!fetched.ok && fetched.asksForMore) {
    // What it asks for, a sign-in or a consent, is said in the set-up: the draft begins without a page.
    const draft = {
      address: address.href,
      content: emptyPlan(address.hostname.replace(/\.localhost$/, ''), lastDayOfNew(zone)),
      body: null,
      finalAddress: null,
    };
    return redirect(`/watches/new/${(await beginOnce(personId, draft)).id}`);
  }
  if (!fetched.ok) return { address: text, problem: fetched.error };
  const { body, finalAddress, isPage, offer } = fetched.value;
  const plan = firstPlan(offer, offer.facts.title ?? address.hostname.replace(/\.localhost$/, ''), lastDayOfNew(zone));
  const { id, made } = await beginOnce(personId, { address: address.href, content: plan, body, finalAddress });
  if (isPage && made)
    await askPreview({ id, address: address.href, way: 'plain', request: {} }, 'page', address.href, {});
  return redirect(`/watches/new/${id}`);
}

const TOKEN_BYTES = 18;

/** Begins a watch on what another program will post. */
async function beginPosted({ id: personId, zone }: Beginner) {
  const { pool, clock, config } = services();
  const token = randomBytes(TOKEN_BYTES).toString('base64url');
  const address = `${config.publicUrl}/in/${token}`;
  const draft = {
    address,
    content: emptyPlan('Posted readings', lastDayOfNew(zone)),
    body: null,
    finalAddress: null,
    way: 'posted' as const,
  };
  const id = await inTransaction(pool, async (db) => {
    const made = await beginDraft(db, personId, draft, clock());
    await makePosting(db, token, made);
    return made;
  });
  return redirect(`/watches/new/${id}`);
}

/** Data that holds one kind of records is read whole from the start; of a page, or of several kinds, she chooses. */
function firstPlan({ format, listings }: Offer, subject: string, ends: string): PlanDraft {
  const plan = emptyPlan(cut(subject, 120), ends);
  const [only, ...others] = listings;
  if (format === 'html' || only === undefined || (format === 'metrics' && others.length > 0)) return plan;
  return { ...plan, records: only.records, fields: only.fields, identity: only.identity, names: only.names };
}

export default function Begin({ loaderData, actionData }: Route.ComponentProps) {
  const fetching = useNavigation().state !== 'idle';
  const { place, now } = useReader();
  return (
    <>
      <PageHead>
        <Link className="link text-third" to="/watches">
          Watches
        </Link>
        <span className="text-third">/</span>
        <h1>New watch</h1>
      </PageHead>
      <p className="mt-4 font-serif text-[22px] leading-[31px] text-third md:text-sentence">
        Every ____, read ____ of ____ from <span className="text-chestnut">____</span>; tell ____ when ____.
      </p>
      <Form method="post" className="mt-6 flex max-w-3xl items-start gap-4">
        <TextField
          label="Which page, list, feed or metric? Paste its address"
          name="address"
          type="text"
          inputMode="url"
          autoFocus
          className="grow"
          placeholder="https://…"
          defaultValue={actionData?.address ?? ''}
          problem={fetching ? null : actionData?.problem}
          hint={fetching ? 'Fetching it …' : 'Shrike fetches it at once and shows what it can read there.'}
        />
        <Button type="submit" weight="strong" className="mt-[18px]" disabled={fetching}>
          {fetching ? 'Fetching …' : 'Fetch it'}
        </Button>
      </Form>
      <Form method="post" className="mt-6">
        <p className="text-second">
          Or let another program bring the readings:{' '}
          <button name="intent" value="posted" className="link font-semibold text-ink">
            make a signed address to post to
          </button>
        </p>
      </Form>
      {loaderData.drafts.length === 0 ? null : (
        <Section title="Half-made watches" className="mt-12 max-w-3xl">
          <ul>
            {loaderData.drafts.map((draft) => (
              <li key={draft.id} className="cell flex items-baseline gap-4">
                <Link className="link font-medium" to={`/watches/new/${draft.id}`}>
                  {draft.subject || 'Unnamed'}
                </Link>
                <span className="min-w-0 grow truncate text-glance text-third">{draft.address}</span>
                <span className="text-glance text-third">kept {formatRecent(draft.updatedAt, now, place)}</span>
                <Form method="post">
                  <input type="hidden" name="draft" value={draft.id} />
                  <button
                    name="intent"
                    value="drop"
                    className="link text-glance text-second"
                    aria-label={`Throw away ${draft.subject}`}
                  >
                    Throw away
                  </button>
                </Form>
              </li>
            ))}
          </ul>
        </Section>
      )}
    </>
  );
}
