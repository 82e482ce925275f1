import { readFile } from 'node:fs/promises';
import type { EpisodeId, RuleId, WatchId } from '#core/id';
import { beforeEach, describe, expect, it } from 'vitest';
import type { Clause, Condition } from '#core/judge/clause';
import type { RuleDefinition } from '#core/judge/rule';
import { pageDefinition, type Field, type WatchDefinition } from '#core/read/definition';
import { headline, storedNews } from '#core/tell/news';
import type { Decimal } from '#core/value/decimal';
import { money } from '#core/value/parse';
import { DAY, HOUR, MINUTE } from '#core/when/interval';
import { inTransaction } from '#server/db/base/pool';
import { countResting, listOver, listRaised, noteSeen } from '#server/db/rule/raised';
import { findWatch } from '#server/db/watch/views/watch-now';
import { createWatch, editWatch, setWatchState, type RulePlan } from '#server/actions/edit-watch';
import { moveClock } from '#server/pipeline/clock';
import { actOn, openEpisode, startAgain, type EpisodeAction } from '#server/pipeline/episode-actions';
import { page, type Answer, type Site } from '../support/site';
import { besideSite } from '../support/site-world';
import { PRICE, type TestWorld } from '../support/world';

// Rules of every kind through the whole pipeline: what the clock alone moves, what other watches and records do to
// them, and what people do.

let site: Site;
let world: TestWorld;
const answers: Record<string, Answer> = {};
let broken = false;

const show = (path: string, html: string) => {
  answers[path] = (request, response) => {
    if (!broken) return page(html)(request, response);
    response.writeHead(503).end();
  };
};
const price = (path: string, pounds: string, stock = 'In stock') =>
  show(
    path,
    `<html lang="en-GB"><body><h1>Smoker</h1><p class="price">£${pounds}</p><p ` +
      `class="stock">${stock}</p></body></html>`,
  );
const offers = (rows: [ref: string, pounds: string][]) =>
  show(
    '/list',
    '<html ' +
      `lang="en-GB"><body><table><tr><th>ref</th><th>price</th></tr>${rows.map(([ref, pounds]) => `<tr><td>${ref}</td><td>£${pounds}</td></tr>`).join('')}</table></body></html>`,
  );

besideSite(answers, (...opened) => ([site, world] = opened));
beforeEach(async () => {
  broken = false;
  await world.clear();
});

const FIELD: Field = { ...PRICE, locators: [{ way: 'css', selector: '.price' }] };
const STOCK: Field = {
  ...FIELD,
  key: 'stock',
  label: 'stock',
  type: { kind: 'text' },
  locators: [{ way: 'css', selector: '.stock' }],
};
const pounds = (amount: string) => money(amount, 'GBP');
const asked = (field = 'price') => ({ asked: { field } });
const below = (limit: string): Clause => ({
  kind: 'level',
  of: asked(),
  limits: { is: 'below', limit: pounds(limit), inclusive: false },
});
const rule = (when: Condition, more: Partial<RuleDefinition> = {}): RuleDefinition => ({
  when,
  whenAlreadyMet: 'raise',
  ...more,
});
const telling = (definition: RuleDefinition): RulePlan => ({
  id: null,
  definition,
  audiences: [`person:${world.people.ines}`],
});

const LIST: WatchDefinition = {
  ...pageDefinition('Offers', []),
  records: { from: 'rows', rows: 'table tr:has(td)' },
  identity: ['ref'],
  fields: [
    {
      ...FIELD,
      key: 'ref',
      label: 'ref',
      type: { kind: 'text' },
      locators: [{ way: 'css', selector: 'td:nth-of-type(1)' }],
    },
    { ...FIELD, locators: [{ way: 'css', selector: 'td:nth-of-type(2)' }] },
  ],
};

function watchOn(
  path: string,
  rules: RuleDefinition[],
  definition: WatchDefinition = pageDefinition('Smoker', [FIELD, STOCK]),
): Promise<WatchId> {
  const source = { address: site.base + path, host: site.host, site: 'Shop', mostAtOnce: 4 };
  const plan = { definition, frequency: { count: 1, unit: 'hour' as const }, rules: rules.map(telling) };
  return inTransaction(world.pool, (db) => createWatch(db, source, plan, { person: world.people.ines, at: world.now }));
}

async function edit(id: WatchId, change: (rules: RulePlan[]) => RulePlan[]): Promise<void> {
  const watch = await findWatch(world.pool, id);
  if (watch === null) throw new Error('there is no such watch');
  const plan = { definition: watch.definition, frequency: watch.frequency, rules: change(watch.rules) };
  const edited = await inTransaction(world.pool, (db) =>
    editWatch(db, id, plan, { basedOn: watch.version, editor: world.people.ines }, world.now),
  );
  expect(edited.ok).toBe(true);
}

/** What was told so far, each of which record, in order. */
const toldOf = async () =>
  (
    await world.rows<{ told: string; name: string }>(
      'SELECT a.told, r.name FROM alert a JOIN record r ON r.id = a.record_id ORDER BY a.id',
    )
  ).map(({ told: what, name }) => `${name} ${what}`);

/** What was told so far, in order. */
const told = async () =>
  (await world.rows<{ told: string }>('SELECT told FROM alert ORDER BY id')).map((alert) => alert.told);
const states = async () =>
  (await world.rows<{ name: string }>('SELECT name FROM rule_state ORDER BY rule_id, record_id')).map(
    ({ name }) => name,
  );
const closed = async () =>
  (await world.rows<{ because: string | null }>('SELECT closed_because AS because FROM episode ORDER BY id')).map(
    ({ because }) => because,
  );

async function act(deed: EpisodeAction, at = world.now): Promise<boolean> {
  const [episode] = await listRaised(world.pool, 10);
  return actOn(world.services.pipeline, episode?.id ?? (0 as EpisodeId), deed, world.people.ravi, at);
}

