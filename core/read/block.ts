import { isTag, isText, type AnyNode } from 'domhandler';
import { markedNumbers } from '../value/marked';
import { foldText, parseQuantity } from '../value/parse';
import { isHidden, shortText, standingText, strikes, visibleText, type Document, type Element } from './html';
import { isStruck } from './label';
import { elementsReading } from './lines';
import { isInlineTag } from './frame/lines';
import { follows, keptFor } from './order';

/**
 * By its shape in the block under a heading: the nth price after it that is not struck out, of so many. Where there are
 * more or fewer of them now, the place in their order only confirms.
 */
export interface BlockLocator {
  way: 'block';
  heading: string;
  shape: 'money' | 'number';
  nth: number;
  of?: number;
  /** Numbers of this unit alone count. */
  unit?: string;
}

const LONGEST = 60;
const MOST_CLIMBS = 8;

/**
 * The smallest visible elements under a node whose own short text has a shape: money shows a currency beside a number.
 * What is struck out has none.
 */
export function shapedElements(root: Document | Element, shape: BlockLocator['shape'], unit?: string): Element[] {
  const kept = shapedIn(root);
  const name = `${shape} ${unit ?? ''}`;
  const found = kept.get(name) ?? findShaped(root, shape, unit);
  kept.set(name, found);
  return found;
}

const shapedIn = keptFor((_root: Document | Element) => new Map<string, Element[]>());

function findShaped(root: Document | Element, shape: BlockLocator['shape'], unit: string | undefined): Element[] {
  const found: Element[] = [];
  const visit = (node: AnyNode): boolean => {
    if (!isTag(node) || isHidden(node) || strikes(node)) return false;
    const inner = node.children.map(visit).some(Boolean);
    if (inner) return true;
    if (shortText(node) === null || !hasShape(standingText(node), shape, unit) || goesOn(node)) return false;
    found.push(node);
    return true;
  };
  root.children.forEach(visit);
  return found;
}

function hasShape(text: string, shape: BlockLocator['shape'], unit: string | undefined): boolean {
  if (text.length > LONGEST || !/\d/.test(text)) return false;
  if (shape === 'money') return markedNumbers(text, null).some(({ mark, part }) => mark !== null && part !== 'cents');
  if (unit === undefined) return true;
  const read = parseQuantity(text, { locale: null });
  return read.ok ? read.value.value.unit === unit : text.endsWith(unit);
}

/**
 * Whether the number goes on in what follows, as where the pence have an element of their own: then this is but a part.
 */
function goesOn(element: Element): boolean {
  const next = element.next;
  if (next === null || !/\d\s*[.,]?$/.test(visibleText(element))) return false;
  // A block of its own begins another number.
  const joined = isTag(next) && isInlineTag(next) && !isHidden(next) && !strikes(next);
  const text = isText(next) ? next.data : joined ? visibleText(next) : '';
  return /^[.,]?\d{1,3}(?!\d|\s*[%x])/.test(text);
}

/**
 * The nth element of a shape in the block under each heading that reads so. Headings first of all. Unsure where there
 * are more or fewer of them than there were.
 */
export function locateInBlock(
  scope: Document | Element,
  { heading, shape, nth, of, unit }: BlockLocator,
): { element: Element; unsure: boolean }[] {
  const wanted = foldText(heading).toLowerCase();
  const reading = wanted === '' ? [] : elementsReading(scope, wanted);
  const headings = reading.filter((element) => /^h[1-6]$/.test(element.name));
  return (headings.length > 0 ? headings : reading).flatMap((found) => {
    const block = inBlockOf(scope, found, shape, unit);
    const element = block[nth - 1];
    return element === undefined ? [] : [{ element, unsure: of !== undefined && block.length !== of }];
  });
}

/** Elements of a shape in the smallest block around a heading in which one follows it. */
export function inBlockOf(
  scope: Document | Element,
  heading: Element,
  shape: BlockLocator['shape'],
  unit?: string,
): Element[] {
  const kept = blocksOf(heading);
  const name = `${shape} ${unit ?? ''}`;
  const known = kept.get(scope) ?? new Map<string, Element[]>();
  const found = known.get(name) ?? findInBlock(scope, heading, shape, unit);
  kept.set(scope, known.set(name, found));
  return found;
}

const blocksOf = keptFor((_heading: Element) => new Map<Document | Element, Map<string, Element[]>>());

function findInBlock(
  scope: Document | Element,
  heading: Element,
  shape: BlockLocator['shape'],
  unit: string | undefined,
): Element[] {
  let at: AnyNode | null = heading.parent;
  for (let climbs = 0; at !== null && climbs < MOST_CLIMBS; climbs += 1) {
    const block = at as Document | Element;
    const after = shapedElements(block, shape, unit).filter(
      (element) => !isStruck(element) && follows(heading, element),
    );
    if (after.length > 0) return after;
    if (at === scope) return [];
    at = at.parent;
  }
  return [];
}
