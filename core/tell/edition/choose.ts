import type { NewsSort, StandingOrder } from '../standing-order';
import type { Move, ToldField, ToldRecord } from './move';

/** The line of a standing order that leaves a piece of news out. */
export type LeftOut =
  | { by: 'sort'; sort: NewsSort }
  | { by: 'watch' | 'site' | 'kind of site' | 'tag'; chosen: true }
  | { by: 'watch' | 'site'; chosen: false }
  | { by: 'ours' };

const SORT_OF: Partial<Record<string, NewsSort>> = { price: 'prices', 'shipping cost': 'prices', availability: 'stock' };

/** Which sort of news a move of a field is; of no field, a record that came or went. */
const sortOf = (field: Pick<ToldField, 'role'> | null): NewsSort => (field === null ? 'records' : (SORT_OF[field.role ?? ''] ?? 'other fields'));

/** What leaves a move out of a report; null where it takes it (1). */
export function leftOutBy(order: Pick<StandingOrder, 'takes'>, { record, field }: Pick<Move, 'record' | 'field'>): LeftOut | null {
  const sort = sortOf(field);
  return order.takes.sorts.includes(sort) ? recordLeftOut(order, record) : { by: 'sort', sort };
}

/** What leaves all news of a record out. */
function recordLeftOut({ takes: { only, not } }: Pick<StandingOrder, 'takes'>, { watch, site, tags }: ToldRecord): LeftOut | null {
  if (not.ours && site.kind === 'own') return { by: 'ours' };
  if (not.sites.includes(site.id)) return { by: 'site', chosen: false };
  if (not.watches.includes(watch)) return { by: 'watch', chosen: false };
  if (only.watches.length > 0 && !only.watches.includes(watch)) return { by: 'watch', chosen: true };
  if (only.sites.length > 0 && !only.sites.includes(site.id)) return { by: 'site', chosen: true };
  if (only.kinds.length > 0 && (site.kind === null || !only.kinds.includes(site.kind))) return { by: 'kind of site', chosen: true };
  return only.tags.length > 0 && !only.tags.some((tag) => tags.includes(tag)) ? { by: 'tag', chosen: true } : null;
}

/** Sorts of news in words. */
export const SORT_WORDS: Record<NewsSort, string> = {
  prices: 'prices',
  stock: 'stock out and back',
  'other fields': 'other fields',
  records: 'records that come and go',
  alerts: 'alerts',
  failures: 'what broke',
};