describe('the clock', () => {
  it('raises a silence between two looks, mails it, and the next reading ends it', async () => {
    price('/a', '24.00');
    await watchOn('/a', [
      rule({ kind: 'silence', ...asked(), how: { of: 'readings', ms: 3 * HOUR } }, { tellsEnd: true }),
    ]);
    await world.pass(0);
    broken = true;
    await world.pass(HOUR);
    await world.pass(HOUR);
    expect(await told()).toEqual([]);
    await world.pass(HOUR + MINUTE);
    expect([await told(), await states()]).toEqual([['alert'], ['raised']]);
    expect(await world.sendMail()).toBeGreaterThan(0);
    expect(
      world.standins.room
        .list()
        .map(({ subject }) => subject)
        .some((subject) => subject.includes('Smoker')),
    ).toBe(true);
    broken = false;
    await world.pass(6 * HOUR);
    expect([await told(), await closed()]).toEqual([['alert', 'over'], ['left']]);
  });

  it('raises a silence of a page that was never read, from the saving of its rule on; its first reading ends it', async () => {
    price('/never', '24.00');
    broken = true;
    await watchOn('/never', [
      rule({ kind: 'silence', ...asked(), how: { of: 'readings', ms: 3 * HOUR } }),
      rule({ kind: 'silence', ...asked(), how: { of: 'runs', count: 2 } }),
      rule(below('22.00')),
    ]);
    for (const ms of [0, HOUR, HOUR]) await world.pass(ms);
    expect(await states()).toEqual(['undecided', 'raised', 'undecided']);
    await world.pass(HOUR);
    expect(await states()).toEqual(['raised', 'raised', 'undecided']);
    broken = false;
    await world.pass(6 * HOUR);
    expect([await states(), await closed()]).toEqual([
      ['calm', 'calm', 'calm'],
      ['left', 'left'],
    ]);
  });

  it('lets a time to hold be up though nobody looks then, and not where it was left before', async () => {
    price('/b', '24.00');
    await watchOn('/b', [rule(below('22.00'), { hold: { for: 'time', ms: 90 * MINUTE } })]);
    await world.pass(0);
    price('/b', '21.00');
    await world.pass(HOUR);
    expect(await states()).toEqual(['holding']);
    await world.pass(HOUR);
    world.now += 31 * MINUTE;
    await moveClock(world.services.pipeline, world.now);
    expect([await told(), await states()]).toEqual([['alert'], ['raised']]);
    const [episode] = await listRaised(world.pool, 10);
    expect((episode?.raisedAt ?? 0) - (episode?.openedAt ?? 0)).toBe(90 * MINUTE);
  });

  it('reminds until somebody takes it on, and again once she let it go', async () => {
    price('/c', '24.00');
    await watchOn('/c', [rule(below('22.00'), { telling: { remindEvery: 2 * HOUR } })]);
    await world.pass(0);
    price('/c', '21.00');
    await world.pass(HOUR);
    await world.pass(2 * HOUR);
    expect(await told()).toEqual(['alert', 'reminder']);
    expect(await act({ what: 'take on', note: 'I ask them' })).toBe(true);
    await world.pass(5 * HOUR);
    expect(await told()).toEqual(['alert', 'reminder']);
    expect(await listRaised(world.pool, 10)).toMatchObject([{ takenOn: { by: 'Ravi Oduya', note: 'I ask them' } }]);
    await act({ what: 'let go' });
    await world.pass(2 * HOUR);
    expect(await told()).toEqual(['alert', 'reminder', 'reminder']);
  });

  it('is moved once, however many workers move it', async () => {
    price('/d', '24.00');
    await watchOn('/d', [rule({ kind: 'silence', ...asked(), how: { of: 'readings', ms: 30 * MINUTE } })]);
    await world.pass(0);
    world.now += 31 * MINUTE;
    await Promise.all(Array.from({ length: 6 }, () => moveClock(world.services.pipeline, world.now)));
    expect(await told()).toEqual(['alert']);
  });

  it('moves, begins and ends what else there is where one rule cannot be judged', async () => {
    for (const path of ['/q', '/r']) price(path, '24.00');
    const silence = rule({ kind: 'silence', ...asked(), how: { of: 'readings', ms: 30 * MINUTE } });
    const [broke, other] = [await watchOn('/q', [silence]), await watchOn('/r', [silence])];
    await world.pass(0);
    await edit(broke, (rules) => [...rules, telling(rule(below('30.00')))]);
    await edit(other, (rules) => [...rules, telling(rule(below('30.00')))]);
    const unreadable = `'{"v": 2}'`;
    await world.rows(
      `UPDATE rule_state SET memory = ${unreadable} WHERE rule_id IN (SELECT id FROM rule WHERE watch_id = $1)`,
      [broke],
    );
    await world.rows(
      `UPDATE rule_version SET definition = ${unreadable}
        WHERE rule_id = (SELECT max(id) FROM rule WHERE watch_id = $1)`,
      [broke],
    );
    world.now += 31 * MINUTE;
    await world.rows('UPDATE rule SET ends_at = $1 WHERE watch_id = $2', [new Date(world.now), broke]);
    await moveClock(world.services.pipeline, world.now);
    expect(await told()).toEqual(['alert', 'alert']);
    expect(
      await world.rows('SELECT FROM rule WHERE begun_at IS NULL OR (ends_at IS NOT NULL AND ended_at IS NULL)'),
    ).toEqual([]);
    expect(await world.rows('SELECT FROM rule_state WHERE due_at <= $1', [new Date(world.now)])).toEqual([]);
  });

  it('moves nothing of a watch that is paused or a rule that has ended', async () => {
    price('/e', '24.00');
    const id = await watchOn('/e', [rule({ kind: 'silence', ...asked(), how: { of: 'readings', ms: 30 * MINUTE } })]);
    await world.pass(0);
    await edit(id, () => []);
    world.now += 2 * HOUR;
    expect(await moveClock(world.services.pipeline, world.now)).toMatchObject({ woken: 0, alerts: 0 });
  });
});

