import { chmodSync, existsSync, mkdtempSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { openBrowser, type Browser } from '#scripts/system/browser';
import { bundleOf } from '#scripts/system/build';
import { anyPort } from '#scripts/system/ports';
import { startProgram, type Running } from '#scripts/system/processes';
import { processesBelow } from '#server/processes';
import { Page } from '../support/app';
import { serious } from '../support/axe';
import { BEGINNING } from '../support/beginning';
import { ownClone, type OwnClone } from '../support/own-clone';
import { ask, fromOwnPage } from '../support/requests';
import { until } from '../support/until';
import { freshDatabase } from '../support/world';

const CODE = /\n +((?:[a-z0-9]{4}-){3}[a-z0-9]{4})\n/;
const PASSWORD = 'bees in the lime trees';

let clone: OwnClone;
let standins: Running;
let browser: Browser;
let page: Page;
const ports = { web: 0, standins: 0, smtp: 0 };
const web = () => `http://localhost:${ports.web}`;
const site = (name: string) => `http://${name}.localhost:${ports.standins}`;

/** What somebody sets who has a mail server, and a site within her own network. */
const settings = () => ({
  SHRIKE_DATA: join(clone.home, 'kept'),
  SHRIKE_PORT: String(ports.web),
  SHRIKE_SMTP_HOST: '127.0.0.1',
  SHRIKE_SMTP_PORT: String(ports.smtp),
  SHRIKE_ADMITTED: `*.localhost:${ports.standins}`,
  SHRIKE_POLL_MS: '100',
});
/** What a process was started with; nothing where it has ended meanwhile. */
function commandOf(pid: number): string {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8');
  } catch {
    return '';
  }
}

const npmStart = (more: Record<string, string> = {}) => clone.run(['npm', 'start'], { ...settings(), ...more });

beforeAll(async () => {
  const home = mkdtempSync(join(inject('scratch'), 'start-'));
  chmodSync(home, 0o755);
  clone = ownClone(home);
  for (const name of ['web', 'standins', 'smtp'] as const) ports[name] = await anyPort();
  const folder = mkdtempSync(join(inject('scratch'), 'standins-'));
  const words = [ports.standins, ports.smtp, folder, web(), BEGINNING].map(String);
  standins = startProgram('standins', bundleOf('standins'), words, {}, folder);
  browser = await openBrowser({ width: 1280, height: 800 });
  page = new Page(browser.driver);
});
afterAll(async () => {
  await browser.close();
  await standins.stop();
});

