import type { Router } from 'express';
import express from 'express';
import { html, type Markup } from '#core/tell/markup';
import { plainPage } from '../plain-page';
import type { MailRoom, OpenedMail } from './room';

/** The pages of the mail room: a list, and each mail as HTML, as plain text and as it came; and the same as JSON. */
export function mailRoomPages(room: MailRoom): Router {
  const router = express.Router();
  router.get('/', (_request, response) => void response.type('html').send(listPage(room).markup));
  router.get('/mails.json', (_request, response) => void response.json(room.list()));
  router.get('/mail/:id.json', async (request, response) => void response.json(await room.read(request.params.id)));
  router.get('/mail/:id', async (request, response) => {
    const mail = await room.read(request.params.id);
    const view = typeof request.query.as === 'string' ? request.query.as : 'html';
    if (mail === null)
      response
        .status(404)
        .type('html')
        .send(plainPage('No such mail', html`<p>There is no such mail here.</p>`).markup);
    else response.type('html').send(mailPage(mail, view).markup);
  });
  router.post('/empty', (_request, response) => {
    room.empty();
    response.redirect(303, '/');
  });
  return router;
}

const when = (at: number) =>
  new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'medium', timeZone: 'Europe/London' }).format(at);

function listPage(room: MailRoom): Markup {
  const mails = room.list();
  const rows = mails.map(
    (mail) =>
      html`<tr><td>${when(mail.receivedAt)}</td><td>${mail.to.join(', ')}</td><td><a href="/mail/${mail.id}">${mail.subject}</a>${mail.sentAgain ? ' (sent again)' : ''}</td></tr>`,
  );
  const body =
    mails.length === 0
      ? html`<p>No mail has come yet.</p>`
      : html`<table><thead><tr><th>Received</th><th>To</th><th>Subject</th></tr></thead><tbody>${rows}</tbody></table>`;
  return plainPage(
    'Mail room',
    html`<h1>Mail room</h1><p>Everything Shrike mails in this demo arrives here, through real SMTP. ${mails.length} kept.</p>${body}`,
  );
}

function mailPage(mail: OpenedMail, view: string): Markup {
  const tab = (as: string, name: string) =>
    view === as ? html`<strong>${name}</strong> ` : html`<a href="?as=${as}">${name}</a> `;
  return plainPage(
    mail.subject,
    html`<p><a href="/">Mail room</a></p><h1>${mail.subject}</h1>
<p>From ${mail.from}, to ${mail.to.join(', ')}, ${when(mail.receivedAt)}<br><small>${mail.messageId}</small></p>
<p>${tab('html', 'HTML')}${tab('text', 'Plain text')}${tab('source', 'As it came')}</p>${mailBody(mail, view)}`,
  );
}

function mailBody(mail: OpenedMail, view: string): Markup {
  if (view === 'text') return html`<pre id="text">${mail.text}</pre>`;
  if (view === 'source') return html`<pre>${mail.source}</pre>`;
  return html`<iframe title="The mail" sandbox="allow-popups allow-popups-to-escape-sandbox allow-top-navigation-by-user-activation" srcdoc="${(mail.html ?? '').replace('<head>', '<head><base target="_blank">')}"></iframe>`;
}
