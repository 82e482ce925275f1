import { footer, menu, never, only, others, plainly, reviews, site, type Site } from '../page';

// Shops. What was done to each page is said as a person would who looks at it.

const large = site(
  {
    kind: 'large shop',
    pick: '#offer-price',
    was: ['£24.00', '24.00'],
    is: ['£22.50', '22.50'],
    truth: '22.50 GBP',
    html: `<!doctype html><html lang="en-GB"><head><title>Copper smoker, large | Fallow & Firth</title><meta property="og:site_name" content="Fallow & Firth"></head><body>
<header><h1 class="logo">Fallow & Firth</h1>${menu()}<div class="vat-toggle"><button aria-pressed="true">incl. VAT</button><button aria-pressed="false">excl. VAT</button></div></header>
<main><ol class="crumbs"><li>Home</li><li>Smokers</li></ol><div class="pdp"><h2 class="name">Copper smoker, large</h2><p class="code">Item no. FF-2207</p>
<div class="buy"><p class="price-line"><span id="offer-price">{v}</span></p><p class="stock">In stock</p>
<form><label for="size">Size</label><select id="size"><option>Small</option><option selected>Large</option></select><button>Add to basket</button></form></div>
<dl class="facts"><dt>Condition</dt><dd>New</dd><dt>Colour</dt><dd>Copper</dd><dt>Weight</dt><dd>820 g</dd></dl></div>
${others((n) => `£${n + 11}.50`)}${reviews()}</main>${footer()}</body></html>`,
  },
  [
    plainly(
      'ids and classes renamed',
      ['id="offer-price"', 'id="amount-now"'],
      ['class="price-line"', 'class="pl"'],
      ['class="buy"', 'class="purchase"'],
      ['class="name"', 'class="headline"'],
    ),
    plainly('a strip of trust marks put under it', [
      '<p class="stock">In stock</p>',
      '<p class="trust">Free returns within 60 days</p><p class="stock">In stock</p>',
    ]),
    plainly('the former price struck out beside it', [
      '<span id="offer-price">',
      '<s>£24.00</s> <span id="offer-price">',
    ]),
    plainly('sold fast', ['In stock', 'Only 2 left']),
    plainly('the neutral label of prices put before it', ['<p class="price-line">', '<p class="price-line">Now only ']),
    plainly('more words in the facts', ['<dt>Weight</dt>', '<dt>Handle</dt><dd>Beech</dd><dt>Weight</dt>']),
    never('words', 'for members, put after it', ['{v}</span>', '{v}</span> <em>for members</em>']),
    never('words', 'per month, put under it', [
      '{v}</span></p>',
      '{v}</span></p><p class="note">per month for 12 months</p>',
    ]),
    never('words', 'the line is what is saved', ['<p class="price-line">', '<p class="price-line">You save ']),
    never('words', 'it is a deposit now', ['<p class="price-line">', '<p class="price-line">Deposit ']),
    never('words', 'when two are bought', ['{v}</span>', '{v}</span> each when you buy 2']),
    never('words', 'a price from which others begin', [
      '<span id="offer-price">{v}',
      '<span id="offer-price">from {v}',
    ]),
    never('words', 'with a card of the shop, in a heading above it', [
      '<div class="buy">',
      '<div class="buy"><h3>Price with the Firth card</h3>',
    ]),
    never('variant', 'the small one is chosen', [
      '<option>Small</option><option selected>Large</option>',
      '<option selected>Small</option><option>Large</option>',
    ]),
    never('variant', 'used, in the facts below', ['<dd>New</dd>', '<dd>Used, good</dd>']),
    never(
      'variant',
      'tax is left out, by a switch at the top',
      ['aria-pressed="true">incl', 'aria-pressed="false">incl'],
      ['aria-pressed="false">excl', 'aria-pressed="true">excl'],
    ),
    never(
      'thing',
      'its successor at the same address',
      ['Copper smoker, large', 'Copper smoker mk II, large'],
      ['FF-2207', 'FF-2291'],
    ),
    never('thing', 'gone, a like one in its place', [
      '<p class="price-line"><span id="offer-price">{v}</span></p><p class="stock">In stock</p>',
      '<p class="stock">No longer sold</p><p class="instead">Try the <a href="/p/9">Steel smoker</a> <span ' +
        'id="offer-price">{v}</span></p>',
    ]),
    never('thing', 'sold out without a price, others below', [
      '<p class="price-line"><span id="offer-price">{v}</span></p><p class="stock">In stock</p>',
      '<p class="stock">Sold out</p>',
    ]),
    never('currency', 'euros now', [/\{v\}/, '€22.50']),
    never('currency', 'dollars of another place', [/\{v\}/, 'RD$22.50']),
    never('jump', 'nought', [/\{v\}/, '£0.00']),
    never('jump', 'a hundred times as much', [/\{v\}/, '£2,250.00']),
    never('notation', 'a footnote mark glued to it', ['{v}</span>', '22<sup>1</sup></span>']),
    only('notation', '22.50 GBP', 'a footnote mark after the pence', [
      '{v}</span>',
      '{v}<sup><a href="#n1">1</a></sup></span>',
    ]),
    only('notation', '22.50 GBP', 'raised pence', ['{v}</span>', '£22<sup>50</sup></span>']),
  ],
);

