import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { describeLocator } from './describe';
import { evidenceOf, surenessOf, warningOf } from './evidence';
import { selectElements, type Element } from './html';
import { labelFor } from './label';
import { locate, placesOf, type Locator } from './locator';
import { locatorsFor } from './pick';
import { documentOf } from '../../tests/support/document';

const page = (content: string) => documentOf(`<html lang="en-GB"><body>${content}</body></html>`);
const textBy = (content: string, locator: Locator) => {
  const found = locate(page(content), locator);
  return found.ok ? found.value.text : found.error.reason;
};
const elementAt = (document: ReturnType<typeof page>, selector: string): Element => {
  const found = selectElements(document, selector);
  if (!found.ok || found.value[0] === undefined) throw new Error(`nothing is at ${selector}`);
  return found.value[0];
};

describe('what stands beside a label', () => {
  it.each<[string, string, string]>([
    ['the next cell of its row', '<table><tr><td>Our price</td><td>£24.00</td></tr></table>', '£24.00'],
    ['the head cell of its row', '<table><tr><th>Our price:</th><td>£24.00</td></tr></table>', '£24.00'],
    ['the entry of its term', '<dl><dt>Our price</dt><dd>£24.00</dd><dt>Delivery</dt><dd>£3.95</dd></dl>', '£24.00'],
    ['the element after it', '<p><b>Our price</b> <span>£24.00</span></p>', '£24.00'],
    ['what comes after its own piece of text', '<p>Our price <span>£24.00</span></p>', '£24.00'],
    ['the rest of its line', '<p>Our price: £24.00</p>', '£24.00'],
    [
      'a price split over pieces',
      '<table><tr><td>Our price</td><td><i>£</i><b>24</b><i>.00</i></td></tr></table>',
      '£24.00',
    ],
  ])('is %s', (_name, content, text) => {
    expect(textBy(content, { way: 'label', label: 'Our price' })).toBe(text);
  });

  it.each<[string, string, string]>([
    ['hidden', '<p hidden>Our price <b>£1.00</b></p>', 'no match'],
    ['no such label', '<p>Their price <b>£1.00</b></p>', 'no match'],
    ['said of several values', '<p>Our price <b>£1.00</b></p><p>Our price <b>£2.00</b></p>', 'several matches'],
  ])('is nothing where it is %s', (_name, content, reason) => {
    expect(textBy(content, { way: 'label', label: 'Our price' })).toBe(reason);
  });

  it('is the place in its own line that is empty now, and not what comes after it', () => {
    expect(textBy('<p>Our price <b></b></p><p>£3.95 for delivery</p>', { way: 'label', label: 'Our price' })).toBe('');
    expect(
      textBy('<p><b>Our price</b> <span></span> <i>£3.95 for delivery</i></p>', { way: 'label', label: 'Our price' }),
    ).toBe('');
    expect(textBy('<p><b>Our price</b> <img> <span>£24.00</span></p>', { way: 'label', label: 'Our price' })).toBe(
      '£24.00',
    );
    expect(
      textBy('<div>Our price <i class="mark"></i></div><div>£24.00</div>', { way: 'label', label: 'Our price' }),
    ).toBe('£24.00');
    expect(
      textBy('<table><tr><td>Our price<br></td><td>£24.00</td></tr></table>', { way: 'label', label: 'Our price' }),
    ).toBe('£24.00');
  });

  it('is named back: the label that leads to an element, and to it alone', () => {
    const document = page(
      '<dl><dt>Our price:</dt><dd id="a">£24.00</dd><dt>Size</dt><dd ' +
        'id="b">M</dd></dl><nav><a>One</a><a>Two</a></nav><p id="c">£9</p>',
    );
    expect(labelFor(document, elementAt(document, '#a'))).toBe('Our price');
    expect(labelFor(document, elementAt(document, '#b'))).toBe('Size');
    expect(labelFor(document, elementAt(document, '#c'))).toBe(null);
  });

  it('is found again for whatever words label and value are', () => {
    const words = fc.stringMatching(/^[A-Za-z][a-z]{2,8}( [a-z]{2,8}){0,2}$/);
    fc.assert(
      fc.property(words, words, fc.nat(99_999), (label, other, pence) => {
        fc.pre(label.toLowerCase() !== other.toLowerCase());
        const value = `£${(pence / 100).toFixed(2)}`;
        const content = `<table><tr><td>${other}</td><td>other</td></tr><tr><td>${label}</td><td>${value}</td></tr></table>`;
        expect(textBy(content, { way: 'label', label })).toBe(value);
      }),
    );
  });
});

