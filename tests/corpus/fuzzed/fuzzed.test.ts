import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { chances, mutate } from '#tests/fuzz/mutate';
import { TARGETS } from '#tests/fuzz/targets';

// Every text that a border once gave way to, and a short round of new ones: `npm run fuzz` goes on for an hour.

const NEW = 60;
const SEED = 20_261_202;

const kept = (name: string): string[] => {
  const folder = join(import.meta.dirname, name.replaceAll(' ', '-'));
  return existsSync(folder) ? readdirSync(folder).map((file) => readFileSync(join(folder, file), 'utf8')) : [];
};

describe.each(TARGETS.map((target) => [target.name, target] as const))('%s', (name, target) => {
  it('give way to nothing that they once gave way to, nor to what is new', async () => {
    const chance = chances(SEED);
    const known = [...target.seeds, ...kept(name)];
    const fresh = Array.from({ length: name === 'mail answers' ? NEW / 6 : NEW }, () =>
      mutate(known[chance(known.length)] ?? '', known[chance(known.length)] ?? '', target.words, chance),
    );
    for (const text of [...known, ...fresh]) {
      const gaveWay = await Promise.resolve(text)
        .then((each) => target.try(each))
        .then(
          () => null,
          (error: unknown) => `${String(error)}: ${text.slice(0, 200)}`,
        );
      expect(gaveWay).toBeNull();
    }
  });
});
