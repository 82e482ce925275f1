import type { Sort } from './page';

// Pages of many records. `was` and `is` are what each record has to be read as, by a word of its name; a record that is
// not named there is none.

type Edit = [from: string | RegExp, to: string];

/** What each record may be read as; null: nothing of it may be read. */
export type Records = Record<string, string | null>;

export interface ListingDone {
  sort: Sort;
  what: string;
  edits: Edit[];
  is: Records;
  /** It stands there plainly: all of it is to be read. */
  plain: boolean;
}

export interface ListedSite {
  kind: string;
  was: Records;
  html: string;
  done: ListingDone[];
}

const plainly = (what: string, is: Records, ...edits: Edit[]): ListingDone => ({
  sort: 'rebuilt',
  what,
  edits,
  is,
  plain: true,
});
/** Records may be missing, and what is read has to be this. */
const only = (sort: Sort, what: string, is: Records, ...edits: Edit[]): ListingDone => ({
  sort,
  what,
  edits,
  is,
  plain: false,
});
/** Nothing may be read of any record. */
const never = (sort: Sort, what: string, ...edits: Edit[]): ListingDone => ({
  sort,
  what,
  edits,
  is: {},
  plain: false,
});

/** The page after something was done to it. */
export function listedAfter({ html, kind }: ListedSite, { edits, what }: ListingDone): string {
  return edits.reduce((page, [from, to]) => {
    if (typeof from === 'string' ? !page.includes(from) : !from.test(page))
      throw new Error(`${kind}: ${what}: there is no ${String(from)}`);
    return typeof from === 'string' ? page.replaceAll(from, to) : page.replace(from, to);
  }, html);
}

const page = (lang: string, title: string, body: string) =>
  '<!doctype html><html ' +
  `lang="${lang}"><head><title>${title}</title></head><body><h1>${title}</h1>${body}</body></html>`;

