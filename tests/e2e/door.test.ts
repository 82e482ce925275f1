import { blankClause } from '#core/judge/draft/clause';
import { BLANK_RULE } from '#core/plan/rule-draft';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { anyPort } from '#scripts/system/ports';
import { makeFirstOwnerCode } from '#server/db/access/first-owner';
import { untilAnswers, type Running } from '#scripts/system/processes';
import { startWebProgram } from '#scripts/system/shrike';
import { asFile, documentOf } from '../support/watch-document';
import { startApp, type RunningApp } from '../support/app';
import { ask, fromOwnPage, type Asking } from '../support/requests';
import { until } from '../support/until';

// Who may, from where, and with what: asked as a hostile page and a hostile program would.

let app: RunningApp;
beforeAll(async () => {
  app = await startApp();
});
afterAll(() => app.stop());

const get = (path: string, asking: Asking = {}) => ask(app.web, path, asking);
const post = (path: string, form: Record<string, string>, headers = fromOwnPage(app.web) as Record<string, string>) =>
  ask(app.web, path, { form, headers });

describe('the names that Shrike answers to', () => {
  it.each(['evil.example', 'evil.example:4600', '127.0.0.1', 'localhost', 'localhost.evil.example', ''])(
    'are not %s',
    async (host) => {
      for (const path of ['/', '/watches', '/healthz', '/in/x', '/assets/x.js'])
        expect((await get(path, { host })).status).toBe(421);
    },
  );

  it('are its public address, and a form comes from there', async () => {
    expect((await get('/')).status).toBe(200);
    for (const origin of ['http://evil.example', 'null', 'http://localhost:1', 'https://evil.example'])
      expect((await post('/watches/new', { intent: 'posted' }, { origin })).status, origin).toBe(403);
    expect((await post('/watches/new', { intent: 'posted' }, {})).status).toBe(403);
    expect((await post('/watches/new', { intent: 'posted' }, { 'sec-fetch-site': 'cross-site' })).status).toBe(403);
    expect((await post('/watches/new', { intent: 'posted' })).status).toBe(302);
  });

  it('are asked for before a path or a pattern is run', async () => {
    const locator = encodeURIComponent(JSON.stringify({ way: 'pattern', pattern: '((a?){1000})x' }));
    const type = encodeURIComponent(JSON.stringify({ kind: 'text' }));
    for (const path of [
      `/watches/1/try?locator=${locator}&type=${type}`,
      '/watches/new/1/pick?n=3',
      `/watches/new/1/try?locator=${locator}&type=${type}`,
    ]) {
      expect((await get(path)).status, path).toBe(403);
      expect((await get(path, { headers: { 'sec-fetch-site': 'cross-site' } })).status, path).toBe(403);
      expect((await get(path, { headers: { 'sec-fetch-site': 'same-origin' } })).status, path).not.toBe(403);
    }
  });
});

