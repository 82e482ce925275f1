import { describe, expect, it } from 'vitest';
import { selectElements, type Document } from './html';
import { elementsInOrder, listingOfPicks, pickAt } from './picking';
import { documentOf } from '../../tests/support/document';

const PAGE = `<html lang="en-GB"><body><h1>Copper smoker</h1><table><tr><td>Our price</td><td class="now"><span>£24</span><span class="pence">.50</span></td></tr><tr><td>Delivery</td><td>£3.95</td></tr></table>
<div class="list"><article class="card"><h3>Hive tool</h3><b class="cost">£9.50</b></article><article class="card"><h3>Bee brush</h3><b class="cost">£4.20</b></article>
<article class="card advert"><h3>Honey fair</h3><b class="cost">£2.00</b></article><article class="card"><h3>Queen cage</h3><b class="cost">£1.10</b></article></div></body></html>`;

const document = documentOf(PAGE);
const numberOf = (selector: string, at = 0, page: Document = document) => {
  const found = selectElements(page, selector);
  return elementsInOrder(page).indexOf((found.ok ? found.value[at] : undefined) as never);
};

describe('a pick', () => {
  it('gives the typed value, the ways that find it again with their proof, and what stands around it', () => {
    const picked = pickAt(document, document, numberOf('.now'), null);
    if (!picked.ok) throw new Error(picked.error);
    const { candidate, ways } = picked.value;
    expect(candidate).toMatchObject({
      label: 'price',
      text: '£24.50',
      value: { kind: 'money', amount: '24.50', currency: 'GBP' },
    });
    expect(ways.map((way) => way.evidence)).toEqual(['label', 'attributes', 'heading', 'position']);
    expect(ways.every((way) => way.matches === 1 && way.proof?.altered === true && way.proof.blanked !== false)).toBe(
      true,
    );
    expect(ways.at(-1)?.warning).toContain('position alone');
    expect(candidate.frame.headings.at(-1)).toBe('Copper smoker');
  });

  it('can be made wider and narrower', () => {
    const piece = pickAt(document, document, numberOf('.now span'), null);
    const cell = pickAt(document, document, numberOf('.now'), null);
    expect(piece.ok && piece.value.wider).toBe(numberOf('.now'));
    expect(cell.ok && cell.value.narrower).toBe(numberOf('.now span'));
  });

  it('is read as she says, or refused with a reason', () => {
    const text = pickAt(document, document, numberOf('h1'), { kind: 'text' });
    expect(text.ok && text.value.candidate.value).toEqual({ kind: 'text', text: 'Copper smoker' });
    expect(pickAt(document, document, numberOf('h1'), { kind: 'money', currency: null })).toMatchObject({ ok: false });
    expect(pickAt(document, document, 9999, null)).toMatchObject({
      ok: false,
      error: 'There is nothing at this place any more.',
    });
  });

  it('of what a script filled in says that the plain page does not have it', () => {
    const plain = documentOf('<html><body><main>One moment</main></body></html>');
    const picked = pickAt(document, plain, numberOf('.now'), null);
    expect(picked.ok ? '' : picked.error).toContain('filled in by the page’s script');
  });
});

describe('picks of records', () => {
  const said = (result: ReturnType<typeof listingOfPicks>) =>
    result.ok ? [result.value.count, result.value.fields.map((field) => field.label)] : result.error;

  it('of two that are alike find the rest, with their fields', () => {
    expect(said(listingOfPicks(document, [numberOf('.card .cost', 0), numberOf('.card .cost', 1)]))).toEqual([
      4,
      ['name', 'cost'],
    ]);
  });

  it('leave out what is not meant, by whatever tells it apart', () => {
    const without = listingOfPicks(
      document,
      [numberOf('.card .cost', 0), numberOf('.card .cost', 1)],
      [numberOf('.advert .cost')],
    );
    expect(said(without)).toEqual([3, ['name', 'cost']]);
    expect(without.ok && without.value.records).toMatchObject({
      rows: expect.stringContaining(':not(.advert)') as string,
    });
  });

  it('say so when nothing is alike, or nothing tells them apart', () => {
    expect(said(listingOfPicks(document, [numberOf('h1'), numberOf('.now')]))).toBe(
      'These do not stand in blocks that are alike.',
    );
    expect(said(listingOfPicks(document, [numberOf('.card .cost', 0)], [numberOf('.card .cost', 1)]))).toBe(
      'Nothing in how the page is built tells those apart.',
    );
    expect(said(listingOfPicks(document, []))).toBe('Pick a place that is one of them.');
  });
});
