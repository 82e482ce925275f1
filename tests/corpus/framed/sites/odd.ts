import { footer, menu, never, only, others, plainly, site, type Site } from '../page';

// Pages that say what a number is in less usual ways: in pictures, in notes, in tabs that are hidden, by position, by
// another sum beside it.

const tabs = site(
  {
    kind: 'web hosting',
    pick: '.panel:not([hidden]) .sum',
    was: ['€9.00', ''],
    is: ['€8.50', ''],
    truth: '8.50 EUR',
    html: `<html lang="en-IE"><head><title>Hosting | Moorweb</title></head><body><header>Moorweb</header><main><h1>Hosting</h1><div class="tabs"><button class="tab active">Monthly</button><button class="tab">Yearly</button></div>
<div class="panel" id="m"><h2>Small</h2><p class="sum">{v}</p><p>10 GB</p></div><div class="panel" id="y" hidden><h2>Small</h2><p class="sum">€90.00</p><p>10 GB</p></div></main>${footer()}</body></html>`,
  },
  [
    plainly('ids dropped', [/ id="[my]"/g, '']),
    plainly('a word of thanks', ['</main>', '<p>Thank you for reading this far.</p></main>']),
    never(
      'variant',
      'the yearly panel is shown',
      ['class="tab active">Monthly', 'class="tab">Monthly'],
      ['class="tab">Yearly', 'class="tab active">Yearly'],
      ['<div class="panel" id="m">', '<div class="panel" id="m" hidden>'],
      ['id="y" hidden>', 'id="y">'],
    ),
    never('variant', 'less room for it', [/<p>10 GB<\/p>/g, '<p>5 GB</p>']),
    never('words', 'the first year', ['<p class="sum">{v}</p>', '<p class="sum">{v}</p><p>in the first year</p>']),
    never('words', 'a badge in a picture', [
      '<p class="sum">{v}</p>',
      '<p class="sum">{v} <img src="/b.png" alt="for students"></p>',
    ]),
    never('notation', 'a star that leads to a note', ['{v}</p>', '{v}*</p>']),
    never('currency', 'kroner', [/\{v\}/, 'kr 85,00']),
  ],
);

const promo = site(
  {
    kind: 'wine merchant',
    pick: '.price',
    was: ['£24.00', ''],
    is: ['£22.00', ''],
    truth: '22.00 GBP',
    html:
      `<html lang="en-GB"><head><title>Mead, dry, 75 cl</title></head><body>${menu()}<main><h1>Mead, dry, 75 ` +
      'cl</h1><div class="buy"><span class="price">{v}</span></div><p class="about">Made with heather ' +
      'honey.</p><dl><dt>Vintage</dt><dd>2021</dd><dt>Strength</dt><dd>12.5 %</dd><dt>Bottle</dt><dd>75 ' +
      `cl</dd></dl></main>${others((n) => `£${n + 9}.00`, 6)}</body></html>`,
  },
  [
    plainly(
      'wrapped in a form',
      ['<div class="buy">', '<form><div class="buy">'],
      ['<p class="about">', '</form><p class="about">'],
    ),
    plainly('told in other words', ['Made with heather honey.', 'Made with honey from the moors, aged in oak.']),
    never('words', 'the class is on the former price, nothing struck out', [
      '<span class="price">{v}</span>',
      '<span class="price">£30.00</span> <span class="now">{v}</span>',
    ]),
    never('words', 'the former price stands in a block above', [
      '<span class="price">{v}</span>',
      '<div class="price">£30.00</div><div class="now">{v}</div>',
    ]),
    never('words', 'by the case', [
      '<span class="price">{v}</span>',
      '<span class="price">{v}</span> a bottle in a case of 6',
    ]),
    never('variant', 'another vintage', ['<dd>2021</dd>', '<dd>2023</dd>']),
    never('variant', 'half a bottle', ['<dd>75 cl</dd>', '<dd>37 cl</dd>']),
    never('thing', 'another mead', ['Mead, dry, 75 cl', 'Mead, sweet, 75 cl']),
    never('words', 'in bond', [
      '<span class="price">{v}</span>',
      '<span class="price">{v}</span> <span>in bond</span>',
    ]),
    never('words', 'from June', ['<span class="price">{v}', 'From 1 June <span class="price">{v}']),
    never('notation', 'instalments', [/\{v\}/, '£7.34 × 3']),
    never('notation', 'two prices in one', [/\{v\}/, '£24.00 £22.00']),
    never('notation', 'a range', [/\{v\}/, '£22.00–£30.00']),
  ],
);

