import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { WatchId } from '#core/id';
import { pageDefinition } from '#core/read/definition';
import { inTransaction } from '#server/db/base/pool';
import { createWatch } from '#server/actions/edit-watch';
import { startApp, type RunningApp } from '../support/app';
import { serious } from '../support/axe';
import { numbered } from '../support/numbered';
import { onStage } from '../support/stage';
import { until } from '../support/until';
import { PRICE } from '../support/world';

// A report that tells each move at once, how many mails may go out, and for how long things are kept.

const SLUG = 'copper-smoker-large';
let app: RunningApp;
let watch: WatchId;
beforeAll(async () => {
  app = await startApp();
  const host = `skepwright.localhost:${app.places.standinsPort}`;
  await onStage(app.places.standinsPort, 'price', '24.00', SLUG);
  const source = { address: `http://${host}/p/${SLUG}`, host, site: 'Skepwright', mostAtOnce: 4 };
  const plan = {
    definition: pageDefinition('Copper smoker', [PRICE]),
    frequency: { count: 1, unit: 'hour' as const },
    rules: [],
  };
  watch = await inTransaction(app.pool, (db) => createWatch(db, source, plan, { person: numbered(1), at: Date.now() }));
  await until(async () => (await rows('SELECT FROM record WHERE watch_id = $1', [watch])).length === 1);
}, 120_000);
afterAll(() => app.stop());

const rows = async <Row extends object>(text: string, values: unknown[] = []) =>
  (await app.pool.query<Row>(text, values)).rows;
const escape = () => app.page.driver.actions().sendKeys('\uE00C').perform();
const mails = (state: string) => rows('SELECT FROM delivery WHERE report_id IS NOT NULL AND state = $1', [state]);

async function reprice(pounds: string): Promise<void> {
  const before = (await rows('SELECT FROM change')).length;
  await onStage(app.places.standinsPort, 'price', pounds, SLUG);
  await app.page.go(`${app.web}/watches/${watch}`);
  await app.page.press('Run now');
  await until(async () => (await rows('SELECT FROM change')).length > before);
}

