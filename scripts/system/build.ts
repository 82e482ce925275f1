import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { build } from 'esbuild';
import { inItsPlace } from '#server/programs';
import { ROOT } from './state';

const BUILT_FROM = ['app', 'core', 'server', 'public', 'package-lock.json', 'vite.config.ts', 'react-router.config.ts'];

/** Where the web application is built for a purpose, below the clone: `build/demo`, `build/test`. */
export function buildFolder(purpose: string): string {
  return join('build', purpose);
}

/** Builds the web application for a purpose, unless what is built came from just these files. */
export function ensureBuild(purpose: string, say: (line: string) => void): void {
  const wanted = fingerprint();
  const marker = join(ROOT, buildFolder(purpose), '.built-from');
  if (existsSync(marker) && readFileSync(marker, 'utf8') === wanted) return;
  say('Building the web application …');
  const built = spawnSync(process.execPath, [join(ROOT, 'node_modules/@react-router/dev/bin.js'), 'build'], {
    cwd: ROOT,
    encoding: 'utf8',
    env: { ...process.env, NODE_ENV: 'production', SHRIKE_BUILD: buildFolder(purpose) },
  });
  if (built.status !== 0)
    throw new Error(
      'The web application could not be ' +
        `built:\n${(built.stdout + built.stderr).trim().split('\n').slice(-25).join('\n')}`,
    );
  writeFileSync(marker, wanted);
}

function fingerprint(): string {
  const hash = createHash('sha256');
  for (const name of BUILT_FROM) {
    for (const file of filesBelow(join(ROOT, name))) hash.update(relative(ROOT, file)).update(readFileSync(file));
  }
  return hash.digest('hex');
}

function filesBelow(path: string): string[] {
  const entries = (() => {
    try {
      return readdirSync(path, { withFileTypes: true });
    } catch {
      return null;
    }
  })();
  if (entries === null) return [path];
  return entries.sort((a, b) => (a.name < b.name ? -1 : 1)).flatMap((entry) => filesBelow(join(path, entry.name)));
}

/** Our programs, by the names under which they are bundled. */
export const PROGRAMS = {
  web: 'server/web/main.ts',
  worker: 'server/work/main.ts',
  apart: 'server/apart/main.ts',
  standins: 'standins/main.ts',
} as const;

/** Where a program is bundled to. */
export const bundleOf = (name: string): string => join(ROOT, 'build/programs', `${name}.mjs`);

/** Bundles our programs, each with all of ours that it imports: they start in a third of the time. */
export async function bundlePrograms(programs: Record<string, string> = PROGRAMS): Promise<void> {
  await Promise.all(
    Object.entries(programs).map(([name, entry]) =>
      build({
        entryPoints: [join(ROOT, entry)],
        outfile: bundleOf(name),
        bundle: true,
        packages: 'external',
        platform: 'node',
        format: 'esm',
        plugins: [inItsPlace],
        logLevel: 'error',
      }),
    ),
  );
}
