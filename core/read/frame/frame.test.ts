import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { documentOf } from '../../../tests/support/document';
import { pageDefinition, type Field, type FieldType } from '../definition';
import { listingsOf } from '../listing/listing';
import { readBody } from '../read';
import { accept } from './accept';
import { doubtsOf } from './doubts';
import { gridOf } from './grid';
import { describeFrame, withFrames } from './take';
import { money } from '../../value/parse';
import { selectElements, standingText } from '../html';

const bodyOf = (html: string) => ({ format: 'html', document: documentOf(html) }) as const;
const PAGE = (around: string) =>
  '<html lang="en-GB"><head><title>Smoker | Skep</title></head><body><h1>Smoker</h1><p>Ref. ' +
  `S-1</p>${around}<p>Spun copper.</p></body></html>`;

function watch(html: string, type: FieldType = { kind: 'money', currency: 'GBP' }, selector = '.p') {
  const field: Field = {
    key: 'v',
    label: 'price',
    type,
    mode: 'stepwise',
    polarity: 'neither',
    locale: null,
    locators: [{ way: 'css', selector }],
  };
  return withFrames(bodyOf(html), pageDefinition('Smoker', [field]));
}

function outcomeOf(html: string, definition: ReturnType<typeof watch>) {
  const read = readBody(bodyOf(html), definition, { address: null, latest: () => undefined });
  return read.ok ? read.value.records[0]?.fields[0]?.outcome : undefined;
}

describe('a frame', () => {
  const definition = watch(PAGE('<p>Our price <b class="p">£24.00</b></p>'));

  it('is told in plain words', () => {
    expect(describeFrame(definition.fields[0]?.frames?.[0] ?? (undefined as never))).toEqual([
      'Beside it: Our price',
      'Right under it: Spun copper.',
      'Under: Smoker',
    ]);
  });

  it.each([
    ['<p>Now only <b class="p">£21.00</b></p>', 'ok'],
    ['<div><span>Price</span></div><div><b class="p">£21.00</b> incl. VAT</div>', 'ok'],
    ['<p>Our price <b class="p">£21.00</b> for members</p>', 'in question'],
    ['<p>Our price <b class="p">£21.00</b>/month</p>', 'in question'],
    ['<p>Unser Preis <b class="p">£21.00</b></p>', 'ok'],
    ['<p>Our price <b class="p">£21.00</b></p><p>when you buy 2</p>', 'in question'],
  ])('of %s is %s', (around, expected) => {
    const outcome = outcomeOf(PAGE(around), definition);
    expect(outcome?.ok === true ? 'ok' : outcome?.error.reason).toBe(expected);
  });

  it('is accepted by a yes, from there on, and no other with it', () => {
    const members = PAGE('<p>Our price <b class="p">£21.00</b> for members</p>');
    const asked = outcomeOf(members, definition);
    if (asked?.ok !== false || asked.error.reason !== 'in question') throw new Error('nothing was asked');
    const { changes, value, frame = null } = asked.error;
    const next = accept(definition, { field: 'v', value, changes, frame, around: false }, false);
    expect(outcomeOf(members, next)?.ok).toBe(true);
    expect(outcomeOf(PAGE('<p>Our price <b class="p">£24.00</b></p>'), next)?.ok).toBe(true);
    expect(outcomeOf(PAGE('<p>Our price <b class="p">£24.00</b> for students</p>'), next)?.ok).toBe(false);
  });

  it('of a text of several lines does not hold what the text itself says', () => {
    const text = (title: string, said: string) =>
      `<html><body><main><h1>${title}</h1><p>Region: ${said}</p></main><footer>Us</footer></body></html>`;
    const whole = watch(text('Bulletin 14', 'North'), { kind: 'text' }, 'main');
    expect(outcomeOf(text('Bulletin 15', 'South'), whole)).toMatchObject({
      ok: true,
      value: { value: { text: 'Bulletin 15 Region: South' } },
    });
  });

  it('never throws, whatever the markup, and is the same for the same page', () => {
    const piece = fc.constantFrom(
      '<p>',
      '</p>',
      '<table><tr><td colspan="9999">',
      '<th rowspan="0">',
      '</table>',
      '£24.00',
      ' for members ',
      '<h2>',
      '</h2>',
      '<select><option>',
      '<b class="p">',
      '</b>',
      '<s>',
      '</s>',
      '<dl><dt>A<dd>',
      '<caption>',
      '12 June 2026',
      '<img alt="club">',
      '٢٤٫٩٠',
      '<input checked>',
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 60 }), (pieces) => {
        const html = `<body><h1>Smoker</h1><b class="p">£24.00</b>${pieces.join('')}</body>`;
        const made = watch(html);
        const outcome = outcomeOf(html, made);
        expect(outcome === undefined || outcome.ok || outcome.error.reason !== 'in question').toBe(true);
      }),
      { numRuns: 200 },
    );
  });
});