describe('the nth price under a heading', () => {
  const offers = '<h2>Copper smoker</h2><p><s>£30.00</s> <b>£24.00</b></p><p>Delivery <b>£3.95</b></p>';
  const first: Locator = { way: 'block', heading: 'Copper smoker', shape: 'money', nth: 1, of: 2 };

  it('passes over what is struck out', () => {
    expect(textBy(offers, first)).toBe('£24.00');
    expect(textBy(offers, { ...first, nth: 2 })).toBe('£3.95');
  });

  it('is no longer sure once their number changed', () => {
    const found = locate(page(offers.replace('<p>Delivery', '<p>From <b>£19.00</b></p><p>Delivery')), first);
    expect(found.ok && found.value.unsure).toBe(true);
  });
});

describe('structured data', () => {
  const byPath = (path: string): Locator => ({ way: 'structured', type: 'Product', path });
  it.each<[string, string, string, string]>([
    [
      'JSON-LD',
      '<script type="application/ld+json">{"@type":"Product","offers":{"price":24.00,"priceCurrency":"GBP"}}</script>',
      'offers.price',
      '24.00',
    ],
    [
      'a list of offers that agree',
      '<script type="application/ld+json">{"@type":"Product","offers":[{"price":"24"},{"price":"24"}]}</script>',
      'offers.price',
      '24',
    ],
    [
      'a graph',
      '<script ' +
        'type="application/ld+json">{"@graph":[{"@type":"Person"},{"@type":["Product","Thing"],"sku":"A1"}]}</script>',
      'sku',
      'A1',
    ],
    [
      'a namespace',
      '<script ' +
        'type="application/ld+json">{"@type":"https://schema.org/Product","availability":"https://schema.org/InStock"}</script>',
      'availability',
      'InStock',
    ],
    [
      'microdata',
      '<div itemscope itemtype="https://schema.org/Product"><div itemprop="offers" itemscope><meta ' +
        'itemprop="price" content="24.50"></div></div>',
      'offers.price',
      '24.50',
    ],
    [
      'a broken block beside a whole one',
      '<script type="application/ld+json">{"@type":</script><script ' +
        'type="application/ld+json">{"@type":"Product","sku":"B2"}</script>',
      'sku',
      'B2',
    ],
  ])('is read from %s', (_name, content, path, text) => {
    expect(textBy(content, byPath(path))).toBe(text);
  });

  it('of several offers that differ is no value', () => {
    const content =
      '<script type="application/ld+json">{"@type":"Product","offers":[{"price":"24"},{"price":"29"}]}</script>';
    expect(textBy(content, byPath('offers.price'))).toBe('several matches');
  });
});

