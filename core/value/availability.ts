import type { Value } from './value';

/** Words that say that something cannot be had, as shops and schema.org's ItemAvailability say it. */
const GONE = [
  // 'Out of stock', 'OutOfStock', 'Sold out', 'SoldOut', 'Discontinued'
  'out ?of ?stock|sold ?out|not in stock|unavailable|not available|discontinued|no longer (?:sold|available)',
  // 'Ausverkauft', 'nicht lieferbar', 'vergriffen'
  'ausverkauft|vergriffen|nicht (?:lieferbar|verfügbar|vorrätig|auf lager)',
  // 'épuisé', 'rupture de stock', 'agotado', 'esaurito', 'uitverkocht', 'slutsåld', 'udsolgt'
  'épuisé|rupture de stock|agotado|esaurito|uitverkocht|slutsåld|udsolgt',
];

const THERE = [
  // 'In stock', 'InStock', 'Available now', 'LimitedAvailability', 'only 3 left'; not 'available from 3 December'
  'in ?stock|available(?! (?:from|in|soon|on))|limitedavailability|(?:only )?(?:\\d+|few) left',
  'lieferbar|verfügbar|vorrätig|auf lager|en stock|disponible|disponibile|op voorraad|i lager|på lager',
];

/** Whole words, in whatever script. */
const wordsAmong = (words: string[]) => new RegExp(`(?<![\\p{L}\\p{N}])(?:${words.join('|')})(?![\\p{L}\\p{N}])`, 'iu');
const IS_GONE = wordsAmong(GONE);
const IS_THERE = wordsAmong(THERE);

/**
 * Whether something can be had, by what a shop says of it: `In stock`, `https://schema.org/OutOfStock`, `Ausverkauft`,
 * a flag, how many there are. Null where it does not say so: `in two weeks`, `available from 3 December`.
 */
export function isAvailable(value: Value): boolean | null {
  if (value.kind === 'flag') return value.is;
  if (value.kind === 'number') return Number(value.amount) > 0;
  const words = wordsIn(value);
  if (IS_GONE.test(words)) return false;
  return IS_THERE.test(words) ? true : null;
}

function wordsIn(value: Value): string {
  if (value.kind === 'text') return value.text;
  if (value.kind === 'state') return value.state;
  return value.kind === 'link' ? value.address : '';
}
