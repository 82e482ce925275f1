import type { RequestHandler, Router } from 'express';
import express from 'express';
import { html, type Markup } from '#core/tell/markup';
import { plainPage } from '../plain-page';
import { SENSORS, sensorKey } from '../sensors/gateway';
import { postReadings } from '../sensors/logger';
import { findItem, ITEMS, type Item } from '../world/items';
import { CHOICES, keyOf, SITES, type Push, type Site, type World } from '../world/world';

const SHOPS = [
  'skepwright',
  'combe-larder',
  'nectarine-row',
  'imkerhaus',
  'heatherlow',
] as const satisfies readonly Site[];
const ITEM_PATHS: Record<(typeof SHOPS)[number], string> = {
  skepwright: '/p/',
  'combe-larder': '/goods/',
  'nectarine-row': '/item/',
  imkerhaus: '/artikel/',
  heatherlow: '/shop/',
};

type Choosable = keyof typeof CHOICES;

/** The stage: where a person makes things happen in the simulated world. */
export function stage(world: World, addressOf: (name: string) => string, shrike: string | null): Router {
  const router = express.Router();
  router.use(ownPagesOnly(addressOf('stage')));
  router.use(express.urlencoded({ extended: false, limit: MOST_FORM }));
  router.get(
    '/',
    (request, response) =>
      void response.type('html').send(stagePage(world, shopNamed(request.query.shop), addressOf).markup),
  );
  router.post('/push', (request, response) => {
    const problem = pushFrom(world, request.body as Record<string, string>);
    if (problem === null) response.redirect(303, pageOf(request.get('referer'), addressOf('stage')));
    else
      response
        .status(400)
        .type('html')
        .send(plainPage('Stage', html`<p>${problem}</p><p><a href="/">Back</a></p>`).markup);
  });
  router.post('/post', (request, response, next) => {
    const { address = '', secret = '' } = request.body as Record<string, string>;
    postReadings(world, shrike, address.trim(), secret.trim())
      .then((said) =>
        response.type('html').send(plainPage('Stage', html`<p>${said}</p><p><a href="/">Back</a></p>`).markup),
      )
      .catch(next);
  });
  return router;
}

const MOST_FORM = '20kb';

/**
 * What changes the world is asked for by the stage's own pages, and by no other page that is open in the same browser.
 */
function ownPagesOnly(own: string): RequestHandler {
  return (request, response, next) => {
    const { origin } = request.headers;
    const site = request.headers['sec-fetch-site'];
    const foreign =
      origin === undefined ? site !== undefined && site !== 'same-origin' && site !== 'none' : origin !== own;
    if (request.method !== 'GET' && foreign)
      return void response.status(403).type('text').send('This did not come from the stage’s own page.');
    next();
  };
}

/** The page of the stage that a push came from. */
function pageOf(referer: string | undefined, own: string): string {
  const url = referer !== undefined && URL.canParse(referer) ? new URL(referer) : null;
  return url?.origin === own ? `${url.pathname}${url.search}` : '/';
}

/** The sites whose lists can be built anew. */
const LISTING_SITES: readonly Site[] = ['combe-larder', 'supplier'];

const shopNamed = (name: unknown) => SHOPS.find((shop) => shop === name) ?? 'skepwright';

function isKnown(slug: string): boolean {
  if ((SITES as readonly string[]).includes(slug) || SENSORS.some((sensor) => sensorKey(sensor.name) === slug))
    return true;
  const [shop = '', item] = slug.split('/');
  return item === undefined
    ? findItem(slug) !== undefined
    : (SHOPS as readonly string[]).includes(shop) && findItem(item) !== undefined;
}

function pushFrom(world: World, body: Record<string, string>): string | null {
  const { what, slug = '', value = '' } = body;
  const name = slug === '' ? null : slug;
  if (name !== null && !isKnown(name)) return `There is no item “${slug}”.`;
  if (what === 'forget') world.push('forget', null, '');
  else if (what === 'price') {
    const pence = Math.round(Number(value.replace(/[£,\s]/g, '')) * 100);
    if (name === null || !Number.isFinite(pence) || pence <= 0) return `“${value}” is not a price.`;
    world.push('price', name, String(pence));
  } else if ((CHOICES[what as Choosable] as readonly string[] | undefined)?.includes(value))
    world.push(what as Push['what'], name, value);
  else return 'That cannot be done here.';
  return null;
}

