import jsxA11y from 'eslint-plugin-jsx-a11y';
import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

// The boundaries of docs/architecture.md: each folder names what it may not reach. Folders reach one another by
// #name alone; a relative path that leaves its own top folder is refused everywhere.
const TOP = ['core', 'server', 'app', 'standins', 'demo', 'bench', 'scripts', 'tests'];
const leaving = { regex: `^(\\.\\./)+(${TOP.join('|')})/`, message: 'Reach another top folder by its #name.' };
const toward = (names, message, allowTypeImports = false) => ({
  group: names.flatMap((name) => [`#${name}/*`]),
  message,
  allowTypeImports,
});
const refuse = (files, patterns, ignores = []) => ({
  files,
  ignores,
  rules: { '@typescript-eslint/no-restricted-imports': ['error', { patterns: [leaving, ...patterns] }] },
});

const PURE = [
  'big.js', 'css-select', 'diff', 'domhandler', 'domutils', 'fontoxpath', 'htmlparser2', 'joi', 'jsep', 'json-p3', 'liquidjs', 'lossless-json', 'luxon', 'papaparse', 're2js', 'slimdom',
]; // prettier-ignore
const pureOnly = {
  regex: `^(?!\\.{1,2}/|(${PURE.map((name) => name.replace('.', '\\.')).join('|')})$)`,
  message: 'core imports core and a few pure packages alone.',
};

// What comes from outside has its shape checked on the server alone.
const ofShapes = { regex: '(^joi|/schemas?)$', message: 'No browser checks a shape: that is for the server.' };

// Markup and its class names stand in one piece, and so does an attribute that is an expression beside text.
const MARKUP = "className=|</?[a-z]|\\{' '\\}$";

// What rules that know types look at.
const TYPED = ['{core,server,app,standins,demo,bench,scripts}/**/*.{ts,tsx}'];
const UNTYPED = ['**/*.test.ts'];