describe('other ways', () => {
  it('take the capture of a pattern in visible text, in time linear in it', () => {
    expect(textBy('<p>Total: £24.00 now</p>', { way: 'pattern', pattern: 'Total: (£[\\d.]+)' })).toBe('£24.00');
    expect(textBy('<script>Total: £1</script><p>none</p>', { way: 'pattern', pattern: 'Total: (.+)' })).toBe(
      'no match',
    );
    expect(textBy(`<p>${'a'.repeat(50_000)}!</p>`, { way: 'pattern', pattern: '(a+)+$' })).toBe('no match');
    expect(textBy('<p>x</p>', { way: 'pattern', pattern: '(unclosed' })).toBe('bad selector');
  });

  it('take an XPath, and the column of a table by its head', () => {
    expect(textBy('<ul><li>a</li><li>b</li></ul>', { way: 'xpath', path: '//li[2]' })).toBe('b');
    const row = elementAt(
      page('<table><tr><th>Ref.</th><th>Price</th></tr><tr><td>a</td><td>£2</td></tr></table>'),
      'tr:nth-of-type(2)',
    );
    const found = locate(row, { way: 'column', column: 'Price' });
    expect(found.ok && found.value.text).toBe('£2');
  });

  it('leave named parts of a place out of its text', () => {
    expect(
      textBy('<main><p>Kept</p><p class="clock">10:15</p></main>', {
        way: 'css',
        selector: 'main',
        without: ['.clock'],
      }),
    ).toBe('Kept');
  });

  it('end in a reason for any selector, path and pattern', () => {
    const ways = fc.oneof(
      fc.string().map((selector): Locator => ({ way: 'css', selector })),
      fc.string().map((path): Locator => ({ way: 'xpath', path })),
      fc.string().map((pattern): Locator => ({ way: 'pattern', pattern })),
    );
    fc.assert(
      fc.property(ways, (locator) => {
        const places = placesOf(page('<p class="a">b</p>'), locator);
        return places.ok || places.error.reason.length > 0;
      }),
    );
  });
});

describe('the ways a pick offers', () => {
  const shop =
    '<h1>Copper smoker</h1><div class="css-1x9f3k" id="price" data-price="24.00">£24.00</div><p>Our price <b ' +
    'class="sum">£24.00</b></p><p>Delivery <i class="sum2">£3.95</i></p>';

  it('leave generated names and the watched value out, and end with position', () => {
    const document = page(shop);
    const ways = locatorsFor(document, elementAt(document, '#price'), { kind: 'money', currency: null });
    expect(JSON.stringify(ways)).not.toMatch(/css-1x9f3k|24\.00/);
    expect(ways.map(evidenceOf)).toContain('attributes');
  });

  it('are independent of each other', () => {
    const document = page(shop);
    const evidence = locatorsFor(document, elementAt(document, '.sum'), { kind: 'money', currency: null }).map(
      evidenceOf,
    );
    expect(new Set(evidence).size).toBe(evidence.length);
    expect(evidence).toContain('label');
  });

  it.each<[Locator, string, string | null, string]>([
    [{ way: 'css', selector: '#price' }, 'Its id #price', null, 'less sure'],
    [{ way: 'css', selector: '.css-1x9f3k' }, 'Its class .css-1x9f3k', 'generated', 'unsure'],
    [{ way: 'css', selector: 'body > div > b' }, 'Its place: block, bold text', 'position alone', 'confirms only'],
    [
      { way: 'css', selector: ':scope > td:nth-of-type(2)' },
      'Its place: second cell',
      'position alone',
      'confirms only',
    ],
    [
      { way: 'css', selector: '[data-price="24.00"]' },
      'Its attribute data-price “24.00”',
      'leans on the value',
      'unsure',
    ],
    [{ way: 'label', label: 'Our price' }, 'Beside the label “Our price”', null, 'sure'],
    [
      { way: 'structured', type: 'Product', path: 'offers.price' },
      'Structured data: Product › offers › price',
      null,
      'sure',
    ],
    [
      { way: 'block', heading: 'Copper smoker', shape: 'money', nth: 1 },
      'The first price under “Copper smoker”',
      null,
      'fairly sure',
    ],
    [{ way: 'pattern', pattern: 'Total: (.+)' }, 'The pattern Total: (.+)', null, 'fairly sure'],
    [{ way: 'xpath', path: '//td[2]' }, 'XPath //td[2]', 'position alone', 'confirms only'],
    [{ way: 'column', column: 'Price' }, 'The column “Price”', null, 'sure'],
  ])('are said in words, with how sure they are: %o', (locator, said, warning, sureness) => {
    expect(describeLocator(locator)).toBe(said);
    expect(surenessOf(locator, '£24.00')).toBe(sureness);
    if (warning === null) expect(warningOf(locator, '£24.00')).toBe(null);
    else expect(warningOf(locator, '£24.00')).toContain(warning);
  });
});
