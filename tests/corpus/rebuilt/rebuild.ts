/**
 * Rebuilds pages as text: nothing here parses, selects or knows what a locator is, so that what it does to a page is
 * not what the code under test would expect of it.
 */
export type Rebuild = (html: string) => string;

const WORDS = ['tin', 'oak', 'fern', 'moss', 'lark', 'reed', 'flint', 'hazel', 'wren', 'clay'];

const renamed = (name: string, salt: number) => {
  let sum = salt;
  for (const letter of name) sum = (sum * 31 + letter.charCodeAt(0)) % 9973;
  return `${WORDS[sum % WORDS.length] ?? 'x'}-${WORDS[Math.floor(sum / 10) % WORDS.length] ?? 'y'}`;
};

/** Other names for every class. */
export const renameClasses: Rebuild = (html) =>
  html.replace(
    / class="([^"]*)"/g,
    (_all, names: string) =>
      ` class="${names
        .split(' ')
        .map((name) => renamed(name, 7))
        .join(' ')}"`,
  );

/** Other names for every id. */
export const renameIds: Rebuild = (html) =>
  html.replace(/ id="([^"]*)"/g, (_all, name: string) => ` id="${renamed(name, 3)}"`);

/** No classes and no ids at all. */
export const dropNames: Rebuild = (html) => html.replace(/ (class|id)="[^"]*"/g, '');

/** No structured data any more. */
export const dropStructured: Rebuild = (html) =>
  html
    .replace(/<script type="application\/ld\+json">.*?<\/script>/gs, '')
    .replace(/ (itemprop|itemtype|itemscope)(="[^"]*")?/g, '')
    .replace(/<meta[^>]*>/g, '');

/** Two more boxes around every block. */
export const addWrappers: Rebuild = (html) =>
  html
    .replace(/<!--(\w+)-->/g, '<div class="grid"><section class="column"><!--$1-->')
    .replace(/<!--\/(\w+)-->/g, '<!--/$1--></section></div>');

/** Other tags for the same things. */
export const changeTags: Rebuild = (html) =>
  html
    .replace(/<(\/?)span/g, '<$1strong')
    .replace(/<(\/?)p([ >])/g, '<$1div$2')
    .replace(/<(\/?)main/g, '<$1article')
    .replace(/<(\/?)b([ >])/g, '<$1em$2');

/** A smaller main heading, because the site's name became the larger one. */
export const demoteHeading: Rebuild = (html) =>
  html
    .replace(/<h1/g, '<h2')
    .replace(/<\/h1>/g, '</h2>')
    .replace(/<body>/, '<body><h1>The shop</h1>');

const block = (html: string, name: string) => new RegExp(`<!--${name}-->.*?<!--/${name}-->`, 's').exec(html)?.[0] ?? '';

/** The offer after everything else of the page. */
export const moveOfferDown: Rebuild = (html) => {
  const offer = block(html, 'offer');
  return html.replace(offer, '').replace(block(html, 'more'), (more) => more + offer);
};

/** The offer above the heading. */
export const moveOfferUp: Rebuild = (html) => {
  const offer = block(html, 'offer');
  return html.replace(offer, '').replace(block(html, 'head'), (head) => offer + head);
};

const TRANSLATED: [string, string][] = [
  ['Our price', 'Unser Preis'],
  ['Price each', 'Stückpreis'],
  ['>Price<', '>Preis<'],
  ['Preis:', 'Price:'],
  ['Delivery', 'Lieferung'],
  ['Versand', 'Shipping'],
  ['Carriage', 'Fracht'],
  ['River level', 'Wasserstand'],
  ['Flow', 'Abfluss'],
  ['List price', 'Listenpreis'],
  ['In stock', 'Auf Lager'],
];

/** Labels in another language. */
export const translateLabels: Rebuild = (html) =>
  TRANSLATED.reduce((page, [from, to]) => page.replaceAll(from, to), html);

const unitOf = (html: string) => (html.includes(' m<') ? '1.02 m' : html.includes('de-DE') ? '99,00 €' : '£12.60');

/** Another price before the offer: what members pay. */
export const addPriceBefore: Rebuild = (html) =>
  html.replace(
    '<!--offer-->',
    `<!--offer--><div class="club"><p>Members pay <span class="sum">${unitOf(html)}</span></p></div>`,
  );

/** Other things with their prices after the offer. */
export const addOthersAfter: Rebuild = (html) =>
  html.replace(
    '<!--/offer-->',
    `<!--/offer--><aside><h3>Others looked at</h3><ul><li>Hive tool ${unitOf(html)}</li><li>Bee brush ` +
      `${unitOf(html).replace('0', '5')}</li></ul></aside>`,
  );

/** The former price struck out before the present one. */
export const addStruck: Rebuild = (html) =>
  html.replace(
    /(<(?:span|td|b|dd|div)[^>]*(?:id="(?:price|amount|level)"|class="(?:now|css-9x8k2d)"|itemprop="price")[^>]*>)/,
    `$1<s>${unitOf(html)}</s> `,
  );

/** One rebuild after another. */
export const chain =
  (...rebuilds: Rebuild[]): Rebuild =>
  (html) =>
    rebuilds.reduce((page, rebuild) => rebuild(page), html);
