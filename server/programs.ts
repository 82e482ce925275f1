import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build, type Plugin } from 'esbuild';
import { openedOnce } from './opened-once';

/** The folder that our packages are found from. */
export const ROOT = resolve(import.meta.dirname, '..');

/** In two pieces: this module is bundled, too. */
const META = ['import', 'meta'].join('.');

/** A module of ours goes on to know where it stands, wherever its bundle does. */
export const inItsPlace: Plugin = {
  name: 'in-its-place',
  setup(bundle) {
    bundle.onLoad({ filter: /\/(server|core|standins|scripts)\/.*\.ts$/ }, async ({ path }) => ({
      contents: (await readFile(path, 'utf8'))
        .replaceAll(`${META}.url`, JSON.stringify(pathToFileURL(path).href))
        .replaceAll(`${META}.dirname`, JSON.stringify(dirname(path))),
      loader: 'ts',
    }));
  },
};

const texts = new Map<string, () => Promise<string>>();

/**
 * One of our programs, with all of ours that it imports, as one text: what is started again and again starts in a
 * moment, and from one state of the code. Of packages it bears those that are asked for with it; the others it imports.
 */
export function programText(program: string, packages: 'bundle' | 'external'): Promise<string> {
  const text = texts.get(program) ?? openedOnce(() => bundled(program, packages));
  texts.set(program, text);
  return text();
}

async function bundled(program: string, packages: 'bundle' | 'external'): Promise<string> {
  const { outputFiles } = await build({
    entryPoints: [createRequire(import.meta.url).resolve(program)],
    bundle: true,
    write: false,
    platform: 'node',
    packages,
    plugins: [inItsPlace],
    format: packages === 'bundle' ? 'cjs' : 'esm',
    logLevel: 'silent',
  });
  return outputFiles[0]?.text ?? '';
}
