/** A page before it was rebuilt, with the place that was picked on it. `{price}` and the like stand for what moves. */
export interface Base {
  name: string;
  /** CSS of the picked place. */
  pick: string;
  /** What is said of the thing that is followed. */
  data: Record<string, string>;
  /** What stands there in the rebuilt page, and what it has to be read as. */
  moved: Record<string, string>;
  /** The value in `moved`, as `amount unit`. */
  truth: string;
  html: string;
}

/** Fills a page's blanks. */
export function filled(html: string, data: Record<string, string>): string {
  return html.replace(/\{(\w+)\}/g, (blank, name: string) => data[name] ?? blank);
}

export const BASES: Base[] = [
  {
    name: 'shop with JSON-LD',
    pick: '#price',
    data: { title: 'Smoker, copper', ref: 'SK-2207', price: '£24.00', plain: '24.00', other: '£3.95' },
    moved: { title: 'Smoker, copper', ref: 'SK-2207', price: '£21.50', plain: '21.50', other: '£3.95' },
    truth: '21.50 GBP',
    html: `<!doctype html><html lang="en-GB"><head><title>{title} | Skep</title><script type="application/ld+json">{"@context":"https://schema.org","@type":"Product","name":"{title}","sku":"{ref}","offers":{"@type":"Offer","price":"{plain}","priceCurrency":"GBP","availability":"https://schema.org/InStock"}}</script></head>
<body><nav><a href="/">Hives</a> <a href="/">Suits</a></nav><main><!--head--><h1 class="title">{title}</h1><p class="ref">Ref. {ref}</p><!--/head-->
<!--offer--><div class="offer"><p>Our price <span id="price" class="amount">{price}</span></p><p>Delivery <span class="delivery">{other}</span></p><p class="stock">In stock</p></div><!--/offer-->
<!--more--><div class="text"><p>Spun copper with a heat guard.</p></div><!--/more--></main></body></html>`,
  },
  {
    name: 'table without semantics, price in pieces',
    pick: '.now',
    data: {
      title: 'Jars 340 g, case of 72',
      ref: 'CL-88',
      price: '<span>£31</span><span class="pence">.20</span>',
      other: '£6.40',
    },
    moved: {
      title: 'Jars 340 g, case of 72',
      ref: 'CL-88',
      price: '<span>£29</span><span class="pence">.40</span>',
      other: '£6.40',
    },
    truth: '29.40 GBP',
    html: `<html lang="en"><head><title>{title}</title></head><body><table><tr><td>Combe</td></tr></table><table><tr><td><!--head--><h1>{title}</h1><p>Ref {ref}</p><!--/head-->
<!--offer--><table class="facts"><tr><td>List price</td><td><s>£35.00</s></td></tr><tr><td>Our price</td><td class="now">{price}</td></tr><tr><td>Delivery</td><td>{other}</td></tr></table><!--/offer-->
<!--more--><div><p>Clear glass, gold lids.</p></div><!--/more--></td></tr></table></body></html>`,
  },
  {
    name: 'German shop with microdata',
    pick: '[itemprop=price]',
    data: { title: 'Honigschleuder, vier Waben', ref: 'IA-4', price: '249,00 €', plain: '249.00', other: '9,90 €' },
    moved: { title: 'Honigschleuder, vier Waben', ref: 'IA-4', price: '1.239,00 €', plain: '1239.00', other: '9,90 €' },
    truth: '1239.00 EUR',
    html: `<html lang="de-DE"><head><title>{title} – Imkerhaus</title></head><body><main itemscope itemtype="https://schema.org/Product"><!--head--><h1 itemprop="name">{title}</h1><p>Artikel {ref}</p><!--/head-->
<!--offer--><div itemprop="offers" itemscope itemtype="https://schema.org/Offer"><meta itemprop="priceCurrency" content="EUR"><p class="preis">Preis: <b itemprop="price" content="{plain}">{price}</b></p><p class="versand">Versand <i>{other}</i></p></div><!--/offer-->
<!--more--><div><p>Edelstahl, Handantrieb.</p></div><!--/more--></main></body></html>`,
  },
  {
    name: 'list of terms',
    pick: '#amount',
    data: { title: 'Fondant 12.5 kg', ref: 'F-12', price: '£19.50', other: '£4.00' },
    moved: { title: 'Fondant 12.5 kg', ref: 'F-12', price: '£18.75', other: '£4.00' },
    truth: '18.75 GBP',
    html: `<html lang="en-GB"><head><title>{title}</title></head><body><div class="page"><!--head--><h1>{title}</h1><p>Item {ref}</p><!--/head-->
<!--offer--><dl class="terms"><dt>Price each</dt><dd id="amount">{price}</dd><dt>Carriage</dt><dd>{other}</dd><dt>Availability</dt><dd>In stock</dd></dl><!--/offer-->
<!--more--><div><p>Ready to feed.</p></div><!--/more--></div></body></html>`,
  },
  {
    name: 'generated class names',
    pick: '.css-9x8k2d',
    data: { title: 'Ventilated suit, M', ref: 'NR-31', price: '£129.00', other: '£149.00' },
    moved: { title: 'Ventilated suit, M', ref: 'NR-31', price: '£119.00', other: '£149.00' },
    truth: '119.00 GBP',
    html: `<html lang="en-GB"><head><title>{title}</title></head><body><div class="css-1ab2c3"><!--head--><h1 class="css-77f1aa">{title}</h1><!--/head-->
<!--offer--><div class="css-0c9d1e"><div class="css-88d1f0">Price</div><div class="css-9x8k2d">{price}</div></div><!--/offer-->
<!--more--><div class="css-5d5e5f"><p>Three layers of mesh. Item {ref}.</p></div><!--/more--></div></body></html>`,
  },
  {
    name: 'gauge with a unit',
    pick: '#level',
    data: { title: 'Teme at Knightsford', ref: 'G-17', price: '2.31 m', other: '8.4 m3/s' },
    moved: { title: 'Teme at Knightsford', ref: 'G-17', price: '3.08 m', other: '9.1 m3/s' },
    truth: '3.08 m',
    html: `<html lang="en-GB"><head><title>{title}</title></head><body><main><!--head--><h1>{title}</h1><p>Gauge {ref}</p><!--/head-->
<!--offer--><table class="gauge"><tr><th>River level</th><td id="level">{price}</td></tr><tr><th>Flow</th><td>{other}</td></tr></table><!--/offer-->
<!--more--><div><p>Measured each quarter of an hour.</p></div><!--/more--></main></body></html>`,
  },
];
