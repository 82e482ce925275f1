import { sanitiseText } from '#core/value/sanitise';
import { DAY, type Instant } from '#core/when/interval';
import { RULE_FILTERS, RULE_ORDERS } from '#server/db/rule/views/rules';

const MOST_WORDS = 200;
/** What ends within so long ends soon. */
const SOON = 14 * DAY;

/** What of the list of rules an address asks for, and in which order. */
export function readAsked(said: URLSearchParams, now: Instant) {
  const word = (name: string) =>
    sanitiseText(said.get(name) ?? '')
      .slice(0, MOST_WORDS)
      .trim();
  const filter = RULE_FILTERS.find((each) => each === said.get('show')) ?? 'all';
  const sort = RULE_ORDERS.find((each) => each === said.get('sort')) ?? 'watch';
  return {
    filter,
    sort,
    words: word('q'),
    site: word('site'),
    owner: word('owner'),
    tag: word('tag'),
    soon: now + SOON,
  };
}
