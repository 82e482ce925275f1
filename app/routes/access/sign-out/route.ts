import { redirect } from 'react-router';
import { requireOwnPages, signOut } from '../../../session.server';
import type { Route } from './+types/route';

/** Ends the session; only a page of ours may ask for it. */
export function action({ request }: Route.ActionArgs): Promise<Response> {
  requireOwnPages(request);
  return signOut(request);
}

export function loader(): Response {
  return redirect('/');
}
