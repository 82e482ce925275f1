import { defineConfig } from 'vitest/config';

const LONG_MS = 120_000;
/** A browser and all of Shrike share a machine that may have other work. */
const LONGEST_MS = 240_000;

export default defineConfig({
  test: {
    projects: [
      {
        test: {
          name: 'unit',
          include: ['{core,server,app,standins}/**/*.test.ts', 'tests/corpus/**/*.test.ts'],
          setupFiles: ['tests/support/search.ts'],
          testTimeout: LONG_MS,
        },
      },
      {
        test: {
          name: 'integration',
          include: ['tests/integration/**/*.test.ts'],
          globalSetup: ['tests/support/database.ts'],
          testTimeout: LONG_MS,
          hookTimeout: LONG_MS,
          fileParallelism: false,
        },
      },
      {
        test: {
          name: 'e2e',
          include: ['tests/e2e/**/*.test.ts'],
          globalSetup: ['tests/support/database.ts'],
          testTimeout: LONGEST_MS,
          hookTimeout: LONG_MS,
          fileParallelism: false,
        },
      },
    ],
  },
});