function stagePage(world: World, shop: (typeof SHOPS)[number], addressOf: (name: string) => string): Markup {
  const whole = world.conduct();
  const sites = SITES.map((site) => {
    const conduct = world.conduct(null, site);
    return html`<tr><td><a href="${addressOf(site)}">${site}</a></td><td>${choice('speed', site, conduct.speed)}</td><td>${choice('robots', site, conduct.robots)}</td><td>${site === 'webshop' ? choice('counter', site, 'running') : html``}</td><td>${LISTING_SITES.includes(site) ? choice('layout', site, conduct.layout) : html``}</td></tr>`;
  });
  const tabs = SHOPS.map((each) =>
    each === shop ? html`<strong>${each}</strong> ` : html`<a href="/?shop=${each}">${each}</a> `,
  );
  const script = shop === 'nectarine-row' ? html`<th>Script</th>` : html``;
  return plainPage(
    'Stage',
    html`<h1>Stage</h1><p>Make something happen in the simulated world, then see what Shrike makes of it. Mail arrives in the <a href="${addressOf('mailroom')}">mail room</a>, texts on <a href="${addressOf('texts')}">phones</a>, posts at the <a href="${addressOf('receiver')}">receiver</a>.</p>
<table><tbody><tr><td>Every site’s speed</td><td>${choice('speed', '', whole.speed)}</td><td></td></tr><tr><td>The mail server</td><td>${choice('mail', '', whole.mail)}</td><td></td></tr>
<tr><td>The webhook receiver</td><td>${choice('receiver', '', whole.receiver)}</td><td></td></tr>
<tr><td>Everything pushed</td><td><form method="post" action="/push"><input type="hidden" name="what" value="forget"><button>Forget it, let the world go its way</button></form></td><td></td></tr></tbody></table>
<h2>Sites</h2><table><thead><tr><th>Site</th><th>Speed</th><th>Programs are</th><th>Counters</th><th>Layout</th></tr></thead><tbody>${sites}</tbody></table>
<h2>Items: ${tabs}</h2><table><thead><tr><th>Item</th><th>Price</th><th>Stock</th><th>Page</th><th>Layout</th><th>Consent</th>${script}</tr></thead><tbody>${ITEMS.map((item) => itemRow(world, item, shop, addressOf(shop)))}</tbody></table>
<h2>A logger that posts</h2><form method="post" action="/post"><input type="text" name="address" aria-label="Address to post to" placeholder="Address" style="width:330px"><input type="text" name="secret" aria-label="Secret" placeholder="Secret" style="width:220px"><button>Post the readings of now</button></form>
<h2>Sensors</h2><table><thead><tr><th>Sensor</th><th>Conduct</th><th>Door</th></tr></thead><tbody>${SENSORS.map((sensor) => sensorRow(world, sensor.name))}</tbody></table>`,
  );
}

function itemRow(world: World, item: Item, shop: (typeof SHOPS)[number], address: string): Markup {
  const offer = world.offer(item, shop);
  const conduct = world.conduct(item.slug, shop);
  const key = keyOf(shop, item.slug);
  const script = shop === 'nectarine-row' ? html`<td>${choice('script', key, conduct.script)}</td>` : html``;
  return html`<tr id="${item.slug}"><td><a href="${address}${ITEM_PATHS[shop]}${item.slug}">${item.name}</a></td>
<td><form method="post" action="/push"><input type="hidden" name="what" value="price"><input type="hidden" name="slug" value="${key}"><input type="text" name="value" value="${(offer.pence / 100).toFixed(2)}" aria-label="Price of ${item.name}"><button>Set</button></form></td>
<td>${choice('stock', key, offer.inStock ? 'in' : 'out')}</td><td>${choice('page', key, conduct.page)}</td><td>${choice('layout', key, conduct.layout)}</td><td>${choice('consent', key, conduct.consent)}</td>${script}</tr>`;
}

function sensorRow(world: World, name: string): Markup {
  const conduct = world.conduct(name, 'gateway');
  const door = name === 'store/door' ? choice('door', sensorKey(name), conduct.door) : html``;
  return html`<tr><td>${name}</td><td>${choice('sensor', sensorKey(name), conduct.sensor)}</td><td>${door}</td></tr>`;
}

function choice(what: Choosable, slug: string, now: string): Markup {
  const options = CHOICES[what].map(
    (value) => html`<option value="${value}" ${{ markup: value === now ? 'selected' : '' }}>${value}</option>`,
  );
  return html`<form method="post" action="/push"><input type="hidden" name="what" value="${what}"><input type="hidden" name="slug" value="${slug}"><select name="value" aria-label="${what} ${slug}">${options}</select><button>Set</button></form>`;
}
