/** A page as somebody built it anew, written by hand: for the base of that name, with what it has to be read as. */
export interface HandMade {
  base: string;
  name: string;
  html: string;
  /** Other than the base's own: null where nothing may be read. */
  truth?: string | null;
}

const SHOP = 'shop with JSON-LD';
const TABLE = 'table without semantics, price in pieces';
const GERMAN = 'German shop with microdata';
const TERMS = 'list of terms';
const GENERATED = 'generated class names';
const GAUGE = 'gauge with a unit';

export const BY_HAND: HandMade[] = [
  {
    base: SHOP,
    name: 'new theme, data kept',
    html:
      '<!doctype html><html lang="en-GB"><head><title>Smoker, copper</title><script ' +
      ('type="application/ld+json">{"@context":"https://schema.org","@graph":[{"@type":"WebPage","name":"x"},{"@type":"Product","name":"Smoker, copper","offers":{"@type":"Offer","price":21.5,"priceCurrency":"GBP"}}]}</script></head><body><div ' +
        'id="app"><header>Skep</header><div class="pdp"><div class="pdp-left"><img ' +
        ('alt=""></div><div class="pdp-right"><h1>Smoker, copper</h1><div ' +
          'class="pdp-price">£21.50</div><button>Add</button></div></div></div></body></html>')),
  },
  {
    base: SHOP,
    name: 'data dropped, labels kept in a table',
    html:
      '<html lang="en-GB"><body><h1>Smoker, copper</h1><table><tr><td>Our ' +
      'price</td><td>£21.50</td></tr><tr><td>Delivery</td><td>£3.95</td></tr></table></body></html>',
  },
  {
    base: SHOP,
    name: 'price inside the button',
    html:
      '<html lang="en-GB"><body><h1>Smoker, copper</h1><p>Spun copper.</p><form><button>Buy for ' +
      '£21.50</button></form><p>Delivery £3.95</p></body></html>',
  },
  {
    base: SHOP,
    name: 'offer with a member price first',
    html:
      '<html lang="en-GB"><body><h1>Smoker, copper</h1><div><p>Club price <b>£19.99</b></p><p>Our price ' +
      '<b>£21.50</b></p></div></body></html>',
  },
  {
    base: SHOP,
    name: 'two variants with a price each',
    html:
      '<html lang="en-GB"><body><h1>Smoker, copper</h1><ul><li>Small £17.00</li><li>Large ' +
      '£21.50</li></ul></body></html>',
    truth: null,
  },
  {
    base: SHOP,
    name: 'another product at the address',
    html:
      '<!doctype html><html lang="en-GB"><head><title>Smoker, steel</title><script ' +
      'type="application/ld+json">{"@context":"https://schema.org","@type":"Product","name":"Smoker, ' +
      'steel","offers":{"price":"14.20","priceCurrency":"GBP"}}</script></head><body><main><h1 ' +
      'class="title">Smoker, steel</h1><div class="offer"><p>Our price <span id="price" ' +
      'class="amount">£14.20</span></p></div></main></body></html>',
    truth: null,
  },
  {
    base: SHOP,
    name: 'consent wall',
    html:
      '<html lang="en-GB"><body><h1>Before you go on</h1><p>We use cookies. Members save £5.00.</p><button>Accept ' +
      'all</button></body></html>',
    truth: null,
  },
  {
    base: SHOP,
    name: 'data says one thing, the page another',
    html:
      '<html lang="en-GB"><head><script ' +
      'type="application/ld+json">{"@context":"https://schema.org","@type":"Product","name":"Smoker, ' +
      'copper","offers":{"price":"24.00","priceCurrency":"GBP"}}</script></head><body><main><h1 ' +
      'class="title">Smoker, copper</h1><div class="offer"><p>Our price <span id="price" ' +
      'class="amount">£21.50</span></p></div></main></body></html>',
    truth: null,
  },
  {
    base: TABLE,
    name: 'cards instead of tables',
    html:
      '<html lang="en"><body><header>Combe</header><section class="card"><h1>Jars 340 g, case of 72</h1><div ' +
      'class="line"><span>List price</span><s>£35.00</s></div><div class="line"><span>Our price</span><span ' +
      'class="big">£29.40</span></div><div ' +
      'class="line"><span>Delivery</span><span>£6.40</span></div></section></body></html>',
  },
  {
    base: TABLE,
    name: 'rows in another order',
    html:
      '<html lang="en"><body><table><tr><td><h1>Jars 340 g, case of 72</h1><table ' +
      'class="facts"><tr><td>Delivery</td><td>£6.40</td></tr><tr><td>Our price</td><td ' +
      'class="now"><span>£29</span><span class="pence">.40</span></td></tr><tr><td>List ' +
      'price</td><td><s>£35.00</s></td></tr></table></td></tr></table></body></html>',
  },
  {
    base: TABLE,
    name: 'label above the price',
    html:
      '<html lang="en"><body><h1>Jars 340 g, case of 72</h1><div class="facts"><div><small>List ' +
      'price</small><div><s>£35.00</s></div></div><div><small>Our ' +
      'price</small><div>£29.40</div></div><div><small>Delivery</small><div>£6.40</div></div></div></body></html>',
  },
  {
    base: TABLE,
    name: 'label renamed, class kept',
    html:
      '<html lang="en"><body><h1>Jars 340 g, case of 72</h1><table class="facts"><tr><td>You pay</td><td ' +
      'class="now">£29.40</td></tr><tr><td>Delivery</td><td>£6.40</td></tr></table></body></html>',
  },
  {
    base: TABLE,
    name: 'all in one sentence',
    html:
      '<html lang="en"><body><h1>Jars 340 g, case of 72</h1><p>Sold by the case for £29.40 with delivery at ' +
      '£6.40.</p></body></html>',
  },
  {
    base: TABLE,
    name: 'half case beside the case',
    html:
      '<html lang="en"><body><h1>Jars 340 g, case of 72</h1><table><tr><th></th><th>Case of 36</th><th>Case of ' +
      '72</th></tr><tr><td>Our price</td><td>£16.90</td><td>£29.40</td></tr></table></body></html>',
  },
  {
    base: TABLE,
    name: 'sold out, no price',
    html:
      '<html lang="en"><body><table><tr><td><h1>Jars 340 g, case of 72</h1><table ' +
      'class="facts"><tr><td>Availability</td><td>Sold ' +
      'out</td></tr><tr><td>Delivery</td><td>£6.40</td></tr></table></td></tr></table></body></html>',
    truth: null,
  },
  {
    base: GERMAN,
    name: 'microdata kept, dress new',
    html:
      '<html lang="de-DE"><body><div itemscope itemtype="http://schema.org/Product"><h1 ' +
      'itemprop="name">Honigschleuder, vier Waben</h1><div itemprop="offers" itemscope ' +
      'itemtype="http://schema.org/Offer"><span itemprop="price" content="1239.00">1.239,00&nbsp;€</span><meta ' +
      'itemprop="priceCurrency" content="EUR"></div></div></body></html>',
  },
  {
    base: GERMAN,
    name: 'JSON-LD in place of microdata',
    html:
      '<html lang="de"><head><script ' +
      'type="application/ld+json">{"@type":"Product","@context":"https://schema.org/","name":"Honigschleuder, vier ' +
      ('Waben","offers":[{"@type":"Offer","price":"1239.00","priceCurrency":"EUR"}]}</script></head><body><h1>Honigschleuder, vier Waben</h1><p ' +
        'class="p">1.239,00 €</p><p>Versand 9,90 €</p></body></html>'),
  },
  {
    base: GERMAN,
    name: 'price with tax and without',
    html:
      '<html lang="de"><body><h1>Honigschleuder, vier Waben</h1><p>Preis netto: <b>1.041,18 €</b></p><p>Preis ' +
      'brutto: <b>1.239,00 €</b></p><p>Versand <i>9,90 €</i></p></body></html>',
  },
  {
    base: GERMAN,
    name: 'label kept as Preis, tags other',
    html:
      '<html lang="de"><body><h1>Honigschleuder, vier Waben</h1><dl><dt>Preis</dt><dd>1.239,00 ' +
      '€</dd><dt>Versand</dt><dd>9,90 €</dd></dl></body></html>',
  },
  {
    base: GERMAN,
    name: 'instalments beside the price',
    html:
      '<html lang="de"><body><h1>Honigschleuder, vier Waben</h1><div class="preis">Preis: <b>1.239,00 ' +
      '€</b></div><p>oder 12 Raten zu <b>103,25 €</b></p></body></html>',
  },
  {
    base: TERMS,
    name: 'terms as a table',
    html:
      '<html lang="en-GB"><body><h1>Fondant 12.5 kg</h1><table><tr><th>Price ' +
      'each</th><td>£18.75</td></tr><tr><th>Carriage</th><td>£4.00</td></tr></table></body></html>',
  },
  {
    base: TERMS,
    name: 'one label fewer',
    html:
      '<html lang="en-GB"><body><div class="page"><h1>Fondant 12.5 kg</h1><div ' +
      'class="amount">£18.75</div><p>Carriage £4.00</p></div></body></html>',
  },
  {
    base: TERMS,
    name: 'a quantity scale of prices',
    html:
      '<html lang="en-GB"><body><h1>Fondant 12.5 kg</h1><table><tr><td>1 to 9</td><td>£18.75</td></tr><tr><td>10 ' +
      'to 49</td><td>£17.50</td></tr><tr><td>50 or more</td><td>£16.90</td></tr></table></body></html>',
  },
  {
    base: TERMS,
    name: 'id moved to the carriage',
    html:
      '<html lang="en-GB"><body><div class="page"><h1>Fondant 12.5 kg</h1><dl><dt>Carriage</dt><dd ' +
      'id="amount">£4.00</dd><dt>Price each</dt><dd>£18.75</dd></dl></div></body></html>',
  },
  {
    base: GENERATED,
    name: 'next build of the same page',
    html:
      '<html lang="en-GB"><body><div class="css-kk2j1h"><h1 class="css-z1z2z3">Ventilated suit, M</h1><div ' +
      'class="css-a9b8c7"><div class="css-d6e5f4">Price</div><div class="css-g3h2i1">£119.00</div></div><div ' +
      'class="css-j0k9l8"><p>Three layers of mesh. Item NR-31.</p></div></div></body></html>',
  },
  {
    base: GENERATED,
    name: 'next build with a reduction shown',
    html:
      '<html lang="en-GB"><body><div class="css-kk2j1h"><h1 class="css-z1z2z3">Ventilated suit, M</h1><div ' +
      'class="css-a9b8c7"><div class="css-d6e5f4">Price</div><div class="css-g3h2i1"><s>£129.00</s> ' +
      '<b>£119.00</b></div></div></div></body></html>',
  },
  {
    base: GENERATED,
    name: 'the old class is on another price',
    html:
      '<html lang="en-GB"><body><div class="css-1ab2c3"><h1 class="css-77f1aa">Ventilated suit, M</h1><div ' +
      'class="css-0c9d1e"><div class="css-9x8k2d">£8.00</div><div>gloves to go with it</div></div><div ' +
      'class="css-zzz111"><div>Price</div><div>£119.00</div></div></div></body></html>',
  },
  {
    base: GAUGE,
    name: 'gauge with a trend and a record',
    html:
      '<html lang="en-GB"><body><h1>Teme at Knightsford</h1><table><tr><th>Highest on record</th><td>5.90 ' +
      'm</td></tr><tr><th>River level</th><td>3.08 m</td></tr><tr><th>Flow</th><td>9.1 ' +
      'm3/s</td></tr></table></body></html>',
  },
  {
    base: GAUGE,
    name: 'the level in large type',
    html:
      '<html lang="en-GB"><body><h1>Teme at Knightsford</h1><div class="hero"><span class="value">3.08 ' +
      'm</span><span class="caption">River level</span></div><p>Flow 9.1 m3/s</p></body></html>',
  },
  {
    base: GAUGE,
    name: 'another gauge at the address',
    html:
      '<html lang="en-GB"><body><main><h1>Teme at Tenbury</h1><table class="gauge"><tr><th>River level</th><td ' +
      'id="level">1.15 m</td></tr></table></main></body></html>',
    truth: null,
  },
];