describe('a form', () => {
  it('of more than a megabyte is refused before it is read', async () => {
    const headers = { ...fromOwnPage(app.web), 'content-type': 'application/x-www-form-urlencoded' };
    const answered = await ask(app.web, '/watches/new', {
      headers: { ...headers, 'content-length': '900000000' },
      method: 'POST',
    }).catch(() => null);
    expect(answered?.status ?? 413).toBe(413);
    expect((await ask(app.web, '/watches/new', { headers, body: `address=${'a'.repeat(1_100_000)}` })).status).toBe(
      413,
    );
    const chunked = await ask(app.web, '/watches/new', {
      headers: { ...headers, 'transfer-encoding': 'chunked' },
      body: 'a'.repeat(1_500_000),
    }).catch(() => null);
    expect([413, 400]).toContain(chunked?.status ?? 413);
  });

  it('that is none answers 400', async () => {
    const headers = fromOwnPage(app.web);
    for (const type of ['application/json', 'multipart/form-data', 'multipart/form-data; boundary=x', 'text/plain', ''])
      expect(
        (await ask(app.web, '/hosts', { headers: { ...headers, 'content-type': type }, body: '{"a":1}' })).status,
        type,
      ).toBe(400);
  });

  it('may hold a NUL, half a character or marks that turn the reading, and nothing is lost over it', async () => {
    const begun = await post('/watches/new', { address: `${app.site('skepwright')}/p/steel-smoker` });
    const draft = String(begun.headers.location).split('/').at(-1) ?? '';
    const { rows } = await app.pool.query<{ content: object }>('SELECT content FROM draft WHERE id = $1', [draft]);
    for (const name of ['smo\0ker', 'smo\\u0000ker', '\\ud83dsmoker', 'smoker\u202eexe'] as const) {
      const plan = JSON.stringify({ ...rows[0]?.content, v: undefined, subject: 'NAME' }).replace('NAME', name);
      expect(
        (await post(`/watches/new/${draft}`, { intent: 'keep', plan, revision: '0', tab: 'one' })).status,
        name,
      ).toBeLessThan(300);
      const kept = await app.pool.query<{ subject: string }>(
        `SELECT content->>'subject' AS subject FROM draft WHERE id = $1`,
        [draft],
      );
      expect(kept.rows[0]?.subject).toMatch(/smo|smoker/);
      expect(kept.rows[0]?.subject).not.toContain('\u202e');
    }
  });

  it('that names a reader who is not there is answered with a sentence, and the draft stays', async () => {
    const begun = await post('/watches/new', { address: `${app.site('skepwright')}/p/mesh-floor` });
    const path = String(begun.headers.location);
    const { rows } = await app.pool.query<{ content: Record<string, unknown> }>(
      'SELECT content FROM draft WHERE id = $1',
      [path.split('/').at(-1)],
    );
    const field = {
      key: 'price',
      label: 'price',
      type: { kind: 'money', currency: null },
      mode: 'stepwise',
      polarity: 'neither',
      locale: null,
      locators: [{ way: 'structured', type: 'Product', path: 'offers.price' }],
    };
    const rules = [{ ...BLANK_RULE, clauses: [blankClause('price', 'changes')], audiences: ['person:99999'] }];
    const plan = JSON.stringify({ ...rows[0]?.content, v: undefined, fields: [field], rules });
    const answered = await post(path, { plan, revision: '0', tab: 'one' });
    expect(answered.status).toBe(400);
    expect(answered.body).toContain('is not there any more');
    expect((await get(path)).status).toBe(200);
  });
});

describe('an odd address', () => {
  it.each(['/in/%00', '/in/%00.data', '/in/x', `/in/${'x'.repeat(3000)}`])(
    'that is posted to takes nothing: %s',
    async (path) => {
      expect((await ask(app.web, path, { method: 'POST', body: 'x' })).status).toBe(404);
    },
  );

  it.each([
    ['/watches/99999999999', 404],
    ['/watches/1.5', 404],
    ['/watches/-1', 404],
    ['/watches/0x1', 404],
    ['/watches/1e3', 404],
    ['/watches/%00', 404],
    ['/watches/new/99999999999', 404],
    ['/watches/new/1%2e5', 404],
    ['/outbox/99999999999999999999', 404],
    ['/outbox/NaN', 404],
    ['/outbox/9007199254740993', 404],
    ['/watches/1/picture/99999999999999999999', 404],
    ['/watches/9/changes/1.5/before', 404],
    ['/watches/9/values/x', 404],
    ['/watches/9/rules/new', 404],
    ['/watches/9/rules/1.5', 404],
    ['/watches/9/history', 404],
    [`/take/${'x'.repeat(80)}`, 404],
    ['/take/x', 404],
    ['/nothing/at/all', 404],
    ['/in/%00', 405],
    ['/%E0%A4%A', 400],
  ])('%s answers %i', async (path, status) => {
    expect((await get(path)).status).toBe(status);
  });

  it.each([
    '?change=1.5',
    '?change=99999999999999999999',
    '?range=constructor',
    '?range=__proto__',
    '?among=%00',
    '?among=%ed%a0%bd',
    '?record=-1',
    '?after=gone-99999999999',
    '?after=gone-1e9',
  ])('of a watch with %s is the watch', async (query) => {
    const { rows } = await app.pool.query<{ id: number }>('SELECT id FROM watch LIMIT 1');
    const id = rows[0]?.id ?? (await startedWatch());
    expect((await get(`/watches/${id}${query}`)).status).toBe(200);
    expect((await get(`/watches${query.replace('among', 'q')}`)).status).toBe(200);
  });
});

/** Starts a watch through the set-up's own requests. */
async function startedWatch(slug = 'copper-smoker-large'): Promise<number> {
  const begun = await post('/watches/new', { address: `${app.site('skepwright')}/p/${slug}` });
  const path = String(begun.headers.location);
  const started = await post(path, { plan: await planFor(path), revision: '0', tab: 'one' });
  return Number(String(started.headers.location).split('/').at(-1));
}

