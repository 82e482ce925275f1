import { isCDATA, isTag, isText, type ChildNode, type Document as TreeDocument } from 'domhandler';
import * as fontoxpath from 'fontoxpath';
import * as slimdom from 'slimdom';
import { fail, ok, type Result } from '../../result';
import { parseTree } from '../tree';

/** A parsed XML document that XPath can be asked on. */
export interface XmlBody {
  format: 'xml';
  tree: TreeDocument;
  document: slimdom.Document;
}

// The package is CommonJS to Node and an ES module to bundlers.
const xpath = ('default' in fontoxpath ? fontoxpath.default : fontoxpath) as typeof fontoxpath;

const LONGEST_PATH = 300;

/** Parses XML leniently. No DTD is read, so an entity of its own stays as it is written and nothing is expanded. */
export function parseXml(text: string): Result<XmlBody, string> {
  const tree = parseTree(text, 'xml');
  if (!tree.ok) return tree;
  if (!tree.value.children.some(isTag)) return fail('This is not XML: it has no element.');
  return ok({ format: 'xml', tree: tree.value, document: toDom(tree.value) });
}

/** The same tree as a DOM, which XPath needs; elements without namespaces, as they are written. */
export function toDom(tree: TreeDocument): slimdom.Document {
  const document = new slimdom.Document();
  const open: { from: ChildNode; into: slimdom.Document | slimdom.Element }[] = [];
  const push = (children: ChildNode[], into: slimdom.Document | slimdom.Element) => {
    for (let at = children.length - 1; at >= 0; at -= 1) open.push({ from: children[at] as ChildNode, into });
  };
  push(tree.children, document);
  for (let next = open.pop(); next !== undefined; next = open.pop()) {
    const { from, into } = next;
    if (isText(from)) addText(document, into, from.data);
    else if (isCDATA(from)) push(from.children, into);
    else if (isTag(from)) {
      const element = elementOf(document, from.name, from.attribs);
      if (into === document && document.documentElement !== null) continue;
      into.appendChild(element);
      push(from.children, element);
    }
  }
  return document;
}

const NAME = /^[A-Za-z_][\w.-]*$/;
const localName = (name: string) => name.split(':').at(-1) ?? name;

function elementOf(document: slimdom.Document, name: string, attributes: Record<string, string>): slimdom.Element {
  const local = localName(name);
  const element = document.createElementNS(null, NAME.test(local) ? local : 'unnamed');
  for (const [key, value] of Object.entries(attributes)) {
    const attribute = localName(key);
    if (NAME.test(attribute) && attribute !== 'xmlns' && !key.startsWith('xmlns:'))
      element.setAttributeNS(null, attribute, value);
  }
  return element;
}

function addText(document: slimdom.Document, into: slimdom.Document | slimdom.Element, text: string): void {
  if (into !== document) into.appendChild(document.createTextNode(text));
}

/** Every node an XPath 3.1 finds below a node, in document order; the error is what is wrong with the path. */
export function queryXml(node: slimdom.Node, path: string): Result<slimdom.Node[], string> {
  if (path.trim() === '') return fail('The path is empty.');
  if (path.length > LONGEST_PATH) return fail(`A path may have at most ${LONGEST_PATH} characters.`);
  try {
    return ok(xpath.evaluateXPathToNodes<slimdom.Node>(path, node));
  } catch (error) {
    const said = error instanceof Error ? error.message : 'This is not an XPath.';
    return fail(
      said
        .split('\n')
        .find((line) => /XP|error/i.test(line))
        ?.trim()
        .slice(0, 160) ?? said.slice(0, 160),
    );
  }
}

/** The text of a node: of an element all that is below it. */
export function textOfNode(node: slimdom.Node): string {
  return node.nodeType === node.ELEMENT_NODE || node.nodeType === node.DOCUMENT_NODE
    ? node.childNodes.map(textOfNode).join('')
    : (node.nodeValue ?? '');
}
