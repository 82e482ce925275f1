import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { readConfig, type Config } from '#server/config';
import { makeFirstOwnerCode } from '#server/db/access/first-owner';
import { openPool } from '#server/db/base/pool';
import { prepareDatabase } from '#server/db/base/prepare';
import { buildFolder, ensureBuild, PROGRAMS } from './system/build';
import { BROWSER, DATABASE, ensureDebianPackages, mayInstall, type Package } from './system/debian';
import { Ending } from './system/ending';
import { takeFolder } from './system/only-one';
import { ownKey } from './system/own-key';
import { freePort, isFree } from './system/ports';
import { startPostgres, type RunningPostgres } from './system/postgres';
import { keepRunning, startProgram, untilAnswers, type Running } from './system/processes';
import { dataFolder } from './system/state';
import { whatIsNotSet } from './unset';

// Starts Shrike for real: its database, unless one is said, a worker and the web server, with what it keeps in one
// folder. docs/running.md is its page.

type Environment = Record<string, string | undefined>;

const USUAL_PORT = '4600';
const OWN_DATABASE_PORT = 4640;
/** What PostgreSQL says goes to a file for each day of the week, within its own folder. */
const DATABASE_LOG = {
  logging_collector: 'on',
  log_filename: 'postgresql-%a.log',
  log_rotation_age: '1d',
  log_rotation_size: '0',
  log_truncate_on_rotation: 'on',
};

const say = (line: string) => process.stdout.write(`${line}\n`);
const running: Running[] = [];
let database: RunningPostgres | null = null;
let leave: (() => void) | null = null;

async function main(): Promise<void> {
  const given: Environment = Object.fromEntries(Object.entries(process.env).filter(([, value]) => value !== ''));
  if (given.SHRIKE_SIGN_IN_AS !== undefined)
    throw new Error('SHRIKE_SIGN_IN_AS lets every visitor in without a password, for the demo alone. Unset it.');
  const folder = dataFolder(given.SHRIKE_DATA);
  takeAlone(folder);
  install(given);
  const environment = { ...given, ...ownSettings(given, folder) };
  await refuseTakenPort(readConfig(environment));

  if (given.SHRIKE_DATABASE_URL === undefined) {
    say('Starting PostgreSQL …');
    database = await startOwnDatabase(folder);
    environment.SHRIKE_DATABASE_URL = database.url;
  }
  const config = readConfig(environment);
  const applied = await prepareDatabase(config).catch(refuseDatabase);
  if (applied.length > 0) say(`Brought the database up to date (${applied.length} steps).`);
  ensureBuild('start', say);
  const code = await codeFor(config);
  await startPrograms(config, environment, join(folder, 'logs'));
  database?.child.once('exit', () => void endedByItself());
  tell(config, code, folder);
  const besides = { hasBrowser: BROWSER.has(), asRoot: process.getuid?.() === 0 };
  tellNotSet(whatIsNotSet({ environment: given, ...besides }));
}

function takeAlone(folder: string): void {
  const place = takeFolder(folder, 'scripts/start.ts');
  if (!place.taken)
    throw new Error(`Shrike runs with the data in ${folder} already, as process ${place.pid}. Stop that one first.`);
  leave = place.leave;
}

/** Installs what is missing where that can be done; without a browser Shrike runs, and says what it cannot read. */
function install(given: Environment): void {
  const needed: Package[] = given.SHRIKE_DATABASE_URL === undefined ? [DATABASE] : [];
  ensureDebianPackages(say, mayInstall() ? [...needed, BROWSER] : needed);
}