describe('a rule that is said of a watch which was read', () => {
  it('sees what was before, and is raised or waits as she chose, before anybody looks again', async () => {
    price('/f', '21.00');
    const id = await watchOn('/f', []);
    await world.pass(0);
    await edit(id, () => [telling(rule(below('22.00'))), telling(rule(below('22.00'), { whenAlreadyMet: 'wait' }))]);
    expect(await told()).toEqual([]);
    await moveClock(world.services.pipeline, world.now);
    expect([await told(), await states()]).toEqual([['alert'], ['raised', 'calm']]);
  });

  it('holds the next reading against the median of those of before', async () => {
    price('/g', '20.00');
    const id = await watchOn('/g', []);
    for (const each of ['20.00', '21.00', '20.50', '20.80']) {
      price('/g', each);
      await world.pass(HOUR);
    }
    await edit(id, () => [
      telling(
        rule({
          kind: 'move',
          ...asked(),
          against: { base: 'median', of: 3 },
          rise: { by: 'percent', percent: '20' as Decimal },
          fall: null,
        }),
      ),
    ]);
    price('/g', '26.00');
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert']);
  });

  it('keeps every state where only its name, weight or readers change, and begins anew where its limit does', async () => {
    price('/h', '21.00');
    const id = await watchOn('/h', [rule(below('22.00'))]);
    await world.pass(0);
    await edit(id, ([kept]) => [
      {
        ...(kept as RulePlan),
        definition: { ...(kept as RulePlan).definition, name: 'Cheap', weight: 'high' },
        audiences: ['list:1'],
      },
    ]);
    await world.pass(HOUR);
    expect([await told(), await states(), await closed()]).toEqual([['alert'], ['raised'], [null]]);
    await edit(id, ([kept]) => [
      { ...(kept as RulePlan), definition: { ...(kept as RulePlan).definition, when: below('20.00') } },
    ]);
    await world.pass(HOUR);
    expect([await told(), await states(), await closed()]).toEqual([['alert'], ['calm'], ['edited']]);
  });
});

describe('several conditions', () => {
  it('are met together on one record, and say what each was found to be', async () => {
    price('/i', '24.00', 'Sold out');
    await watchOn('/i', [
      rule({
        all: [
          below('22.00'),
          { kind: 'state', asked: { field: 'stock' }, how: { is: { kind: 'text', text: 'In stock' } } },
        ],
      }),
    ]);
    await world.pass(0);
    price('/i', '21.00', 'Sold out');
    await world.pass(HOUR);
    expect(await told()).toEqual([]);
    price('/i', '21.00', 'In stock');
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert']);
    const [verdict] = await world.rows<{ whys: { code: string }[] }>(
      `SELECT reason->'whys' AS whys FROM verdict WHERE taken`,
    );
    expect(verdict?.whys.map(({ code }) => code)).toEqual(['stands at', 'moved']);
  });
});

describe('another watch', () => {
  it('moves a rule that asks it, whichever of the two is read', async () => {
    price('/ours', '20.00');
    price('/rival', '24.00');
    const ours = await watchOn('/ours', []);
    await world.pass(0);
    const other = { field: 'price', watch: ours };
    await watchOn('/rival', [
      rule(
        {
          kind: 'against',
          ...asked(),
          other,
          is: 'below',
          by: { by: 'percent', percent: '0' as Decimal },
          inclusive: false,
        },
        { whenAlreadyMet: 'wait' },
      ),
    ]);
    await world.pass(HOUR);
    expect(await told()).toEqual([]);
    price('/rival', '19.00');
    await world.pass(HOUR);
    expect(await states()).toEqual(['raised']);
    // Ours follows: the rival was not read anew, and is no longer below.
    price('/ours', '18.00');
    await world.pass(HOUR);
    expect([await told(), await closed()]).toEqual([['alert'], ['left']]);
  });
});

describe('a condition that is another watch’s', () => {
  it('goes by its latest value with that of its own, whichever of the two is read', async () => {
    price('/ours', '24.00', 'In stock');
    price('/theirs', '24.00', 'In stock');
    const ours = await watchOn('/ours', []);
    const soldOut: Clause = {
      kind: 'state',
      asked: { field: 'stock', watch: ours },
      how: { becomes: { kind: 'text', text: 'Sold out' } },
    };
    await watchOn('/theirs', [rule({ all: [below('22.00'), soldOut] }, { whenAlreadyMet: 'wait' })]);
    await world.pass(0);
    price('/theirs', '21.00');
    await world.pass(HOUR);
    expect([await told(), await states()]).toEqual([[], ['calm']]);
    price('/ours', '24.00', 'Sold out');
    await world.pass(HOUR);
    expect([await told(), await states()]).toEqual([['alert'], ['raised']]);
    price('/ours', '24.00', 'In stock');
    await world.pass(HOUR);
    expect(await closed()).toEqual(['left']);
  });
});

describe('limits one beyond the other', () => {
  it('are told each once while it goes on, with the last that was passed, and anew in the next episode', async () => {
    const limits = {
      is: 'below' as const,
      limit: pounds('24.00'),
      inclusive: false,
      further: [pounds('22.00'), pounds('20.00')],
    };
    price('/a', '25.00');
    await watchOn('/a', [rule({ kind: 'level', of: asked(), limits }, { tellsEnd: true })]);
    for (const [at, pence] of ['25.00', '23.50', '23.00', '19.00', '21.00', '19.50', '26.00', '21.50'].entries()) {
      price('/a', pence);
      await world.pass(at === 0 ? 0 : HOUR);
    }
    expect(await told()).toEqual(['alert', 'alert', 'over', 'alert']);
    await world.sendMail();
    const mails = await Promise.all(world.standins.room.list().map(({ id }) => world.standins.room.read(id)));
    const texts = mails.map((mail) => mail?.text ?? '');
    for (const words of [
      '£0.50 below your limit of £24.00',
      '£1.00 below your limit of £20.00',
      '£0.50 below your limit of £22.00',
    ])
      expect(texts.filter((text) => text.includes(words))).toHaveLength(1);
    expect(await closed()).toEqual(['left', null]);
  });
});

