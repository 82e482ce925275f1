import type { Locator } from './locator';

/** What a way of finding leans on. Two ways that lean on the same count as one. */
export type Evidence = 'attributes' | 'label' | 'grid' | 'meaning' | 'heading' | 'wording' | 'position' | 'format';

const XPATH_POSITION = /^(?:\/{1,2}[\w*.-]+(?:\[\d+\])?)+$/;

/** What a locator leans on. */
export function evidenceOf(locator: Locator): Evidence {
  switch (locator.way) {
    case 'css':
      if (/\[itemprop/.test(locator.selector)) return 'meaning';
      return /[#.[]/.test(locator.selector) ? 'attributes' : 'position';
    case 'xpath':
      return XPATH_POSITION.test(locator.path.trim()) ? 'position' : 'attributes';
    case 'label':
      return 'label';
    case 'block':
      return 'heading';
    case 'cell':
      return 'grid';
    case 'structured':
      return 'meaning';
    case 'pattern':
      return 'wording';
    case 'path':
    case 'column':
    case 'part':
      return 'format';
  }
}

const GENERATED =
  /\d{3,}|^(css|sc|jsx|_)[-_]|[A-Za-z]\d[A-Za-z\d]{3,}|^[a-z]{1,2}[A-Z][A-Za-z]?\d|^[a-z0-9]{5,8}$(?<![aeiou].*[aeiou].*)/;

/** Whether a class or an id looks made by a program, which will make another next time. */
export function looksGenerated(name: string): boolean {
  return GENERATED.test(name);
}

/** What is wrong with leaning on a locator; null where nothing is. */
export function warningOf(locator: Locator, valueText: string): string | null {
  const words = wordsIn(locator);
  const digits = valueText
    .replace(/\D+/g, ' ')
    .trim()
    .split(' ')
    .filter((run) => run.length > 1);
  if (digits.length > 0 && digits.every((run) => words.includes(run)))
    return 'It leans on the value that is being watched.';
  if (evidenceOf(locator) === 'position') return 'It leans on position alone: used only to confirm.';
  if (
    locator.way === 'css' &&
    [...locator.selector.matchAll(/[.#]([\w-]+)/g)].some(([, name = '']) => looksGenerated(name))
  ) {
    return 'It leans on a name that looks generated, and may not last.';
  }
  return null;
}

/** How sure a way is to find the place again when a page is built anew, the surest first. */
export type Sureness = 'sure' | 'fairly sure' | 'less sure' | 'unsure' | 'confirms only';

const SURENESS_BY_EVIDENCE: Record<Evidence, Sureness> = {
  format: 'sure',
  meaning: 'sure',
  label: 'sure',
  grid: 'sure',
  heading: 'fairly sure',
  wording: 'fairly sure',
  attributes: 'less sure',
  position: 'confirms only',
};

/** How sure a way is, by what it leans on; measured on pages that were built anew (docs/rebuilt-pages.md). */
export function surenessOf(locator: Locator, valueText: string): Sureness {
  const evidence = evidenceOf(locator);
  if (evidence === 'position') return 'confirms only';
  return warningOf(locator, valueText) === null ? SURENESS_BY_EVIDENCE[evidence] : 'unsure';
}

function wordsIn(locator: Locator): string {
  return Object.entries(locator)
    .map(([name, said]) => (name === 'way' ? '' : String(said)))
    .join(' ');
}
