import { isTag, isText, type AnyNode } from 'domhandler';
import { foldText } from '../value/parse';
import { isHidden, shortText, strikes, visibleText, type Document, type Element } from './html';
import { elementsSaying, foldLabel } from './lines';

/** What stands beside a label. */
interface Beside {
  element: Element;
  text: string;
  /** The text is all that the element says, and not only the rest of its line. */
  whole: boolean;
}

const LONGEST_LABEL = 60;
const HEADINGS = new Set(['h1', 'h2', 'h3', 'h4', 'h5', 'h6', 'title']);

/**
 * Every element that stands beside a label in a scope: the next cell of its row, the `dd` of its `dt`, the control it
 * labels, the next element after it or after its own piece of text, or what follows it in its own line. A row with
 * several numbers after its label gives them all, for it does not say which is meant.
 */
export function elementsBeside(scope: Document | Element, label: string, most = Infinity): Beside[] {
  const wanted = foldLabel(label);
  return wanted === '' ? [] : labelled(scope, wanted, most);
}

/**
 * What stands beside the smallest visible places that read as the label; no more than the first few where that is
 * enough.
 */
function labelled(scope: Document | Element, wanted: string, most: number): Beside[] {
  const found: Beside[] = [];
  const says = (element: Element) => {
    const text = shortText(element);
    if (text !== null && text.length <= LONGEST_LABEL + 2 && foldLabel(text) === wanted) {
      const left = emptiedPlace(element, wanted);
      found.push(...(left === null ? besideElement(element) : [standing(left)]));
      return true;
    }
    const beside = besideOwnText(element, text, wanted);
    if (beside !== null) found.push(beside);
    return beside !== null;
  };
  elementsSaying(scope, wanted, says, () => found.length >= most);
  return found;
}

/**
 * Where the value of a label stands within its own line, and is not there now: what comes after that line is another's.
 */
function emptiedPlace(element: Element, wanted: string): Element | null {
  if (isCell(element)) return null;
  const label = element.children.find((child) => isText(child) && foldLabel(child.data) === wanted);
  const next = label?.next ?? null;
  return next !== null && isTag(next) && !isHidden(next) && !ORNAMENTS.has(next.name) ? next : null;
}

/** Empty elements that are drawn, and hold no value. */
const ORNAMENTS = new Set(['br', 'wbr', 'hr', 'img', 'svg', 'i', 'picture', 'button']);

/** Beside a label that is a piece of the element's own text: the element after it, or the rest of its line. */
function besideOwnText(element: Element, text: string | null, wanted: string): Beside | null {
  for (const child of element.children) {
    if (isText(child) && foldLabel(child.data) === wanted) {
      const next = child.next !== null && isTag(child.next) && !isHidden(child.next) ? child.next : null;
      if (next !== null) return standing(next);
    }
  }
  const own = element.children.some((child) => isText(child) && foldText(child.data) !== '');
  if (!own || text === null || text.length > 4 * LONGEST_LABEL || !text.toLowerCase().startsWith(wanted)) return null;
  const rest = /^\s*[:：]\s*(\S.*)$/s.exec(text.slice(wanted.length))?.[1];
  return rest === undefined ? null : { element, text: rest, whole: false };
}

const standing = (element: Element): Beside => ({ element, text: visibleText(element), whole: true });

function besideElement(element: Element): Beside[] {
  for (let at: Element = element, climbs = 0; climbs < MOST_CLIMBS; climbs += 1) {
    const next = nextPlace(at);
    if (next !== null) return isCell(at) ? [next, ...furtherNumbers(next)].map(standing) : [standing(next)];
    const parent = at.parent as AnyNode | null;
    if (parent === null || !isTag(parent) || !leads(at, parent) || HEADINGS.has(parent.name) || isCell(at)) return [];
    at = parent;
  }
  return [];
}

const MOST_CLIMBS = 3;
const isCell = ({ name }: Element) => name === 'td' || name === 'th' || name === 'dd';

/** Whether a label is the first that its block says: what it labels then comes after the block, not before. */
function leads(element: Element, block: Element): boolean {
  const text = visibleText(block);
  return text.length <= LONGEST_LABEL * 2 && text.startsWith(visibleText(element));
}

/** The cells after one that show numbers of their own. */
function furtherNumbers(cell: Element): Element[] {
  const found: Element[] = [];
  for (let at = cell.next; at !== null; at = at.next)
    if (isTag(at) && isCell(at) && /\d/.test(visibleText(at))) found.push(at);
  return found;
}

/** The next element that can hold a value, whether one is there now or not. */
function nextPlace(element: Element): Element | null {
  for (let at = element.next; at !== null; at = at.next) {
    if (isText(at) && foldText(at.data).replace(/^[:：]/, '') !== '') return null;
    if (isTag(at) && !isHidden(at) && (visibleText(at) !== '' || !ORNAMENTS.has(at.name))) return at;
  }
  return null;
}

/** Whether an element, or one above it within the page, is struck out. */
export function isStruck(element: Element): boolean {
  for (let at: AnyNode | null = element; at !== null && isTag(at); at = at.parent) if (strikes(at)) return true;
  return false;
}

/** The label an element stands beside: one that leads to it, and to it alone. Null where there is none. */
export function labelFor(scope: Document | Element, element: Element): string | null {
  for (const label of possibleLabels(element)) {
    const beside = elementsBeside(scope, label, 2);
    if (beside.length === 1 && beside[0]?.element === element && beside[0].text === visibleText(element)) return label;
  }
  return null;
}

function* possibleLabels(element: Element): Generator<string> {
  for (
    let at: AnyNode | null = element, climbs = 0;
    at !== null && isTag(at) && climbs < MOST_CLIMBS;
    at = at.parent, climbs += 1
  ) {
    const before = textBefore(at);
    if (before !== null) {
      const text = before.replace(/\s*[:：]\s*$/, '');
      if (text !== '' && text.length <= LONGEST_LABEL && !/\d/.test(text)) yield text;
      return;
    }
  }
}

/** A menu or another row of things is no label of what comes after it. */
function isSeveral(element: Element): boolean {
  return (
    element.name === 'nav' || element.children.filter((child) => isTag(child) && visibleText(child) !== '').length > 1
  );
}

/** What is said right before an element: by an element, or by a piece of text of its parent. A heading is no label. */
function textBefore(element: Element): string | null {
  for (let at = element.prev; at !== null; at = at.prev) {
    if (isTag(at) && (HEADINGS.has(at.name) || isSeveral(at))) return null;
    const text = isText(at) ? foldText(at.data) : isTag(at) && !isHidden(at) && !strikes(at) ? visibleText(at) : '';
    if (text !== '') return text;
  }
  return null;
}