describe('records that come and go', () => {
  it('are told when they appear and vanish, and their episodes close', async () => {
    offers([
      ['a', '5.00'],
      ['b', '9.00'],
    ]);
    await watchOn(
      '/list',
      [rule({ kind: 'record', how: 'appears' }), rule({ kind: 'record', how: 'vanishes' }), rule(below('6.00'))],
      LIST,
    );
    await world.pass(0);
    expect([await told(), await states()]).toEqual([['alert'], expect.arrayContaining(['raised'])]);
    offers([
      ['b', '9.00'],
      ['c', '8.00'],
    ]);
    await world.pass(HOUR);
    expect((await told()).length).toBe(3);
    expect(await closed()).toEqual(['record gone']);
  });

  it('take and lose the lowest place among all', async () => {
    offers([
      ['a', '5.00'],
      ['b', '9.00'],
    ]);
    await watchOn('/list', [rule({ kind: 'place', ...asked(), among: 'records', end: 'lowest', how: 'takes' })], LIST);
    await world.pass(0);
    await world.pass(HOUR);
    expect(await told()).toEqual([]);
    offers([
      ['a', '5.00'],
      ['b', '4.00'],
    ]);
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert']);
    expect(await world.rows(`SELECT r.identity FROM alert a JOIN record r ON r.id = a.record_id`)).toEqual([
      { identity: 'b' },
    ]);
  });

  it('are judged by a rule only where it runs for them', async () => {
    offers([
      ['a', '5.00'],
      ['b', '5.00'],
    ]);
    await watchOn('/list', [rule(below('6.00'), { only: [{ by: 'identity', in: ['b'] }] })], LIST);
    await world.pass(0);
    expect(await world.rows('SELECT r.identity FROM rule_state t JOIN record r ON r.id = t.record_id')).toEqual([
      { identity: 'b' },
    ]);
  });
});

describe('an episode', () => {
  it('that is closed by hand is not raised again before its condition was left', async () => {
    price('/j', '21.00');
    await watchOn('/j', [rule(below('22.00'))]);
    await world.pass(0);
    expect(await act({ what: 'close', note: '' })).toBe(true);
    expect([await closed(), await states()]).toEqual([['by hand'], ['calm']]);
    price('/j', '20.00');
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert']);
    price('/j', '24.00');
    await world.pass(HOUR);
    price('/j', '21.00');
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert', 'alert']);
    expect(await listOver(world.pool, 0, 10)).toMatchObject([
      { because: 'by hand', told: { names: ['Inés Calloway'], times: 1 } },
    ]);
  });

  it('is new to whoever sees it first, and to each but once', async () => {
    price('/seen', '21.00');
    await watchOn('/seen', [rule(below('22.00'))]);
    await world.pass(0);
    const ids = (await listRaised(world.pool, 10)).map(({ id }) => id);
    const see = async (person: (typeof world.people)['ines']) => [
      ...(await noteSeen(world.pool, world.services.pipeline.ids, person, ids, world.now)).values(),
    ];
    const first = world.now;
    expect(await see(world.people.ines)).toEqual([first]);
    await world.pass(HOUR);
    expect([await see(world.people.ines), await see(world.people.ravi)]).toEqual([[first], [world.now]]);
    expect((await world.rows(`SELECT FROM episode_deed WHERE what = 'seen'`)).length).toBe(2);
    expect((await listRaised(world.pool, 10))[0]?.done).toEqual([]);
  });

  it('that is put off tells nothing until then, and then one reminder', async () => {
    price('/k', '21.00');
    await watchOn('/k', [rule(below('22.00'), { telling: { remindEvery: HOUR } })]);
    await world.pass(0);
    await act({ what: 'put off', until: world.now + 5 * HOUR });
    await world.pass(4 * HOUR);
    expect(await told()).toEqual(['alert']);
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert', 'reminder']);
  });

  it('that is over or was never there cannot be acted on', async () => {
    price('/l', '21.00');
    await watchOn('/l', [rule(below('22.00'))]);
    await world.pass(0);
    const [episode] = await listRaised(world.pool, 10);
    price('/l', '24.00');
    await world.pass(HOUR);
    const on = (id: EpisodeId) =>
      actOn(world.services.pipeline, id, { what: 'take on', note: '' }, world.people.ravi, world.now);
    expect([await on(episode?.id ?? (0 as EpisodeId)), await on(987_654_321 as EpisodeId)]).toEqual([false, false]);
    expect(await world.rows('SELECT FROM episode_deed')).toEqual([]);
  });
});

describe('what nobody takes on', () => {
  const steps = () => [
    { after: 2 * HOUR, audiences: [`person:${world.people.ravi}`] },
    { after: HOUR, audiences: ['list:1'] },
  ];
  const heard = async () =>
    (
      await world.rows<{ name: string; told: string }>(
        `SELECT p.name, a.told
          FROM notification t
          JOIN alert a ON a.id = t.alert_id
          JOIN person p ON p.id = t.person_id
          WHERE t.decision <> 'stood back'
          ORDER BY a.id, p.name`,
      )
    ).map(({ name, told: what }) => `${name.split(' ')[0]} ${what}`);

  it('is passed on step by step, each after its wait, and each in the trail', async () => {
    price('/s', '24.00');
    await watchOn('/s', [rule(below('22.00'), { steps: steps() })]);
    await world.pass(0);
    price('/s', '21.00');
    await world.pass(HOUR);
    expect(await heard()).toEqual(['Inés alert']);
    await world.pass(2 * HOUR - MINUTE);
    expect(await heard()).toEqual(['Inés alert']);
    await world.pass(MINUTE);
    expect(await heard()).toEqual(['Inés alert', 'Ravi escalation']);
    expect(await listRaised(world.pool, 10)).toMatchObject([{ step: 1, told: { times: 2 } }]);
    await world.pass(HOUR);
    expect(await heard()).toEqual(['Inés alert', 'Ravi escalation', 'Inés escalation', 'Ravi escalation']);
    await world.pass(DAY);
    expect((await heard()).length).toBe(4);
    await world.sendMail();
    expect(world.standins.room.list().some(({ subject }) => subject.includes('nobody has taken it on'))).toBe(true);
  });

  it('is passed on to nobody once it is taken on, and is again once it was let go', async () => {
    price('/t', '24.00');
    await watchOn('/t', [rule(below('22.00'), { steps: steps() })]);
    await world.pass(0);
    price('/t', '21.00');
    await world.pass(HOUR);
    await act({ what: 'take on', note: '' });
    await world.pass(5 * HOUR);
    expect(await heard()).toEqual(['Inés alert']);
    await act({ what: 'let go' });
    await world.pass(2 * HOUR);
    expect(await heard()).toEqual(['Inés alert', 'Ravi escalation']);
    expect((await listRaised(world.pool, 10))[0]?.done.map(({ what, by }) => [what, by])).toEqual([
      ['let go', 'Ravi Oduya'],
      ['taken on', 'Ravi Oduya'],
    ]);
  });

  it('is passed on to nobody while it is put off, nor once it is over', async () => {
    price('/u', '24.00');
    await watchOn('/u', [rule(below('22.00'), { steps: steps() })]);
    await world.pass(0);
    price('/u', '21.00');
    await world.pass(HOUR);
    await act({ what: 'put off', until: world.now + 6 * HOUR });
    await world.pass(3 * HOUR);
    expect(await heard()).toEqual(['Inés alert']);
    price('/u', '24.00');
    await world.pass(HOUR);
    await world.pass(DAY);
    expect((await heard()).filter((each) => each.includes('escalation'))).toEqual([]);
  });
});

