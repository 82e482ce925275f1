import express, { type Router } from 'express';
import { html, type Markup } from '#core/tell/markup';
import { plainPage } from '../plain-page';
import type { World } from '../world/world';

/** What somebody posted here. */
export interface Received {
  at: number;
  path: string;
  headers: Record<string, string>;
  body: string;
  /** What it was answered with; null where nothing was. */
  answered: number | null;
}

const MOST_KEPT = 200;
const MOST_BYTES = '2mb';

/** A program of somebody else that takes posts, as the stage wants it to, and shows what came. */
export class Receiver {
  readonly received: Received[] = [];

  constructor(private readonly world: World) {}

  /** Takes posts at any path below /in, and lists them. */
  pages(): Router {
    const router = express.Router();
    router.get('/', (_request, response) => void response.type('html').send(this.#page().markup));
    router.get('/received.json', (_request, response) => void response.json(this.received));
    router.post('/in{/*rest}', express.text({ type: () => true, limit: MOST_BYTES }), (request, response) => {
      const { receiver } = this.world.conduct();
      const status = { accepts: 204, 'answers 500': 500, 'leads elsewhere': 307, hangs: null }[receiver];
      const headers = Object.fromEntries(Object.entries(request.headers).map(([name, value]) => [name, String(value)]));
      this.received.push({
        at: this.world.clock(),
        path: request.path,
        headers,
        body: String(request.body),
        answered: status,
      });
      this.received.splice(0, Math.max(0, this.received.length - MOST_KEPT));
      if (status === 307) response.redirect(307, '/in/elsewhere');
      else if (status === 500) response.status(500).type('text').send('The receiver has a bad day.');
      else if (status !== null) response.status(status).end();
    });
    return router;
  }

  #page(): Markup {
    const rows = [...this.received]
      .reverse()
      .map(
        ({ at, path, body, answered }) =>
          html`<tr><td>${new Date(at).toISOString()}</td><td>${path}</td><td>${answered === null ? 'nothing' : String(answered)}</td></tr><tr><td colspan="3"><pre>${body}</pre></td></tr>`,
      );
    return plainPage(
      'Webhook receiver',
      html`<h1>Webhook receiver</h1><p>What is posted to <code>/in</code> here, the latest first: ${String(this.received.length)} kept.</p><table><thead><tr><th>At</th><th>Path</th><th>Answered</th></tr></thead><tbody>${rows}</tbody></table>`,
    );
  }
}
