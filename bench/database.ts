import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { readConfig } from '#server/config';
import { preparePartitions } from '#server/db/base/partitions';
import { addPerson } from '#server/db/person/people';
import { prepareDatabase } from '#server/db/base/prepare';
import { openPool, type Pool } from '#server/db/base/pool';
import { anyPort } from '#scripts/system/ports';
import { startPostgres } from '#scripts/system/postgres';
import { stateFolder } from '#scripts/system/state';
import type { PersonId } from '#core/id';
import type { Instant } from '#core/when/interval';

/** A database of its own, prepared, with one person in it. */
export interface BenchDatabase {
  environment: Record<string, string>;
  pool: Pool;
  owner: PersonId;
}

/** Opens a fresh database for as long as `work` takes; what is fetched from these hosts is let through. */
export async function withDatabase(
  admitted: string,
  at: Instant,
  work: (database: BenchDatabase) => Promise<void>,
): Promise<void> {
  const folder = mkdtempSync(join(stateFolder('bench'), 'run-'));
  chmodSync(folder, 0o755);
  const database = await startPostgres(join(folder, 'postgres'), await anyPort());
  const environment = { SHRIKE_DATABASE_URL: database.url, SHRIKE_ADMITTED: admitted, SHRIKE_LOG_LEVEL: 'silent' };
  await prepareDatabase(readConfig(environment));
  const pool = openPool(database.url, 2, () => undefined);
  try {
    await preparePartitions(pool, at);
    const place = { locale: 'en-GB', zone: 'Europe/London' };
    const owner = await addPerson(pool, { name: 'Inés', email: 'ines@heatherlow.example', ...place, confirmedAt: at });
    await work({ environment, pool, owner });
  } finally {
    await pool.end();
    await database.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}