describe('what is passed on', () => {
  const passedOn = () => world.rows(`SELECT FROM alert WHERE told = 'escalation'`);
  const begin = async (path: string, more: Partial<RuleDefinition> = {}) => {
    price(path, '24.00');
    const id = await watchOn(path, [
      rule(below('22.00'), { steps: [{ after: HOUR, audiences: [`person:${world.people.ravi}`] }], ...more }),
    ]);
    await world.pass(0);
    price(path, '21.00');
    await world.pass(HOUR);
    return id;
  };

  it('waits while its watch is paused, and never is of one that was deleted', async () => {
    const id = await begin('/paused');
    const set = (state: 'running' | 'paused' | 'deleted') =>
      inTransaction(world.pool, (db) => setWatchState(db, id, state, world.now));
    await set('paused');
    await world.pass(5 * HOUR);
    expect(await passedOn()).toHaveLength(0);
    await set('running');
    await world.pass(MINUTE);
    expect(await passedOn()).toHaveLength(1);
    await begin('/deleted');
    await world.pool.query(`UPDATE watch SET state = 'deleted'`);
    await world.pass(DAY);
    expect(await passedOn()).toHaveLength(1);
  });

  it('is what was told before: of what is held back so far not before that is told', async () => {
    await begin('/held', { telling: { atMostEvery: 4 * HOUR } });
    expect(await passedOn()).toHaveLength(0);
    // Left and met again within the time: what comes of that is held, and nobody hears of it another way.
    price('/held', '24.00');
    await world.pass(30 * MINUTE);
    price('/held', '24.00');
    await world.pass(HOUR);
    const before = (await passedOn()).length;
    price('/held', '20.00');
    await world.pass(HOUR);
    await world.pass(HOUR + 15 * MINUTE);
    expect(await passedOn()).toHaveLength(before);
    await world.pass(3 * HOUR);
    expect((await passedOn()).length).toBeGreaterThan(before);
  });

  it('to nobody who is there holds up none that comes after it', async () => {
    await begin('/nobody', { steps: [{ after: HOUR, audiences: ['person:9999'] }] });
    await begin('/somebody');
    await world.pass(2 * HOUR);
    expect(await passedOn()).toHaveLength(1);
  });
});

describe('a rule that is said otherwise', () => {
  it('tells first what was still to be told of it', async () => {
    price('/edited', '24.00');
    const id = await watchOn('/edited', [rule(below('22.00'), { telling: { atMostEvery: 12 * HOUR } })]);
    await world.pass(0);
    for (const amount of ['21.00', '24.00', '21.00', '24.00']) {
      price('/edited', amount);
      await world.pass(HOUR);
    }
    expect(await told()).toEqual(['alert']);
    await edit(id, ([first]) => [{ ...(first as RulePlan), definition: rule(below('15.00')) }]);
    await world.pass(0);
    expect(await told()).toEqual(['alert', 'alert']);
    price('/edited', '14.00');
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert', 'alert', 'alert']);
  });
});

