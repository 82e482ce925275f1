import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { TestProject } from 'vitest/node';
import { anyPort } from '#scripts/system/ports';
import { startPostgres } from '#scripts/system/postgres';
import { stateFolder } from '#scripts/system/state';

declare module 'vitest' {
  interface ProvidedContext {
    postgresUrl: string;
    scratch: string;
  }
}

/** A PostgreSQL of the tests' own, on a free port and in a folder of its own: nothing is shared with a running demo. */
export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  const folder = mkdtempSync(join(stateFolder('test'), 'run-'));
  chmodSync(folder, 0o755); // the database's own user must be able to enter
  const server = await startPostgres(join(folder, 'postgres'), await anyPort(), {
    fsync: 'off',
    synchronous_commit: 'off',
    full_page_writes: 'off',
  });
  project.provide('postgresUrl', server.url);
  project.provide('scratch', folder);
  return async () => {
    await server.stop();
    rmSync(folder, { recursive: true, force: true });
  };
}
