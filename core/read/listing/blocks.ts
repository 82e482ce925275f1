import { isTag, type AnyNode } from 'domhandler';
import { selectElements, visibleText, type Document, type Element } from '../html';
import { cellsOf } from '../locator';
import { placeOf } from '../pick';
import { MOST_FIELDS, wordsOfName, type Column, type Origin } from './column';

const LEAST_BLOCKS = 3;

/** Blocks of one tag and one set of classes that repeat under one parent and hold more than one text. */
export function blocksIn(document: Document): Origin[] {
  const found = new Map<string, { count: number; element: Element }>();
  const visit = (node: AnyNode): void => {
    if (!isTag(node) || node.name === 'table' || node.name === 'select' || node.name === 'nav') return;
    const groups = new Map<string, Element[]>();
    for (const child of node.children.filter(isTag)) {
      const kind = selectorOfKind(child);
      const group = groups.get(kind);
      if (group === undefined) groups.set(kind, [child]);
      else group.push(child);
    }
    for (const [kind, members] of groups) {
      const [first] = members;
      if (members.length < LEAST_BLOCKS || first === undefined || textsIn(first).length < 2) continue;
      const known = found.get(kind);
      found.set(kind, { count: members.length + (known?.count ?? 0), element: known?.element ?? first });
    }
    node.children.forEach(visit);
  };
  document.children.forEach(visit);
  return [...found]
    .sort((a, b) => b[1].count - a[1].count)
    .map(([kind, { element }]) => ({ records: { from: 'rows', rows: rowsLike(element, kind) } as const }));
}

/**
 * The selector of the blocks that are like a picked one: of its tag and its classes, under the nearest named ancestor.
 */
export function rowsLike(element: Element, kind: string = selectorOfKind(element)): string {
  if (kind.includes('.')) return kind;
  const parent = element.parent !== null && isTag(element.parent) ? element.parent : null;
  return parent === null ? kind : `${selectorOfKind(parent)} > ${kind}`;
}

function selectorOfKind(element: Element): string {
  const classes = (element.attribs.class ?? '').split(/\s+/).filter((name) => /^[A-Za-z][\w-]*$/.test(name));
  return `${element.name}${classes
    .slice(0, 2)
    .map((name) => `.${name}`)
    .join('')}`;
}

/** The smallest elements of a block that hold text of their own. */
function textsIn(block: Element): Element[] {
  const found: Element[] = [];
  const visit = (node: AnyNode): boolean => {
    if (!isTag(node)) return false;
    const inner = node.children.map(visit).some(Boolean);
    const text = inner ? '' : visibleText(node);
    if (text !== '' && /[\p{L}\p{N}]/u.test(text)) found.push(node);
    return inner || text !== '';
  };
  block.children.forEach(visit);
  return found;
}

/**
 * What repeats in blocks alike: each text by its class or its place within the block, and where the first link leads.
 */
export function rowColumns(document: Document, rows: string): Column[] {
  const found = selectElements(document, rows);
  const [sample] = found.ok ? found.value : [];
  if (sample === undefined) return [];
  const cells = cellsOf(sample);
  const texts = cells.length > 0 ? cells : textsIn(sample);
  const columns = texts.slice(0, MOST_FIELDS).map((element, at): Column => {
    const name = (element.attribs.itemprop ?? element.attribs.class ?? '').split(/\s+/)[0] ?? '';
    const own = /^[A-Za-z][\w-]*$/.test(name) ? `.${name}` : '';
    const unique = own !== '' && only(sample, own);
    return {
      label: columnLabel(element, name, at),
      locator: { way: 'css', selector: unique ? own : placeOf(sample, element) },
    };
  });
  return columns;
}

function only(block: Element, selector: string): boolean {
  const found = selectElements(block, selector);
  return found.ok && found.value.length === 1;
}

function columnLabel(element: Element, name: string, at: number): string {
  if (/^h[1-6]$/.test(element.name) || element.name === 'a') return 'name';
  const last = wordsOfName(name).split(' ').at(-1) ?? '';
  return last.length > 1 ? last : `text ${at + 1}`;
}
