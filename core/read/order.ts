import { isTag, type AnyNode, type Document, type Element } from 'domhandler';

const orders = new WeakMap<AnyNode | Document, Map<AnyNode, number>>();

/** The root of the tree that a node stands in. */
function rootOf(node: AnyNode | Document): AnyNode | Document {
  let at: AnyNode | Document = node;
  while (at.parent !== null) at = at.parent;
  return at;
}

/** The elements of a tree by their place in it, told once for a tree: nothing is moved in one that was read. */
function orderOf(root: AnyNode | Document): Map<AnyNode, number> {
  const known = orders.get(root);
  if (known !== undefined) return known;
  const order = new Map<AnyNode, number>();
  const open: AnyNode[] = [root];
  for (let next = open.pop(); next !== undefined; next = open.pop()) {
    if (isTag(next)) order.set(next, order.size);
    if ('children' in next)
      for (let at = next.children.length - 1; at >= 0; at -= 1) open.push(next.children[at] as AnyNode);
  }
  orders.set(root, order);
  return order;
}

/** Whether one element comes after another in the order of the document; what is inside of it does. */
export function follows(first: Element, second: Element): boolean {
  const order = orderOf(rootOf(first));
  return (order.get(second) ?? -1) > (order.get(first) ?? -1);
}

/** Something worked out once for a node and kept as long as that is: of a tree that is read and not changed. */
export function keptFor<Node extends object, Made>(make: (node: Node) => Made): (node: Node) => Made {
  const kept = new WeakMap<Node, { made: Made }>();
  return (node) => {
    const known = kept.get(node) ?? { made: make(node) };
    kept.set(node, known);
    return known.made;
  };
}
