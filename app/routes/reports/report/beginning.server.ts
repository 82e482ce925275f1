import type { ItemId, RuleId, WatchId } from '#core/id';
import { blankDefinition, type ReportDefinition } from '#core/tell/definition';
import { sanitiseText } from '#core/value/sanitise';
import { siteNamed } from '#server/db/source/sites';
import { readId } from '../../../ids.server';
import { services } from '../../../services.server';

const MOST_WORD = 200;
const MOST_CHOSEN = 500;

/** A report begun from a list of watches, an item or a rule takes what that showed. */
export async function beginning(
  asked: URLSearchParams,
  zone: string,
  reader: string | undefined,
): Promise<ReportDefinition> {
  const order = blankDefinition(zone, reader === undefined ? [] : [reader]);
  const ids = <Id extends number>(name: string) =>
    asked
      .getAll(name)
      .slice(0, MOST_CHOSEN)
      .map((id) => readId<Id>(id))
      .filter((id) => id !== 0);
  const word = (name: string) => sanitiseText(asked.get(name) ?? '').slice(0, MOST_WORD);
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
