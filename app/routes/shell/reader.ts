import { useRouteLoaderData } from 'react-router';
import type { loader } from './route';

/** The reader's place and the server's time, as every view under the shell has them. */
export function useReader() {
  const data = useRouteLoaderData<typeof loader>('routes/shell/route');
  if (data === undefined) throw new Error('a view outside the shell asks for the reader');
  return { place: data.place, locale: data.place.locale, now: data.now };
}
