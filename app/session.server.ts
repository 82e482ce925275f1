import type { AccountId } from '#core/id';
import {
  createContext,
  createCookie,
  type Cookie,
  data,
  redirect,
  type MiddlewareFunction,
  type RouterContextProvider,
} from 'react-router';
import { SECOND } from '#core/when/interval';
import { may, type Actor, type Act, type Thing } from '#core/access/may';
import { hasAccounts } from '#server/db/access/accounts';
import { findPerson, findPersonById, type Person } from '#server/db/person/people';
import { beginSession, endSession, findSession } from '#server/db/access/sessions';
import { isOwnOrigin, ownHosts } from '#server/web/guard';
import { asAsked } from './asker.server';
import { forgetRecent } from './recent.server';
import { services } from './services.server';

/** Who asks: what she may do, and who she is as a reader. */
interface Visitor {
  actor: Actor;
  person: Person;
}

/** Set by the session's middleware, before any loader or action. */
export const visitorContext = createContext<Visitor>();

const SESSION_SECONDS = 30 * 86_400;
/** For how long a browser is known from which somebody signed in. */
const KNOWN_SECONDS = 365 * 86_400;
/** Over TLS a cookie is set by this very host, and sent to it alone (RFC 6265bis, 4.1.3.2). */
const hostOnly = (name: string, maxAge: number): [open: Cookie, sealed: Cookie] => {
  const options = { httpOnly: true, sameSite: 'lax', path: '/', maxAge } as const;
  return [createCookie(name, options), createCookie(`__Host-${name}`, { ...options, secure: true })];
};
const isSecure = () => services().config.publicUrl.startsWith('https:');
const sessionCookies = hostOnly('shrike', SESSION_SECONDS);
const sessionCookie = () => sessionCookies[isSecure() ? 1 : 0];

/** The account that is signed in. */
const signedIn = (context: Readonly<RouterContextProvider>): Actor => context.get(visitorContext).actor;

/**
 * Asks whether who is signed in may do something, first of all in every loader, action and download; returns who she
 * is. Answers with a sentence where she may not.
 */
export function asks(context: Readonly<RouterContextProvider>, deed: Act, thing: Thing): Person {
  if (!may(signedIn(context), deed, thing))
    throw data('Your account may not do this. Whoever owns this Shrike can.', { status: 403 });
  return context.get(visitorContext).person;
}

/**
 * The one place where a session is checked, before any loader or action. Requests that change something must come from
 * our own pages. Who is not signed in is led to where she can be; the demo's configuration names somebody whom every
 * visitor is.
 */
export const sessionMiddleware: MiddlewareFunction<Response> = async ({ request, context }, next) => {
  const changes = request.method !== 'GET' && request.method !== 'HEAD';
  if (changes) requireOwnPages(request);
  const visitor = await whoAsks(request);
  if (visitor === null) throw redirect(await wayIn(request));
  context.set(visitorContext, visitor);
  const response = await asAsked(sessionOf(visitor), next);
  if (changes) forgetRecent();
  // What a signed-in person sees is hers, and stays in no cache on the way, nor after she signed out.
  response.headers.set('cache-control', isStream(response) ? 'no-store, no-transform' : 'no-store');
  return response;
};

/** Whom work is done for: an account, or a reader of the demo. */
const sessionOf = ({ actor }: Visitor): string => `${actor.account ?? 'reader'} ${actor.person}`;

/** Events go out as they come: whoever gathers them, to make them smaller, holds them up. */
const isStream = ({ headers }: Response) => headers.get('content-type')?.startsWith('text/event-stream') === true;

/** Who asks: by her session, or whom the configuration says; null for nobody. */
export async function whoAsks(request: Request): Promise<Visitor | null> {
  const { pool, clock, config } = services();
  const token = await tokenOf(request);
  const actor = token === null ? null : await findSession(pool, token, clock());
  const person = actor === null ? null : await findPersonById(pool, actor.person);
  if (actor !== null && person !== null) return { actor, person };
  const said = config.signInAs === null ? null : await findPerson(pool, config.signInAs);
  return said === null ? null : { actor: { account: null, person: said.id, role: 'owner' }, person: said };
}

async function tokenOf(request: Request): Promise<string | null> {
  const token: unknown = await sessionCookie()
    .parse(request.headers.get('cookie'))
    .catch(() => null);
  return typeof token === 'string' ? token : null;
}

async function wayIn(request: Request): Promise<string> {
  if (!(await hasAccounts(services().pool))) return '/first-owner';
  const { pathname, search } = new URL(request.url);
  return pathname === '/' ? '/sign-in' : `/sign-in?to=${encodeURIComponent(pathname + search)}`;
}

const knownCookies = hostOnly('shrike-known', KNOWN_SECONDS);
const knownCookie = () => knownCookies[isSecure() ? 1 : 0];

/** Whether an account was signed in to from this browser before: guesses from elsewhere do not bar it. */
export async function isKnownBrowser(request: Request, accountId: AccountId): Promise<boolean> {
  const said: unknown = await knownCookie()
    .parse(request.headers.get('cookie'))
    .catch(() => null);
  const opened =
    typeof said === 'string' ? services().secrets.open({ sealed: said }, 'known browser', String(accountId)) : null;
  return opened !== null && Number(opened) > services().clock();
}

/** Signs an account in, and leads her on to where she wanted to go, on this Shrike. */
export async function signIn(accountId: AccountId, to: string): Promise<Response> {
  const { pool, clock } = services();
  const token = await beginSession(pool, accountId, clock());
  const headers = new Headers({ 'set-cookie': await sessionCookie().serialize(token) });
  const until = String(clock() + KNOWN_SECONDS * SECOND);
  const known = services().secrets.seal(until, 'known browser', String(accountId));
  if (known.ok) headers.append('set-cookie', await knownCookie().serialize(known.value.sealed));
  return redirect(localPath(to), { headers });
}

/** Ends the session of whoever asks, here and in the record. */
export async function signOut(request: Request): Promise<Response> {
  const token = await tokenOf(request);
  if (token !== null) await endSession(services().pool, token);
  return redirect('/sign-in', { headers: { 'set-cookie': await sessionCookie().serialize('', { maxAge: 0 }) } });
}

const OWN = 'http://own.example';

/**
 * A path of our own as an address is written, without its way of being asked for as data; anything else leads to the
 * first page.
 */
function localPath(to: string): string {
  if (!/^\/(?![/\\])[^\\\p{Cc}]*$/u.test(to) || !URL.canParse(to, OWN)) return '/';
  const { origin, pathname, search } = new URL(to, OWN);
  // What was folded may begin like the name of another server.
  return origin === OWN && !pathname.startsWith('//') ? pathname.replace(/\.data$/, '') + search : '/';
}

/** Refuses a request that no page of ours made: whatever changes something, and whatever runs a path or a pattern. */
export function requireOwnPages(request: Request): void {
  const origin = request.headers.get('origin');
  const own =
    origin === null
      ? request.headers.get('sec-fetch-site') === 'same-origin'
      : isOwnOrigin(origin, ownHosts(services().config));
  if (!own) throw new Response('This request did not come from Shrike’s own pages.', { status: 403 });
}
