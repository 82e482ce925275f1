/// <reference lib="dom" />
/// <reference lib="dom.iterable" />
import type { Page } from 'playwright-core';
import type { Box } from '#core/read/inspect/wall';

/** What a page looks like from inside. */
export interface Capture {
  html: string;
  boxes: Box[];
  height: number;
}

/**
 * Runs in the page. Writes the page down as it is seen: what is not shown is marked hidden by its computed style, scripts and
 * styles are left out but for structured data, form fields carry what they hold, shadow trees stand open. Every element is
 * counted in the order in which it is written, and its box measured. Given to the browser as text, so it leans on nothing outside.
 *
 * A page may call its fields `attributes` or `childNodes`, and so hide what a form has by that name: everything is asked of the
 * prototypes, which in a world of its own are the browser's.
 */
function capturePage(most: Bounds): Capture {
  const getter = <Node, Value>(prototype: object, name: string) => {
    // eslint-disable-next-line @typescript-eslint/unbound-method -- it is called with the node that it is asked of
    const get = Object.getOwnPropertyDescriptor(prototype, name)?.get as () => Value;
    return (node: Node) => get.call(node);
  };
  const typeOf = getter<Node, number>(Node.prototype, 'nodeType');
  const valueOf = getter<Node, string | null>(Node.prototype, 'nodeValue');
  const textOf = getter<Node, string | null>(Node.prototype, 'textContent');
  const childrenOf = getter<Node, NodeListOf<ChildNode>>(Node.prototype, 'childNodes');
  const nameOf = getter<Element, string>(Element.prototype, 'localName');
  const allAttributesOf = getter<Element, NamedNodeMap>(Element.prototype, 'attributes');
  const shadowOf = getter<Element, ShadowRoot | null>(Element.prototype, 'shadowRoot');
  const rootOf = getter<Document, Element>(Document.prototype, 'documentElement');
  const attributeOf = (element: Element, name: string) => Element.prototype.getAttribute.call(element, name);
  const boxOf = (element: Element) => Element.prototype.getBoundingClientRect.call(element);
  const VOID = new Set(['area', 'base', 'br', 'col', 'embed', 'hr', 'img', 'input', 'link', 'meta', 'source', 'track', 'wbr']);
  const LEFT_OUT = new Set(['script', 'style', 'noscript', 'template', 'link', 'iframe', 'object', 'embed', 'svg', 'canvas', 'video', 'audio']);
  const boxes: Capture['boxes'] = [];
  const out: string[] = [];
  let size = 0;
  let count = 0;
  const write = (text: string) => {
    size += text.length;
    out.push(text);
  };
  const escape = (text: string) => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;');
  const quote = (text: string) => text.replace(/&/g, '&amp;').replace(/"/g, '&quot;');
  const isData = (element: Element) => nameOf(element) === 'script' && attributeOf(element, 'type') === 'application/ld+json';

  const attributesOf = (element: Element, hidden: boolean) => {
    const own = [...allAttributesOf(element)].filter(
      ({ name, value }) =>
        /^[a-z][\w:.-]*$/i.test(name) &&
        !/^on/i.test(name) &&
        name !== 'hidden' &&
        name !== 'srcset' &&
        !(name === 'style' && !/line-through/.test(value)) &&
        value.length < 2000,
    );
    const written = own.map(({ name, value }) => ` ${name.toLowerCase()}="${quote(name === 'style' ? 'text-decoration:line-through' : value)}"`);
    const struck = getComputedStyle(element).textDecorationLine.includes('line-through') && !/^(s|del|strike)$/.test(nameOf(element));
    if (struck && attributeOf(element, 'style') === null) written.push(' style="text-decoration:line-through"');
    const field = element as HTMLInputElement;
    if (nameOf(element) === 'input' && field.type !== 'password' && field.value !== attributeOf(field, 'value'))
      written.push(` value="${quote(field.value)}"`);
    return `${written.join('')}${hidden ? ' hidden=""' : ''}`;
  };

  const measure = (element: Element, n: number) => {
    const box = boxOf(element);
    if (box.width < 2 || box.height < 2 || box.top + scrollY > most.height) return;
    boxes.push({ n, x: Math.round(box.left + scrollX), y: Math.round(box.top + scrollY), w: Math.round(box.width), h: Math.round(box.height) });
  };

  const visit = (node: Node, shown: boolean, seen: boolean, depth: number): void => {
    if (size > most.characters || depth > most.depth) return;
    if (typeOf(node) === Node.TEXT_NODE) return write(escape(valueOf(node) ?? ''));
    if (typeOf(node) !== Node.ELEMENT_NODE) return;
    const element = node as Element;
    if (isData(element)) {
      count += 1;
      write(`<script type="application/ld+json">${(textOf(element) ?? '').replace(/<\//g, '<\\/')}</script>`);
    } else if (!LEFT_OUT.has(nameOf(element)) && count < most.elements && /^[a-z][\w-]*$/.test(nameOf(element))) enter(element, shown, seen, depth);
  };

  const isVisible = ({ display, visibility, opacity }: CSSStyleDeclaration) =>
    display !== 'none' && visibility !== 'hidden' && visibility !== 'collapse' && opacity !== '0';

  const enter = (element: Element, shown: boolean, seen: boolean, depth: number): void => {
    const name = nameOf(element);
    const visible = isVisible(getComputedStyle(element));
    const head = name === 'head' || !seen;
    const n = count;
    count += 1;
    write(`<${name}${attributesOf(element, !head && shown && !visible)}>`);
    if (seen && shown && visible && name !== 'body') measure(element, n);
    if (VOID.has(name)) return;
    const shadow = shadowOf(element);
    const children = [...(shadow === null ? [] : childrenOf(shadow)), ...childrenOf(element)];
    for (const child of children) visit(child, shown && visible, seen && name !== 'head', depth + 1);
    write(`</${name}>`);
  };
  const root = rootOf(document);
  visit(root, true, true, 0);
  return { html: `<!doctype html>${out.join('')}`, boxes, height: Math.min(most.height, root.scrollHeight) };
}

/** Bounds on what is written down of a page. */
interface Bounds {
  elements: number;
  characters: number;
  height: number;
  depth: number;
}

const DEEPEST = 500;
const CAPTURE_MS = 10_000;

/**
 * Runs an expression in a world of its own: with the page's document, and with nothing of what its scripts made of the language.
 */
async function inOwnWorld<Value>(page: Page, expression: string): Promise<Value> {
  const session = await page.context().newCDPSession(page);
  try {
    const { frameTree } = await session.send('Page.getFrameTree');
    const world = await session.send('Page.createIsolatedWorld', { frameId: frameTree.frame.id, worldName: 'shrike' });
    const { result, exceptionDetails } = await session.send('Runtime.evaluate', {
      // What a compiler leaves in a function to keep its name is given along.
      expression: `(() => { const __name = (made) => made; return (${expression}); })()`,
      contextId: world.executionContextId,
      returnByValue: true,
      timeout: CAPTURE_MS,
    });
    if (exceptionDetails !== undefined) throw new Error(`the page could not be written down: ${exceptionDetails.text}`);
    return result.value as Value;
  } finally {
    await session.detach().catch(() => undefined);
  }
}

/** Writes a page down as it is seen. */
export function captureIn(page: Page, most: Omit<Bounds, 'depth'>): Promise<Capture> {
  return inOwnWorld<Capture>(page, `(${capturePage.toString()})(${JSON.stringify({ ...most, depth: DEEPEST })})`);
}

/** Covers what is typed into the fields of a page from here on, as passwords are, whatever kind of fields they are. */
export async function coverFields(page: Page): Promise<void> {
  await inOwnWorld(
    page,
    `(() => {
      const sheet = new CSSStyleSheet();
      sheet.replaceSync('input, textarea { -webkit-text-security: disc !important }');
      document.adoptedStyleSheets = [...document.adoptedStyleSheets, sheet];
    })()`,
  );
}
