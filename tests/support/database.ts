import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { TestProject } from 'vitest/node';
import { bundlePrograms, PROGRAMS } from '#scripts/system/build';
import { anyPort } from '#scripts/system/ports';
import { startPostgres } from '#scripts/system/postgres';
import { stateFolder } from '#scripts/system/state';
import { readConfig } from '#server/config';
import { prepareDatabase } from '#server/db/base/prepare';

declare module 'vitest' {
  interface ProvidedContext {
    postgresUrl: string;
    scratch: string;
  }
}

/** The database that each test's own is a copy of: up to date, and empty. */
export const TEMPLATE = 'shrike';

/** A PostgreSQL of the tests' own, on a free port and in a folder of its own: nothing is shared with a running demo. */
export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  await bundlePrograms({ ...PROGRAMS, 'halting-worker': 'tests/support/halting-worker.ts' });
  const folder = mkdtempSync(join(stateFolder('test'), 'run-'));
  chmodSync(folder, 0o755); // the database's own user must be able to enter
  const server = await startPostgres(join(folder, 'postgres'), await anyPort(), {
    fsync: 'off',
    synchronous_commit: 'off',
    full_page_writes: 'off',
  });
  await prepareDatabase(readConfig({ SHRIKE_DATABASE_URL: server.url, SHRIKE_LOG_LEVEL: 'silent' }));
  project.provide('postgresUrl', urlOf(server.url, 'postgres'));
  project.provide('scratch', folder);
  return async () => {
    await server.stop();
    rmSync(folder, { recursive: true, force: true });
  };
}

/** The address of another database of the same server. */
export function urlOf(server: string, database: string): string {
  const url = new URL(server);
  url.pathname = `/${database}`;
  return url.href;
}
