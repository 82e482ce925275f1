import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { pageDefinition } from '#core/read/definition';
import { ensureSite, setSite } from '#server/db/source/sites';
import { inTransaction } from '#server/db/base/pool';
import { createWatch } from '#server/actions/edit-watch';
import { numbered } from '../support/numbered';
import { startApp, type RunningApp } from '../support/app';
import { serious } from '../support/axe';
import { fallsBelow, PRICE, ruleOf } from '../support/world';
import { until } from '../support/until';

// Many watches at once, as the analyst works with them: her own items beside them, a stencil on all of them, edits,
// their undoing, and files.

const SLUGS = [
  'copper-smoker-large',
  'copper-smoker-small',
  'steel-smoker',
  'cedar-hive-six',
  'cedar-hive-eleven',
  'hive-stand',
  'extractor-nine',
  'jars-340-72',
  'fondant-12',
  'syrup-14',
];

let app: RunningApp;
beforeAll(async () => {
  app = await startApp();
  const host = `skepwright.localhost:${app.places.standinsPort}`;
  await setSite(app.pool, await ensureSite(app.pool, 'Skepwright'), { name: 'Skepwright', kind: 'rival' });
  await setSite(app.pool, await ensureSite(app.pool, 'Heatherlow'), { name: 'Heatherlow', kind: 'own' });
  for (const slug of SLUGS) {
    const source = { address: `http://${host}/p/${slug}`, host, site: 'Skepwright', mostAtOnce: 4 };
    const rules = slug === SLUGS[0] ? [ruleOf(fallsBelow('1.00'), ['list:1'])] : [];
    const plan = { definition: pageDefinition(slug, [PRICE]), frequency: { count: 1, unit: 'hour' as const }, rules };
    await inTransaction(app.pool, (db) => createWatch(db, source, plan, { person: numbered(1), at: Date.now() }));
  }
  await until(async () => (await app.pool.query('SELECT FROM series')).rows.length === SLUGS.length);
}, 120_000);
afterAll(() => app.stop());

const count = async (sql: string): Promise<number> =>
  Number((await app.pool.query<{ n: string }>(`SELECT (${sql})::int AS n`)).rows[0]?.n);

/** Puts a text into the box that takes a document, as pasting does. */
async function paste(text: string): Promise<void> {
  const box = await app.page.find('textarea[name=text]');
  await app.page.driver.executeScript(
    `const set = Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, 'value').set; ` +
      `set.call(arguments[0], arguments[1]); arguments[0].dispatchEvent(new Event('input', { bubbles: true }));`,
    box,
    text,
  );
}