const ld = site(
  {
    kind: 'shop with structured data',
    pick: '.now',
    was: ['£129.00', '129.00'],
    is: ['£119.00', '119.00'],
    truth: '119.00 GBP',
    html: `<!doctype html><html lang="en-GB"><head><title>Ventilated suit – Netley</title><script type="application/ld+json">{"@context":"https://schema.org","@graph":[{"@type":"BreadcrumbList","itemListElement":[]},{"@type":"Product","name":"Ventilated suit","sku":"NR-31","itemCondition":"https://schema.org/NewCondition","offers":{"@type":"Offer","price":"{d}","priceCurrency":"GBP","availability":"https://schema.org/InStock","url":"/p/nr-31"}}]}</script></head>
<body><nav><a href="/">Netley</a><a href="/suits">Suits</a></nav><main><h1>Ventilated suit</h1><p>Ref. NR-31</p>
<fieldset><legend>Size</legend><label><input type="radio" name="s" value="m" checked> M</label><label><input type="radio" name="s" value="l"> L</label></fieldset>
<div class="price"><span class="now">{v}</span> <span class="vat">incl. VAT</span></div><p class="ship">Delivery £3.95</p></main></body></html>`,
  },
  [
    plainly('classes renamed', ['class="now"', 'class="p-8842"'], ['class="price"', 'class="b"']),
    plainly('the data dropped', [/<script.*<\/script>/s, '']),
    plainly('the data names more of it', [
      '"sku":"NR-31",',
      '"sku":"NR-31","brand":"Netley","gtin13":"5012345678900",',
    ]),
    plainly('delivery dearer', ['£3.95', '£5.95']),
    plainly(
      'wrapped',
      ['<div class="price">', '<section class="grid"><div class="col"><div class="price">'],
      ['<p class="ship">', '</div></section><p class="ship">'],
    ),
    never('data', 'the data is stale', ['"price":"{d}"', '"price":"129.00"'], [/\{v\}/, '£149.00']),
    never('data', 'no price in sight, the data stays', [
      /<div class="price">.*<\/div>/,
      '<div class="price">Call us</div>',
    ]),
    never(
      'data',
      'two offers in the data, the other one in sight',
      ['"offers":{', '"offers":[{"@type":"Offer","price":"109.00","priceCurrency":"GBP"},{'],
      ['"/p/nr-31"}}', '"/p/nr-31"}]}'],
      [/\{v\}/, '£109.00'],
    ),
    never('data', 'nothing there yet', [/\{v\}/, '—'], ['"price":"{d}"', '"price":""']),
    never(
      'variant',
      'the other size is chosen',
      ['value="m" checked', 'value="m"'],
      ['value="l"', 'value="l" checked'],
    ),
    never(
      'variant',
      'refurbished, in the data and at the end',
      ['NewCondition', 'RefurbishedCondition'],
      ['</main>', '<p>Condition: refurbished</p></main>'],
    ),
    never('words', 'without tax', ['incl. VAT', 'excl. VAT']),
    never('words', 'tax is not spoken of, but a subscription is', ['incl. VAT', 'with a yearly plan']),
    never('thing', 'another suit at the address', ['Ventilated suit', 'Polycotton suit'], ['NR-31', 'NR-35']),
    never(
      'thing',
      'the name stays, another reference',
      ['Ref. NR-31', 'Ref. NR-77'],
      ['"sku":"NR-31"', '"sku":"NR-77"'],
    ),
    never('currency', 'euros, in the data too', [/\{v\}/, '119,00 €'], ['"GBP"', '"EUR"']),
    never('currency', 'the data says euros, the page pounds', ['"GBP"', '"EUR"']),
  ],
);

