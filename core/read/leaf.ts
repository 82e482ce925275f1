import type { Element } from 'domhandler';

/** One leaf of the structured data in a page, addressed by the type of its node and the path below it. */
export interface StructuredLeaf {
  /** schema.org type of the node that the path starts from, such as `Product`. */
  type: string;
  /** Property names from that node, joined by dots; members of a list share one path. */
  path: string;
  text: string;
  /** ISO 4217 code stated beside it, for prices. */
  currency: string | null;
  /** The element that carries it, in microdata; null in JSON-LD. */
  element: Element | null;
}
