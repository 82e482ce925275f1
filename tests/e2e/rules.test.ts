import { Key } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { pageDefinition, type Field } from '#core/read/definition';
import { DAY } from '#core/when/interval';
import { inTransaction } from '#server/db/base/pool';
import { createWatch } from '#server/actions/edit-watch';
import { numbered } from '../support/numbered';
import { startApp, type RunningApp } from '../support/app';
import { serious } from '../support/axe';
import { onStage } from '../support/stage';
import { PRICE } from '../support/world';
import { until } from '../support/until';

// A rule from its first word to a mail: said, tried on what was read, rehearsed, kept; and what it raises, taken on and
// closed.

const SLUG = 'steel-smoker';
const rule = () => `${app.web}/watches/1/rules/new?field=price`;

let app: RunningApp;
beforeAll(async () => {
  app = await startApp();
  const host = `skepwright.localhost:${app.places.standinsPort}`;
  await onStage(app.places.standinsPort, 'price', '20.00', SLUG);
  const source = { address: `http://${host}/p/${SLUG}`, host, site: 'Skepwright', mostAtOnce: 4 };
  const plan = {
    definition: pageDefinition('Stainless smoker', [PRICE]),
    frequency: { count: 1, unit: 'hour' as const },
    rules: [],
  };
  await inTransaction(app.pool, (db) => createWatch(db, source, plan, { person: numbered(1), at: Date.now() }));
  await app.page.go(`${app.web}/watches/1`);
  await app.page.reads('£20.00');
  await remember();
});
afterAll(() => app.stop());

/** Forty days of its past, a reading each: at £20.00, and every fifth day at £16.00. */
async function remember(): Promise<void> {
  const days = Array.from({ length: 40 }, (_, at) => ({
    at: new Date(Date.now() - (41 - at) * DAY).toISOString(),
    amount: at % 5 === 4 ? '16.00' : '20.00',
  }));
  await app.pool.query(
    `INSERT INTO reading (series_id, first_seen, last_seen, runs, kind, amount, unit, run_id)
     SELECT s.id, n.at, n.at + interval '20 hours', 20, 'money', n.amount, 'GBP', 1
     FROM series s, jsonb_to_recordset($1) AS n(at timestamptz, amount numeric)`,
    [JSON.stringify(days)],
  );
  await app.pool.query(`UPDATE watch SET created_at = created_at - interval '60 days'`);
  await app.pool.query(`UPDATE record SET first_seen = first_seen - interval '60 days'`);
}

const alerts = async () =>
  Number(await app.page.driver.executeScript(`return document.querySelector('[data-alerts]')?.dataset.alerts ?? -1`));

async function untilAlerts(wanted: (count: number) => boolean): Promise<number> {
  let count = -1;
  await until(
    async () => wanted((count = await alerts().catch(() => -1))),
    async () => `the alerts never came to what was waited for; the page says: ${await app.page.text()}`,
  );
  return count;
}

/** Moves on by the keyboard until what has the focus matches. */
async function tabTo(selector: string): Promise<void> {
  const { driver } = app.page;
  for (let steps = 0; steps < 80; steps += 1) {
    if (await driver.executeScript<boolean>(`return document.activeElement.matches(arguments[0])`, selector)) return;
    await driver.actions().sendKeys(Key.TAB).perform();
  }
  throw new Error(`the keyboard never came to ${selector}`);
}

const type = (...keys: string[]) =>
  app.page.driver
    .actions()
    .sendKeys(...keys)
    .perform();

