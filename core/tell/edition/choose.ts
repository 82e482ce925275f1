import type { RuleId } from '../../id';
import type { Weight } from '../../judge/rule';
import { ITEM_PROPERTIES, type ItemProperty, type NewsSort, type ReportDefinition } from '../definition';
import type { Move, EditionField, EditionRecord } from './move';

/** The line of a standing order that leaves a piece of news out. */
export type LeftOut =
  | { by: 'sort'; sort: NewsSort }
  | {
      by: 'watch' | 'site' | 'kind of site' | 'tag' | 'item' | ItemProperty | 'field' | 'rule' | 'weight';
      chosen: true;
    }
  | { by: 'watch' | 'site'; chosen: false }
  | { by: 'ours' }
  | { by: 'present' };

type Takes = Pick<ReportDefinition, 'takes'>;
type Called = Pick<EditionField, 'role' | 'label'>;

const SORT_OF: Partial<Record<string, NewsSort>> = {
  price: 'prices',
  'shipping cost': 'prices',
  availability: 'stock',
};

/** Which sort of news a move of a field is; of no field, a record that came or went. */
export const sortOf = ({ field, first }: Pick<Move, 'field' | 'first'>): NewsSort =>
  first === true ? 'first readings' : field === null ? 'records' : (SORT_OF[field.role ?? ''] ?? 'other fields');

/**
 * What leaves a move out of a report; null where it takes it (1). A move is of no rule and bears no weight: only what
 * it raised does.
 */
export function leftOutBy(
  order: Takes,
  { record, field, first }: Pick<Move, 'record' | 'field' | 'first'>,
): LeftOut | null {
  const sort = sortOf({ field, first });
  const { only, sorts } = order.takes;
  if (!sorts.includes(sort)) return { by: 'sort', sort };
  if (only.rules.length > 0) return { by: 'rule', chosen: true };
  if (only.weights.length > 0) return { by: 'weight', chosen: true };
  return fieldLeftOut(order, field === null ? [] : [field]) ?? recordLeftOut(order, record);
}

/** What leaves an alert out: by its rule and weight, the fields that it names, and its record. */
export function alertLeftOutBy(
  order: Takes,
  alert: { record: EditionRecord; rule: RuleId; weight: Weight; fields: Called[] },
): LeftOut | null {
  const { only, sorts } = order.takes;
  if (!sorts.includes('alerts')) return { by: 'sort', sort: 'alerts' };
  if (only.rules.length > 0 && !only.rules.includes(alert.rule)) return { by: 'rule', chosen: true };
  if (only.weights.length > 0 && !only.weights.includes(alert.weight)) return { by: 'weight', chosen: true };
  return fieldLeftOut(order, alert.fields) ?? recordLeftOut(order, alert.record);
}

/**
 * What leaves out that a watch broke or is read again: whether the report follows it, by whatever its records are, is
 * for the caller to say.
 */
export function failureLeftOutBy(order: Takes, watch: EditionRecord, isFollowed: boolean): LeftOut | null {
  const { only, sorts } = order.takes;
  if (!sorts.includes('failures')) return { by: 'sort', sort: 'failures' };
  if (isFollowed) return null;
  const asked = (
    [
      ['fields', 'field'],
      ['rules', 'rule'],
      ['weights', 'weight'],
    ] as const
  ).find(([list]) => only[list].length > 0);
  return recordLeftOut(order, watch) ?? { by: asked?.[1] ?? 'watch', chosen: true };
}

function fieldLeftOut({ takes: { only } }: Takes, fields: Called[]): LeftOut | null {
  if (only.fields.length === 0) return null;
  const asked = only.fields.map(folded);
  const names = fields.flatMap(({ label, role }) => [folded(label), role ?? '']);
  return names.some((name) => asked.includes(name)) ? null : { by: 'field', chosen: true };
}

const folded = (name: string): string => name.trim().toLowerCase();

/** What leaves all news of a record out. */
function recordLeftOut({ takes: { only, not } }: Takes, { watch, site, tags, item }: EditionRecord): LeftOut | null {
  if (not.ours && site.kind === 'own') return { by: 'ours' };
  if (not.sites.includes(site.id)) return { by: 'site', chosen: false };
  if (not.watches.includes(watch)) return { by: 'watch', chosen: false };
  if (misses(only.watches, [watch])) return { by: 'watch', chosen: true };
  if (misses(only.sites, [site.id])) return { by: 'site', chosen: true };
  if (misses(only.kinds, site.kind === null ? [] : [site.kind])) return { by: 'kind of site', chosen: true };
  if (misses(only.tags, tags)) return { by: 'tag', chosen: true };
  if (misses(only.items, item === null ? [] : [item.id])) return { by: 'item', chosen: true };
  const property = ITEM_PROPERTIES.find((of) => misses(only[of], item === null ? [] : [item.properties[of]]));
  return property === undefined ? null : { by: property, chosen: true };
}

/** Whether a list asks for something that news does not bear; an empty one asks for nothing. */
const misses = <T>(asked: readonly T[], borne: readonly T[]): boolean =>
  asked.length > 0 && !borne.some((each) => asked.includes(each));

/** Sorts of news in words. */
export const SORT_WORDS: Record<NewsSort, string> = {
  prices: 'prices',
  stock: 'stock out and back',
  'other fields': 'other fields',
  records: 'records that come and go',
  'first readings': 'what is first read',
  alerts: 'alerts',
  failures: 'what broke',
};

const CHOSEN: Record<Extract<LeftOut, { chosen: true }>['by'], string> = {
  watch: 'watches',
  site: 'sites',
  'kind of site': 'kinds of sites',
  tag: 'tags',
  item: 'items',
  brand: 'brands',
  category: 'categories',
  supplier: 'suppliers',
  field: 'fields',
  rule: 'rules',
  weight: 'weights',
};

/** The line that left a piece of news out, in words: `it takes chosen tags alone, and this bears none of them`. */
export function leftOutWords(out: LeftOut): string {
  if (out.by === 'sort') return `it does not take ${SORT_WORDS[out.sort]}`;
  if (out.by === 'ours') return 'it leaves out our own shop';
  if (out.by === 'present') return 'it tells chosen values as they stand, and no moves';
  return out.chosen
    ? `it takes chosen ${CHOSEN[out.by]} alone, and this is of none of them`
    : `it leaves out this ${out.by}`;
}