describe('items', () => {
  it('are written in a table, and what was written is undone', async () => {
    const { page } = app;
    await page.go(`${app.web}/items`);
    await page.reads('No item is known yet');
    await page.press('New item');
    await page.write('Our reference', 'HL-100');
    await page.press('Add it');
    await page.reads('HL-100 added', '[data-edited]');
    await page.press('name of HL-100: empty. Change it');
    await page.driver.switchTo().activeElement().sendKeys('Copper smoker\n');
    await page.reads('HL-100: name nothing → Copper smoker', '[data-edited]');
    await page.press('agreed minimum of HL-100: empty. Change it');
    await page.driver.switchTo().activeElement().sendKeys('cheap\n');
    await page.reads('“cheap” is no price', '[data-edited]');
    await page.press('agreed minimum of HL-100: empty. Change it');
    await page.driver.switchTo().activeElement().sendKeys('£20\n');
    await page.reads('£20.00', '[data-items]');
    await page.press('Undo');
    await page.reads('Undone', '[data-edited]');
    await until(async () => !(await page.text('[data-items]')).includes('£20.00'));
    expect(await serious(app.page.driver)).toEqual([]);
  });

  it('come in as a file that says first what it would do', async () => {
    const { page } = app;
    await page.go(`${app.web}/items/import`);
    await paste(
      'reference,name,price at Heatherlow\nHL-100,Copper smoker,£24.00\nHL-101,Small ' +
        'one,£18\n,nameless,\nHL-102,x,soon\n',
    );
    await page.press('See what it would do');
    await page.reads('1 added, 1 changed, 2 refused');
    await page.reads(/HL-102\s+refused\s+“soon” is no price/, '[data-lines]');
    expect(await count('SELECT count(*) FROM item')).toBe(1);
    await page.press('Add 1, change 1');
    await page.reads('2 things that we sell');
    await page.reads('£24.00', '[data-items]');
    const sheet = await (await fetch(`${app.web}/items/sheet`)).text();
    expect(sheet).toContain('HL-100,Copper smoker');
  });

  it('are drawn as far as they are seen where a file has many lines, the last shown once it is scrolled to', async () => {
    const { page } = app;
    await page.go(`${app.web}/items/import`);
    const lines = Array.from({ length: 400 }, (_, at) => `HL-${1000 + at},Jar no. ${at + 1}`);
    await paste(`reference,name\n${lines.join('\n')}\n`);
    await page.press('See what it would do');
    await page.reads('400 added');
    await page.reads('HL-1000', '[data-lines]');
    const drawn = () => page.driver.executeScript<number>('return document.querySelectorAll("[data-lines] tr").length');
    expect(await drawn()).toBeLessThan(100);
    expect(await page.text('[data-lines]')).not.toContain('HL-1199');
    await page.driver.executeScript(
      'const place = document.querySelector("[data-lines]").parentElement; place.scrollTop = place.scrollHeight',
    );
    await page.reads('HL-1199', '[data-lines]');
    await page.reads('and 200 more lines: all of them as a file');
    expect(await drawn()).toBeLessThan(100);
    expect(await page.text('[data-lines]')).not.toContain('HL-1000');
  });

  it('are joined to a record by hand, and then a rule is said against ours', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches/1`);
    await page.press('Say which item copper-smoker-large is an offer of');
    await page.driver.switchTo().activeElement().sendKeys('hl-100');
    await page.press('Join it');
    await page.reads('Copper smoker', '[data-item]');
    await page.go(`${app.web}/watches/1/rules/new?field=price`);
    await page.choose('Or something else', 'is below ours');
    await page.reads('Ours is £24.00 now (HL-100 Copper smoker).', '[data-beside]');
    await page.write('By more than', '4%');
    await page.reads('when price is more than 4% below ours', '[data-said]');
    await page.press('Save the rule');
    await page.reads(/price is more than 4% below ours/, '[data-sentence]');
    await page.go(`${app.web}/items`);
    await page.press('HL-100');
    await page.reads('Skepwright', '[data-offers]');
    expect(await serious(app.page.driver)).toEqual([]);
  });
});

describe('many watches', () => {
  it('are changed once the effect was seen, and as they were once it is undone', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches`);
    await page.press('Choose all of them');
    await page.reads('10 chosen', '[data-bulk]');
    await page.choose('What is done to them', 'tag');
    await page.write('Tags, apart by commas', 'autumn, rivals');
    await page.press('See what it does');
    await page.reads('10 watches would change.', '[data-effect]');
    expect(await count(`SELECT count(*) FROM watch WHERE tags <> '{}'`)).toBe(0);
    await page.press('Tag: autumn, rivals');
    await page.reads('10 watches changed', '[data-bulk]');
    expect(await count(`SELECT count(*) FROM watch WHERE tags = '{autumn,rivals}'`)).toBe(10);
    await page.press('Undo');
    await page.reads('Undone', '[data-bulk]');
    expect(await count(`SELECT count(*) FROM watch WHERE tags <> '{}'`)).toBe(0);
  });

  it('that are deleted come back', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches`);
    await page.press('Choose hive-stand');
    await page.press('Choose syrup-14');
    await page.choose('What is done to them', 'delete');
    await page.press('See what it does');
    await page.reads('2 watches would change.', '[data-effect]');
    await page.press('Delete');
    await page.reads('2 watches changed', '[data-bulk]');
    expect(await count(`SELECT count(*) FROM watch WHERE state = 'deleted'`)).toBe(2);
    await page.press('Undo');
    await page.reads('Undone', '[data-bulk]');
    expect(await count(`SELECT count(*) FROM watch WHERE state = 'running'`)).toBe(10);
  });

  it('are grouped, and the address says how', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches`);
    await page.choose('Grouped by', 'state');
    await page.reads('calm', '[data-group]');
    expect(await page.driver.getCurrentUrl()).toContain('group=state');
    expect(await serious(app.page.driver)).toEqual([]);
  });

  it('stand in the record of edits, from which they are undone, too', async () => {
    const { page } = app;
    await page.go(`${app.web}/edits`);
    await page.reads(/tags: nothing → autumn, rivals\s+and the like of 9 others/, '[data-edits]');
    await page.reads('Inés Calloway', '[data-edits]');
    expect(await serious(app.page.driver)).toEqual([]);
  });
});

