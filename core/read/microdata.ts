import { isTag, type AnyNode } from 'domhandler';
import { foldText } from '../value/parse';
import { textOf, type Document, type Element } from './html';
import type { StructuredLeaf } from './leaf';

interface Item {
  type: string;
  path: string;
  currency: string | null;
}

const SCHEMA = /^https?:\/\/schema\.org\//;
const DEEPEST = 200;
const MOST_LEAVES = 2000;

/** Every property of the schema.org microdata in a scope, with the path of properties from its outermost item. */
export function microdataLeaves(scope: Document | Element): StructuredLeaf[] {
  const leaves: StructuredLeaf[] = [];
  for (const child of scope.children) visit(child, null, leaves, 0);
  return leaves;
}

function visit(node: AnyNode, item: Item | null, leaves: StructuredLeaf[], depth: number): void {
  if (!isTag(node) || depth > DEEPEST) return;
  const inner = node.attribs.itemscope === undefined ? item : itemOf(node, item);
  const property = node.attribs.itemprop;
  if (property !== undefined && node.attribs.itemscope === undefined && item !== null) {
    const text = valueOf(node);
    if (leaves.length >= MOST_LEAVES) return;
    for (const name of property.split(/\s+/).filter(Boolean)) {
      leaves.push({ type: item.type, path: join(item.path, name), text, currency: item.currency, element: node });
    }
  }
  for (const child of node.children) visit(child, inner, leaves, depth + 1);
}

function itemOf(element: Element, outer: Item | null): Item | null {
  const type = element.attribs.itemtype?.split(/\s+/)[0]?.replace(SCHEMA, '') ?? null;
  const property = element.attribs.itemprop;
  const currency = currencyIn(element);
  if (outer !== null && property !== undefined)
    return { type: outer.type, path: join(outer.path, property), currency: currency ?? outer.currency };
  return type === null ? outer : { type, path: '', currency };
}

function currencyIn(item: Element): string | null {
  const own: Element[] = item.children.filter(isTag);
  for (let at = 0, next = own[at]; next !== undefined; at += 1, next = own[at]) {
    if (next.attribs.itemprop === 'priceCurrency') return valueOf(next) || null;
    if (next.attribs.itemscope === undefined) own.push(...next.children.filter(isTag));
  }
  return null;
}

const join = (path: string, name: string) => (path === '' ? name : `${path}.${name}`);

/** The value of a property (WHATWG HTML, 5.2.4), with the machine's form before the reader's. */
function valueOf(element: Element): string {
  const { attribs, name } = element;
  const stated =
    attribs.content ??
    (name === 'time' ? attribs.datetime : undefined) ??
    (name === 'data' || name === 'meter' ? attribs.value : undefined);
  const linked = name === 'a' || name === 'link' ? attribs.href : name === 'img' ? attribs.src : undefined;
  return foldText((stated ?? linked ?? textOf(element)).replace(SCHEMA, ''));
}