const transposed = site(
  {
    kind: 'comparison of models',
    pick: 'table tr:nth-of-type(2) td:nth-of-type(3)',
    was: ['$449', ''],
    is: ['$429', ''],
    truth: '429 USD',
    html:
      '<html lang="en-US"><head><title>Compare extractors</title></head><body><h1>Compare ' +
      'extractors</h1><table><tr><th></th><th>Two frames</th><th>Four frames</th><th>Nine ' +
      'frames</th></tr><tr><td>Price</td><td>$289</td><td>{v}</td><td>$899</td></tr><tr><td>Weight</td><td>22 ' +
      'lb</td><td>31 lb</td><td>58 ' +
      'lb</td></tr><tr><td>Drive</td><td>Hand</td><td>Hand</td><td>Motor</td></tr></table></body></html>',
  },
  [
    plainly('others moved', ['$289', '$279'], ['$899', '$949']),
    only('grid', '429 USD', 'weight first', [
      '<tr><td>Price</td><td>$289</td><td>{v}</td><td>$899</td></tr><tr><td>Weight</td><td>22 lb</td><td>31 ' +
        'lb</td><td>58 lb</td></tr>',
      '<tr><td>Weight</td><td>22 lb</td><td>31 lb</td><td>58 ' +
        'lb</td></tr><tr><td>Price</td><td>$289</td><td>{v}</td><td>$899</td></tr>',
    ]),
    only(
      'grid',
      '429 USD',
      'a model more',
      ['<th>Four frames</th>', '<th>Three frames</th><th>Four frames</th>'],
      ['<td>{v}</td>', '<td>$339</td><td>{v}</td>'],
      ['<td>31 lb</td>', '<td>27 lb</td><td>31 lb</td>'],
      ['<td>Hand</td><td>Hand</td>', '<td>Hand</td><td>Hand</td><td>Hand</td>'],
    ),
    never('grid', 'the model is gone', ['<th>Four frames</th>', ''], ['<td>{v}</td>', ''], ['<td>31 lb</td>', '']),
    never('words', 'a price after a rebate', ['<td>Price</td>', '<td>Price after rebate</td>']),
    never('words', 'a month', ['<td>Price</td>', '<td>Price per month</td>']),
    never('thing', 'six frames in its place', ['<th>Four frames</th>', '<th>Six frames</th>']),
  ],
);

const twins = site(
  {
    kind: 'school fees',
    pick: 'table:nth-of-type(1) tr:nth-of-type(2) td:nth-of-type(2)',
    was: ['£4,100', ''],
    is: ['£4,250', ''],
    truth: '4250 GBP',
    html:
      '<html lang="en-GB"><head><title>Fees</title></head><body><main><h1>Fees</h1><table><caption>Day ' +
      'pupils</caption><tr><th>Year</th><th>Each term</th></tr><tr><td>Years 7 to ' +
      '9</td><td>{v}</td></tr><tr><td>Years 10 to ' +
      '13</td><td>£4,600</td></tr></table><table><caption>Boarders</caption><tr><th>Year</th><th>Each ' +
      'term</th></tr><tr><td>Years 7 to 9</td><td>£8,300</td></tr><tr><td>Years 10 to ' +
      '13</td><td>£9,100</td></tr></table></main></body></html>',
  },
  [
    plainly('the older ones pay more', ['£4,600', '£4,700']),
    only(
      'grid',
      '8300 GBP',
      'boarders first: the page says so',
      ['Day pupils', 'XX'],
      ['Boarders', 'Day pupils'],
      ['XX', 'Boarders'],
    ),
    never('words', 'the caption says deposit', ['Day pupils', 'Day pupils: deposit']),
    never('grid', 'the bands of years moved', ['Years 7 to 9', 'Years 7 to 8']),
    never('unit', 'a year', ['Each term', 'Each year']),
  ],
);

const stock = site(
  {
    kind: 'spare parts',
    pick: '#q',
    was: ['14', ''],
    is: ['11', ''],
    truth: '11',
    html:
      '<html lang="en-GB"><head><title>Gate valve, brass</title></head><body><h1>Gate valve, brass</h1><p>Part ' +
      '77-120</p><table><tr><th>Branch</th><td>Ely</td></tr><tr><th>On the shelf</th><td ' +
      'id="q">{v}</td></tr><tr><th>On order</th><td>40</td></tr></table></body></html>',
  },
  [
    plainly('more on order', ['<td>40</td>', '<td>60</td>']),
    plainly('id dropped', [' id="q"', '']),
    only('grid', '11', 'the order first', [
      '<tr><th>On the shelf</th><td id="q">{v}</td></tr><tr><th>On order</th><td>40</td></tr>',
      '<tr><th>On order</th><td id="q">40</td></tr><tr><th>On the shelf</th><td>{v}</td></tr>',
    ]),
    never('variant', 'another branch', ['<td>Ely</td>', '<td>March</td>']),
    never('thing', 'another part', ['77-120', '77-125']),
    never('words', 'reserved', ['On the shelf', 'On the shelf, reserved']),
    never('data', 'ask', [/\{v\}/, 'Ask us']),
  ],
);