describe('a rule that is told at most once in a time as a whole', () => {
  const together = { telling: { atMostEvery: 3 * HOUR, together: true as const } };
  const news = async () =>
    (await world.rows<{ news: unknown }>('SELECT news FROM alert ORDER BY id')).map(
      (alert) => headline(storedNews.read(alert.news), 'en-GB').lead,
    );

  it('tells of one record, and of all others as one when the time is up', async () => {
    offers([
      ['a', '30.00'],
      ['b', '30.00'],
      ['c', '30.00'],
    ]);
    await watchOn('/list', [rule(below('22.00'), { ...together, tellsEnd: true })], LIST);
    await world.pass(0);
    offers([
      ['a', '21.00'],
      ['b', '20.00'],
      ['c', '30.00'],
    ]);
    await world.pass(HOUR);
    expect([await told(), await states()]).toEqual([['alert'], ['raised', 'raised', 'calm']]);
    offers([
      ['a', '21.00'],
      ['b', '20.00'],
      ['c', '19.00'],
    ]);
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert']);
    // Over by then, and told as one all the same; that it is over is news of the first alone, which somebody heard of.
    offers([
      ['a', '31.00'],
      ['b', '31.00'],
      ['c', '19.00'],
    ]);
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert', 'over']);
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert', 'over', 'several']);
    expect((await news()).at(-1)).toMatch(/^c at .*: 2 alerts in /);
    // The time has begun anew with that; what comes after it is told by itself.
    offers([
      ['a', '21.00'],
      ['b', '31.00'],
      ['c', '19.00'],
    ]);
    await world.pass(HOUR);
    expect((await told()).length).toBe(3);
    await world.pass(3 * HOUR);
    expect(await told()).toEqual(['alert', 'over', 'several', 'alert']);
    await world.pass(4 * HOUR);
    offers([
      ['a', '21.00'],
      ['b', '20.00'],
      ['c', '19.00'],
    ]);
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert', 'over', 'several', 'alert', 'alert']);
  });

  it('follows what it told with others as what it told by itself: passed on, reminded, and told when it is over', async () => {
    offers([
      ['a', '30.00'],
      ['b', '30.00'],
      ['c', '30.00'],
    ]);
    const steps = [{ after: HOUR, audiences: [`person:${world.people.ravi}`] }];
    await watchOn(
      '/list',
      [rule(below('22.00'), { telling: { ...together.telling, remindEvery: 5 * HOUR }, tellsEnd: true, steps })],
      LIST,
    );
    await world.pass(0);
    offers([
      ['a', '21.00'],
      ['b', '20.00'],
      ['c', '19.00'],
    ]);
    await world.pass(HOUR);
    // Of b and c nobody knows yet: they are passed on to nobody, and nobody is reminded of them.
    await world.pass(2 * HOUR);
    expect(await toldOf()).toEqual(['a alert', 'a escalation']);
    await world.pass(HOUR);
    // Their step was due while nobody knew: it is taken once they are told.
    expect((await toldOf()).slice(2)).toEqual(['c several', 'b escalation', 'c escalation']);
    await world.pass(5 * HOUR);
    expect((await toldOf()).slice(5).sort()).toEqual(['a reminder', 'b reminder', 'c reminder']);
    offers([
      ['a', '21.00'],
      ['b', '30.00'],
      ['c', '19.00'],
    ]);
    await world.pass(HOUR);
    expect((await toldOf()).slice(8)).toEqual(['b over']);
  });

  it('tells what was held before all of its records were remembered', async () => {
    offers([
      ['a', '30.00'],
      ['b', '30.00'],
      ['c', '30.00'],
    ]);
    await watchOn('/list', [rule(below('22.00'), together)], LIST);
    await world.pass(0);
    offers([
      ['a', '21.00'],
      ['b', '20.00'],
      ['c', '30.00'],
    ]);
    await world.pass(HOUR);
    await world.pool.query(`UPDATE rule SET gate = gate - 'records' || '{"latest": "b"}'`);
    await world.pool.query(
      await readFile(new URL('../../server/db/schema/migrations/0020_gate_records.sql', import.meta.url), 'utf8'),
    );
    // Another one comes before what is held is told.
    offers([
      ['a', '21.00'],
      ['b', '20.00'],
      ['c', '19.00'],
    ]);
    await world.pass(HOUR);
    await world.pass(3 * HOUR);
    expect(await told()).toEqual(['alert', 'several']);
    expect(await world.rows('SELECT FROM rule WHERE gate IS NULL OR gate ? $1', ['latest'])).toEqual([]);
  });

  it('keeps what it holds of a record that is put off until that may be told', async () => {
    const rows = (b: string): [string, string][] => [
      ['a', '21.00'],
      ['b', b],
      ['c', '19.00'],
    ];
    offers(rows('30.00').map(([ref]) => [ref, '30.00']));
    await watchOn('/list', [rule(below('22.00'), together)], LIST);
    await world.pass(0);
    offers(rows('20.00'));
    await world.pass(HOUR);
    const episodes = await world.rows<{ id: EpisodeId }>(
      `SELECT e.id FROM episode e JOIN record r ON r.id = e.record_id WHERE r.identity = 'b'`,
    );
    for (const { id } of episodes) {
      const deed = { what: 'put off' as const, until: world.now + 6 * HOUR };
      expect(await actOn(world.services.pipeline, id, deed, world.people.ines, world.now)).toBe(true);
    }
    await world.pass(4 * HOUR);
    expect(await toldOf()).toEqual(['a alert', 'c alert']);
    await world.pass(3 * HOUR);
    expect(await toldOf()).toEqual(['a alert', 'c alert', 'b alert']);
  });

  it('tells what it holds before it is said otherwise', async () => {
    offers([
      ['a', '30.00'],
      ['b', '30.00'],
    ]);
    const id = await watchOn('/list', [rule(below('22.00'), together)], LIST);
    await world.pass(0);
    offers([
      ['a', '21.00'],
      ['b', '20.00'],
    ]);
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert']);
    await edit(id, ([first]) => [{ ...(first as RulePlan), definition: rule(below('15.00'), together) }]);
    await world.pass(0);
    expect(await told()).toEqual(['alert', 'alert']);
    await world.pass(5 * HOUR);
    expect(await told()).toEqual(['alert', 'alert']);
  });

  it('tells once what it held, however many workers look', async () => {
    offers([
      ['a', '30.00'],
      ['b', '30.00'],
    ]);
    for (let n = 0; n < 4; n += 1) await watchOn('/list', [rule(below('22.00'), together)], LIST);
    await world.pass(0);
    offers([
      ['a', '21.00'],
      ['b', '20.00'],
    ]);
    await world.pass(HOUR);
    const before = (await told()).length;
    world.now += 3 * HOUR;
    await Promise.all(Array.from({ length: 6 }, () => moveClock(world.services.pipeline, world.now)));
    await moveClock(world.services.pipeline, world.now);
    expect([before, (await told()).length]).toEqual([4, 8]);
  });

  it('tells with its last day what it holds by then', async () => {
    offers([
      ['a', '30.00'],
      ['b', '30.00'],
    ]);
    const ends = {
      ends: { date: new Date(world.now).toISOString().slice(0, 10), zone: 'UTC' },
      telling: { atMostEvery: 5 * DAY, together: true as const },
    };
    await watchOn('/list', [rule(below('22.00'), ends)], LIST);
    await world.pass(0);
    offers([
      ['a', '21.00'],
      ['b', '20.00'],
    ]);
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert']);
    await world.pass(DAY);
    expect([await told(), await closed()]).toEqual([
      ['alert', 'alert'],
      ['ended', 'ended'],
    ]);
  });
});

