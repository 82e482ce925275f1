import { isTag, type AnyNode, type Document, type Element } from 'domhandler';

// The selectors that say nothing but where an element stands, as they are made here (`html > body > p:nth-of-type(3)`),
// followed from the top: a general engine counts the siblings of each element anew, which takes the square of a long
// list's length.

interface Step {
  name: string;
  /** Among the siblings of its name, from one; null where it is any. */
  nth: number | null;
}

const STEP = '[a-z][a-z0-9-]*(?::nth-of-type\\(\\d{1,7}\\))?';
const PLACE = new RegExp(`^(:scope > )?(${STEP}(?: > ${STEP})*)(?: (tr:has\\(td\\)))?$`);

/** The elements at a place, in document order; null for a selector that says anything else. */
export function elementsAt(scope: Document | Element, selector: string): Element[] | null {
  const [, scoped, path, rows] = PLACE.exec(selector) ?? [];
  if (path === undefined || (scoped === undefined && !path.includes(':nth'))) return null;
  const [first, ...rest] = path.split(' > ').map(stepOf);
  if (first === undefined) return null;
  const places = rest.reduce(
    (found, step) => found.flatMap((element) => childrenAt(element, step)),
    scoped === undefined ? below(scope, first) : childrenAt(scope, first),
  );
  if (places.length > 1 && scoped === undefined) return null;
  return rows === undefined ? places : places.flatMap(rowsBelow);
}

function stepOf(text: string): Step {
  const [name = '', nth] = text.split(/:nth-of-type\(|\)/);
  return { name, nth: nth === undefined ? null : Number(nth) };
}

function childrenAt(parent: Document | Element, { name, nth }: Step): Element[] {
  const like = parent.children.filter((child): child is Element => isTag(child) && child.name === name);
  return nth === null ? like : like.slice(nth - 1, nth);
}

function below(scope: Document | Element, step: Step): Element[] {
  const found: Element[] = [];
  const open: (Document | Element)[] = [scope];
  for (let next = open.pop(); next !== undefined; next = open.pop()) {
    for (const element of childrenAt(next, step)) found.push(element);
    for (const child of next.children) if (isTag(child)) open.push(child);
  }
  return found;
}

/** The rows in a table that hold a cell of data. */
function rowsBelow(table: Element): Element[] {
  const found: Element[] = [];
  const visit = (node: AnyNode): boolean => {
    if (!isTag(node)) return false;
    const at = found.length;
    const cells = node.children.map(visit).some(Boolean);
    if (node.name === 'tr' && cells) found.splice(at, 0, node);
    return cells || node.name === 'td';
  };
  table.children.forEach(visit);
  return found;
}