export default tseslint.config(
  { ignores: ['build/', '.react-router/', 'node_modules/', 'docs/'] },
  ...tseslint.configs.recommended,
  ...tseslint.configs.recommendedTypeCheckedOnly.map((config) => ({ ...config, files: TYPED, ignores: UNTYPED })),
  {
    files: TYPED,
    ignores: UNTYPED,
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      // The names of the parser's node types are an enum; here they are compared as the words they are.
      '@typescript-eslint/no-unsafe-enum-comparison': 'off',
    },
  },
  // Loaders and actions answer by throwing a response, as the router means it.
  { files: ['app/**/*.{ts,tsx}'], rules: { '@typescript-eslint/only-throw-error': 'off' } },
  {
    files: ['**/*.{ts,tsx}'],
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', ignoreRestSiblings: true }],
      complexity: ['error', 16],
      'max-depth': ['error', 3],
      'max-params': ['error', 5],
      'no-console': 'error',
      'max-len': [
        'error',
        {
          code: 120,
          ignoreUrls: true,
          ignoreRegExpLiterals: true,
          ignoreTemplateLiterals: true,
          ignorePattern: MARKUP,
        },
      ],
      eqeqeq: ['error', 'always', { null: 'ignore' }],
    },
  },
  {
    files: ['**/*.test.ts'],
    rules: {
      'max-len': [
        'error',
        {
          code: 120,
          ignoreStrings: true,
          ignoreRegExpLiterals: true,
          ignoreTemplateLiterals: true,
          ignorePattern: MARKUP,
        },
      ],
    },
  },
  // SQL stands in templates, and breaks like all else.
  {
    files: ['server/{db,actions,pipeline}/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: { 'max-len': ['error', { code: 120, ignoreUrls: true, ignoreRegExpLiterals: true }] },
  },
  {
    files: ['core/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: "NewExpression[callee.name='Date'][arguments.length=0]",
          message: 'core reads no clock: take the moment as an argument.',
        },
        {
          selector: "MemberExpression[object.name='Date'][property.name='now']",
          message: 'core reads no clock: take the moment as an argument.',
        },
        { selector: "MemberExpression[object.name='Math'][property.name='random']", message: 'core is deterministic.' },
      ],
    },
  },
  {
    files: ['server/pipeline/**/*.ts', 'server/deliver/**/*.ts', 'server/{db,actions}/**/*.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: "NewExpression[callee.name='Date'][arguments.length=0]",
          message: 'The pipeline reads no clock: one is passed in.',
        },
        {
          selector: "MemberExpression[object.name='Date'][property.name='now']",
          message: 'The pipeline reads no clock: one is passed in.',
        },
      ],
    },
  },
  {
    files: ['app/**/*.{ts,tsx}'],
    ignores: ['app/form.server.ts', 'app/ids.server.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: "CallExpression[callee.property.name='formData']",
          message: 'A form is read by readForm, which bounds and cleans it.',
        },
        {
          selector: "CallExpression[callee.name='Number'] > MemberExpression[object.name='params']",
          message: 'An id is read by readId, which knows what is none.',
        },
      ],
    },
  },
  refuse(['core/**/*.ts'], [pureOnly, ofShapes], ['**/*.test.ts', '**/schema.ts', 'core/judge/kinds/schemas.ts']),
  refuse(
    ['server/**/*.ts'],
    [toward(['app', 'standins', 'demo', 'scripts'], 'server knows core alone.')],
    ['**/*.test.ts'],
  ),
  refuse(
    ['app/**/*.{ts,tsx}'],
    [toward(['standins', 'demo', 'scripts'], 'Nothing imports the stand-ins or the demo.'), ofShapes],
    ['app/ui/**', 'app/parts/**', '**/*.test.ts', '**/*.server.ts', 'app/routes/access/first-owner/route.tsx'],
  ),
  refuse(
    ['app/**/*.server.ts', 'app/routes/access/first-owner/route.tsx'],
    [toward(['standins', 'demo', 'scripts'], 'Nothing imports the stand-ins or the demo.')],
    ['app/parts/**'],
  ),
  refuse(
    ['app/routes/**/page.tsx'],
    [
      toward(['standins', 'demo', 'scripts'], 'Nothing imports the stand-ins or the demo.'),
      toward(['server'], 'Server code reaches the browser through loaders and actions.', true),
      ofShapes,
    ],
  ),
  refuse(
    ['app/parts/**/*.{ts,tsx}'],
    [
      toward(['standins', 'demo', 'scripts'], 'Nothing imports the stand-ins or the demo.'),
      toward(['server'], 'Server code reaches the browser through loaders and actions.', true),
      { regex: '/routes/', message: 'A part is shared by views and knows none.' },
      ofShapes,
    ],
    ['**/*.server.ts', '**/*.test.ts'],
  ),
  refuse(
    ['app/ui/**/*.tsx'],
    [
      toward(['core', 'server', 'standins', 'demo', 'scripts'], 'The design system knows no domain.'),
      { regex: '/(parts|routes)/', message: 'The design system knows no domain.' },
    ],
  ),
  refuse(['standins/**/*.ts'], [toward(['server', 'app', 'demo', 'scripts'], 'The stand-ins are the outside world.')]),
  {
    files: ['app/**/*.tsx'],
    plugins: { 'react-hooks': reactHooks, 'jsx-a11y': jsxA11y },
    rules: {
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      ...jsxA11y.flatConfigs.recommended.rules,
      'jsx-a11y/no-autofocus': 'off',
    },
  },
  {
    files: ['**/*.mjs', '**/*.js'],
    languageOptions: { globals: { process: 'readonly', console: 'readonly' } },
    rules: { 'no-console': 'off' },
  },
  // The plain models that Shrike is held to say what they take as their law does.
  { files: ['tests/support/reference/*.ts'], rules: { 'max-params': ['error', 6] } },
);