describe('a rule', () => {
  it('that is switched off is kept, and judges nothing until it is switched on', async () => {
    price('/n', '24.00');
    const id = await watchOn('/n', [rule(below('22.00'))]);
    await world.pass(0);
    await edit(id, ([kept]) => [
      { ...(kept as RulePlan), definition: { ...(kept as RulePlan).definition, off: true } },
    ]);
    price('/n', '21.00');
    await world.pass(HOUR);
    expect([await told(), (await findWatch(world.pool, id))?.rules.length]).toEqual([[], 1]);
    await edit(id, ([kept]) => {
      const { off: _, ...definition } = (kept as RulePlan).definition;
      return [{ ...(kept as RulePlan), definition }];
    });
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert']);
  });

  it('ends with its last day: what waits is told, its episodes close, and nothing is judged any more', async () => {
    price('/o', '21.00');
    const day = new Date(world.now).toISOString().slice(0, 10);
    const hours = { days: [1, 2, 3, 4, 5, 6, 7], from: 23 * 60, to: 23 * 60 + 1, zone: 'Pacific/Kiritimati' };
    await watchOn('/o', [rule(below('22.00'), { ends: { date: day, zone: 'UTC' }, telling: { hours } })]);
    await world.pass(0);
    await world.pass(30 * HOUR);
    expect([await told(), await closed()]).toEqual([['alert'], ['ended']]);
    price('/o', '24.00');
    await world.pass(HOUR);
    price('/o', '20.00');
    await world.pass(HOUR);
    expect([(await told()).length, (await world.rows('SELECT FROM rule WHERE ended_at IS NOT NULL')).length]).toEqual([
      1, 1,
    ]);
  });
});

it('reminds once of what was missed while no worker ran', async () => {
  price('/r', '21.00');
  await watchOn('/r', [rule(below('22.00'), { telling: { remindEvery: 2 * HOUR } })]);
  await world.pass(0);
  world.now += 25 * HOUR;
  await moveClock(world.services.pipeline, world.now);
  expect(await told()).toEqual(['alert', 'reminder']);
  await world.pass(HOUR);
  expect(await told()).toEqual(['alert', 'reminder', 'reminder']);
});

describe('an episode that is opened by hand', () => {
  const opening = async (note = 'The maker called.') => {
    const { rows } = await world.pool.query<{ rule: RuleId; identity: string }>(
      'SELECT t.rule_id AS rule, r.identity FROM rule_state t JOIN record r ON r.id = t.record_id',
    );
    const [place] = rows;
    return openEpisode(
      world.services.pipeline,
      {
        rule: place?.rule ?? (0 as RuleId),
        identity: place?.identity ?? '',
        person: { id: world.people.ines, name: 'Inés' },
        note,
      },
      world.now,
    );
  };

  it('is told with who opened it and why, stays open whatever is read, and is over when it is closed', async () => {
    price('/h', '24.00');
    await watchOn('/h', [rule(below('22.00'))]);
    await world.pass(0);
    expect(await opening()).toEqual({ ok: true, value: null });
    expect([await told(), await states(), await closed()]).toEqual([['alert'], ['raised'], [null]]);
    const [news] = await world.rows<{ news: unknown }>('SELECT news FROM alert');
    expect(headline(storedNews.read(news?.news), 'en-GB')).toMatchObject({
      lead: expect.stringContaining('Inés opened an episode') as string,
      meaning: 'The maker called.',
    });
    expect((await listRaised(world.pool, 10))[0]?.done).toMatchObject([
      { what: 'opened', by: 'Inés Calloway', note: 'The maker called.' },
    ]);
    expect(await opening()).toEqual({ ok: false, error: 'open already' });
    for (const amount of ['25.00', '21.00', '25.00']) {
      price('/h', amount);
      await world.pass(HOUR);
    }
    expect([await told(), await closed()]).toEqual([['alert'], [null]]);
    expect(await act({ what: 'close', note: '' })).toBe(true);
    price('/h', '20.00');
    await world.pass(HOUR);
    expect([await told(), await closed()]).toEqual([
      ['alert', 'alert'],
      ['by hand', null],
    ]);
  });

  it('cannot be of a rule that is not judged', async () => {
    price('/i', '24.00');
    const id = await watchOn('/i', [rule(below('22.00'))]);
    await world.pass(0);
    await edit(id, ([kept]) => [
      { ...(kept as RulePlan), definition: { ...(kept as RulePlan).definition, off: true } },
    ]);
    expect(await opening()).toEqual({ ok: false, error: 'not judged' });
    expect(
      await openEpisode(
        world.services.pipeline,
        { rule: 1 as RuleId, identity: 'nobody', person: { id: world.people.ines, name: 'Inés' }, note: '' },
        world.now,
      ),
    ).toEqual({ ok: false, error: 'not judged' });
  });
});

describe('a record that its filter no longer picks', () => {
  it('is no business of the rule any more: what was open is over, and nothing reminds of it', async () => {
    price('/f', '21.00');
    const only = [{ by: 'field' as const, field: 'stock', is: 'In stock' }];
    await watchOn('/f', [rule(below('22.00'), { only, telling: { remindEvery: 2 * HOUR } })]);
    await world.pass(0);
    await world.pass(HOUR);
    expect(await listRaised(world.pool, 10)).toHaveLength(1);
    price('/f', '21.00', 'Sold out');
    await world.pass(HOUR);
    expect(await listRaised(world.pool, 10)).toEqual([]);
    const before = await told();
    await world.pass(5 * HOUR);
    expect(await told()).toEqual(before);
    price('/f', '21.00', 'In stock');
    await world.pass(HOUR);
    expect(await listRaised(world.pool, 10)).toHaveLength(1);
  });
});

describe('a place among the records of a list', () => {
  it('is taken at the look at which the one that had it is gone', async () => {
    offers([
      ['a', '20.00'],
      ['b', '19.00'],
      ['c', '30.00'],
    ]);
    const takes: Clause = { kind: 'place', asked: { field: 'price' }, among: 'records', end: 'lowest', how: 'takes' };
    await watchOn('/list', [rule(takes)], LIST);
    await world.pass(0);
    await world.pass(HOUR);
    expect(await told()).toEqual([]);
    offers([
      ['a', '20.00'],
      ['c', '30.00'],
    ]);
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert']);
  });
});