describe('a rule', () => {
  it('is tried on what was read while it is said', async () => {
    const { page } = app;
    await page.go(rule());
    await page.write('The limit', '18.00');
    // Of the last four weeks, every fifth day.
    const count = await untilAlerts((each) => each >= 5 && each <= 6);
    expect((await page.driver.findElements({ css: '[data-bracket=raised]' })).length).toBe(count);
    await page.press('Week');
    await untilAlerts((each) => each <= 2);
    await page.press('13 weeks');
    await untilAlerts((each) => each === 8);
  });

  it('follows the slider on its limit', async () => {
    const { page } = app;
    await page.go(rule());
    await page.write('The limit', '15.00');
    await untilAlerts((each) => each === 0);
    await page.reads('It would not have told', '[data-trying]');
    const slider = await page.find('[data-slider]');
    for (let steps = 0; steps < 20; steps += 1) await slider.sendKeys(Key.PAGE_UP);
    await untilAlerts((each) => each >= 5);
    expect(await page.text()).not.toContain('falls below £15.00');
  });

  it('says what would give about as many as she wants, and takes it', async () => {
    const { page } = app;
    await page.go(rule());
    await page.write('The limit', '15.00');
    await untilAlerts((each) => each === 0);
    await page.choose('For about', '1 a week');
    await page.reads(/limit at £\d+\.\d+\s*\d times/, '[data-tune]');
    await page.press('take');
    await untilAlerts((each) => each > 0);
  });

  it('is rehearsed on pretended values, down to the mail', async () => {
    const { page } = app;
    await page.go(rule());
    await page.write('The limit', '18.00');
    await page.write('price at run 1', '25.00');
    await page.write('price at run 2', 'absent');
    await page.press('Add a run');
    await page.write('price at run 3', '17.99');
    await page.reads(/told: .*the condition was not met before and is met now/, '[data-rehearsal]');
    await page.reads('Nobody would hear of it. Nobody is named who should hear.', '[data-ends]');
    await page.press('Pricing');
    await page.reads(/It would go to .*Ravi Oduya.*, at once\./, '[data-ends]');
    await page.reads(/The mail:.*£17\.99/, '[data-ends]');
    await page.press('Send this mail to me alone');
    await page.reads('Sent to ines@heatherlow.example.', '[data-ends]');
    await page.write('price at run 3', 'a lot');
    await page.reads('price: “a lot” is no value of this field.');
    expect((await app.pool.query('SELECT FROM alert UNION ALL SELECT FROM delivery')).rows).toEqual([]);
    await page.go(app.site('mailroom'));
    await page.reads(/Rehearsal: .*£17\.99/);
  });

  it('can be said and kept by the keyboard alone', async () => {
    const { page } = app;
    await page.go(rule());
    await page.find('[data-alerts]');
    await tabTo('[role=radio]');
    await tabTo('input[inputmode=decimal]');
    await app.page.driver.actions().keyDown(Key.CONTROL).sendKeys('a').keyUp(Key.CONTROL).sendKeys('18.00').perform();
    await page.reads('price falls below £18.00', '[data-said]');
    await tabTo('[role=checkbox][id]:not([aria-label])');
    for (let steps = 0; steps < 40 && !(await page.text('[data-said]')).includes('Pricing'); steps += 1) {
      const isPricing = await page.driver.executeScript<boolean>(
        `const at = document.activeElement; const label = document.querySelector('label[for="' + at.id + '"]'); ` +
          `return at.getAttribute('role') === 'checkbox' && label !== null && ` +
          `label.textContent.startsWith('Pricing');`,
      );
      await type(isPricing ? Key.SPACE : Key.TAB);
    }
    await page.reads('Tell Pricing at once when price falls below £18.00', '[data-said]');
    await page.driver.executeScript('document.activeElement.blur(); window.scrollTo(0, 0);');
    await tabTo('button[type=submit]');
    await type(Key.ENTER);
    await page.reads('version 2 by Inés');
    await page.reads(/tell Pricing at once when price falls below £18\.00/, '[data-sentence]');
  });

  it('opens again as it was said, and is copied with what it was made from', async () => {
    const { page } = app;
    const { rows } = await app.pool.query<{ id: number }>('SELECT id FROM rule');
    await page.go(`${app.web}/watches/1/rules/${rows[0]?.id}`);
    await page.reads('Tell Pricing at once when price falls below £18.00', '[data-said]');
    await page.press('End this rule');
    await page.press('Keep it');
    await page.press('Copy');
    await page.reads('Made from the rule “price falls below £18.00”.', '[data-from]');
    expect((await app.pool.query('SELECT FROM rule WHERE ended_at IS NULL')).rows).toHaveLength(1);
  });

  it('that cannot be kept says why, and loses nothing', async () => {
    const { page } = app;
    await page.go(rule());
    await page.write('The limit', 'cheap');
    await page.reads('“cheap” cannot be a limit');
    expect(await (await page.find('button[type=submit]')).isEnabled()).toBe(false);
  });
});