const priceList: ListedSite = {
  kind: 'price list',
  was: { Smoker: '24.00 GBP', Veil: '12.50 GBP', Gloves: '18.00 GBP', Brush: '4.20 GBP' },
  html: page(
    'en-GB',
    'Price list',
    `<h2>Retail</h2><table id="retail"><thead><tr><th>Ref</th><th>Article</th><th>Price</th><th>Trade price</th><th>Stock</th></tr></thead><tbody>
<tr><td>S-1</td><td>Smoker</td><td>£24.00</td><td>£19.00</td><td>In stock</td></tr>
<tr><td>V-1</td><td>Veil</td><td>£12.50</td><td>£10.00</td><td>In stock</td></tr>
<tr><td>G-1</td><td>Gloves</td><td>£18.00</td><td>£14.40</td><td>Sold out</td></tr>
<tr><td>B-1</td><td>Brush</td><td>£4.20</td><td>£3.40</td><td>In stock</td></tr></tbody></table>
<h2>Hire, a week</h2><table id="hire"><thead><tr><th>Ref</th><th>Article</th><th>Price</th></tr></thead><tbody><tr><td>X-1</td><td>Extractor</td><td>£30.00</td></tr><tr><td>P-1</td><td>Press</td><td>£15.00</td></tr><tr><td>T-1</td><td>Tank</td><td>£9.00</td></tr></tbody></table>`,
  ),
  done: [
    plainly(
      'prices and stock moved',
      { Smoker: '22.00 GBP', Veil: '12.50 GBP', Gloves: '18.00 GBP', Brush: '4.20 GBP' },
      ['£24.00', '£22.00'],
      ['Sold out', 'In stock'],
    ),
    plainly(
      'rows in another order',
      { Smoker: '24.00 GBP', Veil: '12.50 GBP', Gloves: '18.00 GBP', Brush: '4.20 GBP' },
      [/<tr><td>S-1.*?<\/tr>\n/, ''],
      [
        '</tbody></table>\n<h2>Hire',
        '<tr><td>S-1</td><td>Smoker</td><td>£24.00</td><td>£19.00</td><td>In stock</td></tr></tbody></table>\n<h2>Hire',
      ],
    ),
    plainly(
      'ids dropped, a column more',
      { Smoker: '24.00 GBP', Veil: '12.50 GBP', Gloves: '18.00 GBP', Brush: '4.20 GBP' },
      [' id="retail"', ''],
      [' id="hire"', ''],
      [
        '<th>Ref</th><th>Article</th><th>Price</th><th>Trade',
        '<th>Ref</th><th>Article</th><th>Colour</th><th>Price</th><th>Trade',
      ],
      ['<td>Smoker</td>', '<td>Smoker</td><td>Copper</td>'],
      ['<td>Veil</td>', '<td>Veil</td><td>White</td>'],
      ['<td>Gloves</td>', '<td>Gloves</td><td>Tan</td>'],
      ['<td>Brush</td>', '<td>Brush</td><td>Oak</td>'],
    ),
    only(
      'grid',
      'the columns exchanged',
      { Smoker: '24.00 GBP', Veil: '12.50 GBP', Gloves: '18.00 GBP', Brush: '4.20 GBP' },
      ['<th>Price</th><th>Trade price</th>', '<th>Trade price</th><th>Price</th>'],
      ['<td>£24.00</td><td>£19.00</td>', '<td>£19.00</td><td>£24.00</td>'],
      ['<td>£12.50</td><td>£10.00</td>', '<td>£10.00</td><td>£12.50</td>'],
      ['<td>£18.00</td><td>£14.40</td>', '<td>£14.40</td><td>£18.00</td>'],
      ['<td>£4.20</td><td>£3.40</td>', '<td>£3.40</td><td>£4.20</td>'],
    ),
    only(
      'grid',
      'another table put before',
      { Smoker: '24.00 GBP', Veil: '12.50 GBP', Gloves: '18.00 GBP', Brush: '4.20 GBP' },
      [
        '<h2>Retail</h2>',
        '<h2>Clearance</h2><table><thead><tr><th>Ref</th><th>Article</th><th>Price</th><th>Trade ' +
          'price</th><th>Stock</th></tr></thead><tbody><tr><td>S-1</td><td>Smoker</td><td>£15.00</td><td>£9.00</td><td>1</td></tr><tr><td>V-1</td><td>Veil</td><td>£6.00</td><td>£5.00</td><td>1</td></tr><tr><td>G-1</td><td>Gloves</td><td>£7.00</td><td>£6.00</td><td>1</td></tr></tbody></table><h2>Retail</h2>',
      ],
    ),
    only('grid', 'a sum below', { Smoker: '24.00 GBP', Veil: '12.50 GBP', Gloves: '18.00 GBP', Brush: '4.20 GBP' }, [
      '<tr><td>B-1</td><td>Brush</td><td>£4.20</td><td>£3.40</td><td>In stock</td></tr></tbody>',
      '<tr><td>B-1</td><td>Brush</td><td>£4.20</td><td>£3.40</td><td>In ' +
        'stock</td></tr><tr><td>Total</td><td>All</td><td>£58.70</td><td>£46.80</td><td></td></tr></tbody>',
    ]),
    only(
      'grid',
      'an advertisement between',
      { Smoker: '24.00 GBP', Veil: '12.50 GBP', Gloves: '18.00 GBP', Brush: '4.20 GBP' },
      [
        '<tr><td>V-1</td>',
        '<tr><td colspan="2">Sponsored: Honey club</td><td>£3.00</td><td colspan="2">a month</td></tr><tr><td>V-1</td>',
      ],
    ),
    only(
      'grid',
      'a row without its trade price, cells moved up',
      { Smoker: '24.00 GBP', Gloves: '18.00 GBP', Brush: '4.20 GBP' },
      [
        '<tr><td>V-1</td><td>Veil</td><td>£12.50</td><td>£10.00</td><td>In stock</td></tr>',
        '<tr><td>Veil</td><td>£10.00</td><td>In stock</td></tr>',
      ],
    ),
    never('words', 'the head says members', [
      '<th>Price</th><th>Trade price</th>',
      '<th>Members’ price</th><th>Trade price</th>',
    ]),
    never('words', 'without tax, in the head', [
      '<th>Price</th><th>Trade price</th>',
      '<th>Price excl. VAT</th><th>Trade price</th>',
    ]),
    never('currency', 'euros in all', [/£/g, '€']),
    never('thing', 'the table became that of hire', [/<h2>Retail<\/h2><table id="retail">.*?<\/table>\n/s, '']),
    never('words', 'wholesale in its heading', ['<h2>Retail</h2>', '<h2>Wholesale, by the dozen</h2>']),
  ],
};

