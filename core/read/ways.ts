import { foldText } from '../value/parse';
import { shapedElements } from './block';
import { visibleText, type Document } from './html';
import { countOf } from '../words';

/** Which way of fetching a page needs, and why. */
export interface WayNeeded {
  way: 'plain' | 'rendered';
  said: string;
}

const MUCH = 0.15;

/** Compares what the plainly fetched page shows with what the browser shows, in words and in prices. */
export function wayNeeded(plain: Document, rendered: Document): WayNeeded {
  const [has, shows] = [wordsIn(plain), wordsIn(rendered)];
  const missing = [...shows].filter((word) => !has.has(word));
  const share = shows.size === 0 ? 0 : missing.length / shows.size;
  const had = new Set(pricesIn(plain));
  const prices = pricesIn(rendered).filter((price) => !had.has(price));
  if (prices.length > 0)
    return {
      way: 'rendered',
      said:
        `The browser shows ${countOf(prices.length, 'price')} that a plain fetch does not have, such as ` +
        `${prices[0] ?? ''}.`,
    };
  if (share > MUCH)
    return {
      way: 'rendered',
      said: `A plain fetch lacks ${Math.round(share * 100)}% of the words that the browser shows.`,
    };
  return {
    way: 'plain',
    said:
      missing.length === 0
        ? 'A plain fetch has all that the browser shows.'
        : 'A plain fetch has what matters of what the browser shows.',
  };
}

function wordsIn(document: Document): Set<string> {
  return new Set(
    visibleText(document)
      .toLowerCase()
      .match(/[\p{L}\p{N}]{2,}/gu) ?? [],
  );
}

function pricesIn(document: Document): string[] {
  return [...new Set(shapedElements(document, 'money').map((element) => foldText(visibleText(element))))];
}