describe('a stencil', () => {
  it('is made of a rule and put on ten watches, each with a limit of its own', async () => {
    const { page } = app;
    const [rule] = (await app.pool.query<{ id: number }>('SELECT id FROM rule ORDER BY id')).rows;
    await page.go(`${app.web}/watches/1/rules/${rule?.id}`);
    await page.press('Make a stencil of it');
    await page.reads('under its present value', '[data-said]');
    await page.write('Name', 'Eight below');
    await page.write('Percent from the present value', '-8');
    await page.press('Keep it');
    await page.reads('price falls below 8% under its present value', '[data-said]');
    await page.press('Choose all of them');
    await page.press('Put it on 10 watches');
    await page.reads('It made 10 rules');
    const { rows } = await app.pool.query<{ limit: string; value: string }>(
      `SELECT v.definition->'when'->'limits'->'limit'->>'amount' AS limit, s.value->>'amount' AS value
       FROM rule u JOIN rule_version v ON v.rule_id = u.id AND v.version = u.version
       JOIN series s ON s.watch_id = u.watch_id WHERE u.stencil_id = 1`,
    );
    expect(rows.map(({ limit }) => Number(limit))).toEqual(
      rows.map(({ value }) => Math.round(Number(value) * 92) / 100),
    );
    expect(await serious(app.page.driver)).toEqual([]);
  });

  it('that is changed offers that to what it made, what was edited by hand apart', async () => {
    const { page } = app;
    const made = (
      await app.pool.query<{ id: number; watch: number }>(
        'SELECT id, watch_id AS watch FROM rule WHERE stencil_id = 1 ORDER BY id',
      )
    ).rows;
    const [first] = made;
    await page.go(`${app.web}/watches/${first?.watch}/rules/${first?.id}`);
    await page.write('The limit', '3.00');
    await page.press('Save the rule');
    await page.reads('£3.00', '[data-sentence]');
    await page.go(`${app.web}/stencils/1`);
    await page.write('Percent from the present value', '-10');
    await page.press('Keep it');
    await page.reads('price falls below 10% under its present value', '[data-said]');
    await page.reads('edited by hand', '[data-made]');
    expect((await page.driver.findElements({ css: '[data-made] [data-group]' })).length).toBe(2);
    await page.pressAt('[data-made] thead button');
    await page.pressAt('[data-made] tbody tr:nth-last-child(1) button[role=checkbox]');
    await page.press('Let these 9 say what it says now');
    await page.reads('Done on 9 watches');
    const upToDate = () =>
      count(`SELECT count(*) FROM rule u JOIN rule_version v ON v.rule_id = u.id AND v.version = u.version
        WHERE u.stencil_id = 1 AND u.ended_at IS NULL AND (v.definition->'from'->>'version')::int = 3`);
    expect(await upToDate()).toBe(9);
    await page.press('Undo');
    await page.reads('Undone');
    expect(await upToDate()).toBe(0);
  });
});

describe('a file of watches', () => {
  it('goes out, and read back changes nothing; where a line says more it is shown and taken', async () => {
    const { page } = app;
    const text = await (await fetch(`${app.web}/watches/export`)).text();
    await page.go(`${app.web}/watches/import`);
    await paste(text);
    await page.press('See what it would do');
    await page.reads('10 as it is');
    const document = JSON.parse(text) as { watches: { every: object; tags: string[]; reads: { subject: string } }[] };
    const [one, two] = document.watches;
    if (one !== undefined) one.every = { count: 1, unit: 'day' };
    if (two !== undefined) two.tags = ['x'.repeat(50)];
    await paste(JSON.stringify(document));
    await page.press('See what it would do');
    await page.reads('1 changed, 8 as it is, 1 refused');
    await page.reads('runs: every hour → every day', '[data-lines]');
    await page.press('Change 1');
    await page.reads('Watches', 'h1');
    expect(await count(`SELECT count(*) FROM watch WHERE interval_ms = 86400000`)).toBe(1);
  });
});

describe('more watches than a page of the list has', () => {
  const MANY = 120;

  it('are all chosen at once, beyond the page, and changed with those on it', async () => {
    const host = `skepwright.localhost:${app.places.standinsPort}`;
    await inTransaction(app.pool, async (db) => {
      for (let n = 0; n < MANY; n += 1) {
        const source = { address: `http://${host}/p/steel-smoker?n=${n}`, host, site: 'Skepwright', mostAtOnce: 4 };
        const plan = {
          definition: pageDefinition(`Spare ${n}`, [PRICE]),
          frequency: { count: 1, unit: 'day' as const },
          rules: [],
        };
        await db.query(`UPDATE watch SET state = 'paused' WHERE id = $1`, [
          await createWatch(db, source, plan, { person: numbered(1), at: Date.now() }),
        ]);
      }
    });
    const { page } = app;
    await page.go(`${app.web}/watches?q=Spare`);
    await page.press('Choose all of them');
    await page.reads('100 chosen', '[data-bulk]');
    await page.press('Choose all that fit, beyond this page');
    await page.reads(`${MANY} chosen`, '[data-bulk]');
    await page.choose('What is done to them', 'tag');
    await page.write('Tags, apart by commas', 'spare');
    await page.press('See what it does');
    await page.reads(`${MANY} watches would change.`, '[data-effect]');
    await page.press('Tag: spare');
    await page.reads(`${MANY} watches changed`, '[data-bulk]');
    expect(await count(`SELECT count(*) FROM watch WHERE tags = '{spare}'`)).toBe(MANY);
    await page.press('Undo');
    await page.reads('Undone', '[data-bulk]');
    expect(await count(`SELECT count(*) FROM watch WHERE tags = '{spare}'`)).toBe(0);
  });
});