const cards: ListedSite = {
  kind: 'shop category',
  was: { Hive: '189.00 GBP', Nucleus: '64.00 GBP', Stand: '31.00 GBP' },
  html: page(
    'en-GB',
    'Hives',
    `<div class="grid"><article class="card"><h3>Hive, cedar</h3><p class="price"><span class="now">£189.00</span></p><p class="stock">In stock</p></article>
<article class="card"><h3>Nucleus box</h3><p class="price"><span class="now">£64.00</span></p><p class="stock">In stock</p></article>
<article class="card"><h3>Stand, steel</h3><p class="price"><span class="now">£31.00</span></p><p class="stock">Sold out</p></article></div>`,
  ),
  done: [
    plainly(
      'one cheaper, its former price struck out',
      { Hive: '169.00 GBP', Nucleus: '64.00 GBP', Stand: '31.00 GBP' },
      ['<span class="now">£189.00</span>', '<s>£189.00</s> <span class="now">£169.00</span>'],
    ),
    plainly(
      'reordered, stock moved',
      { Hive: '189.00 GBP', Nucleus: '60.00 GBP', Stand: '31.00 GBP' },
      ['£64.00', '£60.00'],
      ['Sold out', 'In stock'],
    ),
    only('words', 'one price for members', { Nucleus: '64.00 GBP', Stand: '31.00 GBP' }, [
      '<span class="now">£189.00</span>',
      '<span class="now">£169.00</span> for members',
    ]),
    only('words', 'one from which sizes begin', { Nucleus: '64.00 GBP', Stand: '31.00 GBP' }, [
      '<span class="now">£189.00</span>',
      '<span class="now">from £149.00</span>',
    ]),
    only('words', 'what is saved in one', { Nucleus: '64.00 GBP', Stand: '31.00 GBP' }, [
      '<span class="now">£189.00</span>',
      'Save <span class="now">£20.00</span>',
    ]),
    only('words', 'one refurbished', { Nucleus: '64.00 GBP', Stand: '31.00 GBP' }, [
      '<p class="price"><span class="now">£189.00</span>',
      '<p class="cond">Refurbished</p><p class="price"><span class="now">£129.00</span>',
    ]),
    only('thing', 'an advertisement among them', { Hive: '189.00 GBP', Nucleus: '64.00 GBP', Stand: '31.00 GBP' }, [
      '<article class="card"><h3>Nucleus',
      '<article class="card"><p>Sponsored</p><h3>Shed</h3><p class="price"><span ' +
        'class="now">£400.00</span></p></article><article class="card"><h3>Nucleus',
    ]),
    only('jump', 'one at nought', { Nucleus: '64.00 GBP', Stand: '31.00 GBP' }, ['£189.00', '£0.00']),
    only('unit', 'one by the pair', { Nucleus: '64.00 GBP', Stand: '31.00 GBP' }, [
      '<span class="now">£189.00</span>',
      '<span class="now">£349.00</span> per pair',
    ]),
    only('currency', 'one in dollars', { Nucleus: '64.00 GBP', Stand: '31.00 GBP' }, ['£189.00', '$189.00']),
  ],
};