describe('a rule on what has no history yet', () => {
  it('is tried on the history of a like watch, which it says', async () => {
    const { page } = app;
    const host = `skepwright.localhost:${app.places.standinsPort}`;
    const source = { address: `http://${host}/p/copper-smoker-large`, host, site: 'Skepwright', mostAtOnce: 4 };
    const plan = {
      definition: pageDefinition('Copper smoker', [PRICE]),
      frequency: { count: 1, unit: 'hour' as const },
      rules: [],
    };
    const id = await inTransaction(app.pool, (db) =>
      createWatch(db, source, plan, { person: numbered(1), at: Date.now() }),
    );
    await page.go(`${app.web}/watches/${id}`);
    await page.reads(/£/);
    await page.go(`${app.web}/watches/${id}/rules/new?field=price&limit=18.00`);
    await page.reads('There is no history yet', '[data-no-history]');
    await page.choose('Try it on the history of a like watch', 'Stainless smoker at Skepwright');
    await page.reads(/Tried on what was read of Stainless smoker at Skepwright/, '[data-borrowed]');
    expect(await untilAlerts((count) => count > 0)).toBeGreaterThan(0);
    await page.press('Choose another');
    await page.reads('There is no history yet', '[data-no-history]');
  });
});

describe('a rule that asks more than its own record', () => {
  it('is said of another watch, tried, kept, and opens again as it was said', async () => {
    const { page } = app;
    await page.go(`${rule()}&limit=18.00`);
    await untilAlerts((count) => count >= 5);
    await page.press('and when …');
    await page.chooseIn('[data-clause="2"]', 'Of', 'another watch');
    await page.reads('Say which watch, and which of its values.');
    await page.chooseIn('[data-clause="2"]', 'Which watch', 'Copper smoker, Skepwright');
    await page.pressIn('[data-clause="2"]', 'rises above');
    await page.writeIn('[data-clause="2"]', 'The limit', '1.00');
    await page.reads('price falls below £18.00 and price at Copper smoker rises above £1.00', '[data-said]');
    // Said of its own record again it asks a field of that.
    await page.chooseIn('[data-clause="2"]', 'Of', 'its own record');
    await page.reads('price falls below £18.00 and price changes', '[data-said]');
    await page.chooseIn('[data-clause="2"]', 'Of', 'another watch');
    await page.chooseIn('[data-clause="2"]', 'Which watch', 'Copper smoker, Skepwright');
    await page.pressIn('[data-clause="2"]', 'rises above');
    await page.writeIn('[data-clause="2"]', 'The limit', '1.00');
    // What that watch was in those weeks nobody knows: it was not read then.
    await untilAlerts((count) => count === 0);
    await page.press('Save the rule');
    await page.reads('version 3 by Inés');
    const { rows } = await app.pool.query<{ id: number }>('SELECT max(id) AS id FROM rule');
    await page.go(`${app.web}/watches/1/rules/${rows[0]?.id}`);
    await page.reads('price falls below £18.00 and price at Copper smoker rises above £1.00', '[data-said]');
    await page.press('End this rule');
    await page.press('End it');
    await page.reads('version 4 by Inés');
  });
});