const german = site(
  {
    kind: 'German shop',
    pick: '[itemprop=price]',
    was: ['249,00 €', '249.00'],
    is: ['239,00 €', '239.00'],
    truth: '239.00 EUR',
    html: `<!doctype html><html lang="de-DE"><head><title>Honigschleuder | Astrel Imkerei</title></head><body><div class="kopf"><a href="/">Astrel</a></div>
<div class="artikel" itemscope itemtype="https://schema.org/Product"><h1 itemprop="name">Honigschleuder, vier Waben</h1><p>Artikel-Nr. <span itemprop="sku">IA-4</span></p>
<div itemprop="offers" itemscope itemtype="https://schema.org/Offer"><meta itemprop="priceCurrency" content="EUR"><div class="preisbox"><div class="preis" itemprop="price" content="{d}">{v}</div><div class="hinweis">inkl. MwSt., zzgl. Versand</div></div></div>
<table class="daten"><tr><th>Zustand</th><td>Neu</td></tr><tr><th>Antrieb</th><td>Hand</td></tr><tr><th>Lieferzeit</th><td>3–5 Tage</td></tr></table></div></body></html>`,
  },
  [
    plainly('cheaper, delivered later', ['3–5 Tage', '2 Wochen']),
    plainly('the box renamed', ['class="preisbox"', 'class="kaufbox"'], ['class="preis"', 'class="betrag"']),
    never('jump', 'five times as dear', ['{v}', '1.239,00 €'], ['{d}', '1239.00']),
    never(
      'words',
      'ohne Steuer',
      ['inkl. MwSt.', 'zzgl. MwSt.'],
      [/\{v\}/, '229,00 €'],
      ['content="{d}"', 'content="229.00"'],
    ),
    never('words', 'im Monat', [/\{v\}/, '229,00 € <small>pro Monat</small>'], ['content="{d}"', 'content="229.00"']),
    never(
      'words',
      'Anzahlung',
      ['<div class="preis"', '<div class="art">Anzahlung</div><div class="preis"'],
      [/\{v\}/, '229,00 €'],
      ['content="{d}"', 'content="229.00"'],
    ),
    never(
      'words',
      'nur für Mitglieder',
      ['<div class="hinweis">', '<div class="club">nur für Mitglieder</div><div class="hinweis">'],
      [/\{v\}/, '229,00 €'],
      ['content="{d}"', 'content="229.00"'],
    ),
    never('words', 'ab', [/\{v\}/, 'ab 229,00 €'], ['content="{d}"', 'content="229.00"']),
    never(
      'variant',
      'gebraucht',
      ['<td>Neu</td>', '<td>Gebraucht</td>'],
      [/\{v\}/, '229,00 €'],
      ['content="{d}"', 'content="229.00"'],
    ),
    never(
      'variant',
      'mit Motor',
      ['<td>Hand</td>', '<td>Motor</td>'],
      [/\{v\}/, '279,00 €'],
      ['content="{d}"', 'content="279.00"'],
    ),
    never(
      'currency',
      'Franken',
      [/\{v\}/, 'CHF 229.00'],
      ['content="EUR"', 'content="CHF"'],
      ['content="{d}"', 'content="229.00"'],
    ),
    never(
      'notation',
      'another language settles the mark otherwise',
      ['lang="de-DE"', 'lang="en-GB"'],
      [/\{v\}/, '1.239 €'],
      ['content="{d}"', 'content="1.239"'],
    ),
    only('notation', '239.00 EUR', 'a dash for the cents', [/\{v\}/, '239,– €'], ['content="{d}"', 'content="239.00"']),
  ],
);

