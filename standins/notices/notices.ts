import type { Router } from 'express';
import express from 'express';
import { html, type Markup } from '#core/tell/markup';
import { sendPage } from '../shops/shop';
import { chance, pick } from '../world/random';
import type { World } from '../world/world';

const DAY = 86_400_000;
const BEGINNING = Date.UTC(2026, 0, 1);
const dayOf = (at: number) => Math.floor((at - BEGINNING) / DAY);
const REGIONS = ['Upper Teme', 'Corve Dale', 'Clun Forest', 'Long Mynd', 'Wenlock Edge'];

const plain = (title: string, content: Markup, site: string) =>
  html`<!doctype html><html lang="en-GB"><head><meta charset="utf-8"><title>${title}</title><meta property="og:site_name" content="${site}"><style>${{ markup: 'body{font:16px/1.6 Verdana,sans-serif;max-width:820px;margin:28px auto;padding:0 20px;color:#1d2a1d}table{border-collapse:collapse}td,th{padding:5px 18px 5px 0;border-bottom:1px solid #cfd6cf;text-align:left}.meta{color:#667}' }}</style></head><body>${content}</body></html>`;

/**
 * The regional bee health bulletin: prose that changes when there is news, with a visitor count and a clock that always
 * do.
 */
export function bulletin(world: World): Router {
  const router = express.Router();
  router.get('/', (request, response) => sendPage(request, response, bulletinPage(world.nature(), world.clock())));
  return router;
}

/** What stands in it is of one moment; its count and its clock are of another, and always move. */
function bulletinPage(of: number, now: number): Markup {
  const week = Math.floor(dayOf(of) / 7);
  const notices = REGIONS.filter((region) => chance(region, week, 'foulbrood') < 0.25);
  const mites = pick(['low', 'moderate', 'raised', 'high'], week, 'mites');
  return plain(
    'Regional bee health bulletin',
    html`<h1>Regional bee health bulletin</h1><p class="meta">You are visitor ${410_000 + Math.floor((now - BEGINNING) / 61_000)}. Page made at ${new Date(now).toISOString().slice(11, 19)}.</p>
<h2>Week ${week + 1}</h2><p>Mite pressure in the region is <b id="pressure">${mites}</b>. ${pick(['Treat after the last crop.', 'Count the drop before treating.', 'Keep the boards in and look twice a week.'], week, 'advice')}</p>
<h2>Standstill notices</h2>${notices.length === 0 ? html`<p>No standstill notices are in force.</p>` : html`<ul>${notices.map((region) => html`<li>Foulbrood confirmed: standstill within 3 km in ${region}</li>`)}</ul>`}
<h2>For the diary</h2><p>${pick(['Spring meeting at the hall, seven o’clock.', 'Microscope evening: bring your own bees.', 'Queen rearing day at the teaching apiary.'], Math.floor(week / 2), 'diary')}</p>`,
    'Regional Bee Health',
  );
}

/** A carrier's surcharge terms: a paragraph of law, and a table of percentages that move once a month. */
export function carrier(world: World): Router {
  const router = express.Router();
  router.get('/surcharges', (request, response) => {
    const month = new Date(world.nature()).toISOString().slice(0, 7);
    const percent = (zone: string) => (4 + Math.round(chance(zone, month, 'fuel') * 90) / 10).toFixed(1);
    const rows = ['Zone 1', 'Zone 2', 'Highlands and islands', 'Road freight', 'Air'].map(
      (zone) =>
        html`<tr><td>${zone}</td><td>${percent(zone)} %</td><td>£${(2 + chance(zone, month, 'peak') * 4).toFixed(2)}</td></tr>`,
    );
    sendPage(
      request,
      response,
      plain(
        'Surcharges',
        html`<h1>Surcharges</h1><p>In force from the first of the month. Sums are for each consignment and exclude tax.</p><table><thead><tr><th>Service</th><th>Fuel</th><th>Peak</th></tr></thead><tbody>${rows}</tbody></table><p>Liability is limited to ${pick(['£75', '£75', '£100'], month, 'liability')} a consignment unless agreed in writing.</p>`,
        'Marlbrook Carriers',
      ),
    );
  });
  return router;
}

interface Lot {
  number: string;
  goods: string;
  grade: string;
  kilos: number;
  pence: number;
  packed: string;
}

const GRADES = ['A', 'B', 'C', 'D', 'E', 'F'];

/** From this age on, in days, a lot may be sold before its place is filled anew. */
const SOLD_FROM = 10;

