import type { PersonId } from '#core/id';
import { redirect } from 'react-router';
import { isAddress } from '#core/plan/addresses';
import { isZone } from '#core/when/wall-clock';
import { endAccount, takeInvitationBack } from '#server/db/access/accounts';
import { inTransaction } from '#server/db/base/pool';
import { findReaderNow, removeReader, setReader, tryAddressAgain, type ReaderNow } from '#server/db/person/readers';
import { askToConfirm, inviteToSignIn, type NotAsked } from '#server/pipeline/ask';
import { readForm, textIn } from '../../../form.server';
import { readId, readNumber } from '../../../ids.server';
import type { Person } from '#server/db/person/people';
import { readHours } from '../../../parts/hours.server';
import { readChannels } from '../../../parts/channels.server';
import { keepingServices, services } from '../../../services.server';
import { asks } from '../../../session.server';
import type { Route } from './+types/route';
import { LONGEST_NAME } from './bounds';

interface Answer {
  problem: string | null;
  said: string | null;
  /** Of what is said of her, once it was kept. */
  version?: number;
}

const NOT_ASKED: Record<NotAsked, string> = {
  'no key': 'Nobody can be asked: links in mails are sealed with SHRIKE_SECRET_KEY, and none is set.',
  gone: 'This person was taken out meanwhile.',
  done: 'That was done meanwhile.',
  'asked lately': 'A mail that asks was sent within the last ten minutes. Wait a little before another one.',
};

export async function action({ request, params, context }: Route.ActionArgs): Promise<Answer | Response> {
  const asker = asks(context, 'change', { kind: 'person' });
  const form = await readForm(request);
  const id = readId<PersonId>(params.person);
  const { pool, clock, signals } = services();
  switch (form.get('intent')) {
    case 'ask': {
      const keeping = await keepingServices();
      const asked = await inTransaction(pool, (db) => askToConfirm(keeping, db, id, asker, clock()));
      signals.say('outbox');
      return asked.ok
        ? { problem: null, said: 'A mail that asks is on its way.' }
        : { problem: NOT_ASKED[asked.error], said: null };
    }
    case 'invite':
      return invite(id, asks(context, 'make', { kind: 'account' }));
    case 'take back':
      asks(context, 'end', { kind: 'account' });
      await takeInvitationBack(pool, id);
      return { problem: null, said: 'The invitation is taken back: its link leads nowhere.' };
    case 'end account':
      return shutOut(id, asks(context, 'end', { kind: 'account' }));
    case 'again':
      await tryAddressAgain(pool, id);
      signals.say('outbox');
      return { problem: null, said: 'It is tried again: what was kept back goes as one mail of each report.' };
    case 'remove':
      return takeOut(id);
    default:
      return keepSaid(id, form);
  }
}

async function invite(id: PersonId, invitedBy: Person): Promise<Answer> {
  const { pool, clock, signals } = services();
  const keeping = await keepingServices();
  const asked = await inTransaction(pool, (db) => inviteToSignIn(keeping, db, id, invitedBy, clock()));
  signals.say('outbox');
  return asked.ok
    ? { problem: null, said: 'The invitation is on its way.' }
    : { problem: NOT_ASKED[asked.error], said: null };
}

/** Ends that somebody signs in: not oneself, so that somebody always can. */
async function shutOut(id: PersonId, asker: Person): Promise<Answer> {
  if (asker.id === id) return { problem: 'Nobody shuts herself out.', said: null };
  const ended = await inTransaction(services().pool, (db) => endAccount(db, id));
  return ended
    ? { problem: null, said: 'The account has ended, and whoever was signed in with it is signed out.' }
    : { problem: 'There is no account to end, or it is the only one.', said: null };
}

/** Whether numbers and dates can be written so. */
function isLocale(name: string): boolean {
  try {
    return Intl.NumberFormat.supportedLocalesOf(name).length === 1;
  } catch {
    return false;
  }
}

/** Whether her address is what somebody signs in with: hers, or whom the configuration says. */
const signsIn = ({ account, email }: ReaderNow): boolean => account || email === services().config.signInAs;

const GONE = 'This person was taken out meanwhile.';

/** Takes somebody out, but for one who signs in: nobody is shut out here. */
async function takeOut(id: PersonId): Promise<Answer | Response> {
  const { pool, clock } = services();
  const reader = await findReaderNow(pool, id);
  if (reader !== null && !signsIn(reader) && (await inTransaction(pool, (db) => removeReader(db, id, clock()))))
    return redirect('/people');
  return { problem: reader === null ? GONE : 'Whoever signs in cannot be taken out here.', said: null };
}

const NOT_KEPT = {
  gone: GONE,
  'address taken': 'There is another person with this address.',
  'said meanwhile':
    'Somebody else changed what is said of this person meanwhile. Load the page again: what stands here is not kept.',
};

/** What is wrong with what is said of somebody; null where nothing is. */
function faultOf({ name, email, zone, locale }: Record<'name' | 'email' | 'zone' | 'locale', string>): string | null {
  if (name === '' || name.length > LONGEST_NAME) return `Say the name, in at most ${LONGEST_NAME} letters.`;
  if (!isAddress(email)) return 'This is not a mail address.';
  if (!isZone(zone)) return 'Say in which time zone.';
  return isLocale(locale) ? null : 'Choose how numbers and dates are written.';
}

async function keepSaid(id: PersonId, form: FormData): Promise<Answer> {
  const [name, email, zone, locale] = ['name', 'email', 'zone', 'locale'].map((field) => textIn(form, field)) as [
    string,
    string,
    string,
    string,
  ];
  const [hours, routes] = [readHours(form), readChannels(form, services().config.secretKey !== null)];
  if (!hours.ok) return { problem: hours.error, said: null };
  if (!routes.ok) return { problem: routes.error, said: null };
  const wrong = faultOf({ name, email, zone, locale });
  if (wrong !== null) return { problem: wrong, said: null };
  const reader = await findReaderNow(services().pool, id);
  if (reader === null) return { problem: GONE, said: null };
  const same = reader.email.toLowerCase() === email.toLowerCase();
  if (!same && signsIn(reader))
    return { problem: 'Whoever signs in does so with this address: it is not changed here.', said: null };
  const said = {
    name,
    email: same ? reader.email : email.toLowerCase(),
    zone,
    locale,
    ...hours.value,
    ...routes.value,
    ratherLose: textIn(form, 'unknown') === 'lose',
  };
  const kept = await setReader(services().pool, id, said, services().clock(), readNumber(form.get('version')));
  if (!kept.ok) return { problem: NOT_KEPT[kept.error], said: null };
  return { problem: null, said: 'Kept.', version: kept.value };
}