const pieces = site(
  {
    kind: 'shop that shows prices in pieces',
    pick: '.total',
    was: ['<span class="sign">£</span><span class="int">31</span><span class="pence">.20</span>', '31.20'],
    is: ['<span class="sign">£</span><span class="int">29</span><span class="pence">.40</span>', '29.40'],
    truth: '29.40 GBP',
    html: `<html lang="en"><head><title>Jars 340 g, case of 72</title></head><body><table class="page"><tr><td><h1>Jars 340 g, case of 72</h1><p>Ref CL-88</p>
<table class="facts"><tr><td>List price</td><td><s>£35.00</s></td></tr><tr><td>Our price</td><td class="total">{v}</td></tr><tr><td>Half case</td><td>£17.80</td></tr><tr><td>Delivery</td><td>£6.40</td></tr></table>
<p>Clear glass, gold lids.</p></td></tr></table></body></html>`,
  },
  [
    plainly('the class is gone', [' class="total"', '']),
    plainly('a list instead of a table', [
      '<table class="facts"><tr><td>List price</td><td><s>£35.00</s></td></tr><tr><td>Our price</td><td ' +
        'class="total">{v}</td></tr><tr><td>Half ' +
        'case</td><td>£17.80</td></tr><tr><td>Delivery</td><td>£6.40</td></tr></table>',
      '<ul><li>List price <s>£35.00</s></li><li>Our price <b>{v}</b></li><li>Half case ' +
        '<b>£17.80</b></li><li>Delivery <b>£6.40</b></li></ul>',
    ]),
    plainly('heading demoted', ['<h1>Jars', '<h2>Jars'], ['72</h1>', '72</h2>']),
    only('grid', '29.40 GBP', 'the rows in another order', [
      '<tr><td>Our price</td><td class="total">{v}</td></tr><tr><td>Half case</td><td>£17.80</td></tr>',
      '<tr><td>Half case</td><td class="total">£17.80</td></tr><tr><td>Our price</td><td>{v}</td></tr>',
    ]),
    never('grid', 'the row is gone, the half case moved up', [
      '<tr><td>Our price</td><td class="total">{v}</td></tr><tr><td>Half case</td><td>£17.80</td></tr>',
      '<tr><td>Half case</td><td class="total">£17.80</td></tr>',
    ]),
    never('words', 'members', ['<td>Our price</td>', '<td>Members’ price</td>']),
    never('unit', 'for each jar', ['<td>Our price</td>', '<td>Our price per jar</td>']),
    never('thing', 'another case', ['case of 72', 'case of 48']),
    never('notation', 'the pence without their point', ['{v}', '<span>£29</span><span>1</span>']),
    never('notation', 'a number of pieces glued before it', ['{v}', '<span>2</span><span>29.40</span>']),
  ],
);

const cheap = site(
  {
    kind: 'shop of few words',
    pick: 'main > div > b',
    was: ['$18.50', ''],
    is: ['$17.25', ''],
    truth: '17.25 USD',
    html:
      '<html lang="en-US"><head><title>Hive tool</title></head><body><main><h1>Hive ' +
      'tool</h1><div><b>{v}</b></div><div><i>Ships from Ohio</i></div></main></body></html>',
  },
  [
    plainly('in a paragraph', ['<div><b>{v}</b></div>', '<p><strong>{v}</strong></p>']),
    plainly('with a wrapper', ['<div><b>{v}</b></div>', '<section><div><b>{v}</b></div></section>']),
    plainly('now', ['<b>{v}</b>', '<b>Now {v}</b>']),
    never('words', 'a month', ['<b>{v}</b>', '<b>{v}/mo</b>']),
    never('words', 'off', ['<b>{v}</b>', '<b>{v} off</b>']),
    only('words', '17.25 USD', 'another price first', [
      '<div><b>{v}</b></div>',
      '<div><b>$12.00</b> members</div><div><b>{v}</b></div>',
    ]),
    never('thing', 'another tool', ['<h1>Hive tool', '<h1>Frame grip'], ['<title>Hive tool', '<title>Frame grip']),
    never('currency', 'Canadian', ['{v}', 'C${v}'.replace('${v}', '$17.25')]),
    never('currency', 'Canadian, beside it', ['<b>{v}</b>', '<b>{v}</b> CAD']),
    never('unit', 'a pair', ['<b>{v}</b>', '<b>{v}</b> per pair']),
    never('jump', 'three times', [/\{v\}/, '$58.00']),
  ],
);

