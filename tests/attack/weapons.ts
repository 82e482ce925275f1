import fc from 'fast-check';
import { PIECES, SAMPLES } from '../support/mutated';

// What is thrown at Shrike. Everything is drawn from a seed, so that what went wrong can be done again.

const many = (piece: string, size: number) => piece.repeat(Math.ceil(size / piece.length)).slice(0, size);

/** Pages that are meant to cost more than themselves. */
export const HEAVY_PAGES: string[] = [
  many('<div>', 1_000_000),
  many('<b>', 1_000_000),
  many('<p>x', 1_000_000),
  many('<!---->', 1_000_000),
  many('<table><tr><td>', 600_000),
  `<?xml version="1.0"?>${many('<a>', 1_000_000)}`,
  `<html><body><table>${Array.from({ length: 10_000 }, (_, at) => `<tr><td>Item ${at}</td><td>£${at}.00</td></tr>`).join('')}</table>`,
  `<html><body>${Array.from({ length: 6_000 }, (_, at) => `<h2>Heading ${at}</h2><p>£${at}.00</p>`).join('')}`,
  `<html><body>${Array.from({ length: 6_000 }, (_, at) => `<dl><dt>Label</dt><dd>£${at}.00</dd></dl>`).join('')}`,
  `<html><body><p>${many('a', 1_500_000)}</p>`,
  `{"a":${'['.repeat(90_000)}`,
  `[${many('{"a":1},', 1_000_000)}{}]`,
  many('a;b;c\n', 1_000_000),
  `<script type="application/ld+json">${'{"@graph":['.repeat(5000)}`,
  many('&#0;&#xD800;&amp', 500_000),
];

/** Paths and patterns that take for ever on pages that they like. */
export const SLOW_LOCATORS: object[] = [
  { way: 'css', selector: 'div:has(~ div:has(~ div))' },
  { way: 'css', selector: ':not(:has(* * *)) ~ * ~ * ~ *' },
  { way: 'xpath', path: '//*[count(//*[count(//*)>1])>1]' },
  { way: 'pattern', pattern: '((a?){1000})x' },
  { way: 'pattern', pattern: '(.*)*(.*)*(.*)*x' },
];

const text = fc.string({ unit: 'binary', maxLength: 60 });
const word = fc.constantFrom(
  'div',
  'p',
  '*',
  '.price',
  '#a',
  ':has(',
  ')',
  '>',
  '~',
  '+',
  '[',
  ']',
  '=',
  '"x"',
  ':nth-child(2n',
  ':not(',
  ',',
  ' ',
  '//',
  '@',
  '..',
  '$',
  '?',
  '&&',
  'count(',
  '((a?){9})',
  '\\',
  '|',
  '{1000}',
  '(?:',
  '😀',
  '\0',
);
const path = fc.oneof(
  text,
  fc.array(word, { maxLength: 14 }).map((words) => words.join('')),
);

/** A way of finding that somebody may type, or a program may send. */
export const locators = fc.oneof(
  path.map((selector) => ({ way: 'css', selector })),
  path.map((xpath) => ({ way: 'xpath', path: xpath })),
  path.map((jsonpath) => ({ way: 'path', path: `$${jsonpath}` })),
  path.map((pattern) => ({ way: 'pattern', pattern })),
  path.map((label) => ({ way: 'label', label: label.slice(0, 60) })),
  fc.jsonValue().map((value) => ({ value })),
);

const term = fc.constantFrom(
  'price',
  'round',
  'latest',
  'min',
  '(',
  ')',
  '+',
  '-',
  '*',
  '/',
  ',',
  '1',
  '0',
  '1e99',
  '"a"',
  '.',
  '[',
  '!',
  '**',
  '?',
  'this',
);
/** A formula, or what somebody takes for one. */
export const formulas = fc.oneof(
  text,
  fc.array(term, { maxLength: 60 }).map((terms) => terms.join(' ')),
  fc.constant('round(price, price)'),
);

/** A body of any format with pieces cut, moved and overwritten. */
export const bodies = fc
  .tuple(
    fc.constantFrom(...Object.values(SAMPLES)),
    fc.array(fc.tuple(fc.nat(300), fc.nat(12), fc.constantFrom(...PIECES)), { minLength: 1, maxLength: 8 }),
  )
  .map(([sample, cuts]) =>
    cuts.reduce((left, [at, length, put]) => left.slice(0, at) + put + left.slice(at + length), sample),
  );

const id = fc.constantFrom(
  '1',
  '2',
  '0',
  '-1',
  '1.5',
  '99999999999',
  '99999999999999999999',
  'NaN',
  'constructor',
  '%00',
  '%ed%a0%bd',
  '%E0%A4%A',
  '__proto__',
  '1e3',
  '',
);
const place = fc.constantFrom(
  '',
  'watches',
  'watches/new',
  'watches/new/ID',
  'watches/new/ID/try',
  'watches/new/ID/pick',
  'watches/new/ID/image/ID',
  'watches/ID',
  'watches/ID/try',
  'watches/ID/picture/ID',
  'watches/ID/changes/ID/before',
  'watches/ID/values/ID',
  'hosts',
  'outbox',
  'outbox/ID',
  'in/ID',
  'healthz',
  'sign-in',
  'first-owner',
  'sign-out',
  'nothing',
);
const parameter = fc.tuple(
  fc.constantFrom(
    'range',
    'change',
    'record',
    'among',
    'page',
    'rows',
    'q',
    'show',
    'n',
    'not',
    'type',
    'locator',
    'to',
    'field',
    'step',
  ),
  fc.oneof(id, text),
);

/** An address of Shrike's, and what is asked of it. */
export const addresses = fc
  .tuple(place, fc.array(id, { minLength: 2, maxLength: 2 }), fc.array(parameter, { maxLength: 4 }), fc.boolean())
  .map(([to, ids, parameters, data]) => {
    let at = 0;
    const said = to.replace(/ID/g, () => ids[at++ % 2] ?? '1');
    const query = parameters
      .map(([name, value]) => `${name}=${encodeURIComponent(value.replace(/[\ud800-\udfff]/g, ''))}`)
      .join('&');
    return `/${said}${data ? '.data' : ''}${query === '' ? '' : `?${query}`}`;
  });

/** A form that a page of ours never sends. */
export const forms = fc
  .array(
    fc.tuple(
      fc.constantFrom(
        'intent',
        'plan',
        'address',
        'draft',
        'request',
        'secrets',
        'secret',
        'way',
        'host',
        'mostAtOnce',
        'pause',
        'fingerprint',
        'version',
        'identity',
        'revision',
        'tab',
        'email',
        'password',
        'name',
        'to',
      ),
      fc.oneof(
        text,
        fc.constantFrom(
          'look',
          'pause',
          'start',
          'open',
          'confirm',
          'take',
          'leave',
          'save',
          'delete',
          'keep',
          'source',
          'again',
          'steps',
          'other',
          'mend',
          'secret',
          'posted',
          'drop',
          'trust',
          'distrust',
        ),
        fc.jsonValue().map((value) => JSON.stringify(value)),
      ),
    ),
    { maxLength: 6 },
  )
  .map((fields) => Object.fromEntries(fields.map(([name, value]) => [name, value.replace(/[\ud800-\udfff]/g, '')])));