/** A list that is read already, with records that came and went since. */
async function watchLots(): Promise<number> {
  const host = `supplier.localhost:${app.places.standinsPort}`;
  const address = `http://${host}/lots`;
  const cell = (key: string, at: number, type: Field['type']): Field => ({
    ...PRICE,
    key,
    label: key,
    type,
    locators: [{ way: 'css', selector: `td:nth-child(${at})` }],
  });
  const fields = [cell('lot', 1, { kind: 'text' }), cell('goods', 2, { kind: 'text' })];
  const definition = {
    ...pageDefinition('Lots', fields),
    records: { from: 'rows' as const, rows: 'table tr:has(td)' },
    identity: ['lot'],
  };
  const plan = { definition, frequency: { count: 1, unit: 'hour' as const }, rules: [] };
  const id = await inTransaction(app.pool, (db) =>
    createWatch(db, { address, host, site: 'Supplier', mostAtOnce: 4 }, plan, { person: numbered(1), at: Date.now() }),
  );
  await app.page.go(`${app.web}/watches/${id}`);
  await app.page.reads(/Wax|Honey/);
  await app.pool.query(`UPDATE watch_version SET made_at = made_at - interval '20 days' WHERE watch_id = $1`, [id]);
  await app.pool.query(`UPDATE watch SET created_at = created_at - interval '20 days' WHERE id = $1`, [id]);
  await app.pool.query(`UPDATE record SET first_seen = first_seen - interval '20 days' WHERE watch_id = $1`, [id]);
  // Ten days ago one came, five days ago it went.
  await app.pool.query(
    `INSERT INTO change (id, run_id, watch_id, watch_version, record_id, field, kind, was, now, sense, seen_at,
      looked_before)
     SELECT n.id, 1, $1, 1, (SELECT min(id) FROM record WHERE watch_id = $1), 'record', 'record', n.was, n.now,
       'neither', now() - n.ago, now() - n.ago
     FROM (VALUES (900001, '{"kind": "absent"}'::jsonb, '{"kind": "text", "text": "L1"}'::jsonb, interval '10 days'),
       (900002, '{"kind": "text", "text": "L1"}', '{"kind": "absent"}', interval '5 days')) n(id, was, now, ago)`,
    [id],
  );
  return id;
}

describe('a rule on how many records there are', () => {
  it('is tried on what came and went, rehearsed, kept, and charted from then on', async () => {
    const { page } = app;
    const id = await watchLots();
    const { rows } = await app.pool.query<{ count: number }>('SELECT record_count AS count FROM watch WHERE id = $1', [
      id,
    ]);
    const count = rows[0]?.count ?? 0;
    await page.go(`${app.web}/watches/${id}/rules/new?field=lot`);
    await page.choose('When', 'number of records');
    await page.press('rises above');
    await page.write('The limit', String(count));
    await page.reads(`number of records rises above ${count}`, '[data-said]');
    await untilAlerts((each) => each === 1);
    await page.write('number of records at run 2', String(count + 3));
    await page.reads(/told: .*met now/, '[data-rehearsal]');
    await page.press('Pricing');
    await page.reads(new RegExp(`The mail:.*${count + 3}`), '[data-ends]');
    await page.press('Send this mail to me alone');
    await page.reads('Sent to ines@heatherlow.example.', '[data-ends]');
    await page.write('The limit', 'few');
    await page.reads('“few” cannot be a limit');
    await page.write('The limit', String(count));
    await page.press('Save the rule');
    await page.reads('version 2 by Inés');
    await page.press('Run now');
    await page.press(count.toLocaleString('en-GB'));
    await page.reads(/Number of records of Lots/i);
  });
});

