import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { replay } from '#demo/replay';
import { ANALYST } from '#demo/scenario';
import { readConfig } from '#server/config';
import { openPool } from '#server/db/base/pool';
import { prepareDatabase } from '#server/db/base/prepare';
import { buildFolder, ensureBuild } from './system/build';
import { ensureDebianPackages, FOR_THE_DEMO } from './system/debian';
import { Ending } from './system/ending';
import { takeFolder } from './system/only-one';
import { ownKey } from './system/own-key';
import { freePort, isFree } from './system/ports';
import { startPostgres, type RunningPostgres } from './system/postgres';
import { untilAnswers, type Running } from './system/processes';
import {
  environmentOf,
  startApartProgram,
  startStandinsProgram,
  startWebProgram,
  startWorkerProgram,
  type Places,
} from './system/shrike';
import { stateFolder } from './system/state';

interface Ports {
  web: number;
  standins: number;
  smtp: number;
  database: number;
}

const PREFERRED: Ports = { web: 4600, standins: 4610, smtp: 4625, database: 4632 };

const folder = stateFolder('demo');
const seededMarker = join(folder, 'seeded');
const portsFile = join(folder, 'ports.json');
const running: Running[] = [];
let database: RunningPostgres | null = null;
/** Gives the folder back, once it is ours. */
let leave: (() => void) | null = null;

const say = (line: string) => process.stdout.write(`${line}\n`);

async function main(): Promise<void> {
  const place = takeFolder(folder, 'scripts/demo.ts');
  if (!place.taken)
    throw new Error(
      `This clone's demo is running already, as process ${place.pid}: ` +
        `http://localhost:${readPorts()?.web ?? PREFERRED.web}. Stop it with Ctrl-C where it was started.`,
    );
  leave = place.leave;
  ensureDebianPackages(say, FOR_THE_DEMO);
  if (process.argv.includes('--fresh') || !existsSync(seededMarker)) forget();
  const before = readPorts();
  const ports = await choosePorts(before);

  say('Starting PostgreSQL …');
  database = await startPostgres(join(folder, 'postgres'), ports.database);
  const places: Places = {
    databaseUrl: database.url,
    webPort: ports.web,
    standinsPort: ports.standins,
    smtpPort: ports.smtp,
    standinsFolder: join(folder, 'standins'),
    logFolder: join(folder, 'logs'),
    signInAs: ANALYST,
    build: buildFolder('demo'),
    stillAt: null,
    bundled: false,
    secretKey: ownKey(folder),
  };
  const applied = await prepareDatabase(readConfig({ ...environmentOf(places), SHRIKE_LOG_LEVEL: 'warn' }));
  if (applied.length > 0) say(`Migrated the database (${applied.join(', ')}).`);
  await (existsSync(seededMarker) ? followStandins(places, before) : makeHistory(places));
  writeFileSync(portsFile, JSON.stringify(ports));
  ensureBuild('demo', say);

  say('Starting the stand-ins, a worker and the web server …');
  running.push(
    ...[startStandinsProgram, startWorkerProgram, startWebProgram, startApartProgram].map((start) => start(places)),
  );
  await untilAnswers(`http://localhost:${ports.web}/healthz`, (status) => status === 200, running);
  tell(ports);
  for (const program of running) program.child.once('exit', () => void endedByItself(program));
}

function forget(): void {
  rmSync(seededMarker, { force: true });
  for (const name of ['standins', 'logs', 'ports.json']) rmSync(join(folder, name), { recursive: true, force: true });
  rmSync(join(folder, 'postgres'), { recursive: true, force: true });
}

function readPorts(): Ports | null {
  return existsSync(portsFile) ? (JSON.parse(readFileSync(portsFile, 'utf8')) as Ports) : null;
}

/** The ports of the last start where they are free, so that addresses stay as they were; else the next free ones. */
async function choosePorts(before: Ports | null): Promise<Ports> {
  const chosen = { ...PREFERRED, ...before };
  const taken: number[] = [];
  for (const name of Object.keys(PREFERRED) as (keyof Ports)[]) {
    const wanted = chosen[name];
    chosen[name] = await freePort(wanted, taken);
    taken.push(chosen[name]);
    if (chosen[name] !== wanted && !(await isFree(wanted))) say(`Port ${wanted} is taken; using ${chosen[name]}.`);
  }
  return chosen;
}

async function makeHistory(places: Places): Promise<void> {
  say('Making the demo data: replaying four weeks of the stand-ins through the pipeline …');
  let shown = 0;
  const progress = (share: number) => {
    const tenth = Math.floor(share * 10);
    if (tenth <= shown) return;
    shown = tenth;
    say(`  ${tenth * 10}%`);
  };
  const runs = await replay(
    {
      environment: environmentOf(places),
      standinsPort: places.standinsPort,
      smtpPort: places.smtpPort,
      standinsFolder: places.standinsFolder,
    },
    Date.now(),
    progress,
  );
  say(`  ${runs} runs made.`);
  writeFileSync(seededMarker, new Date().toISOString());
}

/** Where the stand-ins had to take another port, the sources follow them there. */
async function followStandins(places: Places, before: Ports | null): Promise<void> {
  if (before === null || before.standins === places.standinsPort) return;
  const pool = openPool(places.databaseUrl, 1, (error) => process.emitWarning(error));
  const move = [`localhost:${before.standins}`, `localhost:${places.standinsPort}`];
  await pool.query(
    `INSERT INTO host (name, most_at_once)
      SELECT replace(name, $1, $2), most_at_once
      FROM host
      WHERE name LIKE $3
      ON CONFLICT DO NOTHING`,
    [...move, `%.${move[0]}`],
  );
  await pool.query(
    'UPDATE source SET address = replace(address, $1, $2), host = replace(host, $1, $2) WHERE host LIKE $3',
    [...move, `%.${move[0]}`],
  );
  await pool.end();
}

function tell(ports: Ports): void {
  say('');
  say(`  Shrike     http://localhost:${ports.web}`);
  say(
    `  The stage  http://stage.localhost:${ports.standins}   (with the mail room at ` +
      `http://mailroom.localhost:${ports.standins})`,
  );
  say('');
  say(`Logs are in ${join(folder, 'logs')}. Ctrl-C stops everything.`);
}

async function endedByItself(program: Running): Promise<void> {
  if (ending.begun) return;
  say(`The ${program.name} ended by itself; see ${join(folder, 'logs', `${program.name}.log`)}.`);
  await ending.end(1);
}

const ending = new Ending(async () => {
  if (leave !== null) say('\nStopping …');
  await Promise.all(running.map((program) => program.stop()));
  await database?.stop();
  leave?.();
});

main().catch(async (error: unknown) => {
  say(error instanceof Error ? error.message : String(error));
  await ending.end(1);
});
