import { isTag, isText, Text, type AnyNode } from 'domhandler';
import { foldText } from '../../value/parse';
import { isHidden, strikes, type Document, type Element } from '../html';
import { keptFor } from '../order';
import { plainWords, senseOf } from './words';

/** A heading that what follows it stands under. */
export interface Heading {
  level: number;
  text: string;
  element: Element;
}

/** What a reader sees as one line: text that no block begins or ends within. */
export interface Line {
  text: string;
  /** From the outermost heading that governs it to the nearest. */
  under: readonly Heading[];
  /** How deep the heading is that it is itself; 0 where it is none. */
  heading: number;
  /** Navigation, asides, the foot of the page: what speaks of other things. */
  aside: boolean;
  /** All of it leads elsewhere. */
  linked: boolean;
  /** Something in it is struck out. */
  struck: boolean;
  /** The block that holds it. */
  block: Element | Document;
  texts: Text[];
}

/** The lines of a page or a part of it, in their order, and which of them each piece of text is in. */
export interface Lines {
  lines: Line[];
  at: ReadonlyMap<Text, number>;
}

const INLINE = new Set(
  (
    'a abbr b bdi bdo big cite code data del dfn em font i ins kbd label mark meter output q s samp small span ' +
    'strike strong sub sup time tt u var wbr'
  ).split(' '),
);
/** Whether an element is a part of a line. */
export const isInlineTag = ({ name }: Element) => INLINE.has(name);

const ASIDE = new Set(['nav', 'footer', 'aside', 'dialog']);
/** What is headed inside of these is not headed by it outside. */
const CLOSED = new Set(['nav', 'footer', 'aside', 'section', 'article', 'li', 'dialog']);
const MOST_LINES = 20_000;
const LONGEST_LABEL = 40;

/** Told once for a scope; what is hidden or struck out is left out. */
export const linesIn = keptFor((scope: Document | Element): Lines => {
  const made = new LineMaker();
  made.all(scope);
  return { lines: made.lines, at: made.at };
});

class LineMaker {
  readonly lines: Line[] = [];
  readonly at = new Map<Text, number>();
  #under: readonly Heading[] = [];
  #texts: Text[] = [];
  #heading = 0;
  #struck = false;

  all(scope: Element | Document): void {
    this.block(scope, scope.children, false);
    this.#end(scope, false);
  }

  block(block: Element | Document, children: AnyNode[], aside: boolean): void {
    for (const child of children) {
      if (isText(child)) this.#texts.push(child);
      else if (!isTag(child) || isHidden(child)) continue;
      else if (strikes(child)) this.#struck = true;
      else this.#element(block, child, aside);
    }
  }

  /** What is struck out by itself is no more, and the label right before it speaks of that. */
  #endStruck(): void {
    const last = this.lines.at(-1);
    if (last !== undefined && last.text.length <= LONGEST_LABEL && !/\d/.test(last.text)) last.struck = true;
  }

  #element(block: Element | Document, element: Element, aside: boolean): void {
    if (INLINE.has(element.name)) return this.block(block, element.children, aside);
    if (element.name === 'img') return this.#picture(element);
    this.#end(block, aside);
    if (element.name === 'br' || element.name === 'select' || element.name === 'option') return;
    const level = headingLevel(element);
    const outside = this.#under;
    const within =
      aside ||
      ASIDE.has(element.name) ||
      /^(navigation|contentinfo|complementary|dialog|alertdialog)$/.test(element.attribs.role ?? '');
    this.#heading = level || this.#heading;
    this.block(element, element.children, within);
    this.#end(element, within);
    if (level > 0) this.#heading = 0;
    if (CLOSED.has(element.name)) this.#under = outside;
    if (element.name === 'table' || element.name === 'fieldset')
      this.#under = this.#under.filter((heading) => heading.level < CAPTION || outside.includes(heading));
  }

  /** A picture of words that change a number's sense is read as them: `Member price`. */
  #picture({ attribs: { alt = '' } }: Element): void {
    const said = alt.length <= LONGEST_LABEL && senseOf(plainWords(alt)).length > 0;
    if (said) this.#texts.push(new Text(` ${alt} `));
  }

  #end(block: Element | Document, aside: boolean): void {
    const [texts, struck] = [this.#texts, this.#struck];
    this.#texts = [];
    this.#struck = false;
    const text = foldText(texts.map(({ data }) => data).join(''));
    if (text === '' && struck) this.#endStruck();
    if (text === '' || this.lines.length >= MOST_LINES) return;
    const heading = this.#heading;
    if (heading > 0)
      this.#under = [
        ...this.#under.filter(({ level }) => level < heading),
        { level: heading, text, element: block as Element },
      ];
    for (const each of texts) this.at.set(each, this.lines.length);
    const linked = texts.every((each) => each.data.trim() === '' || isInLink(each));
    this.lines.push({ text, under: this.#under, heading, aside, linked, struck, block, texts });
  }
}

/** What heads a table or a group of fields, below all headings. */
const CAPTION = 7;

function headingLevel({ name }: Element): number {
  if (name === 'caption' || name === 'legend') return CAPTION;
  return /^h[1-6]$/.test(name) ? Number(name.slice(1)) : 0;
}

function isInLink(text: Text): boolean {
  for (let at = text.parent as AnyNode | null; at !== null && isTag(at) && INLINE.has(at.name); at = at.parent)
    if (at.name === 'a') return true;
  return false;
}

/** The pieces of text below a node, in their order. */
export function textsBelow(node: AnyNode | Document): Text[] {
  const found: Text[] = [];
  const open: (AnyNode | Document)[] = [node];
  for (let next = open.pop(); next !== undefined; next = open.pop()) {
    if (isText(next)) found.push(next);
    else if ('children' in next)
      for (let at = next.children.length - 1; at >= 0; at -= 1) open.push(next.children[at] as AnyNode);
  }
  return found;
}
