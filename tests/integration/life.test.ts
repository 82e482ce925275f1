import type { WatchId } from '#core/id';
import { emptyPlan } from '#core/plan/plan';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { openBody } from '#core/read/body';
import { pageDefinition, type WatchDefinition } from '#core/read/definition';
import { proposeMending } from '#core/read/mend/mend';
import { listingOf } from '#core/read/listing/listing';
import { DAY, HOUR, MINUTE, type Instant } from '#core/when/interval';
import { beginDraft } from '#server/db/watch/drafts';
import { setHost } from '#server/db/source/hosts';
import { findPosting, keepMessage, makePosting } from '#server/db/source/postings';
import { inTransaction } from '#server/db/base/pool';
import { claimDue } from '#server/db/source/sources';
import { findBody } from '#server/db/source/snapshots';
import { findPunctuality } from '#server/db/watch/views/history';
import { findWatch } from '#server/db/watch/views/watch-now';
import { listKnown, listOffered, listRecords, type RecordNow } from '#server/db/reading/records';
import { createWatch, editWatch } from '#server/actions/edit-watch';
import { runSource } from '#server/pipeline/run';
import { checkSignature } from '#server/fetch/signature';
import { ruleOf, fallsBelow, NEXT_LOOK, openWorld, PRICE, startWatch, type TestWorld } from '../support/world';

let world: TestWorld;
beforeAll(async () => {
  world = await openWorld();
});
afterAll(() => world.close());
beforeEach(() => world.clear());

const count = async (what: string) => (await world.rows<{ n: number }>(`SELECT count(*)::int AS n FROM ${what}`))[0]?.n;

/** Starts a watch on whatever a stand-in's source proposes. */
async function startListing(
  site: string,
  path: string,
  change: Partial<WatchDefinition> = {},
  everyMinutes = 60,
): Promise<WatchId> {
  const host = `${site}.localhost:${world.standins.port}`;
  const address = `http://${host}${path}`;
  const fetched = await world.services.pipeline.sources.fetch({
    address,
    way: 'plain',
    request: {},
    robotsHeeded: true,
  });
  if (!fetched.ok || fetched.value.kind !== 'page') throw new Error(`${address} did not come`);
  const format = path.includes('senml') ? 'senml' : path.includes('metrics') ? 'metrics' : 'html';
  const records =
    format === 'senml'
      ? ({ from: 'senml' } as const)
      : format === 'metrics'
        ? ({ from: 'metrics', family: 'orders' } as const)
        : ({ from: 'rows', rows: 'table tr:has(td)' } as const);
  const body = openBody(fetched.value.body(), format, world.now);
  const listing = body.ok ? listingOf(body.value, records) : null;
  if (listing === null) throw new Error('nothing is proposed');
  const definition = {
    subject: site,
    records,
    fields: listing.fields,
    identity: listing.identity,
    variant: null,
    chosen: null,
    leftOut: [],
    guards: [],
    ...change,
  };
  const plan = { definition, frequency: { count: everyMinutes, unit: 'minute' as const }, rules: [] };
  return inTransaction(world.pool, (db) =>
    createWatch(db, { address, host, site, mostAtOnce: 4 }, plan, { person: world.people.ines, at: world.now }),
  );
}

const recordsOf = (id: WatchId) => listRecords(world.pool, id, { words: '', chosen: null, most: 100 });
const valueOf = (records: RecordNow[], name: string) =>
  records.find((record) => record.identity === name)?.series[0]?.value;

