import { defineConfig } from 'vitest/config';

const LONG_MS = 120_000;
/** A browser and all of Shrike share a machine that may have other work. */
const LONGEST_MS = 240_000;
/** More than cores: much of what they do is waiting. */
const AT_ONCE = 3;
const BROWSERS_AT_ONCE = 2;
const BESIDE_LINTER = 2;

/**
 * Tests that end processes, or hold a loop or a thread to a deadline: these go one after another, with nothing beside
 * them.
 */
const ALONE = [
  'server/reading/pool.test.ts',
  ...['killed', 'stopped'].map((name) => `tests/integration/${name}.test.ts`),
  'tests/e2e/attack.test.ts',
];

const INTEGRATION = {
  globalSetup: ['tests/support/database.ts'],
  setupFiles: ['tests/support/search.ts'],
  testTimeout: LONG_MS,
  hookTimeout: LONG_MS,
  // Modules are loaded once for all files of a worker; each file has a database of its own.
  isolate: false,
};

// Files of several projects that are named together go one project after another.
export default defineConfig({
  test: {
    projects: [
      {
        test: {
          name: 'unit',
          sequence: { groupOrder: 0 },
          include: ['{core,server,app,standins}/**/*.test.ts', 'tests/corpus/**/*.test.ts'],
          exclude: ALONE,
          setupFiles: ['tests/support/search.ts'],
          testTimeout: LONG_MS,
          isolate: false,
          // The linter goes beside them.
          maxWorkers: BESIDE_LINTER,
        },
      },
      {
        test: {
          name: 'integration',
          sequence: { groupOrder: 1 },
          ...INTEGRATION,
          include: ['tests/integration/**/*.test.ts'],
          exclude: ALONE,
          maxWorkers: AT_ONCE,
        },
      },
      {
        test: {
          name: 'alone',
          sequence: { groupOrder: 3 },
          ...INTEGRATION,
          testTimeout: LONGEST_MS,
          include: ALONE,
          fileParallelism: false,
        },
      },
      {
        test: {
          name: 'e2e',
          sequence: { groupOrder: 2 },
          include: ['tests/e2e/**/*.test.ts'],
          exclude: ALONE,
          globalSetup: ['tests/support/database.ts'],
          testTimeout: LONGEST_MS,
          hookTimeout: LONG_MS,
          isolate: false,
          // A browser, a worker and a web each: more of them would wait for one another.
          maxWorkers: BROWSERS_AT_ONCE,
        },
      },
    ],
  },
});
