import { sanitiseText } from '#core/value/sanitise';
import { FILTERS, ORDERS } from '#server/db/watch/standings';

export const MOST_QUERY = 500;

/** What of the list of watches an address asks for, and in which order. */
export function readAsked(asked: URLSearchParams) {
  const word = (name: string) => sanitiseText(asked.get(name) ?? '').slice(0, MOST_QUERY);
  const [query, site, owner, tag] = [word('q').trim(), word('site'), word('owner'), word('tag')];
  const filter = FILTERS.find((each) => each === asked.get('show')) ?? 'all';
  const order = ORDERS.find((each) => each === asked.get('sort')) ?? 'name';
  // A pasted address may end in a slash, or not.
  return {
    query,
    filter,
    order,
    site,
    owner,
    tag,
    list: { filter, words: query.replace(/(?<=.)\/$/, ''), site, owner, tag },
  };
}
