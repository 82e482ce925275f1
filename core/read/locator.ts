import { fail, ok, type Result } from '../result';
import { selectElements, visibleText, type Document } from './html';
import { structuredLeaves } from './structured';

/** By a CSS selector (W3C Selectors Level 4, as css-select implements it). */
interface CssLocator {
  way: 'css';
  selector: string;
}

/** By meaning: a property of a schema.org node in the page's JSON-LD. */
interface StructuredLocator {
  way: 'structured';
  type: string;
  path: string;
}

/** How a field is found in a body. */
export type Locator = CssLocator | StructuredLocator;

/** The text found at a place, with the currency stated beside it, where one is. */
export interface Found {
  text: string;
  currency: string | null;
}

/** Why a locator gives no text. */
export type LocateProblem = { reason: 'no match' } | { reason: 'several matches'; count: number } | { reason: 'bad selector'; detail: string };

/** Finds the one text a locator points at. Several places with the same text count as one. */
export function locate(document: Document, locator: Locator): Result<Found, LocateProblem> {
  return locator.way === 'css' ? locateByCss(document, locator.selector) : locateByMeaning(document, locator);
}

function locateByCss(document: Document, selector: string): Result<Found, LocateProblem> {
  const elements = selectElements(document, selector);
  if (!elements.ok) return fail({ reason: 'bad selector', detail: elements.error });
  return onlyOne(elements.value.map((element) => ({ text: visibleText(element), currency: null })));
}

function locateByMeaning(document: Document, locator: StructuredLocator): Result<Found, LocateProblem> {
  const leaves = structuredLeaves(document);
  return onlyOne(leaves.filter((leaf) => leaf.type === locator.type && leaf.path === locator.path));
}

function onlyOne(found: Found[]): Result<Found, LocateProblem> {
  const [first] = found;
  if (first === undefined) return fail({ reason: 'no match' });
  const agree = found.every((each) => each.text === first.text && each.currency === first.currency);
  return agree ? ok({ text: first.text, currency: first.currency }) : fail({ reason: 'several matches', count: found.length });
}

/** A locator in plain words: where it looks. */
export function describeLocator(locator: Locator): string {
  return locator.way === 'css' ? `CSS ${locator.selector}` : `structured data, ${describeStructured(locator)}`;
}

/** `Product › offers › price` for a place in structured data. */
export function describeStructured(place: { type: string; path: string }): string {
  return [place.type, ...place.path.split('.')].join(' › ');
}
