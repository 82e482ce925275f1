import { isTag, isText, type AnyNode, type Element } from 'domhandler';
import { CURRENCY_MARKS } from '../value/currency';
import { foldText } from '../value/parse';
import type { Value } from '../value/value';
import type { FieldType } from './definition';
import { isHidden, pageFacts, selectElements, visibleText, type Document } from './html';
import { describeStructured, type Locator } from './locator';
import { parseAs } from './read';
import { structuredLeaves, type StructuredLeaf } from './structured';

/** Something on the page that could be watched, with where it was found. */
export interface Candidate {
  locator: Locator;
  type: FieldType;
  label: string;
  where: string;
  text: string;
  value: Value;
  byLocale: boolean;
}

const MOST_VISIBLE = 40;
const WORTH_WATCHING = /(^|\.)(price|lowPrice|highPrice|availability|ratingValue|reviewCount|inventoryLevel\.value|name|sku)$/;
const PRICE_HINT = /\d/;
const MARK = new RegExp(CURRENCY_MARKS, 'u');
const SHORT = 60;

/** The values of a page that can be read out of the box: its structured data first, then its visible prices. */
export function candidates(document: Document): Candidate[] {
  return [...structuredCandidates(document), ...visiblePrices(document)];
}

function structuredCandidates(document: Document): Candidate[] {
  const leaves = structuredLeaves(document).filter((leaf) => WORTH_WATCHING.test(leaf.path));
  const samePlace = (a: StructuredLeaf, b: StructuredLeaf) => a.type === b.type && a.path === b.path;
  const single = leaves.filter((leaf, at) => {
    const same = leaves.filter((other) => samePlace(leaf, other));
    return leaves.findIndex((other) => samePlace(leaf, other)) === at && same.every((other) => other.text === leaf.text);
  });
  return single.flatMap(structuredCandidate).sort(pricesFirst);
}

function structuredCandidate(leaf: StructuredLeaf): Candidate[] {
  const property = leaf.path.split('.').at(-1) ?? leaf.path;
  const type = structuredType(property, leaf);
  const parsed = parseAs(type, leaf, 'en');
  if (!parsed.ok) return [];
  const locator: Locator = { way: 'structured', type: leaf.type, path: leaf.path };
  return [{ locator, type, label: labelOf(property), where: describeStructured(leaf), text: leaf.text, ...parsed.value }];
}

function structuredType(property: string, leaf: StructuredLeaf): FieldType {
  if (/price$/i.test(property)) return { kind: 'money', currency: leaf.currency };
  return /^(ratingValue|reviewCount|value)$/.test(property) ? { kind: 'number' } : { kind: 'text' };
}

function labelOf(property: string): string {
  const words = property.replace(/([A-Z])/g, ' $1').toLowerCase();
  return words === 'value' ? 'quantity' : words;
}

function pricesFirst(a: Candidate, b: Candidate): number {
  return Number(b.value.kind === 'money') - Number(a.value.kind === 'money');
}

/** Prices in visible text, each with a selector that finds only that place. */
function visiblePrices(document: Document): Candidate[] {
  const locale = pageFacts(document).locale;
  const found: Candidate[] = [];
  for (const element of priceElements(document)) {
    const text = visibleText(element);
    const type: FieldType = { kind: 'money', currency: null };
    const parsed = parseAs(type, { text, currency: null }, locale);
    const selector = parsed.ok ? selectorFor(document, element) : null;
    if (!parsed.ok || selector === null) continue;
    found.push({ locator: { way: 'css', selector }, type, label: 'price', where: selector, text, ...parsed.value });
    if (found.length === MOST_VISIBLE) break;
  }
  return found;
}

/** The smallest visible elements whose own short text shows a currency beside a number. */
function priceElements(document: Document): Element[] {
  const smallest: Element[] = [];
  const visit = (node: AnyNode): boolean => {
    if (!isTag(node) || isHidden(node)) return false;
    const inner = node.children.map(visit).some(Boolean);
    if (inner || !hasText(node)) return inner;
    const text = visibleText(node);
    const shows = text.length <= SHORT && PRICE_HINT.test(text) && MARK.test(text);
    if (shows) smallest.push(node);
    return shows;
  };
  document.children.forEach(visit);
  return smallest;
}

