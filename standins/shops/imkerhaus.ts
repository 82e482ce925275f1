import type { Router } from 'express';
import express from 'express';
import { html, type Markup } from '#core/tell/markup';
import { ITEMS, type Item } from '../world/items';
import { chance } from '../world/random';
import type { Offer, World } from '../world/world';
import { euros, productFor, sendPage } from './shop';

const NAMES: Record<Item['kind'], string> = {
  Hives: 'Beuten',
  Clothing: 'Schutzkleidung',
  Smokers: 'Smoker',
  Extraction: 'Schleudern',
  Jars: 'Gläser',
  'Wax and feed': 'Wachs und Futter',
};

const EURO_CENTS_PER_PENNY = 1.17;

/** The rival shop Imkerhaus Astrel: German formats, microdata, shipping apart, sizes as separate offers. */
export function imkerhaus(world: World): Router {
  const router = express.Router();
  router.get('/', (request, response) => sendPage(request, response, frontPage(world)));
  router.get('/artikel/:slug', (request, response) => {
    const item = productFor(world, 'imkerhaus', request, response, page);
    if (item === null) return;
    const offer = world.offer(item, 'imkerhaus');
    const rebuilt = world.conduct(request.params.slug, 'imkerhaus').layout === 'rebuilt';
    sendPage(request, response, rebuilt ? rebuiltPage(item, offer) : articlePage(item, offer));
  });
  return router;
}

const STYLE = `body{margin:0;font:15px/1.5 Georgia,serif;background:#fdfcf7;color:#26301f}.kopf{padding:16px 30px;border-bottom:3px double #6a5a2a;font-size:24px}.inhalt{max-width:900px;margin:24px auto;padding:0 24px}
.preis{font-size:28px;font-weight:700}.versand{color:#5c5c50}.groessen{border-collapse:collapse}.groessen td,.groessen th{padding:5px 18px 5px 0;border-bottom:1px solid #ddd;text-align:left}.karte{border-bottom:1px solid #ddd;padding:10px 0;display:flex;gap:20px}`;

function page(title: string, content: Markup): Markup {
  return html`<!doctype html><html lang="de-DE"><head><meta charset="utf-8"><title>${title} – Imkerhaus Astrel</title><meta property="og:site_name" content="Imkerhaus Astrel"><style>${{ markup: STYLE }}</style></head>
<body><div class="kopf">Imkerhaus Astrel</div><div class="inhalt">${content}</div></body></html>`;
}

const cents = (offer: Offer) => Math.round((offer.pence * EURO_CENTS_PER_PENNY) / 10) * 10 - 1;
const shippingCents = (item: Item) => (item.base > 15_000 ? 1490 : 590);
const SIZES = ['S', 'M', 'L', 'XL'];

function articlePage(item: Item, offer: Offer): Markup {
  const sizes = item.kind === 'Clothing' ? sizeTable(item, offer) : html``;
  return page(
    item.name,
    html`<div itemscope itemtype="https://schema.org/Product"><p>${NAMES[item.kind]}</p><h1 itemprop="name">${item.name}</h1><p>Artikel-Nr. <span itemprop="sku">${articleNumber(item)}</span></p>
<div itemprop="offers" itemscope itemtype="https://schema.org/Offer"><p class="preis"><span itemprop="price" content="${(cents(offer) / 100).toFixed(2)}">${euros(cents(offer))}</span><meta itemprop="priceCurrency" content="EUR"></p>
<p class="versand">zzgl. Versand <span class="versandkosten">${euros(shippingCents(item))}</span></p>
<link itemprop="availability" href="https://schema.org/${offer.inStock ? 'InStock' : 'SoldOut'}"><p class="lager">${offer.inStock ? 'Sofort lieferbar' : 'Ausverkauft'}</p></div>
<p itemprop="description">${item.blurb}</p>${sizes}</div>`,
  );
}

const articleNumber = (item: Item) => `A${10_000 + Math.floor(chance(item.slug, 'astrel') * 80_000)}`;

function sizeTable(item: Item, offer: Offer): Markup {
  const rows = SIZES.map((size, at) => {
    const price = cents(offer) + at * 300;
    return html`<tr><td>${articleNumber(item)}</td><td>${size}</td><td>${euros(price)}</td><td>${chance(item.slug, size, 'left') < 0.2 || !offer.inStock ? 'Ausverkauft' : 'Auf Lager'}</td></tr>`;
  });
  return html`<table class="groessen"><tr><th>Artikel</th><th>Größe</th><th>Preis</th><th>Bestand</th></tr>${rows}</table>`;
}

function rebuiltPage(item: Item, offer: Offer): Markup {
  return page(
    item.name,
    html`<section class="produkt-kopf"><h1>${item.name}</h1><div class="kauf"><b>${euros(cents(offer))}</b><small>Versand: ${euros(shippingCents(item))}</small><i>${offer.inStock ? 'Sofort lieferbar' : 'Ausverkauft'}</i></div></section>`,
  );
}

function frontPage(world: World): Markup {
  const cards = ITEMS.map((item) => {
    const offer = world.offer(item, 'imkerhaus');
    return html`<div class="karte"><a class="karte-name" href="/artikel/${item.slug}">${item.name}</a><span class="karte-preis">${euros(cents(offer))}</span><span class="karte-lager">${offer.inStock ? 'Lieferbar' : 'Ausverkauft'}</span></div>`;
  });
  return page('Alles für die Imkerei', html`<h1>Alles für die Imkerei</h1>${cards}`);
}
