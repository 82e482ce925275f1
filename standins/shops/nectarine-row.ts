import type { Router } from 'express';
import express from 'express';
import { html, type Markup } from '#core/tell/markup';
import { findItem, ITEMS, type Item } from '../world/items';
import type { World } from '../world/world';
import { pounds, productFor } from './shop';

const SLOW_SCRIPT_MS = 3500;
const COOKIE = /(?:^|;\s*)nr_choice=/;

/** The rival shop Nectarine Row: an empty page that its script fills, behind a consent wall that a cookie remembers. */
export function nectarineRow(world: World): Router {
  const router = express.Router();
  router.get('/', (_request, response) => void response.type('html').send(shell('Nectarine Row', 'index').markup));
  router.get('/item/:slug', (request, response) => {
    const item = productFor(
      world,
      'nectarine-row',
      request,
      response,
      (title, content) =>
        html`<!doctype html><html lang="en-GB"><head><title>${title}</title></head><body>${content}</body></html>`,
    );
    if (item !== null) response.type('html').send(shell('Nectarine Row', item.slug).markup);
  });
  router.get('/api/:slug', (request, response) => {
    const { script } = world.conduct(request.params.slug, 'nectarine-row');
    const item = findItem(request.params.slug);
    if (!COOKIE.test(request.headers.cookie ?? '')) response.status(403).json({ error: 'no choice yet' });
    else if (script === 'broken') response.status(500).json({ error: 'out of order' });
    else
      setTimeout(
        () => response.json(item === undefined ? ITEMS.map((each) => offerJson(world, each)) : offerJson(world, item)),
        script === 'slow' ? SLOW_SCRIPT_MS : 120,
      );
  });
  return router;
}

function offerJson(world: World, item: Item) {
  const offer = world.offer(item, 'nectarine-row');
  return {
    slug: item.slug,
    name: item.name,
    price: pounds(offer.pence),
    was: offer.wasPence === null ? null : pounds(offer.wasPence),
    stock: offer.inStock,
    text: item.blurb,
    rebuilt: world.conduct(item.slug, 'nectarine-row').layout === 'rebuilt',
  };
}

const STYLE = `body{margin:0;font:16px/1.5 'Trebuchet MS',sans-serif;background:#fff6ef;color:#3b2218}header{padding:18px 28px;background:#f6a46b;font:700 25px 'Trebuchet MS'}main{max-width:860px;margin:26px auto;padding:0 24px}
.wall{position:fixed;inset:0;background:rgba(40,20,10,.75);display:flex;align-items:center;justify-content:center}.wall div{background:#fff;padding:28px;max-width:420px}.wall button{margin-right:12px;padding:9px 16px}
.tag{font-size:33px;color:#b03a10}.tabs button{padding:6px 14px;border:0;background:#fde2cf;margin-right:6px}.wait{color:#977}`;

/** What a plain fetch gets: a frame, a waiting line, and the script that does the rest. */
function shell(title: string, slug: string): Markup {
  const script = `
const slug=${JSON.stringify(slug)};const main=document.querySelector('main');
const chosen=()=>/nr_choice=/.test(document.cookie);
function wall(){const w=document.createElement('div');w.className='wall';w.innerHTML='<div><h2>A word about cookies</h2><p>We would like to remember you. You may say no; the shop works either way.</p><button id="yes">Accept</button><button id="no">Reject</button></div>';
document.body.append(w);for(const b of w.querySelectorAll('button'))b.addEventListener('click',()=>{document.cookie='nr_choice='+b.id+';path=/';w.remove();fill()})}
async function fill(){const r=await fetch('/api/'+slug);if(!r.ok){main.innerHTML='<p class="wait">Something went wrong. Please come back later.</p>';return}
const d=await r.json();if(Array.isArray(d)){main.innerHTML='<h1>Everything on the row</h1><div class="all">'+d.map(o=>'<article class="pot"><a href="/item/'+o.slug+'"><h3>'+o.name+'</h3></a><span class="tag">'+o.price+'</span><em>'+(o.stock?'Available':'Sold out')+'</em></article>').join('')+'</div>';return}
if(d.rebuilt){main.innerHTML='<section class="plate"><h2>'+d.name+'</h2><p>'+d.text+'</p><dl><dt>Yours for</dt><dd><strong>'+d.price+'</strong></dd><dt>Availability</dt><dd>'+(d.stock?'Available now':'Sold out')+'</dd><dt>Carriage</dt><dd>£4.50</dd></dl></section>';return}
main.innerHTML='<h1>'+d.name+'</h1><p><span class="tag">'+d.price+'</span></p><p class="have">'+(d.stock?'Available now':'Sold out')+'</p><div class="tabs"><button data-tab="text">About</button><button data-tab="carriage">Carriage</button></div><section id="tab"></section>';
const tab=document.getElementById('tab');const show=n=>{tab.innerHTML=n==='carriage'?'<p>Carriage within the country <b class="carriage">£4.50</b></p>':'<p>'+d.text+'</p>'};show('text');
for(const b of main.querySelectorAll('[data-tab]'))b.addEventListener('click',()=>show(b.dataset.tab))}
chosen()?fill():wall();`;
  return html`<!doctype html><html lang="en-GB"><head><meta charset="utf-8"><title>${title}</title><meta property="og:site_name" content="Nectarine Row"><style>${{ markup: STYLE }}</style></head>
<body><header>Nectarine Row</header><main><p class="wait">One moment, please …</p></main><script>${{ markup: script }}</script></body></html>`;
}