function lotsOn(world: World): Lot[] {
  const today = dayOf(world.nature());
  const lots = Array.from({ length: 14 }, (_, at) => {
    const opened = today - ((today + at * 3) % 17);
    const number = `L${2600 + at * 7 + Math.floor(opened / 17)}`;
    const age = today - opened;
    const grade =
      GRADES[
        Math.min(5, Math.floor(chance(number, 'grade') * 4) + (age > 9 && chance(number, 'falls') < 0.4 ? 1 : 0))
      ] ?? 'C';
    const packed = new Date(BEGINNING + opened * DAY).toISOString().slice(0, 10);
    return {
      number,
      goods: pick(['Wax, clean', 'Wax, cappings', 'Honey, heather', 'Honey, borage', 'Honey, lime'], number),
      grade,
      kilos: 50 * (1 + Math.floor(chance(number, 'kilos') * 12)),
      pence: 480 + Math.floor(chance(number, 'price') * 700) - age * 4,
      packed,
      sold: age >= SOLD_FROM && chance(number, 'sells') < 0.6,
    };
  });
  return lots.filter(({ sold }) => !sold);
}

/** A supplier's list of lots, with wax and honey grades A to F: as a page, and the same as XML. */
export function supplier(world: World): Router {
  const router = express.Router();
  router.get('/lots', (request, response) => {
    const rebuilt = world.conduct(null, 'supplier').layout === 'rebuilt';
    sendPage(
      request,
      response,
      plain(
        'Lots on offer',
        html`<h1>Lots on offer</h1>${rebuilt ? lotCards(world) : lotTable(world)}`,
        'Ottery Wax and Honey',
      ),
    );
  });
  router.get('/lots.xml', (_request, response) => {
    const lots = lotsOn(world).map(
      (lot) =>
        html`<lot number="${lot.number}"><goods>${lot.goods}</goods><grade>${lot.grade}</grade><weight unit="kg">${lot.kilos}</weight><price currency="GBP">${(lot.pence / 100).toFixed(2)}</price><packed>${lot.packed}</packed></lot>`,
    );
    response
      .type('application/xml')
      .send(html`<?xml version="1.0" encoding="utf-8"?><lots xmlns="urn:example:lots">${lots}</lots>`.markup);
  });
  return router;
}

const lotPrice = (lot: Lot) => `£${(lot.pence / 100).toFixed(2)}`;
const packedDay = (lot: Lot) => lot.packed.split('-').reverse().join('/');

function lotTable(world: World): Markup {
  const rows = lotsOn(world).map(
    (lot) =>
      html`<tr><td>${lot.number}</td><td>${lot.goods}</td><td>${lot.grade}</td><td>${lot.kilos} kg</td><td>${lotPrice(lot)}</td><td>${packedDay(lot)}</td></tr>`,
  );
  return html`<table><thead><tr><th>Lot</th><th>Goods</th><th>Grade</th><th>Weight</th><th>Price per kg</th><th>Packed</th></tr></thead><tbody>${rows}</tbody></table>`;
}

function lotCards(world: World): Markup {
  const cards = lotsOn(world).map(
    (lot) =>
      html`<li class="lot"><strong>${lotPrice(lot)}</strong> <span>${lot.number}</span> <em>${lot.goods}</em> <b>${lot.grade}</b> <span>${lot.kilos} kg</span> <time>${packedDay(lot)}</time></li>`,
  );
  return html`<ul>${cards}</ul>`;
}

/** A feed of forage reports: Atom, and the same as RSS. */
export function forage(world: World): Router {
  const router = express.Router();
  const reports = () => {
    const today = dayOf(world.nature());
    return Array.from({ length: 12 }, (_, back) => today - back * 2 + (today % 2)).map((day) => ({
      id: `urn:example:forage:${day}`,
      title:
        `${pick(REGIONS, day, 'where')}: ` +
        `${pick(['lime in full flower', 'heather opening', 'ivy yielding', 'no flow after rain', 'borage cut', 'bramble steady'], day, 'what')}`,
      at: new Date(BEGINNING + day * DAY + 8 * 3_600_000),
      text: `Hives on the scale gained ${(chance(day, 'gain') * 3 - 0.4).toFixed(1)} kg.`,
    }));
  };
  router.get('/atom.xml', (_request, response) => {
    const entries = reports().map(
      (report) =>
        html`<entry><id>${report.id}</id><title>${report.title}</title><updated>${report.at.toISOString()}</updated><link href="http://forage.example/reports/${report.id.slice(-3)}"/><summary>${report.text}</summary></entry>`,
    );
    response
      .type('application/atom+xml')
      .send(
        html`<?xml version="1.0"?><feed xmlns="http://www.w3.org/2005/Atom"><title>Forage reports</title><id>urn:example:forage</id>${entries}</feed>`
          .markup,
      );
  });
  router.get('/rss.xml', (_request, response) => {
    const items = reports().map(
      (report) =>
        html`<item><guid isPermaLink="false">${report.id}</guid><title>${report.title}</title><pubDate>${report.at.toUTCString()}</pubDate><link>http://forage.example/reports/${report.id.slice(-3)}</link><description>${report.text}</description></item>`,
    );
    response
      .type('application/rss+xml')
      .send(
        html`<?xml version="1.0"?><rss version="2.0"><channel><title>Forage reports</title>${items}</channel></rss>`
          .markup,
      );
  });
  return router;
}