function hasText(element: Element): boolean {
  return element.children.some((child) => isText(child) || isTag(child));
}

const GENERATED = /\d{3,}|^(css|sc|jsx|_)[-_]|[A-Za-z]\d[A-Za-z\d]{3,}/;
const NAMING = ['itemprop', 'data-testid', 'data-price', 'data-role', 'data-field'];

/** A CSS selector that matches this element alone: by id, by a naming attribute, by class, else by its place. */
function selectorFor(document: Document, element: Element): string | null {
  for (const selector of [...ownSelectors(element), ...belowNamed(element), placeOf(element)]) {
    if (isOnly(document, selector, element)) return selector;
  }
  return null;
}

/** The element by its own names below each named ancestor, the nearest first. */
function belowNamed(element: Element): string[] {
  const below = [...ownSelectors(element), element.name];
  const found: string[] = [];
  for (let parent = parentElement(element); parent !== null; parent = parentElement(parent)) {
    for (const above of ownSelectors(parent)) found.push(...below.map((own) => `${above} ${own}`));
  }
  return found;
}

function* ownSelectors(element: Element): Generator<string> {
  const { id, class: classes = '' } = element.attribs;
  if (id !== undefined && /^[A-Za-z][\w-]*$/.test(id) && !GENERATED.test(id)) yield `#${id}`;
  for (const name of NAMING) {
    const value = element.attribs[name];
    if (value !== undefined && /^[\w-]+$/.test(value) && !PRICE_HINT.test(value)) yield `${element.name}[${name}="${value}"]`;
  }
  for (const name of classes.split(/\s+/)) {
    if (/^[A-Za-z][\w-]*$/.test(name) && !GENERATED.test(name)) yield `.${name}`;
  }
}

function placeOf(element: Element): string {
  const steps: string[] = [];
  for (let at: Element | null = element; at !== null; at = parentElement(at)) {
    const siblings = (at.parent?.children ?? []).filter((each): each is Element => isTag(each) && each.name === at?.name);
    steps.unshift(siblings.length > 1 ? `${at.name}:nth-of-type(${siblings.indexOf(at) + 1})` : at.name);
  }
  return steps.join(' > ');
}

function parentElement(element: Element): Element | null {
  return element.parent !== null && isTag(element.parent as AnyNode) ? (element.parent as Element) : null;
}

function isOnly(document: Document, selector: string, element: Element): boolean {
  const found = selectElements(document, selector);
  return found.ok && found.value.length === 1 && found.value[0] === element;
}

/** What a selector finds on a page, as it would be read. */
export interface SelectorTrial {
  count: number;
  /** The first few texts, each with the price or number read from it, or null. */
  samples: { text: string; value: Value | null; byLocale: boolean }[];
  /** When nothing matched: the same word as a class or an id, if that matches. */
  suggestion: { selector: string; count: number } | null;
  /** Set when it is no CSS selector. */
  problem: string | null;
}

const SAMPLES = 8;

/** Tries a selector of the analyst's own; one that matches nothing is tried as a class and as an id. */
export function trySelector(document: Document, selector: string, type: FieldType): SelectorTrial {
  const found = selectElements(document, selector);
  const suggestion = !found.ok || found.value.length === 0 ? suggestSelector(document, selector) : null;
  if (!found.ok) return { count: 0, samples: [], suggestion, problem: found.error };
  const locale = pageFacts(document).locale;
  const samples = found.value.slice(0, SAMPLES).map((element) => {
    const text = visibleText(element);
    const parsed = parseAs(type, { text, currency: null }, locale);
    return parsed.ok ? { text, ...parsed.value } : { text, value: null, byLocale: false };
  });
  return { count: found.value.length, samples, suggestion, problem: null };
}

function suggestSelector(document: Document, selector: string): SelectorTrial['suggestion'] {
  const word = foldText(selector).replace(/^[.#]/, '');
  if (!/^[A-Za-z_][\w-]*$/.test(word)) return null;
  for (const attempt of [`.${word}`, `#${word}`]) {
    const found = selectElements(document, attempt);
    if (attempt !== selector && found.ok && found.value.length > 0) return { selector: attempt, count: found.value.length };
  }
  return null;
}
