import { describe, expect, it } from 'vitest';
import { candidateAt } from '../candidates';
import { pageDefinition, type Field, type WatchDefinition } from '../definition';
import { selectElements } from '../html';
import { proposeMending } from './mend';
import { readBody } from '../read';
import { money } from '../../value/parse';
import { volatileParts } from '../volatile';
import { wayNeeded } from '../ways';
import { maskText } from '../pattern';
import { documentOf } from '../../../tests/support/document';

const BEFORE =
  '<html lang="en-GB"><body><h1>Copper smoker</h1><p>Our price <span id="price" ' +
  'class="now">£24.00</span></p><p>Delivery <i>£3.95</i></p></body></html>';

function setUp(): WatchDefinition {
  const document = documentOf(BEFORE);
  const found = selectElements(document, '#price');
  const element = found.ok ? found.value[0] : undefined;
  const candidate =
    element === undefined ? null : candidateAt(document, element, { locale: 'en-GB', address: null }, null);
  if (!candidate?.ok || element === undefined) throw new Error('nothing was picked');
  const { locators, type, frame } = candidate.value;
  const field: Field = {
    key: 'price',
    label: 'price',
    type,
    mode: 'stepwise',
    polarity: 'up is good',
    locale: null,
    locators,
    frames: [frame],
  };
  return pageDefinition(
    'Copper smoker',
    [field],
    [{ check: 'says', selector: 'h1', text: 'Copper smoker', how: 'equal' }],
  );
}

const last = { price: money('24.00', 'GBP') };
const bodyOf = (html: string) => ({ format: 'html', document: documentOf(html) }) as const;
const mend = (html: string) => proposeMending(bodyOf(html), setUp(), [{ identity: 'page', fields: last }], null);

describe('mending', () => {
  it('finds nothing to do where all is well, and where another page came', () => {
    expect(mend(BEFORE)).toBe(null);
    expect(mend('<h1>Before you go on</h1><p>We use cookies.</p><button>Accept all</button>')).toBe(null);
    expect(mend('<h1>We no longer sell this</h1>')).toBe(null);
  });

  it('takes over the ways that find the place now, when others still do', () => {
    const mending = mend(BEFORE.replace('id="price" class="now"', 'class="x"'));
    expect(mending?.fields[0]).toMatchObject({ key: 'price', problem: null, lost: ['Its id #price'] });
    expect(mending?.said[0]).toMatch(/^price: found by .*; no longer by its id #price\.$/);
    const read =
      mending?.definition == null
        ? null
        : readBody(bodyOf(BEFORE.replace('id="price" class="now"', 'class="x"')), mending.definition, {
            address: null,
            latest: () => undefined,
          });
    expect(read?.ok && read.value.records[0]?.fields[0]?.outcome).toMatchObject({ ok: true, value: { lost: [] } });
  });

  it('proposes where the value went, with the evidence, when nothing finds it', () => {
    const rebuilt =
      '<html lang="en-GB"><body><h2>Copper smoker</h2><dl><dt>Our price</dt><dd ' +
      'class="sum">£24.00</dd><dt>Delivery</dt><dd>£3.95</dd></dl></body></html>';
    const mending = mend(rebuilt);
    expect(mending?.guards[0]).toMatchObject({
      guard: { check: 'says' },
      proposal: { check: 'says', text: 'Copper smoker' },
    });
    expect(mending?.definition).not.toBe(null);
    const read =
      mending?.definition == null
        ? null
        : readBody(bodyOf(rebuilt), mending.definition, { address: null, latest: () => undefined });
    expect(read?.ok && read.value.records[0]?.fields[0]?.outcome).toMatchObject({
      ok: true,
      value: { value: { amount: '24.00' } },
    });
  });

  it('proposes nothing between places that are as likely as each other', () => {
    const mending = mend(
      '<html lang="en-GB"><body><h1>Copper smoker</h1><ul><li>Small £22.00</li><li>Large ' +
        '£25.00</li></ul></body></html>',
    );
    expect(mending?.definition ?? null).toBe(null);
  });
});

describe('what moves by itself', () => {
  it('is found between two fetches, each with a mask for its like', () => {
    const [was, is] = [
      'You are visitor 410233 today. Made at 10:15:02. Mites: low',
      'You are visitor 410240 today. Made at 10:15:09. Mites: low',
    ];
    const parts = volatileParts(was, is);
    expect(parts.map((part) => [part.was, part.is])).toEqual([
      ['410233', '410240'],
      ['10:15:02.', '10:15:09.'],
    ]);
    const masks = parts.map((part) => part.mask);
    expect(maskText(was, masks)).toBe(maskText(is, masks));
    expect(maskText(was, masks)).toContain('Mites: low');
  });

  it('is nothing where two fetches read the same', () => {
    expect(volatileParts('a b c', 'a b c')).toEqual([]);
  });
});

describe('which way a page needs', () => {
  const plain = (html: string) => documentOf(`<html><body>${html}</body></html>`);

  it('is the browser where a script fills in prices or words, and a plain fetch where it brings all', () => {
    expect(wayNeeded(plain('<p>One moment</p>'), plain('<p>Smoker</p><b>£24.00</b>'))).toMatchObject({
      way: 'rendered',
      said: expect.stringContaining('£24.00') as string,
    });
    expect(wayNeeded(plain('<p>One moment</p>'), plain('<p>A long page of words that nobody sent</p>'))).toMatchObject({
      way: 'rendered',
    });
    expect(wayNeeded(plain('<p>Smoker</p><b>£24.00</b>'), plain('<p>Smoker</p><b>£24.00</b>'))).toMatchObject({
      way: 'plain',
    });
  });
});