const books = site(
  {
    kind: 'bookshop',
    pick: '.sel .amount',
    was: ['14,90 €', ''],
    is: ['13,50 €', ''],
    truth: '13.50 EUR',
    html: `<html lang="fr-FR"><head><title>Le rucher au jardin - Librairie Mercier</title></head><body><header><a>Librairie Mercier</a></header><main><h1>Le rucher au jardin</h1><p>ISBN 9782000000011</p>
<ul class="formats" role="radiogroup"><li role="radio" aria-checked="true" class="sel"><span>Broché</span> <span class="amount">{v}</span></li><li role="radio" aria-checked="false"><span>Numérique</span> <span class="amount">9,99 €</span></li><li role="radio" aria-checked="false"><span>Relié</span> <span class="amount">24,00 €</span></li></ul>
<p class="dispo">En stock</p></main></body></html>`,
  },
  [
    plainly('reordered, the same one chosen', [
      '<li role="radio" aria-checked="true" class="sel"><span>Broché</span> <span ' +
        'class="amount">{v}</span></li><li role="radio" aria-checked="false"><span>Numérique</span> <span ' +
        'class="amount">9,99 €</span></li>',
      '<li role="radio" aria-checked="false"><span>Numérique</span> <span class="amount">9,99 €</span></li><li ' +
        'role="radio" aria-checked="true" class="sel"><span>Broché</span> <span class="amount">{v}</span></li>',
    ]),
    plainly('stock runs low', ['En stock', 'Plus que 2 exemplaires']),
    never(
      'variant',
      'the digital one is chosen',
      ['aria-checked="true" class="sel"><span>Broché', 'aria-checked="false"><span>Broché'],
      ['aria-checked="false"><span>Numérique', 'aria-checked="true" class="sel"><span>Numérique'],
    ),
    never('variant', 'a used copy', ['<span>Broché</span>', '<span>Broché, occasion</span>']),
    never('words', 'à partir de', ['<span class="amount">{v}', '<span class="amount">à partir de {v}']),
    never('words', 'avec la carte', ['{v}</span>', '{v}</span> <small>avec la carte Mercier</small>']),
    never('thing', 'a new edition', ['9782000000011', '9782000000097']),
    never('thing', 'another book', ['Le rucher au jardin', 'Le rucher en ville']),
    never('currency', 'Swiss francs', [/\{v\}/, '13,50 CHF']),
  ],
);