describe('Shrike started for real, in an empty folder, by a user without rights', () => {
  let own: ReturnType<typeof npmStart>;
  let code = '';
  beforeAll(async () => {
    own = npmStart();
    code = (await own.says(CODE))[1] ?? '';
    await own.says(/Ctrl-C stops it/);
  });
  afterAll(() => own.stop());

  it('says where it is, what is not set and what to do, and nothing of what is set', async () => {
    await own.says(/docs\/running\.md says more/);
    expect(own.said()).toContain(`Shrike is at ${web()}`);
    expect(own.said()).toContain('SHRIKE_PUBLIC_URL');
    expect(own.said()).toContain('SHRIKE_MAIL_FROM');
    expect(own.said()).not.toContain('SHRIKE_SMTP_HOST');
    expect(own.said()).not.toMatch(/heatherlow|demo|stage/i);
  });

  it('keeps its key and its logs to its user', () => {
    const kept = (name: string) => join(clone.home, 'kept', name);
    expect(statSync(kept('secret-key')).mode & 0o777).toBe(0o600);
    expect(readFileSync(kept('secret-key'), 'utf8')).toMatch(/^[0-9a-f]{64}$/);
    expect(statSync(kept('logs/web.log')).mode & 0o777).toBe(0o600);
    expect(statSync(kept('postgres/data')).mode & 0o777).toBe(0o700);
    expect(readFileSync(kept('logs/web.log'), 'utf8')).not.toContain(code);
  });

  it('has no owner without the code that was printed', async () => {
    const owner = { name: 'Mallory', email: 'mallory@heatherlow.example', password: PASSWORD };
    const form = (values: Record<string, string>) =>
      ask(web(), '/first-owner', { form: values, headers: fromOwnPage(web()) });
    expect((await form({ ...owner, code: '' })).status).toBe(400);
    expect((await form({ ...owner, code: 'aaaa-bbbb-cccc-dddd' })).status).toBe(400);
    expect((await ask(web(), '/')).headers.location).toBe('/first-owner');
  });

  it('has its first owner by the code, who makes a watch and gets the mail', async () => {
    await page.go(web());
    await page.reads('Nobody owns this Shrike yet');
    expect(await serious(page.driver)).toEqual([]);
    await page.write('Code', code);
    await page.write('Your name', 'Inés Calloway');
    await page.write('Mail address', 'ines@heatherlow.example');
    await page.write('Password', PASSWORD);
    await page.press('Own this Shrike');
    await page.reads('Nothing is watched yet');

    await page.go(`${web()}/watches/new`);
    await page.write('Which page, list', `${site('skepwright')}/p/copper-smoker-large`);
    await page.press('Fetch it');
    await page.press('Take Product › offers › price');
    await page.press('On to the rule');
    await page.press('falls below');
    await page.write('The limit', '20');
    await page.press('On to who should hear');
    await page.press('Inés Calloway');
    await page.press('Start watching');
    // The first run is a baseline: only what moves after it is news.
    await page.reads(/holds £\d/, 'ol[aria-label="The chain"]');
    await ask(`http://localhost:${ports.standins}`, '/push', {
      form: { what: 'price', slug: 'copper-smoker-large', value: '19.50' },
      headers: { host: `stage.localhost:${ports.standins}` },
    });
    await page.press('Run now');
    await page.reads('accepted for Inés Calloway', '[data-trail]');
    await page.go(site('mailroom'));
    await page.reads('Copper smoker, large price £19.50');
  });

  it('is not started twice with the same data', async () => {
    const second = npmStart({ SHRIKE_PORT: String(await anyPort()) });
    await second.says(/runs with the data in .* already/);
    await second.stop();
    expect((await ask(web(), '/healthz')).status).toBe(200);
  });

  it('starts its worker again when that ends by itself', async () => {
    const isWorker = (pid: number) => commandOf(pid).includes('server/work/main');
    const workers = () => processesBelow(own.child.pid ?? 0).filter(isWorker);
    expect(workers()).toHaveLength(1);
    process.kill(workers()[0] ?? 0, 'SIGKILL');
    await own.says(/The worker ended by itself; it is started again/);
    await until(() => workers().length === 1);
  });

  it('stops in good order, and starts again with what was there', async () => {
    const key = readFileSync(join(clone.home, 'kept/secret-key'), 'utf8');
    await own.stop();
    expect(existsSync(join(clone.home, 'kept/postgres/data/postmaster.pid'))).toBe(false);
    expect(existsSync(join(clone.home, 'kept/pid'))).toBe(false);
    await expect(ask(web(), '/healthz')).rejects.toThrow();

    own = npmStart();
    await own.says(/Ctrl-C stops it/);
    expect(own.said()).not.toMatch(CODE);
    expect(readFileSync(join(clone.home, 'kept/secret-key'), 'utf8')).toBe(key);
    await page.go(`${web()}/watches`);
    await page.reads('Copper smoker, large');
    await page.reads('£19.50');
  });
});

describe('a start that is killed', () => {
  it('leaves nothing behind that keeps the next one from starting', async () => {
    const own = npmStart({ SHRIKE_DATA: join(clone.home, 'killed') });
    await own.says(/Ctrl-C stops it/);
    const isStart = (pid: number) => /tsx\0[^\0]*scripts\/start\.ts/.test(commandOf(pid));
    const [start] = processesBelow(own.child.pid ?? 0).filter(isStart);
    process.kill(start ?? 0, 'SIGKILL');
    await until(async () => (await ask(web(), '/healthz').catch(() => null)) === null);
    const next = npmStart({ SHRIKE_DATA: join(clone.home, 'killed') });
    await next.says(/Ctrl-C stops it/);
    expect((await ask(web(), '/healthz')).status).toBe(200);
    await next.stop();
  });
});

describe('a start that cannot be', () => {
  const refused = async (more: Record<string, string>, why: RegExp) => {
    const tried = npmStart({ SHRIKE_DATA: join(clone.home, 'other'), ...more });
    await tried.says(why);
    await tried.stop();
    expect(tried.child.exitCode).not.toBe(0);
  };

  it('says which port is taken, and takes no other', () =>
    refused({ SHRIKE_PORT: String(ports.standins) }, /Port \d+ is taken by another program/));
  it('says which variable is wrong', () => refused({ SHRIKE_SMTP_PORT: 'mail' }, /SHRIKE_SMTP_PORT must be/));
  it('says that a folder is not its own', () => refused({ SHRIKE_DATA: '/kept' }, /data folder \/kept cannot/));
  it('lets nobody in without a password', () =>
    refused({ SHRIKE_SIGN_IN_AS: 'ines@heatherlow.example' }, /for the demo alone/));
  it('says that a database is not there', async () => {
    const url = `postgres://shrike@127.0.0.1:${await anyPort()}/shrike`;
    await refused({ SHRIKE_DATABASE_URL: url }, /database.*cannot be reached/);
  });
});

describe('a start with a database that is said', () => {
  it('keeps none of its own', async () => {
    const data = join(clone.home, 'bare');
    const port = String(await anyPort());
    const url = await freshDatabase();
    const own = npmStart({ SHRIKE_DATA: data, SHRIKE_PORT: port, SHRIKE_DATABASE_URL: url });
    await own.says(CODE);
    expect(existsSync(join(data, 'postgres'))).toBe(false);
    await own.stop();
  });
});