async function planFor(path: string): Promise<string> {
  const { rows } = await app.pool.query<{ content: object }>('SELECT content FROM draft WHERE id = $1', [
    path.split('/').at(-1),
  ]);
  const field = {
    key: 'price',
    label: 'price',
    type: { kind: 'money', currency: null },
    mode: 'stepwise',
    polarity: 'neither',
    locale: null,
    locators: [{ way: 'structured', type: 'Product', path: 'offers.price' }],
  };
  return JSON.stringify({ ...rows[0]?.content, v: undefined, fields: [field], rules: [] });
}

describe('what was typed in a request', () => {
  const request = {
    headers: [
      { name: 'X-Api-Key', value: 'hush-header' },
      { name: 'Accept-Language', value: 'en' },
    ],
    query: [
      { name: 'api_key', value: 'hush-query' },
      { name: 'page', value: '2' },
    ],
  };

  it('lies sealed where it can be a secret, is never shown again, and stays with its site', async () => {
    const begun = await post('/watches/new', { address: `${app.site('skepwright')}/p/copper-smoker-small` });
    const path = String(begun.headers.location);
    const id = path.split('/').at(-1);
    const kept = async () =>
      JSON.stringify(
        (
          await app.pool.query(
            `SELECT d.request, d.final_address, l.request AS asked
              FROM draft d
              LEFT
              JOIN preview l ON l.draft_id = d.id
              WHERE d.id = $1`,
            [id],
          )
        ).rows,
      );
    await post(path, {
      intent: 'source',
      address: `${app.site('skepwright')}/p/copper-smoker-small`,
      way: 'plain',
      request: JSON.stringify(request),
    });
    expect(await kept()).toContain('"value":"en"');
    expect(await kept()).toContain('"value":"2"');
    expect(await kept()).not.toContain('hush');
    const shown = (await get(path)).body;
    expect(shown).not.toContain('hush');
    expect(shown).toContain('kept header 0');
    const marked = {
      headers: [{ name: 'X-Api-Key', value: { sealed: 'kept header 0' } }],
      query: [{ name: 'api_key', value: { sealed: 'kept query 0' } }],
    };
    const again = await post(path, {
      intent: 'source',
      address: `${app.site('skepwright')}/p/copper-smoker-large`,
      way: 'plain',
      request: JSON.stringify(marked),
    });
    expect(again.body).not.toContain('Enter X-Api-Key again');
    const elsewhere = await post(path, {
      intent: 'source',
      address: `${app.site('combe-larder')}/`,
      way: 'plain',
      request: JSON.stringify(marked),
    });
    expect(elsewhere.body).toContain('Enter X-Api-Key again: what was kept of it is for another site.');
    await post(path, { intent: 'other', address: `${app.site('combe-larder')}/goods/copper-smoker-large` });
    expect(
      (await app.pool.query(`SELECT request FROM preview WHERE draft_id = $1 AND purpose = 'other'`, [id])).rows,
    ).toEqual([{ request: {} }]);
  });

  it('leads a step to the web alone', async () => {
    const begun = await post('/watches/new', { address: `${app.site('skepwright')}/p/copper-smoker-large` });
    for (const address of [
      'file:///etc/passwd',
      'javascript:alert(1)',
      'data:text/html,x',
      'ftp://a.example/',
      'chrome://version',
    ]) {
      const steps = JSON.stringify({ steps: [{ act: 'go to', address }] });
      for (const intent of ['steps', 'source'])
        expect(
          (await post(String(begun.headers.location), { intent, request: steps, way: 'rendered' })).body,
          address,
        ).toContain('only addresses that begin with http://');
    }
  });
});

describe('what is pressed more than once', () => {
  it('starts one watch, and every press is answered with it', async () => {
    const begun = await post('/watches/new', { address: `${app.site('skepwright')}/p/fondant-12` });
    const path = String(begun.headers.location);
    const plan = await planFor(path);
    const before = await app.pool.query('SELECT FROM watch');
    const presses = await Promise.all(Array.from({ length: 6 }, () => post(path, { plan, revision: '0', tab: 'one' })));
    const led = new Set(presses.map(({ headers }) => headers.location));
    expect(led.size).toBe(1);
    expect((await app.pool.query('SELECT FROM watch')).rowCount).toBe((before.rowCount ?? 0) + 1);
    expect((await get(path)).headers.location).toBe([...led][0]);
  });

  it('begins one draft', async () => {
    const address = `${app.site('skepwright')}/p/syrup-14`;
    const presses = await Promise.all(Array.from({ length: 4 }, () => post('/watches/new', { address })));
    expect(new Set(presses.map(({ headers }) => headers.location)).size).toBe(1);
  });
});