describe('a watch that is not read any more', () => {
  it('is told once, with its cause, when that lasts; and once more when it is read again', async () => {
    await startWatch(world);
    await world.pass(0);
    world.standins.world.push('page', 'copper-smoker-large', 'missing');
    for (let look = 0; look < 12; look += 1) await world.pass(NEXT_LOOK);
    await world.sendMail();
    const mails = world.standins.room.list();
    expect(mails.map((mail) => mail.subject)).toEqual(Array(2).fill('Not read: Skepwright, Copper smoker'));
    const mail = await world.standins.room.read(mails[0]?.id ?? '');
    expect(mail?.text).toContain('its page is gone');
    expect(mail?.text).toContain('The page is not there (404).');
    expect(mail?.text).toContain('nothing is called a change');

    world.standins.world.push('page', 'copper-smoker-large', 'there');
    for (let look = 0; look < 30; look += 1) await world.pass(NEXT_LOOK);
    await world.sendMail();
    expect(
      world.standins.room
        .list()
        .map((each) => each.subject)
        .filter((subject) => subject.startsWith('Read again')),
    ).toHaveLength(2);
    expect([await count('notice'), await count('change')]).toEqual([2, 0]);
  });

  it('for two looks alone is not worth a mail', async () => {
    await startWatch(world);
    await world.pass(0);
    world.standins.world.push('page', 'copper-smoker-large', 'missing');
    await world.pass(NEXT_LOOK);
    await world.pass(NEXT_LOOK);
    world.standins.world.push('page', 'copper-smoker-large', 'there');
    await world.pass(NEXT_LOOK);
    expect([await count('notice'), await world.sendMail()]).toEqual([0, 0]);
  });

  it('that nobody hears of at once is told to its owner', async () => {
    await startWatch(world, { condition: null, audiences: [] });
    await world.pass(0);
    world.standins.world.push('page', 'copper-smoker-large', 'retired');
    await world.pass(NEXT_LOOK);
    await world.sendMail();
    expect(world.standins.room.list().map((mail) => mail.to)).toEqual([['ines@heatherlow.example']]);
  });

  it('slows down, then rests, then is tried daily', async () => {
    await startWatch(world);
    await world.pass(0);
    world.standins.world.push('page', 'copper-smoker-large', 'missing');
    const runs: Instant[] = [];
    for (let hour = 0; hour < 100; hour += 1) if ((await world.pass(HOUR)).length > 0) runs.push(world.now);
    const gaps = runs.slice(1).map((at, before) => Math.round((at - (runs[before] ?? 0)) / HOUR));
    expect(gaps.slice(0, 2)).toEqual([1, 1]);
    expect(gaps.every((gap, at) => at === 0 || gap >= (gaps[at - 1] ?? 0))).toBe(true);
    expect(gaps.at(-1)).toBe(24);
  });

  it('is told the reason apart: a consent wall, another product', async () => {
    const guards = [{ check: 'says', selector: 'h1', text: 'Copper smoker, large', how: 'equal' } as const];
    const host = `skepwright.localhost:${world.standins.port}`;
    const source = { address: `http://${host}/p/copper-smoker-large`, host, site: 'Skepwright', mostAtOnce: 4 };
    const plan = {
      definition: pageDefinition('Copper smoker', [PRICE], guards),
      frequency: { count: 1, unit: 'hour' as const },
      rules: [ruleOf(fallsBelow('22.00'), ['list:1'])],
    };
    const id = await inTransaction(world.pool, (db) =>
      createWatch(db, source, plan, { person: world.people.ines, at: world.now }),
    );
    await world.pass(0);
    world.standins.world.push('consent', 'copper-smoker-large', 'wall');
    await world.pass(NEXT_LOOK);
    expect((await findWatch(world.pool, id))?.problem?.sentence).toContain('A consent wall stands before the page');
    world.standins.world.push('consent', 'copper-smoker-large', 'none');
    world.standins.world.push('page', 'copper-smoker-large', 'swapped');
    await world.pass(NEXT_LOOK);
    expect((await findWatch(world.pool, id))?.problem?.sentence).toContain('This is another product');
    expect(await count('change')).toBe(0);
  });
});

describe('a host that asks us to slow down', () => {
  it('is left alone as a whole for as long as it says, and asked again then', async () => {
    await startWatch(world);
    await startWatch(world, { slug: 'steel-smoker' });
    await world.pass(0);
    world.standins.world.push('speed', 'skepwright', 'asks to slow down');
    await world.pass(NEXT_LOOK);
    const [host] = await world.rows<{ next_at: Instant }>(`SELECT next_at FROM host WHERE name LIKE 'skepwright%'`);
    expect(host?.next_at).toBe(world.now + 120_000);
    world.standins.world.push('speed', 'skepwright', 'usual');
    await startWatch(world, { slug: 'cotton-jacket' });
    expect(await world.pass(MINUTE)).toEqual([]);
    expect((await world.pass(2 * MINUTE)).length).toBeGreaterThan(0);
  });
});

