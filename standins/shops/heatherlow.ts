import type { Router } from 'express';
import express from 'express';
import { html, type Markup } from '#core/tell/markup';
import { ITEMS, type Item } from '../world/items';
import type { World } from '../world/world';
import { pounds, productFor, sendPage } from './shop';
import { reference, wholesale } from './wholesale';

/** Heatherlow's own shop, and its wholesale channel. */
export function heatherlow(world: World): Router {
  const router = express.Router();
  router.get('/', (request, response) => sendPage(request, response, frontPage(world)));
  router.get('/shop/:slug', (request, response) => {
    const item = productFor(world, 'heatherlow', request, response, page);
    if (item !== null) sendPage(request, response, itemPage(world, item));
  });
  router.use('/wholesale', wholesale(world));
  return router;
}

function page(title: string, content: Markup): Markup {
  return html`<!doctype html><html lang="en-GB"><head><meta charset="utf-8"><title>${title} | Heatherlow Apiary Supplies</title><meta property="og:site_name" content="Heatherlow"><style>${{ markup: 'body{font:16px/1.5 Calibri,Arial,sans-serif;max-width:900px;margin:30px auto;color:#222}.sum{font-size:30px}.row{display:flex;gap:24px;border-bottom:1px solid #ddd;padding:6px 0}' }}</style></head><body><p><b>Heatherlow Apiary Supplies</b></p>${content}</body></html>`;
}

function itemPage(world: World, item: Item): Markup {
  const offer = world.offer(item, 'heatherlow');
  const data = JSON.stringify({
    '@context': 'https://schema.org',
    '@type': 'Product',
    name: item.name,
    sku: reference(item),
    offers: {
      '@type': 'Offer',
      price: (offer.pence / 100).toFixed(2),
      priceCurrency: 'GBP',
      availability: `https://schema.org/${offer.inStock ? 'InStock' : 'OutOfStock'}`,
    },
  });
  if (world.conduct(item.slug, 'heatherlow').layout === 'rebuilt') {
    return page(
      item.name,
      html`<div class="row"><h2>${item.name}</h2></div><div class="row"><b>Price</b><span>${pounds(offer.pence)}</span></div><div class="row"><b>Stock</b><span>${offer.inStock ? 'In stock' : 'Out of stock'}</span></div><p>${item.blurb}</p>`,
    );
  }
  return page(
    item.name,
    html`<script type="application/ld+json">${{ markup: data }}</script><h1>${item.name}</h1><p>Our reference ${reference(item)}</p><p class="sum" id="sum">${pounds(offer.pence)}</p><p class="stock">${offer.inStock ? 'In stock' : 'Out of stock'}</p><p>${item.blurb}</p>`,
  );
}

function frontPage(world: World): Markup {
  return page(
    'Bee-keeping supplies',
    html`<h1>Bee-keeping supplies</h1>${ITEMS.map((item) => html`<div class="row"><span class="ref">${reference(item)}</span><a class="what" href="/shop/${item.slug}">${item.name}</a><span class="price">${pounds(world.offer(item, 'heatherlow').pence)}</span></div>`)}`,
  );
}
