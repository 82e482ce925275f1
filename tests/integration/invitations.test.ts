import type { PersonId } from '#core/id';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { BY_MAIL } from '#core/tell/channels';
import { DAY, HOUR, MINUTE } from '#core/when/interval';
import { acceptInvitation, endAccount, findAccount, takeInvitationBack } from '#server/db/access/accounts';
import { findPersonById } from '#server/db/person/people';
import { inTransaction } from '#server/db/base/pool';
import { confirmAddress, findReaderNow, removeReader, setReader } from '#server/db/person/readers';
import { beginSession, findSession } from '#server/db/access/sessions';
import { inviteToSignIn, openInvitation } from '#server/pipeline/ask';
import { numbered } from '../support/numbered';
import { openWorld, type TestWorld } from '../support/world';

// Somebody who is told is asked to sign in, too: whom the link of that mail lets in, and whom it does not.

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
beforeEach(async () => {
  await world.clear();
  await world.pool.query('DELETE FROM account');
  await world.pool.query('UPDATE person SET invited_at = NULL');
});
afterAll(() => world.close());

const TOM = 'tom@heatherlow.example';
const KEPT = '$argon2id$a password as it is kept';

const invite = (id: PersonId) =>
  inTransaction(world.pool, (db) =>
    inviteToSignIn(world.services.pipeline, db, id, { name: 'Inés Calloway' }, world.now),
  );
const open = (token: string) => openInvitation(world.services.pipeline.links, world.pool, token, world.now);

/** The token of the latest mail to Tom that invites him. */
async function mailedToken(): Promise<string> {
  await world.sendMail();
  const [latest] = world.standins.room
    .list()
    .filter(({ to, subject }) => to.includes(TOM) && subject.includes('invites you'));
  const mail = latest === undefined ? null : await world.standins.room.read(latest.id);
  return /\/invited\/([\w-]+)/.exec(mail?.text ?? '')?.[1] ?? '';
}

async function invited(): Promise<string> {
  expect(await invite(world.people.tom)).toEqual({ ok: true, value: null });
  return mailedToken();
}

async function accept(token: string) {
  const opened = await open(token);
  return opened.ok
    ? inTransaction(world.pool, (db) => acceptInvitation(db, opened.value, KEPT, world.now))
    : opened.error;
}