/** What is set where nobody said otherwise. */
function ownSettings(given: Environment, folder: string): Environment {
  const port = given.SHRIKE_PORT ?? USUAL_PORT;
  const publicUrl = given.SHRIKE_PUBLIC_URL ?? `http://localhost:${port}`;
  const domain = given.SHRIKE_MAIL_DOMAIN ?? (URL.canParse(publicUrl) ? new URL(publicUrl).hostname : undefined);
  return {
    SHRIKE_PORT: port,
    SHRIKE_PUBLIC_URL: publicUrl,
    SHRIKE_MAIL_DOMAIN: domain,
    SHRIKE_MAIL_FROM: given.SHRIKE_MAIL_FROM ?? `Shrike <shrike@${domain}>`,
    SHRIKE_SECRET_KEY: given.SHRIKE_SECRET_KEY ?? ownKey(folder),
    SHRIKE_BUILD: buildFolder('start'),
  };
}

/** Links of mails bear the port: another one is never taken in silence. */
async function refuseTakenPort({ port }: Config): Promise<void> {
  if (await isFree(port)) return;
  throw new Error(`Port ${port} is taken by another program. Stop it, or say another port in SHRIKE_PORT.`);
}

/** Its database on loopback, on the port of the last start where that is free: nobody else knows it. */
async function startOwnDatabase(folder: string): Promise<RunningPostgres> {
  const file = join(folder, 'database-port');
  const port = await freePort(existsSync(file) ? Number(readFileSync(file, 'utf8')) : OWN_DATABASE_PORT);
  writeFileSync(file, String(port));
  return startPostgres(join(folder, 'postgres'), port, DATABASE_LOG);
}

function refuseDatabase(error: unknown): never {
  const { code, message } = error as { code?: string; message: string };
  throw new Error(`The database cannot be reached, or not be made ready: ${message || code}.`, { cause: error });
}

async function codeFor(config: Config): Promise<string | null> {
  const pool = openPool(config.databaseUrl, 1, () => undefined);
  try {
    return await makeFirstOwnerCode(pool, Date.now());
  } finally {
    await pool.end();
  }
}

/** Starts worker, web and what watches them, waits until they are well, and keeps them running from then on. */
async function startPrograms(config: Config, environment: Environment, logs: string): Promise<void> {
  say('Starting a worker and the web server …');
  const starts = (['worker', 'web', 'apart'] as const).map(
    (name) => () => startProgram(name, PROGRAMS[name], [], environment, logs),
  );
  for (const start of starts) running.push(start());
  const { host } = new URL(config.publicUrl);
  await untilAnswers(`http://${reachedAt(config)}/healthz`, (status) => status === 200, running, host);
  starts.forEach((start, at) => keepRunning(running[at] as Running, start, say));
}

/** Where the web server is asked how it is: an address that stands for all is asked on loopback. */
const reachedAt = ({ address, port }: Config): string =>
  `${['0.0.0.0', '::'].includes(address) ? '127.0.0.1' : address.includes(':') ? `[${address}]` : address}:${port}`;

function tell({ publicUrl }: Config, code: string | null, folder: string): void {
  say('');
  say(`  Shrike is at ${publicUrl}`);
  if (code !== null) {
    say('');
    say(
      '  Nobody owns it yet. Open that address, and become its first owner with this code; it holds until it is used,',
    );
    say('  or until the next start:');
    say('');
    say(`      ${code}`);
  }
  say('');
  say(`Everything it keeps is in ${folder}, its logs in ${join(folder, 'logs')}. Ctrl-C stops it.`);
}

function tellNotSet(lines: string[]): void {
  if (lines.length === 0) return;
  say('');
  say('Not set yet:');
  for (const line of lines) say(`- ${line}`);
  say('docs/running.md says more.');
}

async function endedByItself(): Promise<void> {
  if (ending.begun) return;
  say('PostgreSQL ended by itself; its own log, in the data folder below postgres/data/log, says why.');
  await ending.end(1);
}

const ending = new Ending(async () => {
  if (running.length > 0) say('\nStopping …');
  await Promise.all(running.map((program) => program.stop()));
  await database?.stop();
  leave?.();
});

main().catch(async (error: unknown) => {
  say(error instanceof Error ? error.message : String(error));
  await ending.end(1);
});
