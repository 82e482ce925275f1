import type { Router } from 'express';
import express from 'express';
import { html, type Markup } from '#core/tell/markup';
import { ITEMS, type Item } from '../world/items';
import { chance } from '../world/random';
import type { Offer, World } from '../world/world';
import { productFor, sendPage } from './shop';

const PAGE_SIZE = 8;

/**
 * The rival shop Combe & Larder: tables without semantics, names that say nothing, prices split over spans, a paged
 * list.
 */
export function combeLarder(world: World): Router {
  const router = express.Router();
  router.get('/', (_request, response) => response.redirect(302, '/goods'));
  router.get('/goods', (request, response) =>
    sendPage(request, response, listPage(world, Math.max(1, Number(request.query.page) || 1))),
  );
  router.get('/goods/:slug', (request, response) => {
    const item = productFor(world, 'combe-larder', request, response, page);
    if (item === null) return;
    const offer = world.offer(item, 'combe-larder');
    const rebuilt = world.conduct(request.params.slug, 'combe-larder').layout === 'rebuilt';
    sendPage(request, response, rebuilt ? rebuiltPage(item, offer) : goodsPage(item, offer));
  });
  return router;
}

const STYLE = `body{margin:0;font:15px/1.45 Arial,sans-serif;background:#fbfaf5;color:#30302c}.t{background:#6b7a45;color:#fff;padding:14px 24px;font:700 21px Georgia,serif}
.m{max-width:940px;margin:22px auto;padding:0 22px}td{padding:5px 18px 5px 0;vertical-align:baseline}.b{font-size:25px;font-weight:700}.g{color:#8a8a7e}
.p{width:250px;height:250px;background:linear-gradient(135deg,#f2e6dc,#dfc9ac)}.l{width:100%;border-collapse:collapse}.l td,.l th{border-bottom:1px solid #ddd9c8;text-align:left;padding:7px 14px 7px 0}
.w{display:grid;grid-template-columns:repeat(4,1fr);gap:18px}.c{border:1px solid #ddd9c8;padding:12px;background:#fff}.c h3{font-size:16px;margin:0 0 8px}.c b{font-size:21px;display:block}.c i{color:#6b7a45;display:block}.c small{color:#8a8a7e}
.k{background:#5b6b3a;color:#fff;border:0;padding:10px 18px;font:700 14px Arial}`;

function page(title: string, content: Markup): Markup {
  return html`<!doctype html><html lang="en-GB"><head><meta charset="utf-8"><title>${title} - Combe &amp; Larder</title><meta name="application-name" content="Combe &amp; Larder"><style>${{ markup: STYLE }}</style></head>
<body><div class="t">Combe &amp; Larder</div><div class="m">${content}</div></body></html>`;
}

/** £22.80 as three spans, so that no element but the cell reads as a price. */
function splitPrice(pence: number): Markup {
  const [whole = '0', part = '00'] = (pence / 100).toFixed(2).split('.');
  return html`<span>£</span><span class="b">${whole.replace(/\B(?=(\d{3})+$)/g, ',')}</span><span>.${part}</span>`;
}

const deliveryPence = (item: Item) => (item.base > 20_000 ? 1250 : item.base > 6_000 ? 695 : 395);

function goodsPage(item: Item, offer: Offer): Markup {
  const list = offer.wasPence ?? Math.round((offer.pence * 1.14) / 10) * 10;
  return page(
    item.name,
    html`<table><tr><td><div class="p"></div></td><td><h2>${item.name}</h2><p class="g">Ref. ${ref(item)}</p>
<table><tr><td>List price</td><td class="g"><s>£${(list / 100).toFixed(2)}</s></td></tr>
<tr><td>Our price</td><td>${splitPrice(offer.pence)}</td></tr>
<tr><td>Delivery</td><td>£${(deliveryPence(item) / 100).toFixed(2)}</td></tr>
<tr><td>Availability</td><td>${offer.inStock ? 'In stock, sent in 2 days' : 'Sold out'}</td></tr></table>
<p><button class="k">Put in basket</button></p></td></tr></table><p>${item.blurb}</p>`,
  );
}

const ref = (item: Item) => `CL-${4000 + Math.floor(chance(item.slug, 'cl') * 900)}`;

function rebuiltPage(item: Item, offer: Offer): Markup {
  return page(
    item.name,
    html`<dl><dt>Article</dt><dd><h2>${item.name}</h2></dd><dt>Our price</dt><dd><strong>£${(offer.pence / 100).toFixed(2)}</strong></dd><dt>Carriage</dt><dd>£${(deliveryPence(item) / 100).toFixed(2)}</dd><dt>Availability</dt><dd>${offer.inStock ? 'In stock' : 'Sold out'}</dd></dl>`,
  );
}

function listPage(world: World, number: number): Markup {
  const shown = ITEMS.slice((number - 1) * PAGE_SIZE, number * PAGE_SIZE);
  const { layout } = world.conduct(null, 'combe-larder');
  const rebuilt = layout === 'rebuilt';
  const row = rebuilt
    ? card
    : layout === 'columns swapped'
      ? swappedRow
      : layout === 'members first'
        ? membersRow
        : tableRow;
  const goods = shown.map((item) => row(item, world.offer(item, 'combe-larder')));
  const last = Math.ceil(ITEMS.length / PAGE_SIZE);
  const next = number < last ? html`<a rel="next" href="/goods?page=${number + 1}">Next page</a>` : html``;
  return page(
    'All goods',
    html`<h2>All goods</h2>${rebuilt ? html`<div class="w">${goods}</div>` : html`<table class="l"><tr>${(HEADS[layout] ?? USUAL).map((head) => html`<th>${head}</th>`)}</tr>${goods}</table>`}<p>Page ${number} of ${last} ${next}</p>`,
  );
}

const priceOf = (offer: Offer) => `£${(offer.pence / 100).toFixed(2)}`;
const stockOf = (offer: Offer) => (offer.inStock ? 'In stock' : 'Sold out');

const USUAL = ['Ref.', 'Article', 'Price', 'Stock'];
const HEADS: Record<string, string[]> = {
  'columns swapped': ['Price', 'Stock', 'Ref.', 'Article'],
  'members first': ['Ref.', 'Article', 'Members’ price', 'Stock'],
};

const swappedRow = (item: Item, offer: Offer): Markup =>
  html`<tr><td>${priceOf(offer)}</td><td>${stockOf(offer)}</td><td>${ref(item)}</td><td><a href="/goods/${item.slug}">${item.name}</a></td></tr>`;

const membersRow = (item: Item, offer: Offer): Markup =>
  html`<tr><td>${ref(item)}</td><td><a href="/goods/${item.slug}">${item.name}</a></td><td>${priceOf({ ...offer, pence: Math.round(offer.pence * 0.9) })}</td><td>${stockOf(offer)}</td></tr>`;

function tableRow(item: Item, offer: Offer): Markup {
  return html`<tr><td>${ref(item)}</td><td><a href="/goods/${item.slug}">${item.name}</a></td><td>${priceOf(offer)}</td><td>${stockOf(offer)}</td></tr>`;
}

function card(item: Item, offer: Offer): Markup {
  return html`<section class="c"><h3><a href="/goods/${item.slug}">${item.name}</a></h3><b>${priceOf(offer)}</b><i>${stockOf(offer)}</i><small>${ref(item)}</small></section>`;
}