const rates: ListedSite = {
  kind: 'bank rates',
  was: { 'US dollar': '1.0842', 'Swiss franc': '0.9510', 'Norwegian krone': '11.420' },
  html: page(
    'en',
    'Rates',
    '<p>For one euro</p><table><tr><th>Currency</th><th>Buying</th><th>Selling</th></tr><tr><td>US ' +
      'dollar</td><td>1.0842</td><td>1.1210</td></tr><tr><td>Swiss ' +
      'franc</td><td>0.9510</td><td>0.9820</td></tr><tr><td>Norwegian ' +
      'krone</td><td>11.420</td><td>11.910</td></tr></table>',
  ),
  done: [
    plainly(
      'all moved',
      { 'US dollar': '1.0900', 'Swiss franc': '0.9500', 'Norwegian krone': '11.420' },
      ['1.0842', '1.0900'],
      ['0.9510', '0.9500'],
    ),
    only(
      'grid',
      'selling first',
      { 'US dollar': '1.0842', 'Swiss franc': '0.9510', 'Norwegian krone': '11.420' },
      ['<th>Buying</th><th>Selling</th>', '<th>Selling</th><th>Buying</th>'],
      ['<td>1.0842</td><td>1.1210</td>', '<td>1.1210</td><td>1.0842</td>'],
      ['<td>0.9510</td><td>0.9820</td>', '<td>0.9820</td><td>0.9510</td>'],
      ['<td>11.420</td><td>11.910</td>', '<td>11.910</td><td>11.420</td>'],
    ),
    never('words', 'the head is of notes now', ['<th>Buying</th>', '<th>Buying, notes</th>']),
    only('jump', 'one by the hundred', { 'US dollar': '1.0842', 'Swiss franc': '0.9510' }, ['11.420', '1142.0']),
    only('data', 'one without a rate', { 'US dollar': '1.0842', 'Norwegian krone': '11.420' }, ['0.9510', '—']),
  ],
};

const league: ListedSite = {
  kind: 'league table',
  was: { Lark: '38', Fen: '34', Ouse: '29', Wash: '21' },
  html: page(
    'en-GB',
    'Eastern League',
    '<table><thead><tr><th>Pos</th><th>Club</th><th>P</th><th>Pts</th></tr></thead><tbody><tr><td>1</td><td>Lark ' +
      'Rovers</td><td>18</td><td>38</td></tr><tr><td>2</td><td>Fen ' +
      'United</td><td>18</td><td>34</td></tr><tr><td>3</td><td>Ouse ' +
      'Town</td><td>18</td><td>29</td></tr><tr><td>4</td><td>Wash ' +
      'Athletic</td><td>18</td><td>21</td></tr></tbody></table>',
  ),
  done: [
    plainly(
      'a round later',
      { Lark: '38', Fen: '37', Ouse: '29', Wash: '22' },
      ['<td>18</td><td>34</td>', '<td>19</td><td>37</td>'],
      ['<td>18</td><td>21</td>', '<td>19</td><td>22</td>'],
    ),
    only(
      'grid',
      'a column of goals before the points',
      { Lark: '38', Fen: '34', Ouse: '29', Wash: '21' },
      ['<th>Pts</th>', '<th>GD</th><th>Pts</th>'],
      ['<td>38</td>', '<td>14</td><td>38</td>'],
      ['<td>34</td>', '<td>9</td><td>34</td>'],
      ['<td>29</td>', '<td>2</td><td>29</td>'],
      ['<td>21</td>', '<td>1</td><td>21</td>'],
    ),
    only('grid', 'a line across: relegation', { Lark: '38', Fen: '34', Ouse: '29', Wash: '21' }, [
      '<tr><td>4</td>',
      '<tr><td colspan="4">Relegation</td></tr><tr><td>4</td>',
    ]),
    never('words', 'points at home', ['<th>Pts</th>', '<th>Home pts</th>']),
    only('grid', 'heads repeated in the middle', { Lark: '38', Fen: '34', Ouse: '29', Wash: '21' }, [
      '<tr><td>3</td>',
      '<tr><th>Pos</th><th>Club</th><th>P</th><th>Pts</th></tr><tr><td>3</td>',
    ]),
  ],
};

