import { compile, selectAll } from 'css-select';
import { isTag, isText, type AnyNode, type Document, type Element } from 'domhandler';
import { getAttributeValue } from 'domutils';
import { fail, ok, type Result } from '../result';
import { localeTag } from '../value/locale';
import { foldText } from '../value/parse';
import { withoutDirections } from '../value/sanitise';
import { keptFor } from './order';
import { elementsAt } from './position';
import { parseTree } from './tree';

export type { Document, Element } from 'domhandler';

/** Elements whose text a reader of the page never sees. */
const UNSEEN = new Set(['script', 'style', 'template', 'noscript', 'head', 'svg', 'iframe', 'object']);
const BLOCKS = new Set(
  (
    'address article aside blockquote br dd div dl dt fieldset figure footer form h1 h2 h3 h4 h5 h6 header hr li ' +
    'main nav ol p pre section table td th tr ul'
  ).split(' '),
);
const LONGEST_SELECTOR = 500;

/** Parses HTML leniently, as it came; nothing in it is run. The error says why it is too large a tree to be read. */
export function parseHtml(body: string): Result<Document, string> {
  return parseTree(body, 'html');
}

type Query = (element: AnyNode) => boolean;

const queries = new Map<string, Query>();
const MOST_QUERIES = 500;

/** Every element a CSS selector matches, in document order; the error is the reason a selector is not valid. */
export function selectElements(scope: Document | Element, selector: string): Result<Element[], string> {
  const trimmed = selector.trim();
  const placed = elementsAt(scope, trimmed);
  if (placed !== null) return ok(placed);
  const query = compiled(trimmed, scope);
  if (!query.ok) return query;
  try {
    return ok(selectAll<AnyNode, Element>(query.value, scope));
  } catch (error) {
    return fail(reasonOf(error));
  }
}

/**
 * A selector made ready to be asked, or the reason why it cannot be. One that leans on its scope is made for that
 * alone.
 */
function compiled(selector: string, scope: Document | Element): Result<Query, string> {
  if (selector === '') return fail('The selector is empty.');
  if (selector.length > LONGEST_SELECTOR) return fail(`A selector may have at most ${LONGEST_SELECTOR} characters.`);
  const known = queries.get(selector);
  if (known !== undefined) return ok(known);
  try {
    if (selector.includes(':scope')) return ok(compile<AnyNode, Element>(selector, {}, scope) as Query);
    const query = compile<AnyNode, Element>(selector) as Query;
    if (queries.size >= MOST_QUERIES) queries.clear();
    queries.set(selector, query);
    return ok(query);
  } catch (error) {
    return fail(reasonOf(error));
  }
}

function reasonOf(error: unknown): string {
  return error instanceof Error ? error.message : 'This is not a CSS selector.';
}

/** True for a whole page, false for an element of it. */
export function isDocument(scope: Document | Element): scope is Document {
  return scope.type === 'root';
}

/** Whether an element, by its own attributes, is kept from view: `hidden` or inline `display: none`. */
export function isHidden(element: Element): boolean {
  if (UNSEEN.has(element.name)) return true;
  if (element.attribs.hidden !== undefined) return true;
  const style = element.attribs.style ?? '';
  return /display\s*:\s*none|visibility\s*:\s*hidden/i.test(style);
}

/** Whether an element is passed over when text is gathered. */
type Passed = (element: Element) => boolean;

/** The text that a reader sees in a node: hidden parts left out, white space folded, blocks set apart. */
export function visibleText(node: AnyNode | Document, passed: Passed = isHidden): string {
  const short = passed === isHidden ? shortText(node) : null;
  if (short !== null) return short;
  const pieces: string[] = [];
  gather(node, pieces, passed, Infinity);
  return foldText(pieces.join(''));
}

/** Texts up to here are kept by `shortText`, and told from longer ones without going through all that is below. */
const SHORT = 300;

/**
 * The visible text of a node where it is short, of at most 300 characters; null where it is longer. Worked out once for
 * a node.
 */
export const shortText = keptFor((node: AnyNode | Document): string | null => {
  const pieces: string[] = [];
  if (!gather(node, pieces, isHidden, SHORT)) return null;
  const text = foldText(pieces.join(''));
  return text.length > SHORT ? null : text;
});

const STRUCK = new Set(['s', 'del', 'strike']);

/** Whether an element itself strikes out what it holds. */
export function strikes(element: Element): boolean {
  return STRUCK.has(element.name) || /text-decoration[^;]*line-through/i.test(element.attribs.style ?? '');
}

/**
 * The visible text without what is struck out, as its numbers are meant: digits of several elements make one number
 * only where they are shown so. Raised pence are the pence, a raised figure after them a footnote's; other digits side
 * by side are kept apart by a bar.
 */