describe('an invitation', () => {
  it('is a mail of no number that nothing holds, whose link makes an account once and confirms the address by that', async () => {
    const { tom } = world.people;
    await world.pool.query('UPDATE person SET confirmed_at = NULL WHERE id = $1', [tom]);
    const token = await invited();
    expect(await world.rows(`SELECT number, state, purpose FROM delivery WHERE person_id = ${tom}`)).toEqual([
      { number: null, state: 'sent', purpose: 'invitation' },
    ]);
    expect(await open(token)).toMatchObject({ ok: true, value: { person: tom, address: TOM, name: 'Tom Aske' } });
    const account = await accept(token);
    expect(account).toBeTypeOf('number');
    expect(await findAccount(world.pool, TOM.toUpperCase())).toEqual({ id: account, password: KEPT });
    expect((await findPersonById(world.pool, tom))?.confirmedAt).toBe(world.now);
    expect(await accept(token)).toBe('used');
    expect(await invite(tom)).toEqual({ ok: false, error: 'done' });
  });

  it('makes one account, however many use it at once', async () => {
    const opened = await open(await invited());
    if (!opened.ok) throw new Error(opened.error);
    const made = await Promise.all(
      Array.from({ length: 6 }, () =>
        inTransaction(world.pool, (db) => acceptInvitation(db, opened.value, KEPT, world.now)),
      ),
    );
    expect(made.filter((account) => account !== null)).toHaveLength(1);
  });

  it('is not accepted by somebody who is taken out at the same moment, or she is not taken out', async () => {
    const { tom } = world.people;
    for (let round = 0; round < 8; round += 1) {
      world.now += HOUR;
      const opened = await open(await invited());
      if (!opened.ok) throw new Error(opened.error);
      const accepting = () => inTransaction(world.pool, (db) => acceptInvitation(db, opened.value, KEPT, world.now));
      const removing = () => inTransaction(world.pool, (db) => removeReader(db, tom, world.now));
      const [first, second] = round % 2 === 0 ? [accepting, removing] : [removing, accepting];
      const won = (await Promise.all([first(), second()])).filter((done) => done !== null && done !== false);
      expect(won).toHaveLength(1);
      await world.pool.query('DELETE FROM account');
      await world.pool.query('UPDATE person SET removed_at = NULL, invited_at = NULL WHERE id = $1', [tom]);
    }
  });

  it('is not sent twice in ten minutes; of several the last one counts', async () => {
    const first = await invited();
    world.now += 9 * MINUTE;
    expect(await invite(world.people.tom)).toEqual({ ok: false, error: 'asked lately' });
    world.now += 2 * MINUTE;
    const second = await invited();
    expect(second).not.toBe(first);
    expect(await accept(first)).toBe('taken back');
    expect(await accept(second)).toBeTypeOf('number');
  });

  it('is not sent to who is not there, nor again where the mail has not gone out: that one is given up', async () => {
    expect(await invite(numbered<PersonId>(99_999))).toEqual({ ok: false, error: 'gone' });
    world.standins.world.push('mail', null, 'defers');
    await invited();
    world.now += 11 * MINUTE;
    world.standins.world.push('mail', null, 'accepts');
    await invited();
    expect(await world.rows(`SELECT state FROM delivery WHERE purpose = 'invitation' ORDER BY id`)).toEqual([
      { state: 'given up' },
      { state: 'sent' },
    ]);
  });

  it('ends after a week, and where it is taken back', async () => {
    const token = await invited();
    world.now += 7 * DAY;
    expect(await open(token)).toMatchObject({ ok: true });
    world.now += 1;
    expect(await accept(token)).toBe('ended');
    const other = await invited();
    await takeInvitationBack(world.pool, world.people.tom);
    expect(await accept(other)).toBe('taken back');
    await invite(world.people.tom);
    await takeInvitationBack(world.pool, world.people.tom);
    const before = world.standins.room.list().length;
    await world.sendMail();
    expect(world.standins.room.list()).toHaveLength(before);
    expect(await world.rows(`SELECT reason FROM delivery WHERE state = 'given up'`)).toEqual([
      { reason: 'taken back' },
    ]);
  });

  it('lets nobody in who has another address by now, was taken out, or comes with a link of another kind', async () => {
    const { tom } = world.people;
    const token = await invited();
    const { links } = world.services.pipeline;
    const others = [
      links.confirm(tom, TOM, world.now)?.link,
      links.ownPage(tom, 1, world.now),
      links.takeOn(1, tom, world.now),
    ];
    for (const other of [
      ...others.map((link) => link?.split('/').at(-1) ?? ''),
      `${token}x`,
      token.slice(0, -3),
      '',
      'x'.repeat(900),
    ])
      expect(await accept(other)).toBe('not ours');
    expect(links.openConfirm(token)).toBeNull();
    const said = {
      name: 'Tom Aske',
      locale: 'en-GB',
      zone: 'Europe/London',
      quiet: null,
      mailHour: null,
      passes: null,
      ratherLose: false,
      phone: null,
      webhook: null,
      routes: BY_MAIL,
    };
    await setReader(world.pool, tom, { ...said, email: 'tom@elsewhere.example' }, world.now);
    expect(await accept(token)).toBe('other address');
    await setReader(world.pool, tom, { ...said, email: TOM }, world.now);
    await confirmAddress(world.pool, tom, TOM, world.now);
    const opened = await open(token);
    expect(await removeReader(world.pool, tom, world.now)).toBe(true);
    expect(await accept(token)).toBe('other address');
    if (opened.ok)
      expect(await inTransaction(world.pool, (db) => acceptInvitation(db, opened.value, KEPT, world.now))).toBeNull();
    await world.pool.query('UPDATE person SET removed_at = NULL WHERE id = $1', [tom]);
  });
});

describe('an account', () => {
  it('ends with its sessions; she goes on hearing, and can be invited again', async () => {
    const { tom, ines } = world.people;
    const account = await accept(await invited());
    if (account === null || typeof account === 'string') throw new Error('there is no account');
    const session = await beginSession(world.pool, account, world.now);
    expect(await findSession(world.pool, session, world.now)).toMatchObject({ person: tom });
    const end = (id: PersonId) => inTransaction(world.pool, (db) => endAccount(db, id));
    expect(await end(tom)).toBe(false);
    await world.pool.query('INSERT INTO account (person_id, password, made_at) VALUES ($1, $2, now())', [ines, KEPT]);
    expect(await end(tom)).toBe(true);
    expect(await end(tom)).toBe(false);
    expect(await findSession(world.pool, session, world.now)).toBeNull();
    expect(await findReaderNow(world.pool, tom)).toMatchObject({ account: false, invitedAt: null });
    world.now += HOUR;
    expect(await accept(await invited())).toBeTypeOf('number');
  });

  it('is the only one for one of two who end one another’s at once', async () => {
    const { tom, ines } = world.people;
    for (const person of [tom, ines])
      await world.pool.query('INSERT INTO account (person_id, password, made_at) VALUES ($1, $2, now())', [
        person,
        KEPT,
      ]);
    const ended = await Promise.all([tom, ines].map((id) => inTransaction(world.pool, (db) => endAccount(db, id))));
    expect(ended.filter(Boolean)).toHaveLength(1);
  });
});