describe('two tabs on one draft', () => {
  it('do not overwrite one another unsaid', async () => {
    const begun = await post('/watches/new', { address: `${app.site('skepwright')}/p/hive-stand` });
    const path = String(begun.headers.location);
    const plan = JSON.parse(await planFor(path)) as object;
    const keep = (subject: string, revision: number, tab: string) =>
      post(path, { intent: 'keep', plan: JSON.stringify({ ...plan, subject }), revision: String(revision), tab });
    expect((await keep('from one', 0, 'one')).status).toBe(200);
    const refused = await keep('from two', 0, 'two');
    expect(refused.status).toBe(409);
    expect((await keep('from one, still', 0, 'one')).status).toBe(200);
    expect((await keep('from two, knowing', 2, 'two')).status).toBe(200);
    const saved = await post(path, { plan: JSON.stringify(plan), revision: '1', tab: 'one' });
    expect(saved.status).toBe(409);
    expect(saved.body).toContain('changed in another tab');
  });

  it('say so on the screen, and she chooses which of them stands', async () => {
    const { page, browser } = app;
    const begun = await post('/watches/new', { address: `${app.site('skepwright')}/p/steel-smoker` });
    const path = String(begun.headers.location);
    await page.go(`${app.web}${path}`);
    await page.reads('draft kept');
    await browser.driver.switchTo().newWindow('tab');
    await page.go(`${app.web}${path}`);
    await rename(app, 'Named in the second');
    await page.reads('draft kept');
    const [first] = await browser.driver.getAllWindowHandles();
    await browser.driver.switchTo().window(first ?? '');
    await rename(app, 'Named in the first');
    await page.reads('changed in another tab', '[data-elsewhere]');
    await page.press('Keep what stands here instead');
    const kept = `SELECT FROM draft WHERE id = $1 AND content->>'subject' = 'Named in the first'`;
    await until(async () => (await app.pool.query(kept, [path.split('/').at(-1)])).rows.length === 1);
  });
});

describe('what two people change at once', () => {
  const MEANWHILE = 'Somebody else changed this meanwhile';
  const send = async (path: string, form: Record<string, string>) =>
    (await ask(app.web, `${path}.data`, { form, headers: fromOwnPage(app.web) })).body;
  const one = async <Row extends object>(text: string) => (await app.pool.query<Row>(text)).rows[0] as Row;

  /** A form, as two people fill it in on the same page: what each says, and how what is kept is read. */
  const FORMS: [
    what: string,
    path: string,
    first: () => Promise<Record<string, string>[]>,
    kept: string,
    is: unknown,
  ][] = [
    [
      'how a host is asked',
      '/hosts',
      async () => {
        await app.pool.query(`INSERT INTO host (name, most_at_once) VALUES ('two.example', 2)`);
        const form = { intent: 'set', host: 'two.example', was: '[2,0,true,null]', robots: 'heeded', runsADay: '' };
        return [
          { ...form, mostAtOnce: '2', pause: '5' },
          { ...form, mostAtOnce: '4', pause: '0' },
        ];
      },
      `SELECT most_at_once || ' ' || pause_ms AS kept FROM host WHERE name = 'two.example'`,
      '2 5000',
    ],
    [
      'what a site is',
      '/sites',
      async () => {
        const { id } = await one<{ id: number }>(`INSERT INTO site (name, said) VALUES ('Two', 'Two') RETURNING id`);
        const form = { site: String(id), was: '["Two",null]' };
        return [
          { ...form, name: 'Two', kind: 'rival' },
          { ...form, name: 'Too', kind: '' },
        ];
      },
      `SELECT name || ' ' || kind AS kept FROM site WHERE said = 'Two'`,
      'Two rival',
    ],
    [
      'a list',
      '/people',
      async () => {
        const { id } = await one<{ id: number }>(`INSERT INTO list (name) VALUES ('Two') RETURNING id`);
        const form = { intent: 'list', list: String(id), was: '["Two",[]]' };
        return [
          { ...form, name: 'Two', member: '1' },
          { ...form, name: 'Too' },
        ];
      },
      `SELECT l.name || ' ' || count(m.*) AS kept FROM list l LEFT JOIN list_member m ON m.list_id = l.id
          WHERE l.name LIKE 'T_o' GROUP BY l.id`,
      'Two 1',
    ],
    [
      'how much may go out',
      '/mail',
      () => {
        const form = { intent: 'bound', of: 'mails', was: '[null,null,null]' };
        return Promise.resolve([
          { ...form, anHour: '900', aDay: '' },
          { ...form, anHour: '', aDay: '9000' },
        ]);
      },
      `SELECT an_hour::text AS kept FROM quota WHERE of = 'mails'`,
      '900',
    ],
    [
      'for how long things are kept',
      '/retention',
      () => {
        const form = { what: 'news', was: '1825' };
        return Promise.resolve([
          { ...form, days: '1900' },
          { ...form, days: '1950' },
        ]);
      },
      `SELECT days::text AS kept FROM retention WHERE what = 'news'`,
      '1900',
    ],
  ];

  it.each(FORMS)('%s: the first is kept, and the second is told', async (_what, path, forms, kept, is) => {
    const [first, second] = await forms();
    expect(await send(path, first ?? {})).not.toContain(MEANWHILE);
    // Pressed twice it is kept once, and nobody else is made up.
    expect(await send(path, first ?? {})).not.toContain(MEANWHILE);
    expect(await send(path, second ?? {})).toContain(MEANWHILE);
    expect((await one<{ kept: string }>(kept)).kept).toBe(is);
  });

  it('is one person who changes it twice on an open page, and nobody is told', async () => {
    const { page } = app;
    await page.go(`${app.web}/people`);
    await page.press('Change Two');
    await page.write('What it is called', 'Two');
    await page.press('Keep');
    await page.reads('Kept.');
    await page.write('What it is called', 'Twosome');
    await page.press('Keep');
    await until(async () => (await app.pool.query(`SELECT FROM list WHERE name = 'Twosome'`)).rowCount === 1);
    await app.pool.query(`UPDATE list SET removed_at = now() WHERE name = 'Twosome'`);
    await app.pool.query('DELETE FROM quota');
  });
});

