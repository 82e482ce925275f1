import { BEGINNING } from '../support/beginning';
import { join } from 'node:path';
import { readConfig } from '#server/config';
import { addPerson } from '#server/db/person/people';
import { openPool } from '#server/db/base/pool';
import { prepareDatabase } from '#server/db/base/prepare';
import { anyPort } from '#scripts/system/ports';
import { untilAnswers } from '#scripts/system/processes';
import { environmentOf, startWebProgram, startWorkerProgram, type Places } from '#scripts/system/shrike';
import type { Target } from './attack';

/** Starts a whole Shrike, admitted to nothing but the hostile site, to be attacked. */
export async function startTarget(
  databaseUrl: string,
  folder: string,
  build: string,
): Promise<{ target: Target; stop: () => Promise<void> }> {
  const ports = { site: await anyPort(), raw: await anyPort() };
  const places: Places = {
    databaseUrl,
    webPort: await anyPort(),
    standinsPort: ports.site,
    smtpPort: await anyPort(),
    standinsFolder: folder,
    logFolder: join(folder, 'logs'),
    signInAs: 'ines@heatherlow.example',
    build,
    stillAt: BEGINNING,
    bundled: false,
    secretKey: 'a key for tests alone',
  };
  const admitted = ['good', 'body', 'heavy'].map((name) => `${name}.localhost:${ports.site}`);
  const own = {
    SHRIKE_ADMITTED: [...admitted, `raw.localhost:${ports.raw}`].join(','),
    SHRIKE_RENDER_TIMEOUT_MS: '10000',
    SHRIKE_POLL_MS: '100',
  };
  await prepareDatabase(readConfig({ ...environmentOf(places), SHRIKE_LOG_LEVEL: 'silent' }));
  const pool = openPool(databaseUrl, 4, () => undefined);
  const person = await addPerson(pool, {
    name: 'Inés',
    email: places.signInAs,
    locale: 'en-GB',
    zone: 'Europe/London',
    confirmedAt: Date.now(),
  });
  const programs = { worker: startWorkerProgram(places, own), web: startWebProgram(places, own) };
  const web = `http://localhost:${places.webPort}`;
  await untilAnswers(`${web}/healthz`, (status) => status === 200, Object.values(programs));
  const stop = async () => {
    await Promise.all(Object.values(programs).map((program) => program.stop()));
    await pool.end();
  };
  return { target: { web, pool, person, logFolder: places.logFolder, programs, ports }, stop };
}