describe('a site that wants no programs', () => {
  it('is not read, and says why; it is read when she decides so for the host', async () => {
    const id = await startWatch(world);
    await world.pass(0);
    world.standins.world.push('robots', 'skepwright', 'unwelcome');
    // Its rules are taken as known for a while.
    await world.pass(7 * HOUR);
    const { problem, series } = (await findWatch(world.pool, id)) ?? {};
    expect(problem?.sentence).toContain(
      'asks programs not to fetch this address (its robots rules), and Shrike heeds that',
    );
    expect(series?.[0]?.value).toMatchObject({ amount: '24.00' });
    expect(await count('change')).toBe(0);
    await setHost(
      world.pool,
      `skepwright.localhost:${world.standins.port}`,
      { mostAtOnce: 4, pauseMs: 0, robotsHeeded: false, runsADay: null },
      { id: world.people.ines, zone: 'UTC' },
    );
    await world.pass(25 * HOUR);
    expect((await findWatch(world.pool, id))?.problem).toBe(null);
  });
});

describe('a source that takes longer than its interval', () => {
  it('is never asked twice at once, and what was skipped is counted', async () => {
    const id = await startListing('gateway', '/senml', {}, 1);
    await world.pass(0);
    const [due] = await world.rows<{ due_at: Instant }>('SELECT due_at FROM due');
    world.now = Number(due?.due_at) + 3.5 * MINUTE;
    const [claimed] = await claimDue(world.pool, world.now, world.config.leaseMs, 50);
    if (claimed === undefined) throw new Error('nothing was due');
    expect(await claimDue(world.pool, world.now, world.config.leaseMs, 50)).toEqual([]);
    await runSource(world.services.pipeline, claimed);
    expect((await findWatch(world.pool, id))?.skipped).toBe(3);
  });
});

describe('a listing that is built anew', () => {
  it('is not read until it is mended, calls nothing a change, and goes on with its series', async () => {
    // At noon, so that no lot is put up or sold meanwhile.
    world.now = Math.ceil(world.now / DAY) * DAY + DAY / 2;
    const id = await startListing('supplier', '/lots');
    await world.pass(0);
    const before = await recordsOf(id);
    world.standins.world.push('layout', 'supplier', 'rebuilt');
    await world.pass(HOUR);
    const watch = await findWatch(world.pool, id);
    const latest = await findBody(world.pool, id);
    expect(watch?.problem?.sentence).toContain('There are no records here any more');
    if (watch === null || latest === null) throw new Error('the watch is gone');
    const opened = openBody(latest.body, 'html', world.now);
    const mending = opened.ok
      ? proposeMending(opened.value, watch.definition, await listKnown(world.pool, id), latest.address)
      : null;
    if (mending?.definition == null) throw new Error('nothing is proposed');
    const plan = { definition: mending.definition, frequency: watch.frequency, rules: [] };
    const edit = { basedOn: watch.version, editor: world.people.ines };
    await inTransaction(world.pool, (db) => editWatch(db, id, plan, edit, world.now));
    await world.pass(HOUR);
    const after = await recordsOf(id);
    expect((await findWatch(world.pool, id))?.problem).toBe(null);
    expect(after.map((record) => [record.id, record.identity, record.goneSince])).toEqual(
      before.map(({ id: record, identity }) => [record, identity, null]),
    );
    expect(await count("change WHERE kind IN ('appeared', 'vanished')")).toBe(0);
  });
});

describe('sensors', () => {
  it('keep their own times: a reading a minute, none twice, bad ones kept apart', async () => {
    const id = await startListing('gateway', '/senml', {}, 1);
    await world.pass(0);
    await world.pass(20_000);
    const before = await count('reading');
    world.standins.world.push('sensor', 'gateway/store/temperature', 'bad');
    await world.pass(MINUTE);
    await world.pass(MINUTE);
    expect(await count(`reading WHERE quality = 'bad'`)).toBeGreaterThanOrEqual(2);
    expect(await count('reading')).toBeGreaterThan(before ?? 0);
    const store = (await recordsOf(id)).find((record) => record.identity === 'apiary/store/temperature');
    expect(store?.series[0]?.value.kind).toBe('number');
    expect(store?.series[0]?.quality).toBe('bad');
    expect(await count('change')).toBe(0);
    // A bad point or two are no trouble yet.
    expect((await findWatch(world.pool, id))?.unheard).toBe(null);
    for (let minute = 0; minute < 6; minute += 1) await world.pass(MINUTE);
    expect((await findWatch(world.pool, id))?.unheard).toMatchObject({ count: 1, bad: 1 });
    world.standins.world.push('sensor', 'gateway/store/temperature', 'usual');
    await world.pass(MINUTE);
    expect((await findWatch(world.pool, id))?.unheard).toBe(null);
  });

  it('that fall silent leave what they stood at; those that turn up are offered and not read', async () => {
    const chosen = ['apiary/store/temperature'];
    const id = await startListing('gateway', '/senml', { chosen }, 1);
    await world.pass(0);
    expect((await recordsOf(id)).map((record) => record.identity)).toEqual(chosen);
    expect(await listOffered(world.pool, id, 100)).toHaveLength(22);
    world.standins.world.push('sensor', 'gateway/store/temperature', 'silent');
    await world.pass(MINUTE);
    expect(valueOf(await recordsOf(id), 'apiary/store/temperature')?.kind).toBe('number');
    expect(await findPunctuality(world.pool, id, 0)).toMatchObject({ runs: 2 });
    expect((await findWatch(world.pool, id))?.unheard).toBe(null);
    await world.pass(3 * HOUR);
    expect((await findWatch(world.pool, id))?.unheard).toMatchObject({ count: 1, bad: 0 });
  });
});