export function standingText(node: AnyNode | Document): string {
  // Most places hold nothing but their text.
  const bare = isTag(node) && !strikes(node) && node.children.every(isText);
  if (bare) return visibleText(node);
  const pieces: Piece[] = [];
  standingPieces(node, '', pieces);
  return foldText(pieces.reduce(joinPiece, ''));
}

interface Piece {
  text: string;
  /** The classes of the element it stands in, its name where that raises it, and a mark where it leads somewhere. */
  of: string;
  block: boolean;
}

function standingPieces(node: AnyNode | Document, of: string, pieces: Piece[]): void {
  if (isText(node)) {
    pieces.push({ text: node.data, of, block: false });
    return;
  }
  if (isTag(node)) {
    const element = node;
    if (isHidden(element) || strikes(element)) return;
    const own =
      `${of} ` +
      `${element.attribs.class ?? ''}${element.name === 'sup' ? ' <sup>' : ''}${element.name === 'a' ? ' <a>' : ''}`;
    const block = BLOCKS.has(element.name);
    if (block) pieces.push({ text: ' ', of, block });
    for (const child of element.children) standingPieces(child, own, pieces);
    if (block) pieces.push({ text: ' ', of, block });
  } else if ('children' in node) for (const child of node.children) standingPieces(child, of, pieces);
}

const SHOWN_AS_PARTS = /cents?|pence|penny|pennies|decimals?|fraction|minor|rappen|öre|centimes?|nachkomma|<sup>/i;
const RAISED_MARK = /^\s*(?:\[?[\d*†‡]{1,2}\]?|\(\d\))\s*$/u;

/** A piece of text put after those before it. */
function joinPiece(text: string, { text: piece, of }: Piece): string {
  if (!/\d$/.test(text.trimEnd()) || !/^\s*[[(\d*†‡]/u.test(piece)) return text + piece;
  const parts = /^\s*(\d{2})\s*$/.exec(piece)?.[1];
  const whole = !/\d[.,]\d{1,2}\s*$/.test(text);
  if (parts !== undefined && whole && SHOWN_AS_PARTS.test(of) && !of.includes('<a>'))
    return `${text.trimEnd()}.${parts}`;
  if (of.includes('<sup>') && RAISED_MARK.test(piece)) return text;
  return /^\s*\d/.test(piece) ? `${text} | ${piece}` : text + piece;
}

/** Gathers what is seen below a node; false as soon as there is more of it than `most`, white space aside. */
function gather(root: AnyNode | Document, pieces: string[], passed: Passed, most: number): boolean {
  const open: (AnyNode | Document | string)[] = [root];
  let size = 0;
  for (let next = open.pop(); next !== undefined; next = open.pop()) {
    if (typeof next === 'string') pieces.push(next);
    else if (isText(next)) {
      pieces.push(next.data);
      if (most !== Infinity) size += next.data.replace(/\s+/g, '').length;
      if (size > most) return false;
    } else if (isTag(next) && passed(next)) continue;
    else if ('children' in next) {
      const block = isTag(next) && BLOCKS.has(next.name);
      if (block) open.push(' ');
      for (let at = next.children.length - 1; at >= 0; at -= 1) open.push(next.children[at] as AnyNode);
      if (block) open.push(' ');
    }
  }
  return true;
}

/** What a page says of itself. */
export interface PageFacts {
  title: string | null;
  /** The shop's or publication's own name, where the page states it. */
  siteName: string | null;
  /** BCP 47 tag stated by the page. */
  locale: string | null;
}

/** Reads the title, the site's name and the language a page states. */
export const pageFacts = keptFor((document: Document): PageFacts => {
  const first = (selector: string) => selectAll<AnyNode, Element>(selector, document)[0];
  const meta = (name: string) => {
    const element = first(`meta[property="${name}"], meta[name="${name}"]`);
    return element === undefined ? null : (getAttributeValue(element, 'content')?.trim() ?? null);
  };
  const heading = first('h1');
  const title = first('title');
  const siteName = meta('og:site_name') || meta('application-name') || null;
  const called = (heading && visibleText(heading)) || (title && withoutSite(foldText(textOf(title)), siteName)) || '';
  return {
    title: withoutDirections(called) || null,
    siteName: siteName === null ? null : withoutDirections(siteName),
    locale: localeTag(first('html')?.attribs.lang) ?? localeTag(meta('og:locale')),
  };
});

/** A title without the site's own name at its end. */
function withoutSite(title: string, siteName: string | null): string {
  if (siteName === null || !title.endsWith(siteName)) return title;
  return title.slice(0, -siteName.length).replace(/\s*[-–—|:·]\s*$/, '') || title;
}

/** All text below a node, seen or not. */
export function textOf(node: AnyNode): string {
  if (isText(node)) return node.data;
  return 'children' in node ? node.children.map(textOf).join('') : '';
}

/** The element above another; null at the top. */
export function parentOf(element: Element): Element | null {
  return element.parent !== null && isTag(element.parent) ? element.parent : null;
}
