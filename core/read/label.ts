import { isTag, isText, type AnyNode } from 'domhandler';
import { foldText } from '../value/parse';
import { isHidden, visibleText, type Document, type Element } from './html';

/** What stands beside a label. */
interface Beside {
  element: Element;
  text: string;
}

const LONGEST_LABEL = 60;
const HEADINGS = new Set(['h1', 'h2', 'h3', 'h4', 'h5', 'h6', 'title']);

/** A label as it is compared: without its colon, in one case. */
export function foldLabel(text: string): string {
  return foldText(text)
    .replace(/\s*[:：]\s*$/, '')
    .toLowerCase();
}

/**
 * Every element that stands beside a label in a scope: the next cell of its row, the `dd` of its `dt`, the control it
 * labels, the next element after it, or what follows it in its own line.
 */
export function elementsBeside(scope: Document | Element, label: string): Beside[] {
  const wanted = foldLabel(label);
  if (wanted === '') return [];
  return labelElements(scope, wanted).flatMap((element) => valueBeside(element, wanted) ?? []);
}

/** The smallest visible elements that read as the label, or whose line begins with it and a colon. */
function labelElements(scope: Document | Element, wanted: string): Element[] {
  const found: Element[] = [];
  const visit = (node: AnyNode): boolean => {
    if (!isTag(node) || isHidden(node)) return false;
    const inner = node.children.map(visit).some(Boolean);
    if (inner) return true;
    const text = visibleText(node);
    const reads = text.length <= LONGEST_LABEL + 2 && foldLabel(text) === wanted;
    const begins = !reads && ownLine(node, wanted) !== null;
    if (reads || begins) found.push(node);
    return reads || begins;
  };
  scope.children.forEach(visit);
  return found;
}

/** What follows the label within the element's own text, as in `Price: £24`. */
function ownLine(element: Element, wanted: string): string | null {
  const own = element.children.some((child) => isText(child) && foldText(child.data) !== '');
  if (!own) return null;
  const text = visibleText(element);
  if (text.length > 4 * LONGEST_LABEL || !text.toLowerCase().startsWith(wanted)) return null;
  const rest = /^\s*[:：]\s*(\S.*)$/s.exec(text.slice(wanted.length))?.[1];
  return rest ?? null;
}

function valueBeside(element: Element, wanted: string): Beside | null {
  const line = foldLabel(visibleText(element)) === wanted ? null : ownLine(element, wanted);
  if (line !== null) return { element, text: line };
  for (let at: Element = element, climbs = 0; climbs < 3; climbs += 1) {
    const next = nextWithText(at) ?? nextEmpty(at);
    if (next !== null) return { element: next, text: visibleText(next) };
    const parent = at.parent as AnyNode | null;
    if (parent === null || !isTag(parent) || visibleText(parent).length > LONGEST_LABEL * 2 || HEADINGS.has(parent.name)) return null;
    if (at.name === 'td' || at.name === 'th' || at.name === 'dd') return null;
    at = parent;
  }
  return null;
}

function nextWithText(element: Element): Element | null {
  for (let at = element.next; at !== null; at = at.next) {
    if (isText(at) && foldText(at.data).replace(/^[:：]/, '') !== '') return null;
    if (isTag(at) && !isHidden(at) && visibleText(at) !== '') return at;
  }
  return null;
}

/** The next element when what follows is empty: the place of a value that is not there. */
function nextEmpty(element: Element): Element | null {
  for (let at = element.next; at !== null; at = at.next) {
    if (isText(at) && foldText(at.data).replace(/^[:：]/, '') !== '') return null;
    if (isTag(at) && !isHidden(at)) return at;
  }
  return null;
}

const STRUCK = new Set(['s', 'del', 'strike']);

/** Whether an element, or one above it within the page, is struck out. */
export function isStruck(element: Element): boolean {
  for (let at: AnyNode | null = element; at !== null && isTag(at); at = at.parent) {
    if (STRUCK.has(at.name) || /text-decoration[^;]*line-through/i.test(at.attribs.style ?? '')) return true;
  }
  return false;
}

/** The label an element stands beside: one that leads to it, and to it alone. Null where there is none. */
export function labelFor(scope: Document | Element, element: Element): string | null {
  for (const label of possibleLabels(element)) {
    const beside = elementsBeside(scope, label);
    if (beside.length === 1 && beside[0]?.element === element && beside[0].text === visibleText(element)) return label;
  }
  return null;
}

function* possibleLabels(element: Element): Generator<string> {
  for (let at: AnyNode | null = element, climbs = 0; at !== null && isTag(at) && climbs < 3; at = at.parent, climbs += 1) {
    const before = previousWithText(at);
    if (before !== null) {
      const text = visibleText(before).replace(/\s*[:：]\s*$/, '');
      if (text !== '' && text.length <= LONGEST_LABEL && !/\d/.test(text)) yield text;
      return;
    }
  }
}

function previousWithText(element: Element): Element | null {
  for (let at = element.prev; at !== null; at = at.prev) {
    if (isText(at) && foldText(at.data) !== '') return null;
    if (isTag(at) && !isHidden(at) && visibleText(at) !== '') return at;
  }
  return null;
}
