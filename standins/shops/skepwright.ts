import type { Router } from 'express';
import express from 'express';
import { html, type Markup } from '#core/tell/markup';
import { ITEMS, type Item } from '../world/items';
import { chance, pick } from '../world/random';
import type { Offer, World } from '../world/world';
import { pounds, productFor, sendPage } from './shop';
import { SHOP_STYLE } from './skepwright-style';

/** The rival shop Skepwright: plain server-made pages with schema.org JSON-LD. */
export function skepwright(world: World): Router {
  const router = express.Router();
  router.get('/', (request, response) => sendPage(request, response, frontPage(world)));
  router.get('/p/:slug', (request, response) => {
    const item = productFor(world, 'skepwright', request, response, page);
    if (item === null) return;
    const offer = world.offer(item);
    const { layout } = world.conduct(request.params.slug);
    sendPage(
      request,
      response,
      layout === 'rebuilt' ? rebuiltPage(item, offer) : productPage(world, item, offer, layout === 'members first'),
    );
  });
  return router;
}

function page(title: string, content: Markup, head: Markup = html``): Markup {
  return html`<!doctype html>
<html lang="en-GB">
<head><meta charset="utf-8"><title>${title} | Skepwright</title><meta property="og:site_name" content="Skepwright">
<meta name="viewport" content="width=device-width, initial-scale=1">${head}<style>${{ markup: SHOP_STYLE }}</style></head>
<body>
<header class="masthead"><a class="masthead__name" href="/">Skepwright</a><nav>${kinds().map((kind) => html`<a href="/#${kind}">${kind}</a>`)}</nav><span class="masthead__note">Free delivery over £60</span></header>
<main>${content}</main>
<footer class="foot"><div><h4>Help</h4><a href="/#delivery">Delivery and returns</a><a href="/#sizes">Sizes</a><a href="/#trade">Trade accounts</a></div><div><h4>The workshop</h4><p>Skepwright has woven skeps and turned smokers since 1931. Orders before two leave the same day.</p></div><div><h4>Post</h4><p>Four letters a year about swarms, queens and new tools.</p></div></footer>
</body></html>`;
}

function kinds(): string[] {
  return [...new Set(ITEMS.map((item) => item.kind))];
}

function frontPage(world: World): Markup {
  const sections = kinds().map(
    (kind) =>
      html`<section id="${kind}"><h2>${kind}</h2><ul class="grid">${ITEMS.filter((item) => item.kind === kind).map((item) => card(item, world.offer(item)))}</ul></section>`,
  );
  return page('Bee-keeping tools', html`<h1>Tools for people who keep bees</h1>${sections}`);
}

function card(item: Item, offer: Offer): Markup {
  return html`<li class="card"><a href="/p/${item.slug}"><span class="card__picture" style="--tint:${Math.round(chance(item.slug) * 360)}"></span><span class="card__name">${item.name}</span></a><span class="card__price">${pounds(offer.pence)}</span><span class="card__stock">${offer.inStock ? '' : 'Sold out'}</span></li>`;
}

function structuredData(item: Item, offer: Offer): Markup {
  const data = {
    '@context': 'https://schema.org',
    '@type': 'Product',
    name: item.name,
    sku: sku(item),
    category: item.kind,
    description: item.blurb,
    brand: { '@type': 'Brand', name: 'Skepwright' },
    aggregateRating: { '@type': 'AggregateRating', ratingValue: rating(item), reviewCount: reviewCount(item) },
    offers: {
      '@type': 'Offer',
      price: (offer.pence / 100).toFixed(2),
      priceCurrency: 'GBP',
      availability: `https://schema.org/${offer.inStock ? 'InStock' : 'OutOfStock'}`,
      itemCondition: 'https://schema.org/NewCondition',
    },
  };
  return { markup: `<script type="application/ld+json">${JSON.stringify(data).replaceAll('<', '\\u003c')}</script>` };
}

const sku = (item: Item) => `SK-${1000 + Math.floor(chance(item.slug, 'sku') * 9000)}`;
const rating = (item: Item) => (4 + chance(item.slug, 'rating') * 0.9).toFixed(1);
const reviewCount = (item: Item) => 6 + Math.floor(chance(item.slug, 'reviews') * 90);

/** What members pay stands where the price did, and the price under it. */
function membersFirst(offer: Offer): Markup {
  const theirs = Math.round((offer.pence * 0.875) / 50) * 50;
  return html`<p class="price"><span class="price__now" id="price">${pounds(theirs)}</span> <small>for members</small></p><p>${pounds(offer.pence)} without a card</p>`;
}

