import { isTag, isText, type AnyNode } from 'domhandler';
import { foldText } from '../value/parse';
import { isHidden, shortText, type Document, type Element } from './html';
import { keptFor } from './order';

// What stands where, by its words: made once for a scope, so that looking for words does not go through all of it
// again.

/** A label as it is compared: without its colon, in one case. */
export function foldLabel(text: string): string {
  return foldText(text)
    .replace(/\s*[:：]\s*$/, '')
    .toLowerCase();
}

/** Elements that may say some words, in the order in which they end. */
interface Lines {
  /** By all of a short text, in lower case. */
  texts: Map<string, Element[]>;
  /** By a label that an element's text, a piece of it or the beginning of its line is. */
  labels: Map<string, Element[]>;
}

const LONGEST_LABEL_LINE = 240;

const linesOf = keptFor((scope: Document | Element): Lines => {
  const lines: Lines = { texts: new Map(), labels: new Map() };
  const visit = (node: AnyNode): void => {
    if (!isTag(node) || isHidden(node)) return;
    node.children.forEach(visit);
    const text = shortText(node);
    if (text !== null && text !== '') note(lines.texts, text.toLowerCase(), node);
    for (const label of labelsIn(node, text)) note(lines.labels, label, node);
  };
  scope.children.forEach(visit);
  return lines;
});

function note(lines: Map<string, Element[]>, words: string, element: Element): void {
  const known = lines.get(words);
  if (known === undefined) lines.set(words, [element]);
  else known.push(element);
}

/**
 * Every label that an element may be asked for: its text, each piece of text right in it, what stands before a colon in
 * its line.
 */
function labelsIn(element: Element, text: string | null): Set<string> {
  const labels = new Set<string>();
  const pieces = element.children.filter(isText).map((child) => child.data);
  for (const piece of pieces) if (piece.length <= 2 * LONGEST_LABEL_LINE) labels.add(foldLabel(piece));
  if (text !== null && text.length <= LONGEST_LABEL_LINE) {
    labels.add(foldLabel(text));
    if (pieces.some((piece) => piece.trim() !== '')) {
      for (const { index } of text.matchAll(/[:：]/g)) labels.add(text.slice(0, index).trimEnd().toLowerCase());
    }
  }
  labels.delete('');
  return labels;
}

/** The smallest visible elements whose whole text reads so, given in lower case. */
export function elementsReading(scope: Document | Element, wanted: string): Element[] {
  const found = linesOf(scope).texts.get(wanted) ?? [];
  return smallest(scope, found);
}

/**
 * The smallest visible elements that may say a label, and of which `says` is true, in the order in which they end,
 * until it is enough.
 */
export function elementsSaying(
  scope: Document | Element,
  label: string,
  says: (element: Element) => boolean,
  enough: () => boolean,
): Element[] {
  return smallest(scope, linesOf(scope).labels.get(label) ?? [], says, enough);
}

/** Those in which no other one stands: the inner ones come first. */
function smallest(
  scope: Document | Element,
  found: Element[],
  says = (_element: Element) => true,
  enough = () => false,
): Element[] {
  const around = new Set<AnyNode>();
  const kept: Element[] = [];
  for (const element of found) {
    if (enough()) return kept;
    if (around.has(element) || !says(element)) continue;
    kept.push(element);
    if (found.length > 1)
      for (let at = element.parent as AnyNode | null; at !== null && at !== scope && !around.has(at); at = at.parent)
        around.add(at);
  }
  return kept;
}
