import { createContext, createCookie, type MiddlewareFunction, type RouterContextProvider } from 'react-router';
import { beginSession, findPerson, findSession, type Person } from '#server/db/people';
import { services } from './services.server';

const personContext = createContext<Person>();

const cookie = createCookie('shrike', { httpOnly: true, sameSite: 'lax', path: '/', maxAge: 30 * 86_400 });

/** The person who is signed in. Every loader and action gets her here, and nowhere else. */
export function signedIn(context: Readonly<RouterContextProvider>): Person {
  return context.get(personContext);
}

/**
 * The one place where a session is checked, before any loader or action. Requests that change something must come
 * from our own pages. Where the configuration names somebody to sign in as, a visitor without a session gets hers.
 */
export const sessionMiddleware: MiddlewareFunction<Response> = async ({ request, context }, next) => {
  refuseForeign(request);
  const { pool, clock, config } = services();
  const token: unknown = await cookie.parse(request.headers.get('cookie'));
  const known = typeof token === 'string' ? await findSession(pool, token, clock()) : null;
  const person = known ?? (config.signInAs === null ? null : await findPerson(pool, config.signInAs));
  if (person === null) throw new Response('Nobody is signed in.', { status: 401 });
  context.set(personContext, person);

  const response = await next();
  if (known === null) {
    const secure = config.publicUrl.startsWith('https:');
    response.headers.append('set-cookie', await cookie.serialize(await beginSession(pool, person.id, clock()), { secure }));
  }
  return response;
};

export function refuseForeign(request: Request): void {
  if (request.method === 'GET' || request.method === 'HEAD') return;
  const origin = request.headers.get('origin');
  const site = request.headers.get('sec-fetch-site');
  const own = origin === null ? site === 'same-origin' : URL.canParse(origin) && new URL(origin).host === request.headers.get('host');
  if (!own) throw new Response('This request did not come from Shrike’s own pages.', { status: 403 });
}