async function rename({ page }: RunningApp, name: string): Promise<void> {
  await page.pressAt('button.said[aria-haspopup]');
  await page.write('What is followed', name);
  await sleep(1200);
}

describe('a page of ours', () => {
  it('takes no style sheet but its own, and nothing that it opens needs another', async () => {
    const { page, browser } = app;
    await app.pool.query(`INSERT INTO list (name) VALUES ('Styled')`);
    await page.go(`${app.web}/people`);
    await page.find('h1');
    await browser.driver.executeScript(
      `window.refused = [];
       document.addEventListener('securitypolicyviolation', (each) => window.refused.push(each.effectiveDirective))`,
    );
    const refused = () => browser.driver.executeScript<string[]>('return window.refused');
    await page.press('Change Styled');
    await page.reads('What it is called');
    await browser.driver.actions().sendKeys('\uE00C').perform();
    await page.press('Remove Styled');
    await page.reads('Remove the list Styled?');
    expect(await refused()).toEqual([]);
    await page.press('Keep it');
    await browser.driver.executeScript(
      `document.head.append(Object.assign(document.createElement('style'), { textContent: 'body { color: red }' }))`,
    );
    await until(async () => (await refused()).length > 0);
    expect(await refused()).toEqual(['style-src-elem']);
    await app.pool.query(`UPDATE list SET removed_at = now() WHERE name = 'Styled'`);
  });
});

describe('what is signed in', () => {
  it('stays in no cache', async () => {
    for (const path of ['/', '/watches', '/outbox', '/hosts', '/watches.data'])
      expect((await get(path)).headers['cache-control'], path).toBe('no-store');
  });

  it('makes no session by being looked at', async () => {
    for (let times = 0; times < 3; times += 1) expect((await get('/')).headers['set-cookie']).toBe(undefined);
    expect((await app.pool.query('SELECT FROM session')).rowCount).toBe(0);
  });
});