const fares: ListedSite = {
  kind: 'fares with bands',
  was: { Annan: '14.60 GBP', Silloth: '17.00 GBP', Dee: '9.00 GBP' },
  html: page(
    'en-GB',
    'Fares',
    '<table><thead><tr><th rowspan="2">Route</th><th colspan="2">Foot passenger</th><th ' +
      ('colspan="2">Car</th></tr><tr><th>Single</th><th>Return</th><th>Single</th><th>Return</th></tr></thead><tbody><tr><td>Nith to Annan</td><td>£8.10</td><td>£14.60</td><td>£31.00</td><td>£56.00</td></tr><tr><td>Nith ' +
        'to Silloth</td><td>£9.40</td><td>£17.00</td><td>£36.00</td><td>£65.00</td></tr><tr><td>Nith ' +
        'to Dee</td><td>£5.00</td><td>£9.00</td><td>£20.00</td><td>£36.00</td></tr></tbody></table>'),
  ),
  done: [
    plainly(
      'some moved',
      { Annan: '15.00 GBP', Silloth: '17.00 GBP', Dee: '9.00 GBP' },
      ['£14.60', '£15.00'],
      ['£65.00', '£66.00'],
    ),
    only(
      'grid',
      'cars first',
      { Annan: '14.60 GBP', Silloth: '17.00 GBP', Dee: '9.00 GBP' },
      [
        '<th colspan="2">Foot passenger</th><th colspan="2">Car</th>',
        '<th colspan="2">Car</th><th colspan="2">Foot passenger</th>',
      ],
      [
        '<td>£8.10</td><td>£14.60</td><td>£31.00</td><td>£56.00</td>',
        '<td>£31.00</td><td>£56.00</td><td>£8.10</td><td>£14.60</td>',
      ],
      [
        '<td>£9.40</td><td>£17.00</td><td>£36.00</td><td>£65.00</td>',
        '<td>£36.00</td><td>£65.00</td><td>£9.40</td><td>£17.00</td>',
      ],
      [
        '<td>£5.00</td><td>£9.00</td><td>£20.00</td><td>£36.00</td>',
        '<td>£20.00</td><td>£36.00</td><td>£5.00</td><td>£9.00</td>',
      ],
    ),
    never('words', 'children', ['Foot passenger', 'Child on foot']),
    only('grid', 'a heading across', { Annan: '14.60 GBP', Silloth: '17.00 GBP', Dee: '9.00 GBP' }, [
      '<tbody><tr>',
      '<tbody><tr><th colspan="5">From Nith</th></tr><tr>',
    ]),
  ],
};

const vacancies: ListedSite = {
  kind: 'vacancies',
  was: { Manager: '34500 GBP', Keeper: '27000 GBP', Driver: '25500 GBP' },
  html: page(
    'en-GB',
    'Vacancies',
    '<ul class="jobs"><li class="job"><a href="/1">Manager, apiary</a><span class="pay">£34,500</span><span ' +
      'class="hours">Full time</span></li><li class="job"><a href="/2">Keeper, bees</a><span ' +
      'class="pay">£27,000</span><span class="hours">Full time</span></li><li class="job"><a href="/3">Driver, ' +
      'van</a><span class="pay">£25,500</span><span class="hours">Part time</span></li></ul>',
  ),
  done: [
    plainly('one better paid', { Manager: '36000 GBP', Keeper: '27000 GBP', Driver: '25500 GBP' }, [
      '£34,500',
      '£36,000',
    ]),
    only('words', 'one pro rata', { Keeper: '27000 GBP', Driver: '25500 GBP' }, [
      '<span class="pay">£34,500</span>',
      '<span class="pay">£34,500</span> pro rata',
    ]),
    only('unit', 'one by the hour', { Manager: '34500 GBP', Keeper: '27000 GBP' }, [
      '<span class="pay">£25,500</span>',
      '<span class="pay">£13.20 an hour</span>',
    ]),
    only('words', 'one up to', { Manager: '34500 GBP', Keeper: '27000 GBP' }, ['£25,500', 'up to £25,500']),
    only('data', 'one competitive', { Manager: '34500 GBP', Keeper: '27000 GBP' }, ['£25,500', 'Competitive']),
  ],
};

