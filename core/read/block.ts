import { isTag, isText, type AnyNode } from 'domhandler';
import { CURRENCY_MARKS } from '../value/currency';
import { foldText, parseQuantity } from '../value/parse';
import { isHidden, standingText, strikes, visibleText, type Document, type Element } from './html';
import { isStruck } from './label';
import type { BlockLocator } from './locator';

const MARK = new RegExp(CURRENCY_MARKS, 'u');
const LONGEST = 60;
const MOST_CLIMBS = 8;

/**
 * The smallest visible elements under a node whose own short text has a shape: money shows a currency beside a number. What is
 * struck out has none.
 */
export function shapedElements(root: Document | Element, shape: BlockLocator['shape'], unit?: string): Element[] {
  const found: Element[] = [];
  const visit = (node: AnyNode): boolean => {
    if (!isTag(node) || isHidden(node) || strikes(node)) return false;
    const inner = node.children.map(visit).some(Boolean);
    if (inner) return true;
    if (!hasShape(standingText(node), shape, unit) || goesOn(node)) return false;
    found.push(node);
    return true;
  };
  root.children.forEach(visit);
  return found;
}

function hasShape(text: string, shape: BlockLocator['shape'], unit: string | undefined): boolean {
  if (text.length > LONGEST || !/\d/.test(text)) return false;
  if (shape === 'money') return MARK.test(text);
  if (unit === undefined) return true;
  const read = parseQuantity(text, { locale: null });
  return read.ok ? read.value.value.unit === unit : text.endsWith(unit);
}

/** Whether the number goes on in what follows, as where the pence have an element of their own: then this is but a part. */
function goesOn(element: Element): boolean {
  const next = element.next;
  if (next === null || !/\d\s*[.,]?$/.test(visibleText(element))) return false;
  const text = isText(next) ? next.data : isTag(next) && !isHidden(next) && !strikes(next) ? visibleText(next) : '';
  return /^[.,]?\d{1,3}(?!\d|\s*[%x])/.test(text);
}

/**
 * The nth element of a shape in the block under each heading that reads so. Headings first of all. Unsure where there are more
 * or fewer of them than there were.
 */
export function locateInBlock(scope: Document | Element, { heading, shape, nth, of, unit }: BlockLocator): { element: Element; unsure: boolean }[] {
  const wanted = foldText(heading).toLowerCase();
  const reading = elementsReading(scope, wanted);
  const headings = reading.filter((element) => /^h[1-6]$/.test(element.name));
  return (headings.length > 0 ? headings : reading).flatMap((found) => {
    const block = inBlockOf(scope, found, shape, unit);
    const element = block[nth - 1];
    return element === undefined ? [] : [{ element, unsure: of !== undefined && block.length !== of }];
  });
}

/** Elements of a shape in the smallest block around a heading in which one follows it. */
export function inBlockOf(scope: Document | Element, heading: Element, shape: BlockLocator['shape'], unit?: string): Element[] {
  let at: AnyNode | null = heading.parent;
  for (let climbs = 0; at !== null && climbs < MOST_CLIMBS; climbs += 1) {
    const block = at as Document | Element;
    const after = shapedElements(block, shape, unit).filter((element) => !isStruck(element) && follows(heading, element));
    if (after.length > 0) return after;
    if (at === scope) return [];
    at = at.parent;
  }
  return [];
}

function elementsReading(scope: Document | Element, wanted: string): Element[] {
  const found: Element[] = [];
  const visit = (node: AnyNode): void => {
    if (!isTag(node) || isHidden(node)) return;
    const before = found.length;
    node.children.forEach(visit);
    if (found.length === before && visibleText(node).toLowerCase() === wanted) found.push(node);
  };
  if (wanted !== '') scope.children.forEach(visit);
  return found;
}

/** Whether one element comes after another in the order of the document. */
export function follows(first: Element, second: Element): boolean {
  const [a, b] = [pathTo(first), pathTo(second)];
  for (let at = 0; at < Math.min(a.length, b.length); at += 1) {
    const difference = (b[at] ?? 0) - (a[at] ?? 0);
    if (difference !== 0) return difference > 0;
  }
  return b.length > a.length;
}

function pathTo(element: Element): number[] {
  const path: number[] = [];
  for (let at: AnyNode = element; at.parent !== null; at = at.parent as AnyNode) path.unshift(at.parent.children.indexOf(at as never));
  return path;
}
