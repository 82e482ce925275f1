import { useContext } from 'react';
import { useRouteLoaderData } from 'react-router';
import { NowContext } from '../../../parts/now';
import type { loader } from './route';

/** The reader's place and the server's time, as every view under the shell has them. */
export function useReader() {
  const data = useRouteLoaderData<typeof loader>('routes/shell/frame/route');
  const now = useContext(NowContext);
  if (data === undefined) throw new Error('a view outside the shell asks for the reader');
  return { place: data.place, locale: data.place.locale, now: now ?? data.now };
}