describe('a record that is gone when a rule is saved', () => {
  it('is judged by what was read of it before, once it is back', async () => {
    const seen = async (...rows: [string, string][]) => {
      offers(rows);
      await world.pass(HOUR);
    };
    offers([
      ['a', '24.00'],
      ['b', '24.00'],
    ]);
    const id = await watchOn('/list', [], LIST);
    await world.pass(0);
    await seen(['a', '25.00'], ['b', '25.00']);
    await seen(['a', '25.00']);
    await world.pass(3 * HOUR);
    const falls: Clause = {
      kind: 'move',
      asked: { field: 'price' },
      against: { base: 'median', of: 2 },
      rise: null,
      fall: { by: 'amount', amount: pounds('3') },
    };
    const silent: Clause = { kind: 'silence', asked: { field: 'price' }, how: { of: 'readings', ms: 3 * HOUR } };
    await edit(id, () => [telling(rule(falls)), telling(rule(silent))]);
    for (let look = 0; look < 6; look += 1) await seen(['a', '25.00']);
    expect(await told()).toEqual([]);
    await seen(['a', '25.00'], ['b', '20.00']);
    expect(await told()).toEqual(['alert']);
  });
});

describe('a rule that rests since it was told once', () => {
  it('is told of nothing more until it is started again, for the records for which it rests', async () => {
    offers([
      ['a', '24.00'],
      ['b', '24.00'],
    ]);
    await watchOn('/list', [rule(below('22.00'), { telling: { once: true } })], LIST);
    await world.pass(0);
    const falls = async (a: string, b: string) => {
      offers([
        ['a', a],
        ['b', b],
      ]);
      await world.pass(HOUR);
    };
    await falls('21.00', '24.00');
    await falls('24.00', '24.00');
    await falls('21.00', '24.00');
    expect(await told()).toEqual(['alert']);
    const [{ id } = { id: 0 as RuleId }] = await world.rows<{ id: RuleId }>('SELECT id FROM rule');
    expect(await countResting(world.pool, id)).toBe(1);
    expect(await startAgain(world.services.pipeline, id, world.now)).toBe(1);
    expect(await countResting(world.pool, id)).toBe(0);
    expect(await startAgain(world.services.pipeline, id, world.now)).toBe(0);
    await falls('24.00', '24.00');
    expect(await told()).toEqual(['alert']);
    await falls('21.00', '21.00');
    expect(await told()).toEqual(['alert', 'alert', 'alert']);
  });
});

describe('a last day', () => {
  const inDays = (days: number) => new Date(world.now + days * DAY).toISOString().slice(0, 10);
  const notices = async () =>
    (await world.rows<{ said: string }>(`SELECT kind || ': ' || sentence AS said FROM notice ORDER BY id`)).map(
      ({ said }) => said,
    );
  const clock = async (days: number) => {
    world.now += days * DAY;
    await moveClock(world.services.pipeline, world.now);
  };

  it('is announced a week and a day before to whoever answers for the rule, and to nobody else', async () => {
    world.now = Math.ceil(world.now / DAY) * DAY + 12 * HOUR;
    price('/e', '24.00');
    await watchOn('/e', [
      rule(below('22.00'), { ends: { date: inDays(20), zone: 'UTC' }, owner: world.people.ravi, name: 'Dear smokers' }),
    ]);
    const said = 'ends: “Dear smokers”, when price is below £22.00';
    await world.pass(0);
    await clock(10);
    expect(await notices()).toEqual([]);
    await clock(4.5);
    await clock(1);
    expect(await notices()).toEqual([said]);
    await clock(4.6);
    await clock(0);
    expect(await notices()).toEqual([said, said]);
    await world.sendMail();
    const mails = world.standins.room.list().filter(({ subject }) => subject.startsWith('Ends soon'));
    expect(mails.map(({ to }) => to)).toEqual(Array(2).fill([expect.stringContaining('ravi')]));
  });

  it('of many rules is one mail to each who answers for some', async () => {
    price('/g', '24.00');
    const ends = { date: inDays(20), zone: 'UTC' };
    await watchOn('/g', [
      rule(below('22.00'), { ends }),
      rule(below('20.00'), { ends }),
      rule(below('18.00'), { ends, owner: world.people.ravi }),
    ]);
    await world.pass(0);
    await clock(14.5);
    await world.sendMail();
    const mails = world.standins.room.list().filter(({ subject }) => subject.startsWith('Ends soon'));
    expect(mails.map(({ subject }) => / and 1 more$/.test(subject)).sort()).toEqual([false, true]);
  });

  it.each<[string, (definition: RuleDefinition) => RuleDefinition]>([
    ['that was moved on', (definition) => ({ ...definition, ends: { date: inDays(400), zone: 'UTC' } })],
    ['of a rule that is switched off', (definition) => ({ ...definition, off: true })],
  ])('%s is not announced', async (_what, change) => {
    price('/f', '24.00');
    const id = await watchOn('/f', [rule(below('22.00'), { ends: { date: inDays(20), zone: 'UTC' } })]);
    await world.pass(0);
    await edit(id, ([kept]) => [{ ...(kept as RulePlan), definition: change((kept as RulePlan).definition) }]);
    await clock(15);
    expect(await notices()).toEqual([]);
  });
});

describe('failed looks', () => {
  it('raise a rule on them at the third in a row, and a good one ends it', async () => {
    price('/m', '24.00');
    await watchOn('/m', [rule({ kind: 'silence', ...asked(), how: { of: 'runs', count: 3 } })]);
    await world.pass(0);
    broken = true;
    await world.pass(HOUR);
    await world.pass(HOUR);
    expect(await told()).toEqual([]);
    await world.pass(HOUR);
    expect(await told()).toEqual(['alert']);
    broken = false;
    await world.pass(4 * HOUR);
    expect(await closed()).toEqual(['left']);
  });
});
