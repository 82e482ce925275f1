import { createHash } from 'node:crypto';
import type { Request, Response } from 'express';
import { html, type Markup } from '#core/tell/markup';
import { findItem, ITEMS, type Item } from '../world/items';
import type { Site, World } from '../world/world';

const HUGE_BYTES = 12_000_000;

/** How a shop dresses a page in its own look. */
type Dress = (title: string, content: Markup) => Markup;

/** `£1,249.00` */
export const pounds = (pence: number) => `£${grouped((pence / 100).toFixed(2), ',')}`;

/** `1.249,00 €` */
export const euros = (cents: number) =>
  `${grouped((cents / 100).toFixed(2).replace('.', ';'), '.').replace(';', ',')} €`;

function grouped(amount: string, mark: string): string {
  return amount.replace(/\B(?=(\d{3})+(?!\d))(?<![.;]\d*)/g, mark);
}

/** Sends a page with its entity tag, or word that it is still the same. */
export function sendPage(request: Request, response: Response, content: Markup): void {
  const etag = `"${createHash('sha256').update(content.markup).digest('base64url').slice(0, 22)}"`;
  response.set('etag', etag);
  if (request.headers['if-none-match'] === etag) response.status(304).end();
  else response.type('html').send(content.markup);
}

/**
 * The item that a product page is for, as the stage wants it: another one where it was swapped. Null when the page is
 * not there, gone, walled or no page at all; then the answer has been sent.
 */
export function productFor(
  world: World,
  site: Site,
  request: Request<{ slug: string }>,
  response: Response,
  dress: Dress,
): Item | null {
  const { slug } = request.params;
  const item = findItem(slug);
  const conduct = world.conduct(slug, site);
  const send = (status: number, title: string, content: Markup) =>
    void response.status(status).type('html').send(dress(title, content).markup);
  if (item === undefined || conduct.page === 'missing') send(404, 'Not here', html`<h1>We cannot find that page</h1>`);
  else if (conduct.page === 'retired') send(410, 'Gone', html`<h1>We no longer sell this</h1>`);
  else if (conduct.page === 'not a page') response.type('application/pdf').send(Buffer.from('%PDF-1.4'));
  else if (conduct.page === 'huge')
    response.type('html').send(`<!doctype html>${'<p>bees</p>'.repeat(HUGE_BYTES / 11)}`);
  else if (conduct.consent === 'wall') send(200, 'Your privacy', CONSENT_WALL);
  else return conduct.page === 'swapped' ? otherThan(item) : item;
  return null;
}

const CONSENT_WALL = html`<section><h1>Before you go on</h1><p>We and our partners use cookies to remember what you looked at. Choose what you consent to.</p><button>Accept all</button> <button>Reject all</button></section>`;

function otherThan(item: Item): Item {
  return ITEMS.find((other) => other.kind === item.kind && other.slug !== item.slug) ?? item;
}
