import { selectAll } from 'css-select';
import type { AnyNode } from 'domhandler';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { documentOf } from '../../tests/support/document';
import type { Element } from './html';
import { placeOf } from './pick';
import { elementsInOrder } from './picking';
import { elementsAt } from './position';

const name = fc.constantFrom('div', 'p', 'table', 'tr', 'td', 'th', 'span');
const tree = (depth: number): fc.Arbitrary<string> =>
  fc
    .tuple(name, depth === 0 ? fc.constant([]) : fc.array(tree(depth - 1), { maxLength: 3 }))
    .map(([tag, children]) => `<${tag}>x${children.join('')}</${tag}>`);

describe('a selector by position alone', () => {
  it('finds what a general engine finds, in the same order', () => {
    fc.assert(
      fc.property(fc.array(tree(4), { minLength: 1, maxLength: 5 }), (nodes) => {
        const document = documentOf(`<html><body>${nodes.join('')}</body></html>`);
        for (const element of elementsInOrder(document)) {
          for (const selector of [placeOf(document, element), `${placeOf(document, element)} tr:has(td)`]) {
            const found = elementsAt(document, selector);
            if (found !== null) expect(found).toEqual(selectAll<AnyNode, Element>(selector, document));
          }
        }
      }),
      { numRuns: 60 },
    );
  });

  it('leaves everything else to it', () => {
    const document = documentOf('<div class="a"><p>x</p></div>');
    for (const selector of ['.a > p', 'p', 'div p', 'div > p:first-child', 'div > p:nth-child(1)', '*'])
      expect(elementsAt(document, selector)).toBe(null);
  });

  it('takes no longer for the last of many', () => {
    const document = documentOf(`<body>${'<p>x</p>'.repeat(50_000)}</body>`);
    expect(elementsAt(document, 'body > p:nth-of-type(50000)')).toHaveLength(1);
    const flat = documentOf(`<body>${'<b></b>'.repeat(300_000)}</body>`);
    expect(elementsAt(flat, 'b > i:nth-of-type(2)')).toEqual([]);
  });
});