describe('counters', () => {
  it('are read as what was added; after one began anew, as all that it shows', async () => {
    const id = await startListing('webshop', '/metrics');
    const name = 'orders_total{device="desktop",region="north"}';
    await world.pass(0);
    expect(valueOf(await recordsOf(id), name)).toBeUndefined();
    await world.pass(HOUR);
    const added = valueOf(await recordsOf(id), name);
    expect(added).toMatchObject({ kind: 'number' });
    expect(Number(added?.kind === 'number' ? added.amount : -1)).toBeLessThan(60);
    world.standins.world.push('counter', 'webshop', 'begun anew');
    await world.pass(2 * HOUR);
    const anew = valueOf(await recordsOf(id), name);
    expect(Number(anew?.kind === 'number' ? anew.amount : -1)).toBeGreaterThanOrEqual(0);
  });
});

describe('what is posted', () => {
  const TOKEN = 'a-token-for-tests';
  const pack = (weight: number, at: number) =>
    Buffer.from(`[{"bn":"field/","bt":${at / 1000},"n":"hive9/weight","u":"kg","v":${weight}}]`);

  async function post(id: string, weight: number): Promise<string> {
    const posting = await findPosting(world.pool, TOKEN);
    if (posting === null) throw new Error('there is no such address');
    return inTransaction(world.pool, (db) =>
      keepMessage(
        db,
        posting,
        { messageId: id, contentType: 'application/senml+json', body: pack(weight, world.now) },
        world.now,
      ),
    );
  }

  async function startPosted(): Promise<WatchId> {
    const draft = {
      address: `http://localhost:4600/in/${TOKEN}`,
      content: emptyPlan(''),
      body: null,
      finalAddress: null,
      way: 'posted' as const,
    };
    const draftId = await beginDraft(world.pool, world.people.ines, draft, world.now);
    await makePosting(world.pool, TOKEN, draftId);
    await post('first', 30);
    const body = openBody(pack(30, world.now).toString(), 'senml', world.now);
    const listing = body.ok ? listingOf(body.value, { from: 'senml' }) : null;
    const definition = {
      subject: 'Field hive',
      records: { from: 'senml' } as const,
      fields: listing?.fields ?? [],
      identity: [],
      variant: null,
      chosen: null,
      leftOut: [],
      guards: [],
    };
    const plan = { definition, frequency: { count: 1, unit: 'hour' as const }, rules: [] };
    const source = {
      address: draft.address,
      host: 'localhost:4600',
      site: 'posted',
      mostAtOnce: 4,
      way: 'posted' as const,
      postedTo: draftId,
    };
    return inTransaction(world.pool, (db) =>
      createWatch(db, source, plan, { person: world.people.ines, at: world.now }),
    );
  }

  it('starts one run a message, in order, once an id; between messages nothing runs', async () => {
    const id = await startPosted();
    expect(await world.pass(0)).toMatchObject([{ outcome: 'read' }]);
    expect(valueOf(await recordsOf(id), 'field/hive9/weight')).toMatchObject({ amount: '30', unit: 'kg' });
    expect(await world.pass(5 * HOUR)).toEqual([]);
    expect(await post('second', 31)).toBe('kept');
    world.now += MINUTE;
    expect(await post('third', 32)).toBe('kept');
    expect(await post('second', 99)).toBe('known');
    expect(await world.pass(0)).toHaveLength(2);
    expect(valueOf(await recordsOf(id), 'field/hive9/weight')).toMatchObject({ amount: '32' });
    expect(await count('posted_message WHERE body IS NOT NULL')).toBe(0);
    expect(await world.pass(HOUR)).toEqual([]);
  });

  it('waits up to a bound, however many post at once, and there is room again once it was read', async () => {
    await startPosted();
    await world.pass(0);
    const posted = await Promise.all(Array.from({ length: 150 }, (_, nth) => post(`many ${nth}`, nth)));
    expect([posted.filter((said) => said === 'kept').length, posted.filter((said) => said === 'full').length]).toEqual([
      100, 50,
    ]);
    expect(await world.pass(0)).toHaveLength(100);
    expect(await post('one more', 7)).toBe('kept');
  });

  it('to a draft waits alone, the latest', async () => {
    await startPosted();
    await world.rows('UPDATE posting SET draft_id = (SELECT max(id) FROM draft), source_id = NULL');
    for (let nth = 0; nth < 5; nth += 1) expect(await post(`draft ${nth}`, nth)).toBe('kept');
    expect(await count('posted_message WHERE body IS NOT NULL')).toBe(1);
  });

  it('that is late takes its place in the series, and is no news', async () => {
    const id = await startPosted();
    await world.pass(0);
    const posting = await findPosting(world.pool, TOKEN);
    if (posting === null) throw new Error('there is no such address');
    const message = { messageId: 'late', contentType: 'application/senml+json', body: pack(12, world.now - HOUR) };
    await inTransaction(world.pool, (db) => keepMessage(db, posting, message, world.now));
    await world.pass(MINUTE);
    expect(valueOf(await recordsOf(id), 'field/hive9/weight')).toMatchObject({ amount: '30' });
    expect(await count('reading WHERE late')).toBe(1);
    expect(await count('change')).toBe(0);
  });

  it('that cannot be kept fails once with its reason, and what follows is read', async () => {
    const id = await startPosted();
    await world.pass(0);
    for (const [name, weight] of [
      ['odd', 31],
      ['even', 32],
    ] as const) {
      world.now += MINUTE;
      await post(name, weight);
    }
    const onStep = (step: string) => (step === 'judged' ? Promise.reject(new RangeError('odd')) : Promise.resolve());
    const [claimed] = await claimDue(world.pool, world.now, world.config.leaseMs, 1);
    if (claimed === undefined) throw new Error('nothing is due');
    expect(await runSource({ ...world.services.pipeline, onStep }, claimed)).toMatchObject({ outcome: 'failed' });
    expect((await findWatch(world.pool, id))?.problem?.sentence).toContain('could not be kept (odd)');
    world.now += MINUTE;
    expect(await world.pass(0)).toMatchObject([{ outcome: 'read' }]);
    expect((await findWatch(world.pool, id))?.problem).toBe(null);
    expect(valueOf(await recordsOf(id), 'field/hive9/weight')).toMatchObject({ amount: '32' });
  });

  it('is refused unless it is signed with the secret, whole, and of now', () => {
    const now = Date.UTC(2026, 5, 1);
    const body = Buffer.from('{}');
    const sign = (change: Record<string, string | null>) =>
      checkSignature('secret', { id: 'a', time: String(now / 1000), signature: 'sha256=8a3a', body, ...change }, now);
    expect(sign({})).toMatchObject({ ok: false, error: 'The signature does not fit the message.' });
    expect(sign({ id: null })).toMatchObject({ ok: false });
    expect(sign({ time: String(now / 1000 - 600) })).toMatchObject({
      ok: false,
      error: 'The stated time is more than five minutes from ours.',
    });
    expect(sign({ time: 'yesterday' })).toMatchObject({ ok: false });
    expect(sign({ signature: null })).toMatchObject({ ok: false });
  });
});

describe('a listing', () => {
  it('tells what appeared and vanished, by identity and never by position', async () => {
    await startListing('supplier', '/lots');
    await world.pass(0);
    for (let day = 0; day < 6; day += 1) await world.pass(24 * HOUR);
    const moves = await world.rows<{ was: { kind: string }; now: { kind: string } }>(
      `SELECT was, now FROM change WHERE kind = 'record'`,
    );
    expect(moves.some((move) => move.was.kind === 'absent')).toBe(true);
    expect(moves.some((move) => move.now.kind === 'absent')).toBe(true);
    const lots = await world.rows<{ n: number }>(
      `SELECT count(*)::int AS n FROM change c JOIN series s ON s.id = c.series_id WHERE s.field = 'lot'`,
    );
    expect(lots[0]?.n).toBe(0);
  });
});