function productPage(world: World, item: Item, offer: Offer, members: boolean): Markup {
  const was = offer.wasPence === null ? html`` : html` <s class="price__was">${pounds(offer.wasPence)}</s>`;
  const others = ITEMS.filter((other) => other.kind === item.kind && other.slug !== item.slug);
  return page(
    item.name,
    html`<article class="product">
<div class="product__picture" style="--tint:${Math.round(chance(item.slug) * 360)}" role="img" aria-label="${item.name}"></div>
<div class="product__facts"><p class="product__kind">${item.kind}</p><h1 class="product__name">${item.name}</h1>
<p class="product__ref">Ref. ${sku(item)} · <span class="product__rating">${rating(item)} of 5</span> from ${reviewCount(item)} reviews</p>
${members ? membersFirst(offer) : html`<p class="price"><span class="price__now" id="price">${pounds(offer.pence)}</span>${was} <small>inc. VAT</small></p>`}
<p class="stock" data-testid="availability">${offer.inStock ? 'In stock' : 'Sold out'}</p>
<form><label>How many <select><option>1</option><option>2</option><option>3</option></select></label> <button type="button" ${{ markup: offer.inStock ? '' : 'disabled' }}>${offer.inStock ? 'Add to basket' : 'Tell me when it is back'}</button></form>
<p class="product__blurb">${item.blurb}</p>
<table class="details"><tbody>${details(item).map(([name, value]) => html`<tr><th scope="row">${name}</th><td>${value}</td></tr>`)}</tbody></table></div></article>
<section class="reviews"><h2>What keepers say</h2>${reviews(item)}</section>
<section><h2>From the same bench</h2><ul class="grid">${others.map((other) => card(other, world.offer(other)))}</ul></section>`,
    structuredData(item, offer),
  );
}

function details(item: Item): [string, string][] {
  return [
    ['Made in', pick(['Shropshire', 'Herefordshire', 'Powys', 'Poland', 'Lithuania'], item.slug, 'made')],
    ['Weight', `${(0.3 + chance(item.slug, 'weight') * 14).toFixed(1)} kg`],
    [
      'Material',
      pick(
        ['copper', 'stainless steel', 'western red cedar', 'cotton drill', 'glass', 'pure wax'],
        item.slug,
        'material',
      ),
    ],
    ['Guarantee', pick(['two years', 'five years', 'ten years'], item.slug, 'guarantee')],
    ['Delivery', 'two to three working days'],
  ];
}

const OPENINGS = [
  'Bought two after the first wet spring.',
  'My third in thirty years.',
  'Arrived a day early, well packed.',
  'Better than the picture.',
  'Does what it says.',
  'A present from my daughter.',
];
const MIDDLES = [
  'The bees have not complained.',
  'The fittings wanted a file, then sat square.',
  'It cleans up with hot water and soda.',
  'Heavier than I thought, and the better for it.',
  'The instructions are one page and that is enough.',
  'I keep it in the shed and it has not rusted.',
];
const CLOSINGS = [
  'Would have it again.',
  'Four stars for the box, five for what was in it.',
  'The old one goes to the club.',
  'No more to say.',
  'My neighbour has ordered one too.',
  'Good tools last.',
];

function reviews(item: Item): Markup[] {
  return Array.from({ length: 12 }, (_, at) => {
    const words = [OPENINGS, MIDDLES, CLOSINGS].map((choices, part) => pick(choices, item.slug, at, part)).join(' ');
    const name = pick(['Hilde', 'Owen', 'Priya', 'Gareth', 'Moira', 'Tomasz', 'Beth', 'Idris'], item.slug, at, 'who');
    return html`<blockquote class="review"><p class="review__head"><strong>${name}</strong> <span>${3 + Math.floor(chance(item.slug, at, 'stars') * 3)} of 5</span></p><p>${words}</p></blockquote>`;
  });
}

/** The same product on a page built anew: other classes, no structured data. */
function rebuiltPage(item: Item, offer: Offer): Markup {
  return page(
    item.name,
    html`<div class="x-panel"><div class="x-head"><strong>${item.name}</strong></div><div class="x-buy"><em class="x-sum">${pounds(offer.pence)}</em><i>${offer.inStock ? 'Ready to send' : 'None left'}</i></div><p>${item.blurb}</p></div>`,
  );
}