describe('a Shrike that nobody owns yet', () => {
  let web: Running;
  let own = '';
  const form = (path: string, values: Record<string, string>, cookie = '') =>
    ask(own, path, { form: values, headers: { ...fromOwnPage(own), cookie } });
  const owner = { name: 'Inés Calloway', email: 'owner@heatherlow.example', password: 'bees in the lime trees' };
  let code = '';
  beforeAll(async () => {
    code = (await makeFirstOwnerCode(app.pool, Date.now())) ?? '';
    const port = await anyPort();
    own = `http://localhost:${port}`;
    const places = { ...app.places, webPort: port };
    web = startWebProgram(places, { SHRIKE_SIGN_IN_AS: undefined as unknown as string });
    await untilAnswers(`${own}/healthz`, (status) => status > 0, [web]);
  });
  afterAll(() => web.stop());

  it('leads whoever comes to the first owner’s page, and shows nothing else', async () => {
    for (const path of ['/', '/watches', '/outbox', '/sites', '/hosts', '/live?topic=watches', '/watches/new']) {
      const answered = await ask(own, path);
      expect([answered.status, answered.headers.location], path).toEqual([302, '/first-owner']);
    }
    expect((await ask(own, '/first-owner')).body).toContain('Nobody owns this Shrike yet');
  });

  it('takes no weak password, no bad address, and no form of another page', async () => {
    expect((await form('/first-owner', { ...owner, code, password: 'short' })).status).toBe(400);
    expect((await form('/first-owner', { ...owner, code, email: 'nobody' })).body).toContain(
      'This is not a mail address.',
    );
    expect((await form('/first-owner', { ...owner, code, name: '' })).status).toBe(400);
    expect(
      (await ask(own, '/first-owner', { form: { ...owner, code }, headers: { origin: 'http://evil.example' } })).status,
    ).toBe(403);
    expect((await app.pool.query('SELECT FROM account')).rowCount).toBe(0);
  });

  it('has no owner without the code that was made last', async () => {
    const before = code;
    code = (await makeFirstOwnerCode(app.pool, Date.now())) ?? '';
    for (const wrong of ['', 'aaaa-aaaa-aaaa-aaaa', before, `${code}x`, code.slice(1), '%', 'a'.repeat(100_000)])
      expect((await form('/first-owner', { ...owner, code: wrong })).status, wrong.slice(0, 30)).toBe(400);
    expect((await app.pool.query('SELECT FROM account')).rowCount).toBe(0);
    const { rows } = await app.pool.query<{ kept: string }>('SELECT c::text AS kept FROM first_owner_code c');
    expect(rows[0]?.kept).not.toContain(code);
  });

  it('has one owner, however many press at once, whose password is kept as Argon2id alone', async () => {
    const presses = await Promise.all(
      Array.from({ length: 5 }, () =>
        form('/first-owner', { ...owner, code: code.replaceAll('-', ' ').toUpperCase() }),
      ),
    );
    expect(presses.filter(({ headers }) => headers['set-cookie'] !== undefined)).toHaveLength(1);
    const { rows } = await app.pool.query<{ password: string }>('SELECT password FROM account');
    expect(rows).toHaveLength(1);
    expect(rows[0]?.password).toMatch(/^\$argon2id\$v=19\$m=19456,t=2,p=1\$/);
    expect((await ask(own, '/first-owner')).headers.location).toBe('/');
    expect(await makeFirstOwnerCode(app.pool, Date.now())).toBeNull();
    expect((await app.pool.query('SELECT FROM first_owner_code')).rowCount).toBe(0);
  });

  it('lets her in with her password, out again, and back to where she wanted to go on this Shrike alone', async () => {
    expect((await ask(own, '/watches?show=broken')).headers.location).toBe(
      `/sign-in?to=${encodeURIComponent('/watches?show=broken')}`,
    );
    expect((await form('/sign-in', { ...owner, password: 'not the password', to: '/' })).status).toBe(401);
    expect((await form('/sign-in', { ...owner, email: 'nobody@heatherlow.example', to: '/' })).status).toBe(401);
    for (const to of [
      '//evil.example',
      'http://evil.example',
      '/\\evil.example',
      'javascript:alert(1)',
      '/a\r\nset-cookie: x=1',
      '/a/..//evil.example',
      '/.//evil.example',
      '/%2e//evil.example',
      '\\\\evil.example',
    ])
      expect((await form('/sign-in', { ...owner, to })).headers.location, to).toBe('/');
    const odd = await form('/sign-in', { ...owner, to: '/watches?words=山' });
    expect(odd.headers.location).toBe(`/watches?words=${encodeURIComponent('山')}`);
    const entered = await form('/sign-in', { ...owner, email: owner.email.toUpperCase(), to: '/watches?show=broken' });
    expect(entered.headers.location).toBe('/watches?show=broken');
    const cookie = entered.headers['set-cookie']?.[0] ?? '';
    expect(cookie).toMatch(/HttpOnly/);
    expect(cookie).toMatch(/SameSite=Lax/);
    const session = cookie.split(';')[0] ?? '';
    expect((await ask(own, '/watches', { headers: { cookie: session } })).status).toBe(200);
    expect(
      (await ask(own, '/sign-out', { form: {}, headers: { cookie: session, origin: 'http://evil.example' } })).status,
    ).toBe(403);
    expect((await ask(own, '/watches', { headers: { cookie: session } })).status).toBe(200);
    await form('/sign-out', {}, session);
    expect((await ask(own, '/watches', { headers: { cookie: session } })).status).toBe(302);
  });

  it('ends a session when its time is over, and takes no made-up one', async () => {
    const entered = await form('/sign-in', { ...owner, to: '/' });
    const session = entered.headers['set-cookie']?.[0]?.split(';')[0] ?? '';
    await app.pool.query(`UPDATE session SET expires_at = now() - interval '1 second'`);
    expect((await ask(own, '/watches', { headers: { cookie: session } })).status).toBe(302);
    for (const cookie of ['shrike=x', 'shrike=', 'shrike=%00', 'shrike=eyJhIjoxfQ==', `shrike=${'a'.repeat(5000)}`])
      expect((await ask(own, '/watches', { headers: { cookie } })).status, cookie).toBe(302);
  });

  it('tells a view nothing more once she signed out', async () => {
    const entered = await form('/sign-in', { ...owner, to: '/' });
    const session = entered.headers['set-cookie']?.[0]?.split(';')[0] ?? '';
    const live = await fetch(`${own}/live?topic=watches`, { headers: { cookie: session } });
    expect(live.status).toBe(200);
    const ended = live.text();
    await form('/sign-out', {}, session);
    expect(await Promise.race([ended.then(() => 'ended'), sleep(20_000, 'goes on')])).toBe('ended');
  });

  it('bars an address after too many attempts, for a while', async () => {
    for (let times = 0; times < 8; times += 1)
      await form('/sign-in', { email: 'guess@heatherlow.example', password: `guess ${times}`, to: '/' });
    expect((await form('/sign-in', { email: 'guess@heatherlow.example', password: 'one more', to: '/' })).status).toBe(
      429,
    );
  });

  it('judges eight of many guesses at once, and lets in whoever signed in from her browser before', async () => {
    const entered = await form('/sign-in', { ...owner, to: '/' });
    const known = (entered.headers['set-cookie'] ?? []).find((each) => each.startsWith('shrike-known=')) ?? '';
    expect(known).toMatch(/HttpOnly/);
    const guesses = await Promise.all(
      Array.from({ length: 60 }, (_, nth) =>
        form('/sign-in', { email: owner.email.toUpperCase(), password: `guess ${nth}`, to: '/' }),
      ),
    );
    expect(guesses.filter(({ status }) => status === 401)).toHaveLength(8);
    expect(guesses.filter(({ status }) => status === 429)).toHaveLength(52);
    expect((await form('/sign-in', { ...owner, to: '/' })).status).toBe(429);
    const [cookie = ''] = known.split(';');
    expect((await form('/sign-in', { ...owner, to: '/' }, cookie)).headers.location).toBe('/');
    for (const other of ['shrike-known=x', cookie.replace(/.{6}$/, 'AAAAAA'), `${cookie}x`])
      expect((await form('/sign-in', { ...owner, to: '/' }, other)).status, other).toBe(429);
    // From a known browser, too, there are only so many guesses.
    for (let nth = 0; nth < 8; nth += 1) await form('/sign-in', { ...owner, password: `${nth}`, to: '/' }, cookie);
    expect((await form('/sign-in', { ...owner, to: '/' }, cookie)).status).toBe(429);
  });

  it('tells no log the key of a link, and no page that it leads to its address', async () => {
    const answered = await ask(own, '/reader/a-key-that-nobody-has');
    expect([answered.status, answered.headers['referrer-policy']]).toEqual([404, 'no-referrer']);
    expect(answered.headers['cache-control']).toContain('no-store');
    const log = () => readFileSync(join(app.places.logFolder, 'web.log'), 'utf8');
    await until(() => Promise.resolve(log().includes('/reader/…')));
    expect(log()).not.toContain('a-key-that-nobody-has');
  });
});