describe('a row that does not fit the head of its table', () => {
  const list = (rows: string) =>
    '<html ' +
    `lang="en-GB"><body><h1>List</h1><table><tr><th>Ref</th><th>Name</th><th>Price</th></tr>${rows}</table></body></html>`;
  const row = (n: number) => `<tr><td>R-${n}</td><td>Thing ${n}</td><td>£${n}.50</td></tr>`;

  it('is told as a problem, so that its record is not said to be gone, and the others are read', () => {
    const body = bodyOf(list([1, 2, 3, 4].map(row).join('')));
    const [listing] = listingsOf(body);
    if (listing === undefined) throw new Error('no list is offered');
    const definition = withFrames(body, {
      ...pageDefinition('List', listing.fields),
      records: listing.records,
      identity: listing.identity,
    });
    const short = bodyOf(list(`${row(1)}<tr><td>Thing 2</td><td>£2.50</td></tr>${row(3)}${row(4)}`));
    const read = readBody(short, definition, { address: null, latest: () => undefined });
    expect(read.ok && read.value.records.map(({ identity }) => identity)).toEqual(['R-1', 'R-3', 'R-4']);
    expect(read.ok && read.value.problems).toMatchObject([{ reason: 'no identity' }]);
    expect(listingsOf(short)[0]).toMatchObject({ count: 3, identity: ['ref'] });
  });
});

describe('a number in several elements', () => {
  it.each([
    ['£24<sup>99</sup>', '£24.99'],
    ['£24<sup><a href="#1">1</a></sup>', '£24'],
    ['£24.50<sup>2</sup>', '£24.50'],
    ['<span>£24</span><span class="pence">.50</span>', '£24.50'],
    ['<span>£24</span><span class="cents">50</span>', '£24.50'],
    ['<span>3</span><span>299 kr</span>', '3 | 299 kr'],
    ['<span>£24</span><span>1</span>', '£24 | 1'],
    ['<s>£30</s> £24', '£24'],
  ])('%s stands as %s', (html, text) => {
    const found = selectElements(documentOf(`<p class="v">${html}</p>`), '.v');
    expect(found.ok && found.value[0] !== undefined ? standingText(found.value[0]) : null).toBe(text);
  });
});

describe('a grid', () => {
  it('resolves what spans, and is bounded', () => {
    const found = selectElements(
      documentOf(
        '<table><tr><th rowspan="2">A</th><th ' +
          'colspan="2">B</th></tr><tr><th>C</th><th>D</th></tr><tr><td>1</td><td>2</td><td>3</td></tr></table>',
      ),
      'table',
    );
    const table = found.ok ? found.value[0] : undefined;
    expect(table && gridOf(table)).toMatchObject({ heads: 2, rows: [{ length: 3 }, { length: 3 }, { length: 3 }] });
    const wide = selectElements(
      documentOf(`<table>${'<tr><td colspan="1000">x</td></tr>'.repeat(2_000)}</table>`),
      'table',
    );
    const large = wide.ok ? wide.value[0] : undefined;
    expect(large && gridOf(large).rows.flat().length).toBeLessThanOrEqual(40_000);
  });
});

describe('a doubt', () => {
  it.each([
    ['24.00', 'GBP', '71.99', 'GBP', []],
    ['24.00', 'GBP', '72.00', 'GBP', ['jump']],
    ['24.00', 'GBP', '8.00', 'GBP', ['jump']],
    ['24.00', 'GBP', '0.00', 'GBP', ['nought']],
    ['0.00', 'GBP', '24.00', 'GBP', []],
    ['24.00', 'GBP', '24.00', 'EUR', ['currency']],
  ])('after %s %s is %s %s: %j', (was, unit, is, other, expected) => {
    expect(doubtsOf(money(was, unit), money(is, other), {}).map(({ part }) => part)).toEqual(expected);
    expect(doubtsOf(money(was, unit), money(is, other), { allowed: ['jump', 'nought', 'currency'] })).toEqual([]);
    expect(doubtsOf(money(was, unit), money(is, other), { believed: [`${is} ${other}`] })).toEqual([]);
  });
});
