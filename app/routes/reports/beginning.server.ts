import type { ItemId, RuleId, WatchId } from '#core/id';
import { blankOrder, type StandingOrder } from '#core/tell/standing-order';
import { soundText } from '#core/value/sound';
import { siteNamed } from '#server/db/sites';
import { readId } from '../../ids.server';
import { services } from '../../services.server';

const MOST_WORD = 200;
const MOST_CHOSEN = 500;

/** A report begun from a list of watches, an item or a rule takes what that showed. */
export async function beginning(
  asked: URLSearchParams,
  zone: string,
  reader: string | undefined,
): Promise<StandingOrder> {
  const order = blankOrder(zone, reader === undefined ? [] : [reader]);
  const ids = <Id extends number>(name: string) =>
    asked
      .getAll(name)
      .slice(0, MOST_CHOSEN)
      .map((id) => readId<Id>(id))
      .filter((id) => id !== 0);
  const word = (name: string) => soundText(asked.get(name) ?? '').slice(0, MOST_WORD);
  const [tag, siteName, rules] = [word('tag'), word('site'), ids<RuleId>('rule')];
  const site = siteName === '' ? null : await siteNamed(services().pool, siteName);
  const only = {
    ...order.takes.only,
    tags: tag === '' ? [] : [tag],
    sites: site === null ? [] : [site],
    watches: ids<WatchId>('watch'),
    items: ids<ItemId>('item'),
    rules,
  };
  return {
    ...order,
    takes: { ...order.takes, sorts: rules.length > 0 ? ['alerts', 'failures'] : order.takes.sorts, only },
  };
}