describe('a request', () => {
  const own = () => `localhost:${app.places.webPort}`;
  it.each<[string, string, number, () => string]>([
    ['whose target is a whole address of ours', 'GET', 200, () => `http://${own()}/healthz`],
    ['whose target is an address of somebody else', 'GET', 421, () => 'http://elsewhere.example/healthz'],
    ['whose target is no address', 'GET', 404, () => 'http://[x/'],
    ['whose target is no path', 'GET', 400, () => 'healthz'],
    ['that asks what may be done at all', 'OPTIONS', 204, () => '*'],
    ['for everything', 'GET', 400, () => '*'],
  ])('%s is answered', async (_what, method, status, target) => {
    expect((await ask(app.web, target(), { method })).status).toBe(status);
  });
});

describe('a file of items', () => {
  const sent = (bytes: number) => {
    const row = `HL-900,A smoker of many lines ${'long '.repeat(20)}\r\n`;
    const text = `reference,name\r\n${row.repeat(Math.ceil(bytes / row.length))}`;
    const { body, type } = asFile(text);
    const headers = { ...fromOwnPage(app.web), 'content-type': type };
    return ask(app.web, '/items/import', { body, headers });
  };

  it('of some megabytes is looked through, and is not sent back', async () => {
    const answered = await sent(3_000_000);
    expect(answered.status).toBe(200);
    expect(answered.body).toContain('What it would do');
    expect(answered.body.length).toBeLessThan(1_000_000);
  });

  it('beyond what is taken is refused', async () => {
    const answered = await sent(25_000_000).catch(() => null);
    expect(answered?.status ?? 413).toBe(413);
  });
});

