/// <reference lib="dom" />
/// <reference lib="dom.iterable" />
import type { CDPSession, Page } from 'playwright-core';
import { FRAME_MARK, type Box } from '#core/read/inspect/wall';

/** What a page looks like from inside. */
export interface Capture {
  html: string;
  boxes: Box[];
  height: number;
}

/**
 * Runs in the page. Writes the page down as it is seen: what is not shown is marked hidden by its computed style,
 * scripts and styles are left out but for structured data, form fields carry what they hold, shadow trees stand open.
 * Every element is counted in the order in which it is written, and its box measured. Given to the browser as text, so
 * it leans on nothing outside.
 *
 * Given where a frame stands on its page, the frame is written instead: what is in its body, measured from that page's
 * corner.
 *
 * A page may call its fields `attributes` or `childNodes`, and so hide what a form has by that name: everything is
 * asked of the prototypes, which in a world of its own are the browser's.
 */
function capturePage(most: Bounds, framed: Offset | null): Written {
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
  const bodyOf = getter<Document, Element | null>(Document.prototype, 'body');
  const parentOf = getter<Node, Node | null>(Node.prototype, 'parentNode');
  const attributeOf = (element: Element, name: string) => Element.prototype.getAttribute.call(element, name);
  const boxOf = (element: Element) => Element.prototype.getBoundingClientRect.call(element);
  const VOID = new Set([
    'area',
    'base',
    'br',
    'col',
    'embed',
    'hr',
    'img',
    'input',
    'link',
    'meta',
    'source',
    'track',
    'wbr',
  ]);
  const LEFT_OUT = new Set([
    'script',
    'style',
    'noscript',
    'template',
    'link',
    'iframe',
    'object',
    'embed',
    'svg',
    'canvas',
    'video',
    'audio',
  ]);
  const boxes: Capture['boxes'] = [];
  const parts: string[][] = [[]];
  const frames: Written['frames'] = [];
  const standing: Element[] = [];
  let size = 0;
  let count = 0;
  const write = (text: string) => {
    size += text.length;
    parts.at(-1)?.push(text);
  };
  const offset = framed ?? { x: scrollX, y: scrollY };
  const escape = (text: string) => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;');
  const quote = (text: string) => text.replace(/&/g, '&amp;').replace(/"/g, '&quot;');
  const isData = (element: Element) =>
    nameOf(element) === 'script' && attributeOf(element, 'type') === 'application/ld+json';

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
    const written = own.map(
      ({ name, value }) =>
        ` ${name.toLowerCase()}="${quote(name === 'style' ? 'text-decoration:line-through' : value)}"`,
    );
    const struck =
      getComputedStyle(element).textDecorationLine.includes('line-through') &&
      !/^(s|del|strike)$/.test(nameOf(element));
    if (struck && attributeOf(element, 'style') === null) written.push(' style="text-decoration:line-through"');
    const field = element as HTMLInputElement;
    if (nameOf(element) === 'input' && field.type !== 'password' && field.value !== attributeOf(field, 'value'))
      written.push(` value="${quote(field.value)}"`);
    return `${written.join('')}${hidden ? ' hidden=""' : ''}`;
  };

  const measure = (element: Element, n: number) => {
    const box = boxOf(element);
    if (box.width < 2 || box.height < 2 || box.top + offset.y > most.height) return;
    boxes.push({
      n,
      x: Math.round(box.left + offset.x),
      y: Math.round(box.top + offset.y),
      w: Math.round(box.width),
      h: Math.round(box.height),
    });
  };

  const isLifted = (element: Element) => {
    for (let at: Node | null = element; at !== null; at = at instanceof ShadowRoot ? at.host : parentOf(at))
      if (
        at instanceof Element &&
        (/fixed|absolute|sticky/.test(getComputedStyle(at).position) || nameOf(at) === 'dialog')
      )
        return true;
    return false;
  };

  /** Whether a frame of some size lies over the page, and nothing over it. */
  const standsBefore = (element: Element) => {
    if (!isVisible(getComputedStyle(element))) return false;
    const box = boxOf(element);
    const [left, right] = [Math.max(box.left, 0), Math.min(box.right, innerWidth)];
    const [top, bottom] = [Math.max(box.top, 0), Math.min(box.bottom, innerHeight)];
    if (right <= left || bottom <= top || (right - left) * (bottom - top) < most.frame * innerWidth * innerHeight)
      return false;
    const root = Node.prototype.getRootNode.call(element) as Document | ShadowRoot;
    // A page may have a form of that name on its document.
    const own = root instanceof ShadowRoot ? ShadowRoot.prototype : Document.prototype;
    return isLifted(element) && own.elementFromPoint.call(root, (left + right) / 2, (top + bottom) / 2) === element;
  };

  /** Leaves room for what stands in a frame. */
  const leaveRoom = (element: Element) => {
    const box = boxOf(element);
    standing.push(element);
    const [x, y] = [box.left + element.clientLeft + offset.x, box.top + element.clientTop + offset.y];
    frames.push({ before: count, x, y, w: element.clientWidth, h: element.clientHeight });
    parts.push([]);
  };

  const visit = (node: Node, shown: boolean, seen: boolean, depth: number): void => {
    if (size > most.characters || depth > most.depth) return;
    if (typeOf(node) === Node.TEXT_NODE) return write(escape(valueOf(node) ?? ''));
    if (typeOf(node) !== Node.ELEMENT_NODE) return;
    const element = node as Element;
    if (isData(element)) {
      count += 1;
      write(`<script type="application/ld+json">${(textOf(element) ?? '').replace(/<\//g, '<\\/')}</script>`);
    } else if (nameOf(element) === 'iframe') {
      if (framed === null && shown && frames.length < most.frames && standsBefore(element)) leaveRoom(element);
    } else if (!LEFT_OUT.has(nameOf(element)) && count < most.elements && /^[a-z][\w-]*$/.test(nameOf(element)))
      enter(element, shown, seen, depth);
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
  if (framed === null) visit(root, true, true, 0);
  else {
    const body = bodyOf(document);
    count += 1;
    for (const child of body === null ? [] : childrenOf(body)) visit(child, true, true, 0);
  }
  Object.assign(globalThis, { standing });
  return {
    parts: parts.map((part) => part.join('')),
    boxes,
    frames,
    elements: count,
    height: Math.min(most.height, root.scrollHeight),
  };
}

/** What is written down in a page, or in a frame: with room between its parts for the frames that stand before it. */
interface Written {
  parts: string[];
  boxes: Box[];
  /** How many elements come before each frame, and where it is. */
  frames: ({ before: number } & Omit<Box, 'n'>)[];
  elements: number;
  height: number;
}

interface Offset {
  x: number;
  y: number;
}

/** Bounds on what is written down of a page. */
interface Bounds {
  elements: number;
  characters: number;
  height: number;
  depth: number;
  /** Frames that are written down, and the least share of the view that one of them takes. */
  frames: number;
  frame: number;
}

const DEEPEST = 500;
const MOST_FRAMES = 3;
const LEAST_FRAME = 0.08;
const CAPTURE_MS = 10_000;
const FRAME_MS = 2_000;

/** A frame's own world: with its document, and with nothing of what its scripts made of the language. */
interface World {
  session: CDPSession;
  contextId: number;
}

async function worldIn(session: CDPSession, frameId: string): Promise<World> {
  const { executionContextId } = await session.send('Page.createIsolatedWorld', { frameId, worldName: 'shrike' });
  return { session, contextId: executionContextId };
}

async function mainFrame(session: CDPSession): Promise<string> {
  return (await session.send('Page.getFrameTree')).frameTree.frame.id;
}

async function inOwnWorld<Value>(page: Page, work: (world: World) => Promise<Value>): Promise<Value> {
  const session = await page.context().newCDPSession(page);
  try {
    return await work(await worldIn(session, await mainFrame(session)));
  } finally {
    await session.detach().catch(() => undefined);
  }
}

async function evaluate({ session, contextId }: World, expression: string): Promise<unknown> {
  const { result, exceptionDetails } = await session.send('Runtime.evaluate', {
    // What a compiler leaves in a function to keep its name is given along.
    expression: `(() => { const __name = (made) => made; return (${expression}); })()`,
    contextId,
    returnByValue: true,
    timeout: CAPTURE_MS,
  });
  if (exceptionDetails !== undefined) throw new Error(`the page could not be written down: ${exceptionDetails.text}`);
  return result.value;
}

const written = async (world: World, most: Bounds, framed: Offset | null) =>
  (await evaluate(world, `(${capturePage.toString()})(${JSON.stringify(most)}, ${JSON.stringify(framed)})`)) as Written;

/** Writes a page down as it is seen, with the frames that stand before it, as walls do. */
export function captureIn(page: Page, most: Pick<Bounds, 'elements' | 'characters' | 'height'>): Promise<Capture> {
  const bounds = { ...most, depth: DEEPEST, frames: MOST_FRAMES, frame: LEAST_FRAME };
  return inOwnWorld(page, async (world) => {
    const main = await written(world, bounds, null);
    const inside: (Written | null)[] = [];
    const part = {
      ...bounds,
      elements: Math.round(bounds.elements / 10),
      characters: Math.round(bounds.characters / 10),
    };
    for (const [n, frame] of main.frames.entries()) inside.push(await soon(frameWritten(page, world, n, part, frame)));
    return joined(main, inside);
  });
}

/** What stands in one of the frames that a world has found to stand before its page. */
async function frameWritten(page: Page, world: World, n: number, most: Bounds, at: Offset): Promise<Written> {
  const { session, contextId } = world;
  const { result } = await session.send('Runtime.evaluate', { expression: `standing[${n}]`, contextId });
  const { node } = await session.send('DOM.describeNode', { objectId: result.objectId ?? '' });
  const frameId = node.frameId ?? '';
  const own = await sessionOf(page, frameId);
  try {
    return await written(await worldIn(own ?? session, frameId), most, { x: at.x, y: at.y });
  } finally {
    await own?.detach().catch(() => undefined);
  }
}

/**
 * The session of a frame that runs in a process apart, as those of other sites do; null for one that runs with its
 * page.
 */
async function sessionOf(page: Page, frameId: string): Promise<CDPSession | null> {
  for (const frame of page.frames().slice(1)) {
    const session = await page
      .context()
      .newCDPSession(frame)
      .catch(() => null);
    if (session === null) continue;
    if ((await mainFrame(session)) === frameId) return session;
    await session.detach().catch(() => undefined);
  }
  return null;
}

/** A frame that is gone meanwhile, or busy with itself, is left out. */
function soon<Value>(work: Promise<Value>): Promise<Value | null> {
  return Promise.race([work.catch(() => null), new Promise<null>((resolve) => setTimeout(resolve, FRAME_MS, null))]);
}

/** A page with its frames in their places, each as a dialog; the elements after one are counted on. */
function joined({ parts, boxes, frames, height }: Written, inside: (Written | null)[]): Capture {
  const shift = (n: number) =>
    frames.reduce((sum, { before }, at) => sum + (n < before ? 0 : (inside[at]?.elements ?? 0)), 0);
  const said = (frame: Written | null | undefined) =>
    frame === null || frame === undefined
      ? ''
      : `<section role="dialog" ${FRAME_MARK}="">${frame.parts.join('')}</section>`;
  const within = frames.flatMap(({ before, x, y, w, h }, at) => {
    const own = inside[at];
    const first = before + inside.slice(0, at).reduce((sum, frame) => sum + (frame?.elements ?? 0), 0);
    const around = { n: 0, x: Math.round(x), y: Math.round(y), w, h };
    return own === null || own === undefined ? [] : [around, ...own.boxes].map((box) => ({ ...box, n: box.n + first }));
  });
  return {
    html: `<!doctype html>${parts.map((part, at) => part + said(inside[at])).join('')}`,
    boxes: [...boxes.map((box) => ({ ...box, n: box.n + shift(box.n) })), ...within].sort(
      (one, other) => one.n - other.n,
    ),
    height,
  };
}

/** Covers what is typed into the fields of a page from here on, as passwords are, whatever kind of fields they are. */
export async function coverFields(page: Page): Promise<void> {
  const cover = `(() => {
    const sheet = new CSSStyleSheet();
    sheet.replaceSync('input, textarea { -webkit-text-security: disc !important }');
    document.adoptedStyleSheets = [...document.adoptedStyleSheets, sheet];
  })()`;
  await inOwnWorld(page, (world) => evaluate(world, cover));
}