describe('a reading', () => {
  it('says what each rule made of it, and leads to the one before and to a rule', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches/1`);
    await page.press('why at a reading');
    await page.reads(
      /price was £.*No rule of this watch asked price then, so nobody was to hear of it\..*saved later/i,
      '[data-moment]',
    );
    const before = await page.text('#at-this-reading');
    await page.press('the one before');
    await page.reads(/price was £/i, '[data-moment]');
    await until(async () => (await page.text('#at-this-reading')) !== before);
    await page.press('a rule from this reading');
    await page.reads(/When/);
  });
});

describe('what it raises', () => {
  it('stands in the list of what is raised', async () => {
    const { page } = app;
    await onStage(app.places.standinsPort, 'price', '17.00', SLUG);
    await page.go(`${app.web}/watches/1`);
    await page.press('Run now');
    await page.reads('raised since', 'ol[aria-label="The chain"]');
    await page.go(`${app.web}/raised`);
    await page.reads('Stainless smoker at Skepwright: price is below £18.00', '[data-raised="Nobody has it"]');
  });

  it('opens a rule filled in from it, at its peak', async () => {
    const { page } = app;
    await page.go(`${app.web}/raised`);
    await page.press('a rule from this');
    await page.reads('when price falls below £17.00', '[data-said]');
    await page.reads('Made from the rule “price falls below £18.00”.', '[data-from]');
  });

  it('says on the mail why it was sent, with the way to its trail and its rule', async () => {
    const { page } = app;
    const { rows } = await app.pool.query<{ id: number }>('SELECT id FROM delivery ORDER BY id DESC LIMIT 1');
    await page.go(`${app.web}/outbox/${rows[0]?.id}`);
    await page.reads(
      /price (is|falls) below £18\.00 it stands at £17\.00; the condition was not met before and is met now/,
      '[data-why]',
    );
    await page.press('its trail');
    await page.reads(/Read price.* Judged .*it stands at £17\.00/, '[data-trail]');
  });

  it('is taken on from the mail: following its link changes nothing, its button does', async () => {
    const { page } = app;
    const { rows } = await app.pool.query<{ plain: string }>(
      `SELECT d.plain FROM delivery d JOIN person p ON p.id = d.person_id WHERE p.name LIKE 'Inés%'`,
    );
    const link = /Take it on: (\S+)/.exec(rows.at(-1)?.plain ?? '')?.[1] ?? '';
    await page.go(link);
    await page.reads('Skepwright now asks £17.00 for Stainless smoker');
    await page.reads('Nobody has it.', '[data-standing]');
    expect((await app.pool.query('SELECT taken_on_by FROM episode')).rows).toEqual([{ taken_on_by: null }]);
    await page.write('A note for the others', 'I ask them');
    await page.press('Take it on as Inés Calloway');
    await page.reads('Inés Calloway has it since', '[data-standing]');
    await page.go(`${link.slice(0, -6)}xxxxxx`);
    await page.reads('This link is not one of ours');
    await page.go(`${app.web}/raised`);
    await page.reads(/Inés Calloway has it since .*I ask them/, '[data-raised="Taken on"]');
  });

  it('can be let go, and taken on again with a note', async () => {
    const { page } = app;
    await page.press('Let go');
    await page.reads('Stainless smoker', '[data-raised="Nobody has it"]');
    await page.press('Take on');
    await page.write('A note for the others', 'once more');
    await page.press('Take it on');
    await page.reads(/Inés Calloway has it since .*once more/, '[data-raised="Taken on"]');
  });

  it('can be put off and taken up again', async () => {
    const { page } = app;
    await page.press('Put off');
    await page.press('for 2 hours');
    await page.reads('put off until', '[data-raised="Put off"]');
    await page.press('Take up');
    await page.reads('Stainless smoker', '[data-raised="Taken on"]');
  });

  it('is closed by hand, once she said so twice, and stands among what is over', async () => {
    const { page } = app;
    await page.press('Close');
    await page.press('Leave open');
    await page.reads('Stainless smoker', '[data-raised="Taken on"]');
    await page.press('Close');
    await page.pressAt('[role=alertdialog] button:last-child');
    await page.reads(/price is below £18\.00.*closed by hand/, '[data-over]');
    await page.reads('nothing now, 1 over since yesterday');
  });
});

describe('these views', () => {
  it.each([['/raised'], ['/watches/1/rules/new?field=price']])('have nothing serious to axe: %s', async (path) => {
    await app.page.go(app.web + path);
    await app.page.find('h1');
    expect(await serious(app.page.driver)).toEqual([]);
  });
});
