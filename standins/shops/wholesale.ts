import type { Request, Router } from 'express';
import express from 'express';
import { html, type Markup } from '#core/tell/markup';
import { ITEMS, type Item } from '../world/items';
import { chance } from '../world/random';
import type { World } from '../world/world';
import { pounds, sendPage } from './shop';

const SHARE = 0.78;

/** What the wholesale channel asks for; made up, like everything here. */
export const TRADE_TOKEN = 'heather-2931-trade';
export const TRADE_NAME = 'calloway';
export const TRADE_PASSWORD = 'ling-and-bell';

/**
 * Heatherlow's wholesale channel: its prices as JSON for who brings the trade's token, its stock as CSV by name and
 * password, and both on a page behind a sign-in form, by the piece or by the case, the further rows filled in as one
 * scrolls.
 */
export function wholesale(world: World): Router {
  const router = express.Router();
  router.get('/prices.json', (request, response) => {
    if (request.headers.authorization === `Bearer ${TRADE_TOKEN}`)
      return void response.type('json').send(priceList(world));
    response.status(401).set('www-authenticate', 'Bearer realm="wholesale"').json({ error: 'sign in first' });
  });
  router.get('/stock.csv', (request, response) => {
    const asked = `Basic ${Buffer.from(`${TRADE_NAME}:${TRADE_PASSWORD}`).toString('base64')}`;
    if (request.headers.authorization === asked) return void response.type('csv').send(stockList(world));
    response.status(401).set('www-authenticate', 'Basic realm="wholesale"').type('text').send('sign in first');
  });
  router.get('/', (request, response) =>
    isSignedIn(request) ? response.redirect(302, '/wholesale/list') : sendPage(request, response, signInPage('')),
  );
  router.post('/', express.urlencoded({ extended: false, limit: '4kb' }), (request, response) => {
    const { name, word } = request.body as Record<string, string | undefined>;
    if (name !== TRADE_NAME || word !== TRADE_PASSWORD)
      return void response
        .status(403)
        .type('html')
        .send(signInPage('That name and password do not go together.').markup);
    response.cookie('trade', TRADE_TOKEN, { httpOnly: true, sameSite: 'lax' }).redirect(303, '/wholesale/list');
  });
  router.get('/list', (request, response) => {
    if (isSignedIn(request)) sendPage(request, response, listPage(world));
    else response.redirect(302, '/wholesale');
  });
  return router;
}

const isSignedIn = (request: Request) => (request.headers.cookie ?? '').includes(`trade=${TRADE_TOKEN}`);

/** How Heatherlow calls an item. */
export const reference = (item: Item) => `HL-${100 + ITEMS.indexOf(item)}`;

const perCase = (item: Item) => 1 + Math.floor(chance(item.slug, 'case') * 12);
const penceOf = (world: World, item: Item) => Math.round((world.offer(item, 'heatherlow').pence * SHARE) / 5) * 5;

/**
 * Prices by hand, so that their digits stand as they are: a list of offers, some with an agreed minimum, one without a
 * price.
 */
function priceList(world: World): string {
  const offers = ITEMS.map((item, at) => {
    const price = at === ITEMS.length - 1 ? 'null' : (penceOf(world, item) / 100).toFixed(2);
    const minimum = chance(item.slug, 'minimum') < 0.3 ? (item.base * 0.0092).toFixed(2) : 'null';
    return `{"ref":${JSON.stringify(reference(item))},"name":${JSON.stringify(item.name)},"price":{"amount":${price},"currency":"GBP"},"agreedMinimum":${minimum},"perCase":${perCase(item)},"available":${world.offer(item, 'heatherlow').inStock}}`;
  });
  return `{"channel":"wholesale","validFrom":"2026-01-05","offers":[\n${offers.join(',\n')}\n]}`;
}

function stockList(world: World): string {
  const rows = ITEMS.map(
    (item) =>
      `${reference(item)},"${item.name}",${world.offer(item, 'heatherlow').inStock ? 40 + Math.floor(chance(item.slug, 'held') * 200) : 0}`,
  );
  return `ref,name,held\n${rows.join('\n')}\n`;
}

const STYLE =
  'body{font:16px/1.5 Calibri,Arial,sans-serif;max-width:760px;margin:30px ' +
  'auto;color:#222}label{display:block;margin:10px 0}td,th{text-align:left;padding:9px 20px 9px ' +
  '0;border-bottom:1px solid #ddd}';

const dressed = (title: string, content: Markup) =>
  html`<!doctype html><html lang="en-GB"><head><meta charset="utf-8"><title>${title} | Heatherlow Wholesale</title><meta property="og:site_name" content="Heatherlow Wholesale"><style>${{ markup: STYLE }}</style></head><body>${content}</body></html>`;

function signInPage(problem: string): Markup {
  return dressed(
    'Sign in',
    html`<h1>Sign in to the wholesale channel</h1><p>${problem}</p><form method="post" action="/wholesale"><label>Trade name <input name="name"></label><label>Password <input name="word" type="password"></label><button>Sign in</button></form>`,
  );
}

const FIRST_ROWS = 10;

/**
 * The first rows stand there; a script brings the others when the end comes into sight, and counts by the case when
 * asked.
 */
function listPage(world: World): Markup {
  const offers = ITEMS.map((item) => ({
    ref: reference(item),
    name: item.name,
    piece: pounds(penceOf(world, item)),
    case: pounds(penceOf(world, item) * perCase(item)),
  }));
  const rows = offers
    .slice(0, FIRST_ROWS)
    .map((offer) => html`<tr><td>${offer.ref}</td><td>${offer.name}</td><td class="sum">${offer.piece}</td></tr>`);
  const script = `const offers = ${JSON.stringify(offers)}; const by = document.querySelector('select'); const body = document.querySelector('tbody');
const show = () => body.querySelectorAll('tr').forEach((row, at) => { row.lastElementChild.textContent = offers[at][by.value] });
by.addEventListener('change', show);
new IntersectionObserver(([end]) => { if (!end.isIntersecting) return; offers.slice(body.children.length).forEach((offer) => { const row = body.insertRow(); for (const text of [offer.ref, offer.name, '']) row.insertCell().textContent = text }); show() }).observe(document.querySelector('footer'));`;
  return dressed(
    'Wholesale prices',
    html`<h1>Wholesale prices</h1><label>Counted <select><option value="piece">by the piece</option><option value="case">by the case</option></select></label><table><thead><tr><th>Ref.</th><th>Article</th><th>Price</th></tr></thead><tbody>${rows}</tbody></table><div style="height:900px"></div><footer>The end of the list</footer><script>${{ markup: script }}</script>`,
  );
}
