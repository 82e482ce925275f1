import { readdirSync, readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import ts from 'typescript';
import { describe, expect, it } from 'vitest';

// What a visitor typed is worked on in threads: whatever answers requests asks the pool for it, and reaches none of
// what works on it by itself. `server/reading/tasks.ts` is where that is reached.

/** What reads, matches, compares, replays or renders; of some modules these names alone. */
const HEAVY: [RegExp, readonly string[] | 'all'][] = [
  [/^#core\/read\/(read|html|tree|body|candidates|picking|guard|frame\/take|inspect\/.*|mend\/.*)$/, 'all'],
  [/^#core\/read\/pattern$/, ['searchFor', 'isMatch', 'takeWanted']],
  [/^#core\/read\/formula$/, ['evaluate', 'formulaOf']],
  [/^#core\/compare\/text$/, 'all'],
  [/^#core\/judge\/(rehearse|engine|compiled)$/, 'all'],
  [/^#core\/judge\/backtest$/, ['backtest']],
  [/^#core\/judge\/past-moments$/, 'all'],
  [/^#core\/items\/sheet$/, ['readSheet']],
  [/^#core\/tell\/edition\/digest-mail$/, 'all'],
  [/^#server\/shapes\/exchange$/, ['readDocument', 'openDocument', 'watchesFrom']],
  [/^#server\/files\/watch-document$/, 'all'],
];

/** Of those, what is a constant, or carries over what is known: nothing is worked out by it. */
const LIGHT = ['FORMAT_NAMES', 'NO_OFFER', 'keepFrames'];

/** Named, with why it may. */
const EXCUSED: Record<string, string> = {
  'app/parts/edition-mail.server.ts': 'renders what is kept, as it was mailed: nothing of it is typed by who asks',
};

const ROOT = resolve(import.meta.dirname, '..');
const files = readdirSync(resolve(ROOT, 'app'), { recursive: true, encoding: 'utf8' })
  .map((file) => `app/${file}`)
  .filter((file) => /\.tsx?$/.test(file) && !/\.test\.tsx?$/.test(file) && !file.startsWith('app/workers/'));

/** Every import of a value, by its module. */
function importsOf(file: string): { module: string; names: string[] }[] {
  const source = ts.createSourceFile(file, readFileSync(resolve(ROOT, file), 'utf8'), ts.ScriptTarget.Latest);
  return source.statements.flatMap((statement) => {
    if (!ts.isImportDeclaration(statement) || statement.importClause?.isTypeOnly === true) return [];
    const bindings = statement.importClause?.namedBindings;
    const names =
      bindings !== undefined && ts.isNamedImports(bindings)
        ? bindings.elements.filter((each) => !each.isTypeOnly).map((each) => (each.propertyName ?? each.name).text)
        : [];
    return names.length === 0 ? [] : [{ module: (statement.moduleSpecifier as ts.StringLiteral).text, names }];
  });
}

const heavyIn = (file: string): string[] =>
  importsOf(file).flatMap(({ module, names }) =>
    HEAVY.flatMap(([pattern, heavy]) =>
      pattern.test(module)
        ? names
            .filter((name) => (heavy === 'all' ? !LIGHT.includes(name) : heavy.includes(name)))
            .map((name) => `${name} of ${module}`)
        : [],
    ),
  );

/** Files that answer requests: those of the server alone, and views with a loader or an action. */
const answering = files.filter((file) => {
  if (/\.server\.tsx?$/.test(file)) return true;
  const text = readFileSync(resolve(ROOT, file), 'utf8');
  return /export (async )?function (loader|action)\b/.test(text);
});

describe('what answers requests', () => {
  it('is looked at whole', () => {
    expect(answering.length).toBeGreaterThan(80);
    expect(Object.keys(EXCUSED).filter((file) => !files.includes(file))).toEqual([]);
  });

  it.each(answering)('%s works on nothing by itself that a visitor typed', (file) => {
    expect(file in EXCUSED ? [] : heavyIn(file)).toEqual([]);
  });

  it('would be found out', () => {
    expect(heavyIn('server/reading/tasks.ts').length).toBeGreaterThan(10);
  });
});
