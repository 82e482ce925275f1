import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { candidates, tryLocator } from './candidates';
import { openBody } from './body';
import { pageDefinition, type Field } from './definition';
import { pageFacts, visibleText } from './html';
import { placesOf } from './locator';
import { describeProblem } from './problem';
import { readField } from './agree';
import { readBody } from './read';
import { pageRecord } from './records';
import { structuredLeaves } from './structured';
import { documentOf } from '../../tests/support/document';

const PAGE = `<!doctype html><html lang="en-GB"><head><title>Copper smoker | Skepwright</title>
<meta property="og:site_name" content="Skepwright">
<script type="application/ld+json">{"@context":"https://schema.org","@graph":[{"@type":"Product","name":"Copper smoker",
"offers":{"@type":"Offer","price":24.10,"priceCurrency":"GBP","availability":"https://schema.org/InStock"}}]}</script></head>
<body><h1>Copper smoker</h1><p class="price"><span>£</span><span>24</span><span>.10</span> <s class="was">£26.00</s></p>
<p class="price-hidden" style="display: none">£1.00</p><script>var price = '£2.00';</script>
<ul><li class="other">£14.20</li><li class="other">£15.20</li></ul><p id="note">Free over £60</p></body></html>`;

const field = (change: Partial<Field>): Field => ({
  key: 'price',
  label: 'price',
  type: { kind: 'money', currency: null },
  mode: 'stepwise',
  polarity: 'up is good',
  locale: null,
  locators: [],
  ...change,
});
const document = documentOf(PAGE);
const read = (change: Partial<Field>) =>
  readField(pageRecord(document), field(change), { locale: 'en-GB', address: null });
const css = (selector: string) => ({ way: 'css' as const, selector });

describe('a page', () => {
  it('says what it is', () => {
    expect(pageFacts(document)).toEqual({ title: 'Copper smoker', siteName: 'Skepwright', locale: 'en-GB' });
  });

  it('shows its text as a reader sees it', () => {
    const text = visibleText(document);
    expect(text).toContain('£24.10');
    expect(text).not.toContain('£1.00');
    expect(text).not.toContain('£2.00');
  });

  it('keeps the digits of its structured data as they were written', () => {
    const price = structuredLeaves(document).find((leaf) => leaf.path === 'offers.price');
    expect(price).toEqual({ type: 'Product', path: 'offers.price', text: '24.10', currency: 'GBP', element: null });
  });

  it('survives broken structured data and broken markup', () => {
    const broken = documentOf('<script type="application/ld+json">{"@type": "Product", </script><p>£3.00');
    expect(structuredLeaves(broken)).toEqual([]);
    expect(visibleText(broken)).toBe('£3.00');
  });
});

describe('reading a field', () => {
  it('finds it by meaning and by selector', () => {
    const byMeaning = read({ locators: [{ way: 'structured', type: 'Product', path: 'offers.price' }] });
    const bySelector = read({ locators: [css('.price')] });
    expect(byMeaning).toMatchObject({
      ok: true,
      value: { value: { kind: 'money', amount: '24.10', currency: 'GBP' } },
    });
    expect(bySelector).toMatchObject({ ok: true, value: { value: { amount: '24.10' } } });
  });

  it('refuses places that differ, and takes places that agree', () => {
    expect(read({ locators: [css('.other')] })).toMatchObject({
      ok: false,
      error: { reason: 'several matches', count: 2 },
    });
    expect(read({ locators: [css('#note, #note')] })).toMatchObject({ ok: true });
  });

  it('reads nothing when two ways of finding it disagree', () => {
    const outcome = read({ locators: [css('#note'), css('.was')] });
    expect(outcome).toMatchObject({ ok: false, error: { reason: 'disagreement' } });
  });

  it('goes on when one of its ways stops working', () => {
    const ways = [
      css('.was'),
      { way: 'label' as const, label: 'Gone' },
      { way: 'pattern' as const, pattern: '(£26[.]00)' },
    ];
    expect(read({ locators: ways })).toMatchObject({
      ok: true,
      value: { text: '£26.00', lost: ['Beside the label “Gone”'] },
    });
  });

  it('does not trust the one way that is left of several', () => {
    const ways = [css('.was'), { way: 'label' as const, label: 'Gone' }];
    expect(read({ locators: ways })).toMatchObject({ ok: false, error: { reason: 'one way left', text: '£26.00' } });
  });

  it('says why in a sentence, without throwing, for any selector', () => {
    const nothing = read({ locators: [css('.gone')] });
    expect(!nothing.ok && describeProblem(nothing.error)).toBe(
      'Nothing on the page matches any more (Its class .gone).',
    );
    fc.assert(
      fc.property(
        fc.string({ maxLength: 40 }),
        (selector) => typeof read({ locators: [css(selector)] }).ok === 'boolean',
      ),
    );
  });

  it('lets one field fail without the others', () => {
    const fields = [
      field({ locators: [css('.was')] }),
      field({ key: 'stock', type: { kind: 'text' }, locators: [css('.gone')] }),
    ];
    const body = openBody(PAGE, 'html', 0);
    const reading = body.ok
      ? readBody(body.value, pageDefinition('Copper smoker', fields), { address: null, latest: () => undefined })
      : body;
    expect(reading.ok && reading.value.records[0]?.fields.map(({ outcome }) => outcome.ok)).toEqual([true, false]);
  });
});

describe('what a page offers', () => {
  it('lists structured data first, and visible prices with a selector that finds only that place', () => {
    const found = candidates(document);
    expect(found[0]).toMatchObject({ where: 'Product › offers › price', value: { amount: '24.10' } });
    const visible = found.filter((candidate) => candidate.locators.every((locator) => locator.way !== 'structured'));
    expect(visible.map((candidate) => candidate.text)).toEqual(['£14.20', '£15.20', 'Free over £60']);
    expect(found[0]?.locators.map((locator) => locator.way)).toEqual(['structured', 'css', 'block', 'css']);
    for (const locator of visible.flatMap((candidate) => candidate.locators)) {
      const matched = placesOf(document, locator);
      expect(matched.ok && matched.value.length).toBe(1);
    }
  });

  it('tries a selector, and offers the class or id that was meant', () => {
    const type = { kind: 'money' as const, currency: null };
    expect(tryLocator(document, css('.was'), type)).toMatchObject({
      count: 1,
      suggestion: null,
      samples: [{ text: '£26.00' }],
    });
    expect(tryLocator(document, css('was'), type)).toMatchObject({
      count: 0,
      suggestion: { selector: '.was', count: 1 },
    });
    expect(tryLocator(document, css('note'), type)).toMatchObject({
      count: 0,
      suggestion: { selector: '#note', count: 1 },
    });
    expect(tryLocator(document, css('.nothing'), type)).toMatchObject({ count: 0, suggestion: null });
    expect(tryLocator(document, css('p['), type).problem).not.toBeNull();
  });
});