const notes = site(
  {
    kind: 'air fares',
    pick: '.fare strong',
    was: ['€149', ''],
    is: ['€139', ''],
    truth: '139 EUR',
    html:
      '<html lang="en"><head><title>Cork to Oslo</title></head><body><div class="bar"><span class="cur">Prices in ' +
      '<b>EUR</b></span></div><main><h1>Cork to Oslo</h1><ul class="sel"><li class="on selected">One ' +
      'way</li><li>Return</li></ul><p>1 adult</p><div class="fare"><strong>{v}</strong><span>including taxes and ' +
      'charges</span></div><p class="bag">Hand luggage only</p></main></body></html>',
  },
  [
    plainly('classes renamed', ['class="fare"', 'class="f1"'], ['class="bag"', 'class="b1"']),
    never('variant', 'both ways', [
      '<li class="on selected">One way</li><li>Return</li>',
      '<li>One way</li><li class="on selected">Return</li>',
    ]),
    never('variant', 'two adults', ['<p>1 adult</p>', '<p>2 adults</p>']),
    never('variant', 'a case goes with it', ['Hand luggage only', 'One case of 23 kg']),
    never('words', 'taxes left out', ['including taxes and charges', 'plus taxes and charges']),
    never('thing', 'another way', ['Cork to Oslo', 'Cork to Bergen']),
    never('currency', 'dollars, said in the bar', ['<b>EUR</b>', '<b>USD</b>'], [/\{v\}/, '$139']),
    never('words', 'with points', ['<strong>{v}</strong>', '<strong>{v}</strong> + 5000 points ']),
  ],
);

const bars = site(
  {
    kind: 'bus fares in bars',
    pick: '.r:nth-of-type(3) span:nth-of-type(3)',
    was: ['£14.00', ''],
    is: ['£14.50', ''],
    truth: '14.50 GBP',
    html:
      '<html lang="en-GB"><head><title>Bus fares</title></head><body><h1>Bus fares</h1><div ' +
      'class="h"><span>Route</span><span>Single</span><span>Return</span></div><div class="r"><span>Ely to ' +
      'March</span> <span>£6.00</span> <span>£11.00</span></div><div class="r"><span>Ely to Lynn</span> ' +
      '<span>£8.00</span> <span>{v}</span></div><div class="r"><span>Ely to Bury</span> <span>£7.00</span> ' +
      '<span>£12.50</span></div></body></html>',
  },
  [
    plainly('others moved', ['£6.00', '£6.20'], ['£12.50', '£13.00']),
    never('grid', 'the routes reordered', [
      '<div class="r"><span>Ely to March</span> <span>£6.00</span> <span>£11.00</span></div><div ' +
        'class="r"><span>Ely to Lynn</span> <span>£8.00</span> <span>{v}</span></div>',
      '<div class="r"><span>Ely to Lynn</span> <span>£8.00</span> <span>{v}</span></div><div class="r"><span>Ely ' +
        'to March</span> <span>£6.00</span> <span>£11.00</span></div>',
    ]),
    never(
      'grid',
      'a column more before it',
      ['<span>Single</span>', '<span>Child</span><span>Single</span>'],
      ['<span>£8.00</span>', '<span>£4.00</span> <span>£8.00</span>'],
      ['<span>£6.00</span>', '<span>£3.00</span> <span>£6.00</span>'],
      ['<span>£7.00</span>', '<span>£3.50</span> <span>£7.00</span>'],
    ),
    never('thing', 'another route in its place', ['Ely to Lynn', 'Ely to Wisbech']),
  ],
);

const spoken = site(
  {
    kind: 'shop that says more than it shows',
    pick: '.p',
    was: ['£24.00', ''],
    is: ['£23.00', ''],
    truth: '23.00 GBP',
    html:
      '<html lang="en-GB"><head><title>Smoker fuel, 5 kg | Emberly</title></head><body><main><h1>Smoker ' +
      'fuel</h1><div class="sizes"><button data-state="on">5 kg</button><button data-state="off">10 ' +
      'kg</button></div><div class="row"><span class="p" aria-label="{v}">{v}</span></div><button>Add to ' +
      'basket</button></main></body></html>',
  },
  [
    plainly('the class renamed', ['class="p"', 'class="x"']),
    plainly('another site name in the window’s title', ['| Emberly', '– Emberly & Daughters']),
    never('words', 'for members, told to those who do not see', ['aria-label="{v}"', 'aria-label="Member price {v}"']),
    never(
      'variant',
      'the larger bag is chosen',
      ['data-state="on">5 kg', 'data-state="off">5 kg'],
      ['data-state="off">10 kg', 'data-state="on">10 kg'],
    ),
    never('variant', 'another size, in the window’s title alone', ['5 kg | Emberly', '2 kg | Emberly']),
    never('variant', 'used, in the window’s title alone', ['5 kg | Emberly', '5 kg, refurbished | Emberly']),
    never('words', 'a sum of money put after it', ['</span></div>', '</span> <span>£19.00</span></div>']),
  ],
);

export const ODD: Site[] = [tabs, promo, transposed, twins, stock, notes, bars, spoken];
