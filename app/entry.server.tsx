import { randomBytes } from 'node:crypto';
import { PassThrough } from 'node:stream';
import { createReadableStreamFromReadable } from '@react-router/node';
import { renderToPipeableStream } from 'react-dom/server';
import { ServerRouter, type EntryContext, type HandleErrorFunction } from 'react-router';
import { loggedPath } from '#server/web/by-link';
import { services } from './services.server';

/** After this long a page that is still being made is cut off. */
export const streamTimeout = 5_000;

const NONCE_BYTES = 16;

/**
 * What a page of ours may load and run: its own, and nothing that a watched page could have brought in (CSP Level 3).
 */
function policy(nonce: string): string {
  return [
    `default-src 'none'; script-src 'self' 'nonce-${nonce}'; connect-src 'self'; img-src 'self' data:; font-src ` +
      `'self' data:`,
    // Charts and overlays are placed by style attributes; sheets are our own, or bear the page's word.
    `style-src 'self' 'nonce-${nonce}'; style-src-attr 'unsafe-inline'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'`,
  ].join('; ');
}

/** Renders a page as a stream; it begins when its shell is ready. */
export default function handleRequest(
  request: Request,
  status: number,
  headers: Headers,
  context: EntryContext,
): Promise<Response> {
  return new Promise((resolve, reject) => {
    const nonce = randomBytes(NONCE_BYTES).toString('base64');
    const { pipe, abort } = renderToPipeableStream(<ServerRouter context={context} url={request.url} nonce={nonce} />, {
      nonce,
      onShellReady() {
        const body = new PassThrough();
        headers.set('content-security-policy', policy(nonce));
        headers.set('content-type', 'text/html; charset=utf-8');
        pipe(body);
        resolve(new Response(createReadableStreamFromReadable(body), { headers, status }));
      },
      onShellError: reject,
      onError: (error: unknown) => services().log.error({ err: error }, 'rendering failed'),
    });
    setTimeout(abort, streamTimeout + 1_000).unref();
  });
}

/**
 * What goes wrong in a loader or an action goes to the log, with where it happened; a request that was left does not.
 */
export const handleError: HandleErrorFunction = (error, { request }) => {
  if (request.signal.aborted) return;
  services().log.error(
    { err: error, method: request.method, path: loggedPath(new URL(request.url).pathname) },
    'request failed',
  );
};