const lots: ListedSite = {
  kind: 'lots of wax',
  was: { 'W-1': '7.10 EUR', 'W-2': '6.40 EUR', 'W-3': '5.20 EUR' },
  html: page(
    'de-AT',
    'Wachs in Partien',
    '<table><thead><tr><th>Partie</th><th>Güte</th><th>Preis</th><th>Menge</th></tr></thead><tbody><tr><td>W-1</td><td>A</td><td>7,10 €</td><td>120 ' +
      'kg</td></tr><tr><td>W-2</td><td>B</td><td>6,40 ' +
      '€</td><td>80 kg</td></tr><tr><td>W-3</td><td>C</td><td>5,20 €</td><td>300 kg</td></tr></tbody></table>',
  ),
  done: [
    plainly(
      'cheaper, less of it',
      { 'W-1': '7.10 EUR', 'W-2': '6.10 EUR', 'W-3': '5.20 EUR' },
      ['6,40 €', '6,10 €'],
      ['300 kg', '250 kg'],
    ),
    never('unit', 'per pound, in the head', ['<th>Preis</th>', '<th>Preis / lb</th>']),
    only('grid', 'Summe', { 'W-1': '7.10 EUR', 'W-2': '6.40 EUR', 'W-3': '5.20 EUR' }, [
      '</tbody>',
      '<tr><td>Summe</td><td></td><td>18,70 €</td><td>500 kg</td></tr></tbody>',
    ]),
    only('currency', 'one in francs', { 'W-1': '7.10 EUR', 'W-3': '5.20 EUR' }, ['6,40 €', 'CHF 6.10']),
    never('words', 'netto', ['<th>Preis</th>', '<th>Preis netto</th>']),
    only('thing', 'one lot in the place of another', { 'W-1': '7.10 EUR', 'W-3': '5.20 EUR', 'W-9': '6.40 EUR' }, [
      '<td>W-2</td>',
      '<td>W-9</td>',
    ]),
  ],
};

const rooms: ListedSite = {
  kind: 'rooms of a hotel',
  was: { Single: '89 EUR', Double: '118 EUR', Suite: '210 EUR' },
  html: page(
    'en-IE',
    'The Harbour House',
    '<p>2 nights, 14 May to 16 May</p><div class="rooms"><div class="room"><b class="t">Single room</b><div ' +
      'class="rate">€89</div><div class="basis">a night</div></div><div class="room"><b class="t">Double ' +
      'room</b><div class="rate">€118</div><div class="basis">a night</div></div><div class="room"><b ' +
      'class="t">Suite</b><div class="rate">€210</div><div class="basis">a night</div></div></div>',
  ),
  done: [
    plainly('dearer', { Single: '92 EUR', Double: '118 EUR', Suite: '215 EUR' }, ['€89', '€92'], ['€210', '€215']),
    only('words', 'one for the stay', { Single: '89 EUR', Suite: '210 EUR' }, [
      '<div class="rate">€118</div><div class="basis">a night</div>',
      '<div class="rate">€236</div><div class="basis">for the stay</div>',
    ]),
    only('words', 'one not refundable', { Single: '89 EUR', Suite: '210 EUR' }, [
      '<div class="rate">€118</div><div class="basis">a night</div>',
      '<div class="rate">€98</div><div class="basis">a night, not refundable</div>',
    ]),
    only('data', 'one is full', { Single: '89 EUR', Suite: '210 EUR' }, [
      '<div class="rate">€118</div>',
      '<div class="rate">Sold out</div>',
    ]),
    never('words', 'all for the stay', ['a night', 'for the stay']),
  ],
};

