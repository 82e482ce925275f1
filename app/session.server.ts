import { createContext, createCookie, redirect, type MiddlewareFunction, type RouterContextProvider } from 'react-router';
import { hasAccounts } from '#server/db/accounts';
import { beginSession, endSession, findPerson, findSession, type Person } from '#server/db/people';
import { isOwnOrigin, ownHosts } from '#server/web/guard';
import { forgetRecent } from './recent.server';
import { services } from './services.server';

const personContext = createContext<Person>();

const SESSION_SECONDS = 30 * 86_400;
const cookie = createCookie('shrike', { httpOnly: true, sameSite: 'lax', path: '/', maxAge: SESSION_SECONDS });

/** The person who is signed in. Every loader and action gets her here, and nowhere else. */
export function signedIn(context: Readonly<RouterContextProvider>): Person {
  return context.get(personContext);
}

/**
 * The one place where a session is checked, before any loader or action. Requests that change something must come
 * from our own pages. Who is not signed in is led to where she can be; the demo's configuration names somebody whom every visitor is.
 */
export const sessionMiddleware: MiddlewareFunction<Response> = async ({ request, context }, next) => {
  const changes = request.method !== 'GET' && request.method !== 'HEAD';
  if (changes) requireOwnPages(request);
  const person = await whoAsks(request);
  if (person === null) throw redirect(await wayIn(request));
  context.set(personContext, person);
  const response = await next();
  if (changes) forgetRecent();
  // What a signed-in person sees is hers, and stays in no cache on the way, nor after she signed out.
  response.headers.set('cache-control', 'no-store');
  return response;
};

/** Who asks: by her session, or whom the configuration says; null for nobody. */
export async function whoAsks(request: Request): Promise<Person | null> {
  const { pool, clock, config } = services();
  const token = await tokenOf(request);
  const known = token === null ? null : await findSession(pool, token, clock());
  return known ?? (config.signInAs === null ? null : findPerson(pool, config.signInAs));
}

async function tokenOf(request: Request): Promise<string | null> {
  const token: unknown = await cookie.parse(request.headers.get('cookie')).catch(() => null);
  return typeof token === 'string' ? token : null;
}

async function wayIn(request: Request): Promise<string> {
  if (!(await hasAccounts(services().pool))) return '/first-owner';
  const { pathname, search } = new URL(request.url);
  return pathname === '/' ? '/sign-in' : `/sign-in?to=${encodeURIComponent(pathname + search)}`;
}

/** Signs a person in, and leads her on to where she wanted to go, on this Shrike. */
export async function signIn(personId: number, to: string): Promise<Response> {
  const { pool, clock, config } = services();
  const token = await beginSession(pool, personId, clock());
  const secure = config.publicUrl.startsWith('https:');
  return redirect(localPath(to), { headers: { 'set-cookie': await cookie.serialize(token, { secure }) } });
}

/** Ends the session of whoever asks, here and in the record. */
export async function signOut(request: Request): Promise<Response> {
  const token = await tokenOf(request);
  if (token !== null) await endSession(services().pool, token);
  return redirect('/sign-in', { headers: { 'set-cookie': await cookie.serialize('', { maxAge: 0 }) } });
}

/** A path of our own, without its way of being asked for as data; anything else leads to the first page. */
function localPath(to: string): string {
  return /^\/(?![/\\])[^\\]*$/.test(to) && URL.canParse(to, 'http://own.example') && new URL(to, 'http://own.example').host === 'own.example'
    ? to.replace(/\.data(?=\?|$)/, '')
    : '/';
}

/** Refuses a request that no page of ours made: whatever changes something, and whatever runs a path or a pattern. */
export function requireOwnPages(request: Request): void {
  const origin = request.headers.get('origin');
  const own = origin === null ? request.headers.get('sec-fetch-site') === 'same-origin' : isOwnOrigin(origin, ownHosts(services().config));
  if (!own) throw new Response('This request did not come from Shrike’s own pages.', { status: 403 });
}