describe('a report that tells at once', () => {
  it('is said in its sentence, and what its cadence means stands beside it', async () => {
    const { page } = app;
    await page.go(`${app.web}/reports/new`);
    await page.press('Each weekday at 07:30');
    await page.choose('It is made', 'at once, with what it takes');
    await page.reads('Each commit that brings what it takes makes an edition');
    await escape();
    await page.reads(/At once, tell .* what moved everywhere, by item/, '[data-order]');
    await page.reads('with the next news that it takes', '[data-next-cuts]');
    await page.write('Its mails begin with it', 'As it moves');
    await page.press('Start it');
    await page.find('[data-editions]');
    expect(await serious(page.driver)).toEqual([]);
  });

  it('has the move in the mail room as soon as it was seen, and says in the trail where it stands', async () => {
    const { page } = app;
    await reprice('22.00');
    await until(async () => (await mails('sent')).length > 0);
    await page.go(app.site('mailroom'));
    await page.reads(/As it moves: .*£22\.00, down 8\.3%/);
    const [change] = await rows<{ id: number }>('SELECT id FROM change');
    await page.go(`${app.web}/watches/${watch}?change=${change?.id}`);
    await page.reads(/As it moves, version 1: shown in edition 1/, '[data-trail]');
  });

  it('is told apart from what was first read, whose trail says that it is a baseline', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches/${watch}`);
    const [first] = await rows<{ id: string }>('SELECT series_id AS id FROM first_reading ORDER BY series_id LIMIT 1');
    await page.reads('first read: £24.00', '[data-other-news]');
    await page.go(`${app.web}/watches/${watch}?news=first%20reading-${first?.id}`);
    await page.reads(/there was nothing before it: it is a baseline, and no change/, '[data-trail]');
    expect(await serious(page.driver)).toEqual([]);
    for (const news of [
      'alert-1',
      'failure-99',
      'first reading-0',
      'constructor-1',
      '__proto__',
      'alert-',
      '-',
      `alert-${'9'.repeat(40)}`,
    ]) {
      await page.go(`${app.web}/watches/${watch}?${new URLSearchParams({ news }).toString()}`);
      await page.reads(/As it moves, version 1: shown in edition 1/, '[data-trail]');
    }
  });

  it('says what a change of it adds and drops before it is saved', async () => {
    const { page } = app;
    const [report] = await rows<{ id: number }>(`SELECT id FROM report WHERE name = 'As it moves'`);
    await page.go(`${app.web}/reports/${report?.id}`);
    await page.press('what moved');
    await page.press('prices');
    await escape();
    await page.reads('Saved so, its running stretch tells of the same news.', '[data-difference]');
  });

  it('can have values as they stand instead, under names of her own', async () => {
    const { page } = app;
    await page.go(`${app.web}/reports/new`);
    await page.pressIn('[data-choices]', 'what moved');
    await page.choose('Of the watch', 'Copper smoker');
    await page.choose('Show', 'Copper smoker: price');
    await page.write('Name of value 1', 'The smoker');
    await escape();
    await page.reads('how The smoker stands, with alerts and what broke', '[data-order]');
    await page.reads(/The smoker £22\.00/, '[data-next-edition]');
    // What is being made anew stands back for as long.
    await page.find('[data-next-edition][aria-busy=false]');
    expect(await serious(page.driver)).toEqual([]);
  });

  it('is found among all editions by the words of its mail', async () => {
    const { page } = app;
    await page.go(`${app.web}/editions`);
    await page.write('With these words in its mail', 'copper smoker');
    await page.press('Search');
    await until(async () => (await page.driver.getCurrentUrl()).includes('copper'));
    await page.reads('As it moves, edition 1');
    await page.write('With these words in its mail', 'hippopotamus');
    await page.press('Search');
    await page.reads('No edition is of this sort');
    expect(await serious(page.driver)).toEqual([]);
  });
});

describe('how many mails may go out', () => {
  it('is refused where it is no number, and nothing that was written is lost', async () => {
    const { page } = app;
    await page.go(`${app.web}/mail`);
    await page.writeIn('[data-allowance="mails a reader"]', 'in 60 minutes', 'many');
    await page.pressIn('[data-allowance="mails a reader"]', 'Keep');
    await page.reads('A bound is a whole number', '[data-allowance="mails a reader"]');
    await page.writeIn('[data-allowance="mails a reader"]', 'in 60 minutes', '1');
    await page.pressIn('[data-allowance="mails a reader"]', 'Keep');
    await page.reads('Kept.', '[data-allowance="mails a reader"]');
    await page.reads('set by Inés Calloway', '[data-allowance="mails a reader"]');
    expect(await serious(page.driver)).toEqual([]);
  });

  it('gathers what is beyond it, and the outbox says why', async () => {
    const { page } = app;
    await reprice('21.00');
    await until(async () => (await mails('kept back')).length > 0);
    await page.go(`${app.web}/outbox`);
    await page.reads('held: as many mails have gone out as may');
  });
});

describe('what is kept', () => {
  it('says what it takes, refuses what is no number of days, and asks before it keeps less', async () => {
    const { page } = app;
    await page.go(`${app.web}/retention`);
    await page.reads(/Readings.*(kB|MB)/s, '[data-kept]');
    await page.write('Days for which mails are kept', '0');
    await page.pressAt('[aria-label="Keep mails so long"]');
    await page.reads('Things are kept for a whole number of days');
    await page.write('Days for which mails are kept', '90');
    await page.pressAt('[aria-label="Keep mails so long"]');
    await page.press('Keep them');
    expect(await rows('SELECT FROM retention')).toEqual([]);
    await page.pressAt('[aria-label="Keep mails so long"]');
    await page.press('Let the older go');
    await until(async () => (await rows(`SELECT FROM retention WHERE what = 'mails' AND days = 90`)).length === 1);
    await page.reads('chosen by Inés Calloway', '[data-kept]');
    expect(await serious(page.driver)).toEqual([]);
  });

  it('shows of each look what it brought', async () => {
    const { page } = app;
    await page.go(`${app.web}/watches/${watch}`);
    await page.press('All runs');
    await page.find('[data-runs]');
    await page.reads('changed', '[data-runs]');
    expect(await serious(page.driver)).toEqual([]);
  });
});
