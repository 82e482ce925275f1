import type { Router } from 'express';
import express from 'express';
import { html, type Markup } from '#core/tell/markup';
import { plainPage } from '../plain-page';
import { findItem, ITEMS, type Item } from '../world/items';
import type { Conduct, Push, World } from '../world/world';

const CHOICES: Partial<Record<Push['what'], string[]>> = {
  stock: ['in', 'out'],
  page: ['there', 'missing', 'retired', 'not a page', 'huge'],
  layout: ['usual', 'rebuilt'],
  speed: ['usual', 'slow'],
  mail: ['accepts', 'defers', 'refuses'],
};

/** The stage: where a person makes things happen in the simulated world. */
export function stage(world: World, addressOf: (name: string) => string): Router {
  const router = express.Router();
  router.use(express.urlencoded({ extended: false }));
  router.get('/', (_request, response) => void response.type('html').send(stagePage(world, addressOf).markup));
  router.post('/push', (request, response) => {
    const problem = pushFrom(world, request.body as Record<string, string>);
    if (problem === null) response.redirect(303, '/');
    else
      response
        .status(400)
        .type('html')
        .send(plainPage('Stage', html`<p>${problem}</p><p><a href="/">Back</a></p>`).markup);
  });
  return router;
}

function pushFrom(world: World, body: Record<string, string>): string | null {
  const { what, slug = '', value = '' } = body;
  const item = slug === '' ? null : slug;
  if (item !== null && findItem(item) === undefined) return `There is no item “${slug}”.`;
  if (what === 'forget') world.push('forget', null, '');
  else if (what === 'price') {
    const pence = Math.round(Number(value.replace(/[£,\s]/g, '')) * 100);
    if (item === null || !Number.isFinite(pence) || pence <= 0) return `“${value}” is not a price.`;
    world.push('price', item, String(pence));
  } else if (CHOICES[what as Push['what']]?.includes(value)) world.push(what as Push['what'], item, value);
  else return 'That cannot be done here.';
  return null;
}

function stagePage(world: World, addressOf: (name: string) => string): Markup {
  const conduct = world.conduct();
  return plainPage(
    'Stage',
    html`<h1>Stage</h1><p>Make something happen in the simulated world, then see what Shrike makes of it. Mail arrives in the <a href="${addressOf('mailroom')}">mail room</a>; the shop is <a href="${addressOf('skepwright')}">Skepwright</a>.</p>
<table><tbody><tr><td>Skepwright’s speed</td><td>${choice('speed', '', conduct.speed)}</td></tr><tr><td>The mail server</td><td>${choice('mail', '', conduct.mail)}</td></tr>
<tr><td>Everything pushed</td><td><form method="post" action="/push"><input type="hidden" name="what" value="forget"><button>Forget it, let the world go its way</button></form></td></tr></tbody></table>
<h2>Skepwright’s items</h2><table><thead><tr><th>Item</th><th>Price</th><th>Stock</th><th>Page</th><th>Layout</th></tr></thead><tbody>${ITEMS.map((item) => itemRow(world, item, addressOf('skepwright')))}</tbody></table>`,
  );
}

function itemRow(world: World, item: Item, shop: string): Markup {
  const offer = world.offer(item);
  const conduct: Conduct = world.conduct(item.slug);
  return html`<tr id="${item.slug}"><td><a href="${shop}/p/${item.slug}">${item.name}</a></td>
<td><form method="post" action="/push"><input type="hidden" name="what" value="price"><input type="hidden" name="slug" value="${item.slug}">£<input type="text" name="value" value="${(offer.pence / 100).toFixed(2)}" aria-label="Price of ${item.name}"><button>Set</button></form></td>
<td>${choice('stock', item.slug, offer.inStock ? 'in' : 'out')}</td><td>${choice('page', item.slug, conduct.page)}</td><td>${choice('layout', item.slug, conduct.layout)}</td></tr>`;
}

function choice(what: Push['what'], slug: string, now: string): Markup {
  const options = (CHOICES[what] ?? []).map(
    (value) => html`<option value="${value}" ${{ markup: value === now ? 'selected' : '' }}>${value}</option>`,
  );
  return html`<form method="post" action="/push"><input type="hidden" name="what" value="${what}"><input type="hidden" name="slug" value="${slug}"><select name="value" aria-label="${what} ${slug}">${options}</select><button>Set</button></form>`;
}
