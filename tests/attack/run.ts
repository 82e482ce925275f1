import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuild, buildFolder } from '#scripts/system/build';
import { ensureDebianPackages, FOR_THE_DEMO } from '#scripts/system/debian';
import { anyPort } from '#scripts/system/ports';
import { startPostgres } from '#scripts/system/postgres';
import { stateFolder } from '#scripts/system/state';
import { attack, FULL, gaveWay, HEAD, SHORT } from './attack';
import { startTarget } from './target';

// `npm run attack`: minutes of hostile pages, answers and requests against a whole Shrike, ended by a table. `--seed=N`
// does just the same again, `--short` is what the tests do.

const say = (line: string) => process.stdout.write(`${line}\n`);

ensureDebianPackages(say, FOR_THE_DEMO);
ensureBuild('test', say);
const seed = Number(process.argv.find((each) => each.startsWith('--seed='))?.slice(7) ?? Date.now() % 1_000_000);
const folder = mkdtempSync(join(stateFolder('attack'), 'run-'));
chmodSync(folder, 0o755);
const database = await startPostgres(join(folder, 'postgres'), await anyPort());
const { target, stop } = await startTarget(database.url, folder, buildFolder('test'));
say(`seed ${seed}\n${HEAD}`);
const outcomes = await attack(target, process.argv.includes('--short') ? SHORT : FULL, seed, say);
await stop();
await database.stop();
rmSync(folder, { recursive: true, force: true });
const bad = outcomes.filter(gaveWay);
say(
  `${outcomes.reduce((sum, { tried }) => sum + tried, 0)} tried; ` +
    `${bad.length === 0 ? 'nothing gave way' : `gave way: ${bad.map(({ name }) => name).join('; ')}`}`,
);
process.exitCode = bad.length === 0 ? 0 : 1;