describe('a document of watches', () => {
  const MANY = 1_200;
  const low = { kind: 'level', of: { asked: { field: 'price' } } };
  const limits = { is: 'below', inclusive: false, limit: { kind: 'money', amount: '20.00', currency: 'GBP' } };
  const rule = { when: { ...low, limits }, whenAlreadyMet: 'wait', tells: ['person:nobody@heatherlow.example'] };
  const text = documentOf(
    MANY,
    Array.from({ length: 20 }, () => rule),
  );
  const sent = (path: string, said: string) => {
    const { body, type } = asFile(said);
    return ask(app.web, path, { body, headers: { ...fromOwnPage(app.web), 'content-type': type } });
  };

  it('of thousands of faults is looked through beside everybody else, and its first faults are shown', async () => {
    let ended = false;
    const answered = sent('/watches/import', text).finally(() => (ended = true));
    await sleep(200);
    for (let times = 0; times < 3; times += 1) expect((await ask(app.web, '/healthz')).status).toBeGreaterThan(0);
    expect(ended).toBe(false);
    const { status, body } = await answered;
    expect(status).toBe(200);
    expect(body).toMatch(/1,000.{0,20} more lines/);
    expect(body.length).toBeLessThan(1_000_000);
  });

  it('has all its faults as a file', async () => {
    const { status, headers, body } = await sent('/watches/import/lines', text);
    expect([status, body.slice(0, 200)]).toEqual([200, body.slice(0, 200)]);
    expect(headers['content-disposition']).toBe('attachment; filename="lines.csv"');
    expect(body.trim().split('\n')).toHaveLength(MANY + 1);
  });

  it('that is none has no such file, and nor has one from elsewhere', async () => {
    expect((await sent('/watches/import/lines', 'nothing')).status).toBe(400);
    const foreign = { body: 'text=x', headers: { origin: 'http://evil.example' } };
    expect((await ask(app.web, '/watches/import/lines', foreign)).status).toBe(403);
    expect((await ask(app.web, '/items/import/lines', foreign)).status).toBe(403);
  });
});

describe('the stage', () => {
  const stage = (
    path: string,
    form: Record<string, string>,
    headers: Record<string, string>,
    host = `stage.localhost:${app.places.standinsPort}`,
  ) => ask(`http://localhost:${app.places.standinsPort}`, path, { form, headers, host });
  const push = { what: 'price', slug: 'copper-smoker-large', value: '1.00' };

  it('takes pushes from its own page, and from no other', async () => {
    const own = `http://stage.localhost:${app.places.standinsPort}`;
    for (const origin of [
      'http://evil.example',
      'null',
      app.web,
      `http://skepwright.localhost:${app.places.standinsPort}`,
    ])
      expect((await stage('/push', push, { origin })).status, origin).toBe(403);
    expect((await stage('/push', push, { 'sec-fetch-site': 'cross-site' })).status).toBe(403);
    expect(
      (await stage('/push', push, { origin: own }, `stage.evil.example:${app.places.standinsPort}`)).status,
    ).not.toBe(303);
    expect((await stage('/push', push, { origin: own, referer: 'http://evil.example/x' })).headers.location).toBe('/');
  });

  it('posts to Shrike’s own addresses alone', async () => {
    const origin = `http://stage.localhost:${app.places.standinsPort}`;
    for (const address of [
      `http://127.0.0.1:${app.places.smtpPort}/`,
      `${app.web}/hosts`,
      'http://169.254.169.254/in/x',
      'file:///etc/passwd',
      `${app.web}/in/../hosts`,
    ])
      expect((await stage('/post', { address, secret: 'x' }, { origin })).body, address).toContain(
        'The logger posts to Shrike alone',
      );
  });
});
