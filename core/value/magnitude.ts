import { boundedCache } from './cache';

const POWERS = [3, 4, 5, 6, 7, 8, 9, 10, 12];
/** Words in use everywhere, besides those of the place. */
const EVERYWHERE = new Map([
  ['k', 3],
  ['m', 6],
  ['bn', 9],
  ['mn', 6],
  ['mio', 6],
  ['mrd', 9],
  ['million', 6],
  ['billion', 9],
]);

const kept = boundedCache<ReadonlyMap<string, number>>(40);

/** How a place shortens large numbers, from the Unicode CLDR data behind Intl: `k`, `Mio.`, `lakh`, `万`. */
const powersIn = (locale: string | null) =>
  kept(locale ?? '', () => new Map([...EVERYWHERE, ...(locale === null ? [] : shortenedIn(locale))]));

const HAN = /^\p{Script=Han}/u;
const WORDS = /^\s?(?<one>\p{L}+\.?)(?:\s(?<two>\p{L}+))?/u;

/** The power of ten that the words after a number stand for, and how many characters they take; nought for none. */
export function magnitudeAfter(text: string, locale: string | null): { power: number; length: number } {
  const found = WORDS.exec(text);
  const [both, one] = [found?.[0] ?? '', found?.groups?.one ?? ''];
  const powers = powersIn(locale);
  const first = both.indexOf(one);
  // Written without spaces, the word and what it counts are one run of letters: `120万円`.
  for (const words of [both, both.slice(0, first + one.length), both.slice(0, first + (HAN.test(one) ? 1 : 0))]) {
    const power = powers.get(fold(words));
    if (power !== undefined && !/^\d/.test(text.slice(words.length))) return { power, length: words.length };
  }
  return { power: 0, length: 0 };
}

const fold = (word: string) => word.trim().toLowerCase().replace(/\.$/, '');

function shortenedIn(locale: string): [string, number][] {
  return (['short', 'long'] as const).flatMap((compactDisplay) => {
    const format = new Intl.NumberFormat(locale, { notation: 'compact', compactDisplay, maximumSignificantDigits: 3 });
    return POWERS.flatMap((power): [string, number][] => {
      const parts = format.formatToParts(10 ** power);
      const word = parts.find((part) => part.type === 'compact')?.value;
      const shown = parts
        .filter((part) => part.type === 'integer')
        .map((part) => part.value)
        .join('');
      return word === undefined || !/^10*$/.test(shown) ? [] : [[fold(word), power - (shown.length - 1)]];
    });
  });
}
