import { fail, ok, type Result } from '../result';
import { foldText } from '../value/parse';
import { locateInBlock, type BlockLocator } from './block';
import type { Found, LocateProblem } from './found';
import { queryXml, textOfNode, toDom } from './formats/xml';
import { isDocument, isHidden, selectElements, standingText, visibleText, type Document, type Element } from './html';
import { elementsBeside } from './label';
import { cellsUnder } from './frame/cells';
import { cellIn, tableAbove } from './frame/grid';
import { columnNames } from './frame/tables';
import { keptFor } from './order';
import { capturesOf, compilePattern } from './pattern';
import { structuredLeaves } from './structured';

/** By a CSS selector (W3C Selectors Level 4, as css-select implements it). */
interface CssLocator {
  way: 'css';
  selector: string;
  /** Parts of the place that are left out of its text, by CSS. */
  without?: string[];
}

/** By an XPath 3.1. */
interface XPathLocator {
  way: 'xpath';
  path: string;
}

/** By the label it stands beside. */
interface LabelLocator {
  way: 'label';
  label: string;
}

/** By meaning: a property of a schema.org item in the page's JSON-LD or microdata. */
interface StructuredLocator {
  way: 'structured';
  type: string;
  path: string;
}

/** By a pattern (RE2 syntax) with a capture, in visible text. */
interface PatternLocator {
  way: 'pattern';
  pattern: string;
}

/** By a JSONPath (RFC 9535) from the record. */
interface PathLocator {
  way: 'path';
  path: string;
}

/** By the head of its column in a table. */
interface ColumnLocator {
  way: 'column';
  column: string;
}

/** By the heads of its row and its column in a table, spans resolved. */
interface CellLocator {
  way: 'cell';
  row: string[];
  column: string[];
}

/** By the name a format gives it: the title of a feed's item, the value or a label of a sample. */
interface PartLocator {
  way: 'part';
  part: string;
}

/** How a field is found in a body or in one of its records. */
export type Locator =
  | CssLocator
  | XPathLocator
  | LabelLocator
  | BlockLocator
  | StructuredLocator
  | PatternLocator
  | PathLocator
  | ColumnLocator
  | CellLocator
  | PartLocator;

/** Where in a page a locator looks: the whole of it, or one record's element. */
export type Scope = Document | Element;

/** An element with the text that is read there. */
export interface PlaceFound extends Found {
  /** Null where the text is no element's own: structured data, a pattern. */
  element: Element | null;
}

/** Every place in a scope that a locator points at. */
export function placesOf(scope: Scope, locator: Locator): Result<PlaceFound[], LocateProblem> {
  switch (locator.way) {
    case 'css':
      return byCss(scope, locator);
    case 'xpath':
      return byXPath(scope, locator.path);
    case 'label':
      return ok(
        elementsBeside(scope, locator.label).map((each) =>
          each.whole ? placeAt(each.element) : { ...each, currency: null },
        ),
      );
    case 'block':
      return ok(
        locateInBlock(scope, locator).map(({ element, unsure }) => ({
          ...placeAt(element),
          ...(unsure ? { unsure } : {}),
        })),
      );
    case 'structured':
      return ok(
        structuredLeaves(scope)
          .filter((leaf) => leaf.type === locator.type && leaf.path === locator.path)
          .map(({ text, currency, element }) => ({ text, currency, element })),
      );
    case 'pattern':
      return byPattern(scope, locator.pattern);
    case 'column':
      return ok(byColumn(scope, locator.column));
    case 'cell':
      return ok(cellsUnder(scope, locator).map(placeAt));
    case 'path':
    case 'part':
      return fail({ reason: 'not here' });
  }
}

/** Finds the one text a locator points at. Several places with the same text count as one. */
export function locate(scope: Scope, locator: Locator): Result<Found, LocateProblem> {
  const places = placesOf(scope, locator);
  if (!places.ok) return places;
  const [first] = places.value;
  if (first === undefined) return fail({ reason: 'no match' });
  const agree = places.value.every((each) => each.text === first.text && each.currency === first.currency);
  const { element: _element, ...found } = first;
  const elements = places.value.flatMap(({ element }) => element ?? []);
  return agree ? ok({ ...found, elements }) : fail({ reason: 'several matches', count: places.value.length });
}

/** An element as a place: what is read there, with and without what is struck out. */
export function placeAt(element: Element): PlaceFound {
  const text = textAt(element);
  const standing = standingText(element);
  return { element, text, currency: null, ...(standing === text || standing === '' ? {} : { standing }) };
}

/**
 * What is read at an element: what a form field holds, what a picture or link leads to where it shows no text, else its
 * text.
 */
function textAt(element: Element): string {
  const text = visibleText(element);
  if (text !== '') return text;
  const { name, attribs } = element;
  if (name === 'input' || name === 'meta') return foldText(attribs.value ?? attribs.content ?? '');
  return name === 'img' ? foldText(attribs.alt ?? '') : '';
}

function byCss(scope: Scope, { selector, without = [] }: CssLocator): Result<PlaceFound[], LocateProblem> {
  const elements = selectElements(scope, selector);
  if (!elements.ok) return fail({ reason: 'bad selector', detail: elements.error });
  if (without.length === 0) return ok(elements.value.map(placeAt));
  const left = new Set(
    without.flatMap((each) => selectElements(scope, each)).flatMap((each) => (each.ok ? each.value : [])),
  );
  const textOf = (element: Element) => visibleText(element, (each) => isHidden(each) || left.has(each));
  return ok(elements.value.map((element) => ({ element, text: textOf(element), currency: null })));
}

function byXPath(scope: Scope, path: string): Result<PlaceFound[], LocateProblem> {
  const document = isDocument(scope) ? scope : documentOf(scope);
  const nodes = queryXml(domOf(document), path);
  if (!nodes.ok) return fail({ reason: 'bad selector', detail: nodes.error });
  return ok(nodes.value.map((node) => ({ text: foldText(textOfNode(node)), currency: null, element: null })));
}

/** The page as a DOM, made once for all paths that are asked on it. */
const domOf = keptFor(toDom);

function documentOf(element: Element): Document {
  let at = element as Element | Document;
  while (at.parent !== null) at = at.parent as Element | Document;
  return at as Document;
}

const MOST_CAPTURES = 20;

function byPattern(scope: Scope, pattern: string): Result<PlaceFound[], LocateProblem> {
  const compiled = compilePattern(pattern);
  if (!compiled.ok) return fail({ reason: 'bad selector', detail: compiled.error });
  const found = capturesOf(compiled.value, visibleText(scope), MOST_CAPTURES);
  return ok(found.map((text) => ({ text: foldText(text), currency: null, element: null })));
}

/** The cell of this row that stands under a head of that name. */
function byColumn(scope: Scope, column: string): PlaceFound[] {
  if (isDocument(scope)) return [];
  const row = closest(scope, 'tr') ?? scope;
  const table = tableAbove(row);
  if (table === null) return [];
  const at = columnNames(table).indexOf(column);
  const cell = at < 0 ? null : cellIn(table, row, at);
  return cell === null ? [] : [placeAt(cell)];
}

/** The cells of a row. */
export function cellsOf(row: Element): Element[] {
  return row.children.filter(
    (child): child is Element => child.type === 'tag' && (child.name === 'td' || child.name === 'th'),
  );
}

/** The nearest element of a name at or above another. */
function closest(element: Element, name: string): Element | null {
  for (let at: Element | null = element; at !== null && at.type === 'tag'; at = at.parent as Element | null)
    if (at.name === name) return at;
  return null;
}