const fuel: ListedSite = {
  kind: 'filling stations',
  was: { Wisbech: '1.429 GBP', Lynn: '1.409 GBP', March: '1.449 GBP' },
  html: page(
    'en-GB',
    'Unleaded near Ely',
    '<table class="st"><tr><th>Station</th><th>Unleaded</th><th>Diesel</th><th>Seen</th></tr><tr><td>Wisbech ' +
      'Road</td><td>142.9p</td><td>149.9p</td><td>10 min ago</td></tr><tr><td>Lynn ' +
      'Road</td><td>140.9p</td><td>147.9p</td><td>1 h ago</td></tr><tr><td>March ' +
      'East</td><td>144.9p</td><td>151.9p</td><td>2 h ago</td></tr></table>',
  ),
  done: [
    plainly(
      'seen later',
      { Wisbech: '1.399 GBP', Lynn: '1.409 GBP', March: '1.449 GBP' },
      ['142.9p', '139.9p'],
      ['10 min ago', '3 h ago'],
    ),
    only(
      'grid',
      'diesel first',
      { Wisbech: '1.429 GBP', Lynn: '1.409 GBP', March: '1.449 GBP' },
      ['<th>Unleaded</th><th>Diesel</th>', '<th>Diesel</th><th>Unleaded</th>'],
      ['<td>142.9p</td><td>149.9p</td>', '<td>149.9p</td><td>142.9p</td>'],
      ['<td>140.9p</td><td>147.9p</td>', '<td>147.9p</td><td>140.9p</td>'],
      ['<td>144.9p</td><td>151.9p</td>', '<td>151.9p</td><td>144.9p</td>'],
    ),
    only('data', 'one without', { Wisbech: '1.429 GBP', March: '1.449 GBP' }, ['140.9p', '–']),
    never('words', 'super', ['<th>Unleaded</th>', '<th>Super unleaded</th>']),
    only('grid', 'the mean below', { Wisbech: '1.429 GBP', Lynn: '1.409 GBP', March: '1.449 GBP' }, [
      '</table>',
      '<tr><td>Average</td><td>142.9p</td><td>149.9p</td><td></td></tr></table>',
    ]),
    only('grid', 'one row short by a cell', { Lynn: '1.409 GBP', March: '1.449 GBP' }, [
      '<td>Wisbech Road</td><td>142.9p</td><td>149.9p</td><td>10 min ago</td>',
      '<td>Wisbech Road</td><td>149.9p</td><td>10 min ago</td>',
    ]),
  ],
};

const property: ListedSite = {
  kind: 'flats to let',
  was: { Mill: '1250 GBP', Tenison: '1100 GBP', Hills: '1400 GBP' },
  html: page(
    'en-GB',
    'Flats to let',
    '<div class="res"><section class="flat"><h2>Mill Road</h2><p><strong class="rent">£1,250</strong> ' +
      '<em>pcm</em></p></section><section class="flat"><h2>Tenison Road</h2><p><strong ' +
      'class="rent">£1,100</strong> <em>pcm</em></p></section><section class="flat"><h2>Hills Road</h2><p><strong ' +
      'class="rent">£1,400</strong> <em>pcm</em></p></section></div>',
  ),
  done: [
    plainly('cheaper', { Mill: '1195 GBP', Tenison: '1100 GBP', Hills: '1400 GBP' }, ['£1,250', '£1,195']),
    only('words', 'one by the week', { Tenison: '1100 GBP', Hills: '1400 GBP' }, [
      '£1,250</strong> <em>pcm',
      '£990</strong> <em>pw',
    ]),
    only('words', 'one deposit first', { Tenison: '1100 GBP', Hills: '1400 GBP' }, [
      '<p><strong class="rent">£1,250</strong> <em>pcm</em></p>',
      '<p><strong class="rent">£1,440</strong> <em>deposit</em></p>',
    ]),
    never('words', 'all per person', ['pcm', 'pppm']),
  ],
};

/** Pages of many records with what was done to them. */
export const LISTED: ListedSite[] = [priceList, cards, rates, league, fares, vacancies, lots, rooms, fuel, property];
