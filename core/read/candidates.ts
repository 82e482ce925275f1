import { fail, ok, type Result } from '../result';
import { shownValue } from '../compare/shown';
import { foldText } from '../value/parse';
import { cut } from '../value/sanitise';
import type { Value } from '../value/value';
import { shapedElements } from './block';
import { AVAILABILITY, type FieldType } from './definition';
import { describeLocator, describeStructured } from './describe';
import { selectElements, pageFacts, standingText, type Document, type Element } from './html';
import { frameAt } from './frame/frame';
import { isStruck, labelFor } from './label';
import { placeAt, placesOf, type Locator } from './locator';
import { digitsOf, locatorsFor, typeOfText } from './pick';
import type { StructuredLeaf } from './leaf';
import { structuredLeaves } from './structured';
import { availabilityElements, availabilityBy } from './availability';
import { parseAs, type Typing } from './typed';
import type { Frame } from './frame/types';

/** Something on the page that could be watched, with the independent ways that find it. */
export interface Candidate {
  locators: Locator[];
  type: FieldType;
  label: string;
  where: string;
  text: string;
  value: Value;
  byLocale: boolean;
  /** What stands around it. */
  frame: Frame;
}

/** Of the prices of a page; of those in a long list, which is taken as a whole, the first few. */
const MOST_VISIBLE = 40;
const MOST_OF_A_LIST = 12;
const LONG_LIST = 200;
const MOST_STRUCTURED = 60;
const MOST_OTHERS = 12;
/** Characters of a text that is shown beside what is offered. */
const LONGEST_SHOWN = 2_000;
const WORTH_WATCHING =
  /(^|\.)(price|lowPrice|highPrice|availability|ratingValue|reviewCount|inventoryLevel\.value|name|sku)$/;

/** The values of a page that can be read out of the box: its structured data first, then its visible prices. */
export function candidates(document: Document): Candidate[] {
  const structured = structuredCandidates(document);
  const known = structured.map((each) => JSON.stringify(each.locators[0]));
  const visible = visiblePrices(document).filter(
    (each) => !each.locators.some((locator) => known.includes(JSON.stringify(locator))),
  );
  return [...structured, ...visible, ...otherCandidates(document, [...structured, ...visible])];
}

/** Whether a thing can be had, ratings, dates and grades in sight, as far as they are not known already. */
function otherCandidates(document: Document, known: Candidate[]): Candidate[] {
  const typing = typingOf(document);
  const ways = new Set(known.flatMap(({ locators }) => locators.map((locator) => JSON.stringify(locator))));
  const found = availabilityElements(document, MOST_OTHERS).flatMap(({ element, type, label }) => {
    const candidate = candidateAt(document, element, typing, type);
    return candidate.ok ? { ...candidate.value, label } : [];
  });
  return found.filter(({ locators }) => !locators.some((locator) => ways.has(JSON.stringify(locator))));
}

function structuredCandidates(document: Document): Candidate[] {
  const leaves = new Map<string, StructuredLeaf[]>();
  for (const leaf of structuredLeaves(document)) {
    if (!WORTH_WATCHING.test(leaf.path)) continue;
    const place = `${leaf.type} ${leaf.path}`;
    leaves.set(place, leaves.get(place) ?? []);
    leaves.get(place)?.push(leaf);
  }
  const single = [...leaves.values()].flatMap(([first, ...others]) =>
    first !== undefined && others.every((other) => other.text === first.text) ? [first] : [],
  );
  return single
    .slice(0, MOST_STRUCTURED)
    .flatMap((leaf) => structuredCandidate(document, leaf))
    .sort(soughtFirst);
}

function structuredCandidate(document: Document, leaf: StructuredLeaf): Candidate[] {
  const property = leaf.path.split('.').at(-1) ?? leaf.path;
  const type = structuredType(property, leaf);
  const parsed = parseAs(type, leaf, { locale: 'en', address: null });
  if (!parsed.ok) return [];
  const own: Locator = { way: 'structured', type: leaf.type, path: leaf.path };
  const twin = type.kind === 'money' ? visibleTwin(document, leaf, own, type) : null;
  const frame = frameAt(document, twin?.element ?? null, type);
  const shown = { text: cut(leaf.text, LONGEST_SHOWN), ...parsed.value, value: shownValue(parsed.value.value), frame };
  return [
    {
      locators: [own, ...(twin?.ways ?? [])],
      type,
      label: labelOf(property),
      where: describeStructured(leaf),
      ...shown,
    },
  ];
}

/** The ways to the price in sight that says the same as a property: it is found by both, and both must agree. */
function visibleTwin(
  document: Document,
  leaf: StructuredLeaf,
  own: Locator,
  type: FieldType,
): { element: Element; ways: Locator[] } | null {
  const digits = digitsOf(leaf.text);
  for (const element of shapedElements(document, 'money')) {
    const alike = leaf.element === element || digitsOf(standingText(element)) === digits;
    if (!alike || isStruck(element)) continue;
    const ways = locatorsFor(document, element, type);
    if (ways.some((way) => JSON.stringify(way) === JSON.stringify(own)))
      return { element, ways: ways.filter((way) => way.way !== 'structured') };
  }
  return null;
}

