import express, { type Router } from 'express';
import { html } from '#core/tell/markup';
import type { MailRoom } from '../mailroom/room';
import { plainPage } from '../plain-page';
import { isText } from './taken';

/** A text as it reached a phone. */
export interface ReceivedText {
  at: number;
  phone: string;
  text: string;
}

/** The texts that phones got, the newest first. */
export async function textsIn(room: MailRoom): Promise<ReceivedText[]> {
  const texts = room.list().filter(({ to }) => to.some(isText));
  const opened = await Promise.all(texts.map(({ id }) => room.read(id)));
  return opened.flatMap((mail) =>
    mail === null
      ? []
      : mail.to
          .filter(isText)
          .map((to) => ({ at: mail.receivedAt, phone: to.split('@')[0] ?? '', text: mail.text.trim() })),
  );
}

/** The phones that the gateway reaches, as a page and as JSON. */
export function textPages(room: MailRoom): Router {
  const router = express.Router();
  router.get('/texts.json', async (_request, response) => void response.json(await textsIn(room)));
  router.get('/', async (_request, response) => {
    const rows = (await textsIn(room)).map(
      ({ at, phone, text }) => html`<tr><td>${new Date(at).toISOString()}</td><td>${phone}</td><td>${text}</td></tr>`,
    );
    const list = html`<table><thead><tr><th>At</th><th>Phone</th><th>Text</th></tr></thead><tbody>${rows}</tbody></table>`;
    response
      .type('html')
      .send(plainPage('Texts', html`<h1>Texts</h1><p>What phones got through the text gateway.</p>${list}`).markup);
  });
  return router;
}
