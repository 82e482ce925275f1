/// <reference lib="dom" />
/// <reference lib="dom.iterable" />
/** What a page looks like from inside. */
export interface Capture {
  html: string;
  boxes: { n: number; x: number; y: number; w: number; h: number }[];
  height: number;
}

/**
 * Runs in the page. Writes the page down as it is seen: what is not shown is marked hidden by its computed style, scripts and
 * styles are left out but for structured data, form fields carry what they hold, shadow trees stand open. Every element is
 * counted in the order in which it is written, and its box measured. Given to the browser as text, so it leans on nothing outside.
 */
function capturePage(most: { elements: number; characters: number; height: number }): Capture {
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
  const isData = (element: Element) => element.localName === 'script' && element.getAttribute('type') === 'application/ld+json';

  const attributesOf = (element: Element, hidden: boolean) => {
    const own = [...element.attributes].filter(
      ({ name, value }) =>
        /^[a-z][\w:.-]*$/i.test(name) &&
        !/^on/i.test(name) &&
        name !== 'hidden' &&
        name !== 'srcset' &&
        !(name === 'style' && !/line-through/.test(value)) &&
        value.length < 2000,
    );
    const written = own.map(({ name, value }) => ` ${name.toLowerCase()}="${quote(name === 'style' ? 'text-decoration:line-through' : value)}"`);
    const struck = getComputedStyle(element).textDecorationLine.includes('line-through') && !/^(s|del|strike)$/.test(element.localName);
    if (struck && !element.hasAttribute('style')) written.push(' style="text-decoration:line-through"');
    const field = element as HTMLInputElement;
    if (element.localName === 'input' && field.type !== 'password' && field.value !== field.getAttribute('value'))
      written.push(` value="${quote(field.value)}"`);
    return `${written.join('')}${hidden ? ' hidden=""' : ''}`;
  };

  const measure = (element: Element, n: number) => {
    const box = element.getBoundingClientRect();
    if (box.width < 2 || box.height < 2 || box.top + scrollY > most.height) return;
    boxes.push({ n, x: Math.round(box.left + scrollX), y: Math.round(box.top + scrollY), w: Math.round(box.width), h: Math.round(box.height) });
  };

  const visit = (node: Node, shown: boolean, seen: boolean): void => {
    if (size > most.characters) return;
    if (node.nodeType === Node.TEXT_NODE) return write(escape(node.nodeValue ?? ''));
    if (node.nodeType !== Node.ELEMENT_NODE) return;
    const element = node as Element;
    if (isData(element)) {
      count += 1;
      write(`<script type="application/ld+json">${(element.textContent ?? '').replace(/<\//g, '<\\/')}</script>`);
    } else if (!LEFT_OUT.has(element.localName) && count < most.elements && /^[a-z][\w-]*$/.test(element.localName)) enter(element, shown, seen);
  };

  const isVisible = ({ display, visibility, opacity }: CSSStyleDeclaration) =>
    display !== 'none' && visibility !== 'hidden' && visibility !== 'collapse' && opacity !== '0';

  const enter = (element: Element, shown: boolean, seen: boolean): void => {
    const name = element.localName;
    const visible = isVisible(getComputedStyle(element));
    const head = name === 'head' || !seen;
    const n = count;
    count += 1;
    write(`<${name}${attributesOf(element, !head && shown && !visible)}>`);
    if (seen && shown && visible && name !== 'body') measure(element, n);
    if (VOID.has(name)) return;
    for (const child of [...(element.shadowRoot?.childNodes ?? []), ...element.childNodes]) visit(child, shown && visible, seen && name !== 'head');
    write(`</${name}>`);
  };
  visit(document.documentElement, true, true);
  return { html: `<!doctype html>${out.join('')}`, boxes, height: Math.min(most.height, document.documentElement.scrollHeight) };
}

/** The same as an expression that a browser evaluates; what a compiler leaves in a function to keep its name is given along. */
export function captureExpression(most: { elements: number; characters: number; height: number }): string {
  return `(() => { const __name = (made) => made; return (${capturePage.toString()})(${JSON.stringify(most)}); })()`;
}
