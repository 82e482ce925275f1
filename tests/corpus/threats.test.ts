import { existsSync, readFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { expect, it } from 'vitest';

// Each threat that docs/security.md names has a test that is there.

const ROOT = resolve(import.meta.dirname, '../..');
const section =
  readFileSync(join(ROOT, 'docs/security.md'), 'utf8').split('## The threats, each with its test')[1] ?? '';
const rows = section
  .split('\n')
  .filter((line) => line.startsWith('| ') && !/^\| (-+|threat) /.test(line))
  .map((line) => line.split('|').map((cell) => cell.trim()));

/** The files that a cell names: `a/{b,c}.ts`, and one without a folder in that of the one before. */
function filesIn(cell: string): string[] {
  const files: string[] = [];
  for (const [, named = ''] of cell.matchAll(/`([^`]+)`/g)) {
    const braces = /^(.*)\{([^}]+)\}(.*)$/.exec(named);
    const names =
      braces === null ? [named] : (braces[2] ?? '').split(',').map((each) => `${braces[1]}${each}${braces[3]}`);
    files.push(...names.map((name) => (name.includes('/') ? name : join(dirname(files.at(-1) ?? ''), name))));
  }
  return files;
}

it('are many', () => expect(rows.length).toBeGreaterThan(20));

it.each(rows.map((cells) => [cells[1] ?? '', cells[4] ?? ''] as const))('%s', (_threat, tests) => {
  const files = filesIn(tests);
  expect(files.length).toBeGreaterThan(0);
  expect(files.filter((file) => !existsSync(join(ROOT, file)))).toEqual([]);
});