function structuredType(property: string, leaf: StructuredLeaf): FieldType {
  if (/price$/i.test(property)) return { kind: 'money', currency: leaf.currency };
  if (property === 'availability') return { kind: 'state', states: AVAILABILITY };
  return /^(ratingValue|reviewCount|value)$/.test(property) ? { kind: 'number' } : { kind: 'text' };
}

function labelOf(property: string): string {
  const words = property.replace(/([A-Z])/g, ' $1').toLowerCase();
  return words === 'value' ? 'quantity' : words;
}

/** In the order of what people come for. */
const SOUGHT: FieldType['kind'][] = ['money', 'state', 'number'];
const soughtAt = ({ type }: Candidate) => (SOUGHT.includes(type.kind) ? SOUGHT.indexOf(type.kind) : SOUGHT.length);
const soughtFirst = (a: Candidate, b: Candidate) => soughtAt(a) - soughtAt(b);

/** Prices in visible text, each with the ways that find only that place. */
function visiblePrices(document: Document): Candidate[] {
  const typing = typingOf(document);
  const found: Candidate[] = [];
  const shaped = shapedElements(document, 'money');
  const most = shaped.length > LONG_LIST ? MOST_OF_A_LIST : MOST_VISIBLE;
  for (const element of shaped) {
    const candidate = candidateAt(document, element, typing, { kind: 'money', currency: null });
    if (candidate.ok) found.push(candidate.value);
    if (found.length === most) break;
  }
  return found;
}

const typingOf = (document: Document): Typing => ({ locale: pageFacts(document).locale, address: null });

/** 'Our price' on a rival's page is not ours. */
const THEIRS = /^(our|your|unser|ihr|notre|votre)\s+/;

/**
 * A picked element as something to watch. Without a type, the one that its text suggests. The error is why it cannot be
 * read so.
 */
export function candidateAt(
  document: Document,
  element: Element,
  typing: Typing,
  wanted: FieldType | null,
): Result<Candidate, string> {
  const found = placeAt(element);
  const { text } = found;
  const parses = (type: FieldType) => parseAs(type, found, typing).ok;
  const plain = wanted ?? typeOfText(text, parses);
  const told = wanted === null && plain.kind === 'text' ? availabilityBy(text, typing.locale) : null;
  const guessed = told?.type ?? plain;
  const parsed = parseAs(guessed, found, typing);
  if (!parsed.ok) return fail(parsed.error);
  const type =
    guessed.kind === 'money' && parsed.value.value.kind === 'money'
      ? { ...guessed, currency: parsed.value.value.currency }
      : guessed;
  const locators = locatorsFor(document, element, type);
  const [first] = locators;
  if (first === undefined) return fail('no way finds it alone');
  const label =
    labelFor(document, element)?.toLowerCase().replace(THEIRS, '') ??
    told?.label ??
    (type.kind === 'money' ? 'price' : 'value');
  return ok({
    locators,
    type,
    label,
    where: describeLocator(first),
    ...parsed.value,
    text: cut(text, LONGEST_SHOWN),
    value: shownValue(parsed.value.value),
    frame: frameAt(document, element, type),
  });
}

/** The way to the words of a page: its one main part where it has one, else all of it. */
export function wholeText(document: Document): Locator {
  for (const selector of ['main', 'article']) {
    const found = selectElements(document, selector);
    if (found.ok && found.value.length === 1) return { way: 'css', selector };
  }
  return { way: 'css', selector: 'body' };
}

/** What a locator finds on a page, as it would be read. */
export interface LocatorTrial {
  count: number;
  /** The first few texts, each with the value read from it, or null. */
  samples: { text: string; value: Value | null; byLocale: boolean }[];
  /** When nothing matched: the same word as a class or an id, if that matches. */
  suggestion: { selector: string; count: number } | null;
  /** Set when it cannot be used. */
  problem: string | null;
}

const SAMPLES = 8;

/** Tries a locator of the analyst's own; a selector that matches nothing is tried as a class and as an id. */
export function tryLocator(document: Document, locator: Locator, type: FieldType): LocatorTrial {
  const found = placesOf(document, locator);
  const empty = !found.ok || found.value.length === 0;
  const suggestion = empty && locator.way === 'css' ? suggestSelector(document, locator.selector) : null;
  if (!found.ok)
    return {
      count: 0,
      samples: [],
      suggestion,
      problem: 'detail' in found.error ? found.error.detail : 'This cannot be looked for on a page.',
    };
  const typing = typingOf(document);
  const samples = found.value.slice(0, SAMPLES).map(({ text, currency }) => {
    const parsed = parseAs(type, { text, currency }, typing);
    const shown = cut(text, LONGEST_SHOWN);
    return parsed.ok
      ? { ...parsed.value, text: shown, value: shownValue(parsed.value.value) }
      : { text: shown, value: null, byLocale: false };
  });
  return { count: found.value.length, samples, suggestion, problem: null };
}

function suggestSelector(document: Document, selector: string): LocatorTrial['suggestion'] {
  const word = foldText(selector).replace(/^[.#]/, '');
  if (!/^[A-Za-z_][\w-]*$/.test(word)) return null;
  for (const attempt of [`.${word}`, `#${word}`]) {
    const found = selectElements(document, attempt);
    if (attempt !== selector && found.ok && found.value.length > 0)
      return { selector: attempt, count: found.value.length };
  }
  return null;
}
