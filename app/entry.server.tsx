import { PassThrough } from 'node:stream';
import { createReadableStreamFromReadable } from '@react-router/node';
import { renderToPipeableStream } from 'react-dom/server';
import { ServerRouter, type EntryContext, type HandleErrorFunction } from 'react-router';
import { services } from './services.server';

/** After this long a page that is still being made is cut off. */
export const streamTimeout = 5_000;

/** Renders a page as a stream; it begins when its shell is ready. */
export default function handleRequest(request: Request, status: number, headers: Headers, context: EntryContext): Promise<Response> {
  return new Promise((resolve, reject) => {
    const { pipe, abort } = renderToPipeableStream(<ServerRouter context={context} url={request.url} />, {
      onShellReady() {
        const body = new PassThrough();
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

/** What goes wrong in a loader or an action goes to the log, with where it happened; a request that was left does not. */
export const handleError: HandleErrorFunction = (error, { request }) => {
  if (request.signal.aborted) return;
  services().log.error({ err: error, method: request.method, path: new URL(request.url).pathname }, 'request failed');
};
