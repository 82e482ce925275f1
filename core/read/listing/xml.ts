import { isTag, type AnyNode, type Element } from 'domhandler';
import type { XmlBody } from '../formats/xml';
import { MOST_FIELDS, wordsOfName, type Column } from './column';

/** A column for each leaf and each attribute of the elements at a path. */
export function xmlColumns(body: XmlBody, path: string): Column[] {
  const name = path.split('/').at(-1) ?? '';
  const columns = new Map<string, Column>();
  const visit = (node: AnyNode): void => {
    if (!isTag(node)) return;
    if (localName(node) === name) {
      for (const attribute of Object.keys(node.attribs))
        columns.set(`@${attribute}`, {
          label: wordsOfName(attribute),
          locator: { way: 'xpath', path: `@${attribute}` },
        });
      for (const child of node.children.filter(isTag)) {
        const own = localName(child);
        if (!child.children.some(isTag))
          columns.set(own, { label: wordsOfName(own), locator: { way: 'xpath', path: own } });
        for (const attribute of Object.keys(child.attribs)) {
          columns.set(`${own}/@${attribute}`, {
            label: `${wordsOfName(own)} ${wordsOfName(attribute)}`,
            locator: { way: 'xpath', path: `${own}/@${attribute}` },
          });
        }
      }
    }
    node.children.forEach(visit);
  };
  body.tree.children.forEach(visit);
  return [...columns.values()].slice(0, MOST_FIELDS);
}

const localName = (element: Element) => element.name.split(':').at(-1) ?? element.name;

/** Paths to elements that repeat under one parent, the most frequent first. */
export function repeatedIn(body: XmlBody): string[] {
  const counts = new Map<string, number>();
  const visit = (node: AnyNode): void => {
    if (!isTag(node)) return;
    const names = node.children.filter(isTag).map(localName);
    for (const name of new Set(names)) {
      const same = names.filter((each) => each === name).length;
      if (same > 1) counts.set(name, Math.max(same, counts.get(name) ?? 0));
    }
    node.children.forEach(visit);
  };
  body.tree.children.forEach(visit);
  return [...counts].sort((a, b) => b[1] - a[1]).map(([name]) => `//${name}`);
}
