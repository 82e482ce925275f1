import type { RequestHandler } from 'express';

/** Pages and addresses that whoever has the link may open: what stands after the first part is the key to them. */
const BY_LINK = /^\/(take|invited|confirm|leave|feed|reader|m|in)\/[^/]+/;

/** Whether an address is such a key. */
export const isByLink = (path: string): boolean => BY_LINK.test(path);

/** A path as it may stand in a log: without the key that it bears. */
export const loggedPath = (path: string): string => path.replace(BY_LINK, '/$1/…');

/** What was opened by a link is kept by no cache, and its address is told to nobody that it leads to. */
export const keepsLinksPrivate: RequestHandler = (request, response, next) => {
  if (BY_LINK.test(request.path)) response.set({ 'cache-control': 'no-store', 'referrer-policy': 'no-referrer' });
  next();
};
