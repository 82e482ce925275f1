import { mkdtempSync } from 'node:fs';
import { join } from 'node:path';
import { expect, inject, it } from 'vitest';
import { buildFolder } from '#scripts/system/build';
import { attack, gaveWay, SHORT } from '../attack/attack';
import { startTarget } from '../attack/target';
import { freshDatabase } from '../support/world';

// The short form of `npm run attack`.

const PATIENCE_MS = 900_000;
const SEED = 20_261_126;

it(
  'hostile pages, answers, requests and paths end no process, hold no loop up for a second, and keep no good ' +
    'source waiting for more than two looks',
  async () => {
    const { target, stop } = await startTarget(
      await freshDatabase(),
      mkdtempSync(join(inject('scratch'), 'attack-')),
      buildFolder('test'),
    );
    const outcomes = await attack(target, SHORT, SEED, () => undefined);
    await stop();
    expect(outcomes).toHaveLength(8);
    expect(outcomes.filter(gaveWay)).toEqual([]);
  },
  PATIENCE_MS,
);
