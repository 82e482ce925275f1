import { numbered } from '../support/numbered';
import type { AccountId, PersonId } from '#core/id';
import { join } from 'node:path';
import { RouterContextProvider } from 'react-router';
import { describe, expect, it } from 'vitest';
import type { RouteConfigEntry } from '@react-router/dev/routes';
import { ROOT } from '#scripts/system/state';
import { visitorContext } from '../../app/session.server';
import routes from '../../app/routes';

// Every loader, action and download asks first whether who is signed in may: here somebody asks who may nothing.

const STRANGER = {
  actor: { account: numbered<AccountId>(1), person: numbered<PersonId>(1), role: 'stranger' as never },
  person: { id: 1, locale: 'en-GB', zone: 'UTC' } as never,
};

/** What answers without anybody signed in, and why that is right. */
const OPEN: Record<string, string> = {
  'sign-in': 'the way in',
  'sign-out': 'ends a session, if there is one',
  'first-owner': 'there is no account yet, or it leads away',
  'take/:token': 'the link in a mail says who asks, and ends',
  'invited/:token': 'the link in a mail says who was invited, works once, and ends',
  'confirm/:token': 'the link in a mail says whose address it is, and ends',
  'feed/:token': 'the address of a feed says which report it is of',
  'leave/:token': 'the link in a mail says who leaves which report',
  'm/:code': 'the link in a short text is unguessable, shows that one mail, and ends',
  'reader/:token': 'the link in a mail says whose page it is, and ends',
  'in/:token': 'whoever posts signs each message',
  healthz: 'says whether the parts are well, and nothing of what is watched',
};

const all = (entries: readonly RouteConfigEntry[]): RouteConfigEntry[] =>
  entries.flatMap((entry) => [entry, ...all(entry.children ?? [])]);
const under = all(routes).filter(({ path }) => path === undefined || !(path in OPEN));

type Asked = (args: object) => unknown;
interface Module {
  loader?: Asked;
  action?: Asked;
}

async function answerTo(ask: Asked, method: 'GET' | 'POST'): Promise<unknown> {
  const context = new RouterContextProvider();
  context.set(visitorContext, STRANGER);
  const headers = { origin: 'http://localhost:4600', host: 'localhost:4600', 'sec-fetch-site': 'same-origin' };
  const request = new Request('http://localhost:4600/', { method, headers });
  try {
    return await ask({ request, params: {}, context });
  } catch (thrown) {
    return thrown;
  }
}

const statusOf = (answer: unknown) =>
  (answer as { status?: number; init?: { status?: number } }).status ??
  (answer as { init?: { status?: number } }).init?.status;

describe('who may nothing', () => {
  it.each(under.map((entry) => [entry.path ?? entry.file, entry] as const))(
    'is refused by every loader and action of %s',
    async (_path, { file, children }) => {
      const { loader, action } = (await import(join(ROOT, 'app', file))) as Module;
      // A frame around other routes may show nothing of its own.
      expect(loader !== undefined || action !== undefined || children !== undefined).toBe(true);
      if (loader !== undefined) expect(statusOf(await answerTo(loader, 'GET'))).toBe(403);
      if (action !== undefined) expect(statusOf(await answerTo(action, 'POST'))).toBe(403);
    },
  );

  it('meets no route that asks for nobody, but those that are known to', () => {
    const outside = routes.flatMap((entry) => (entry.children === undefined ? [entry.path ?? entry.file] : []));
    expect(outside.sort()).toEqual(Object.keys(OPEN).sort());
    expect(all(routes).filter(({ path }) => path !== undefined && path in OPEN)).toHaveLength(Object.keys(OPEN).length);
  });
});