const market = site(
  {
    kind: 'marketplace',
    pick: '.buybox .p',
    was: ['£38.00', ''],
    is: ['£36.00', ''],
    truth: '36.00 GBP',
    html: `<html lang="en-GB"><head><title>Queen excluder, 14 x 12</title></head><body>${menu()}<main><div id="title-block"><span class="product-title">Queen excluder, 14 x 12</span></div>
<div class="buybox"><div class="p">{v}</div><div class="by">Sold by <a>Wold Bees</a></div><div class="cond">New</div><button>Buy</button></div>
<div class="more-sellers"><h3>Other sellers</h3><div class="s"><span class="p2">£35.10</span> <span>Used</span> <a>Hove Hives</a></div><div class="s"><span class="p2">£41.00</span> <span>New</span> <a>Apis Ltd</a></div></div>
${others((n) => `£${n + 7}.20`)}</main>${footer()}</body></html>`,
  },
  [
    plainly(
      'classes renamed',
      ['class="buybox"', 'class="bx"'],
      ['class="p"', 'class="pr"'],
      ['class="by"', 'class="sb"'],
    ),
    plainly('other sellers changed their prices', ['£35.10', '£34.80'], ['£41.00', '£40.00']),
    plainly('one more seller', [
      '<div class="s"><span class="p2">£41.00',
      '<div class="s"><span class="p2">£37.00</span> <span>New</span> <a>Bee Barn</a></div><div class="s"><span ' +
        'class="p2">£41.00',
    ]),
    never('variant', 'another seller has the box', ['<a>Wold Bees</a>', '<a>Hove Hives</a>']),
    never('variant', 'a used one in the box', [
      '<div class="cond">New</div>',
      '<div class="cond">Used – like new</div>',
    ]),
    never('thing', 'nobody sells it new: the first of the others', [
      /<div class="buybox">.*?<\/div><button>Buy<\/button><\/div>/,
      '',
    ]),
    never('thing', 'another title, no heading at all', ['Queen excluder, 14 x 12', 'Queen excluder, National']),
    never('words', 'with a coupon', [
      '<div class="p">{v}</div>',
      '<div class="p">{v}</div><div class="coupon">with coupon</div>',
    ]),
    never('unit', 'a pack of two', [
      '<div class="p">{v}</div>',
      '<div class="p">{v}</div><div class="per">£18.00 each, pack of 2</div>',
    ]),
    never('words', 'it is the postage', [
      '<div class="p">{v}</div>',
      '<div class="lab">Postage</div><div class="p">{v}</div>',
    ]),
  ],
);

const grocer = site(
  {
    kind: 'grocery',
    pick: '.card-main .price',
    was: ['£3.20', ''],
    is: ['£2.95', ''],
    truth: '2.95 GBP',
    html: `<html lang="en-GB"><head><title>Heather honey 340g - Larder Lane</title></head><body><header><a class="brand">Larder Lane</a><input placeholder="Search"></header><main><article class="card-main"><h1>Heather honey 340g</h1>
<p class="price">{v}</p><p class="unit">94.1p per 100g</p><p class="qty">Quantity <select><option selected>1</option><option>2</option></select></p><button>Add</button></article><aside><h2>Goes well with</h2><div class="t"><p>Oat cakes</p><p class="price">£1.60</p></div></aside></main>${footer()}</body></html>`,
  },
  [
    plainly('the unit price moved with it', ['94.1p', '86.8p']),
    plainly(
      'article became a section',
      ['<article class="card-main">', '<section class="prod">'],
      ['</article>', '</section>'],
    ),
    plainly(
      'the aside first',
      [/<article.*<\/article>/s, ''],
      [
        '<aside>',
        '<aside><h2>Fresh today</h2><p>New bread at ten</p></aside><article class="card-main"><h1>Heather honey ' +
          '340g</h1><p class="price">{v}</p><p class="unit">86.8p per 100g</p><button>Add</button></article><aside>',
      ],
    ),
    never('words', 'a card price', [
      '<p class="price">{v}',
      '<p class="flag">Larder card price</p><p class="price">{v}',
    ]),
    never('words', 'any two for', [
      '<p class="price">{v}</p>',
      '<p class="price">{v}</p><p class="deal">when you buy any 2</p>',
    ]),
    never('words', 'the unit price stands first', [
      '<p class="price">{v}</p><p class="unit">94.1p per 100g</p>',
      '<p class="price">86.8p per 100g</p><p class="unit">{v}</p>',
    ]),
    never('thing', 'the smaller jar', ['340g', '227g']),
    never('thing', 'a substitute', [
      '<p class="price">{v}</p>',
      '<p>Unavailable. Try instead: Clover honey</p><p class="price">{v}</p>',
    ]),
    never('unit', 'sold by weight now', ['{v}</p>', '{v} / kg</p>']),
    only('notation', '2.95 GBP', 'full-width digits', [/\{v\}/, '£２．９５']),
  ],
);

export const SHOPS: Site[] = [large, ld, german, pieces, cheap, books, market, grocer];
