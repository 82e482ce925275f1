import { isTag } from 'domhandler';
import { cut } from '../../value/sanitise';
import {
  askedAlone,
  askedIn,
  isUnseen,
  leadsOn,
  LONGEST_WORDS,
  parentsOf,
  pressablesIn,
  selected,
  wordsOn,
  type Asked,
} from '../asking';
import { isHidden, visibleText, type Document, type Element } from '../html';
import { placeOf } from '../pick';
import { elementsInOrder } from '../picking';

/** Where an element stands on a page as it was shown, in pixels. */
export interface Box {
  /** The number of the element, in the order of the body. */
  n: number;
  x: number;
  y: number;
  w: number;
  h: number;
}

/**
 * Where a step acts: by a CSS selector, in a frame that stands before the page where that is said, or by the words that
 * stand on a button, a link or beside a field.
 */
export type Target = { selector: string; framed?: true } | { words: string };

/** What marks the content of a frame that stands before a page, where that is written down. */
export const FRAME_MARK = 'data-shrike-frame';

/** What can be pressed on a page. */
export interface Pressable {
  /** Its number, and that of the last element inside it. */
  n: number;
  last: number;
  words: string;
  at: Target;
}

/** What can be filled in. */
export interface Fillable {
  label: string;
  secret: boolean;
  at: Target;
}

/** What a wall asks for; a `cover` asks for something else. */
export type WallKind = Asked | 'cover';

/** What stands before a page, and what leads through. */
export interface Wall {
  kind: WallKind;
  buttons: Pressable[];
  fields: Fillable[];
}

const VIEW = { w: 1280, h: 900 };
/** How much of what else stands in view a wall covers. */
const COVERED = 0.6;
const LEAST_AREA = 0.25;
const MOST_BUTTONS = 12;
const MOST_FIELDS = 6;
const MOST_COVERING = 200;

/**
 * What stands before a page as it was shown: a layer over most of it, a dialog, or the whole page where it is nothing
 * else.
 */
export function wallOn(document: Document, boxes: Box[]): Wall | null {
  const page = new Seen(document, boxes);
  const layer = layerOver(page);
  if (layer !== null) return wallOf(page, layer, askedIn(layer) ?? 'cover');
  const alone = askedAlone(document);
  return alone === null ? null : wallOf(page, alone.block, alone.asked);
}

/** What would be pressed at a place of a page: the button, link or the like around it; null where there is none. */
export function pressableAt(document: Document, n: number): Pressable | null {
  const page = new Seen(document, []);
  const pointed = page.elements[n];
  const pressed = pointed === undefined ? undefined : [pointed, ...parentsOf(pointed)].find(isPressable);
  return pressed === undefined ? null : page.pressable(pressed);
}

/** A page with the numbers and boxes of its elements. */
class Seen {
  readonly elements: Element[];
  readonly #numbers: Map<Element, number>;
  readonly #boxes: Map<number, Box>;
  #allWords: string[] | null = null;

  constructor(
    readonly document: Document,
    boxes: Box[],
  ) {
    this.elements = elementsInOrder(document);
    this.#numbers = new Map(this.elements.map((element, n) => [element, n]));
    this.#boxes = new Map(boxes.map((box) => [box.n, box]));
  }

  boxOf(element: Element): Box | null {
    return this.#boxes.get(this.numberOf(element)) ?? null;
  }

  numberOf(element: Element): number {
    return this.#numbers.get(element) ?? -1;
  }

  lastIn(element: Element): number {
    let last = element;
    for (
      let inner = last.children.filter(isTag).at(-1);
      inner !== undefined;
      inner = last.children.filter(isTag).at(-1)
    )
      last = inner;
    return this.numberOf(last);
  }

  pressable(element: Element): Pressable {
    return {
      n: this.numberOf(element),
      last: this.lastIn(element),
      words: wordsOn(element),
      at: this.#targetOf(element),
    };
  }

  /** By its words where nothing else that can be pressed has them, else by a selector. */
  #targetOf(element: Element): Target {
    const words = wordsOn(element);
    const folded = words.toLowerCase();
    this.#allWords ??= pressablesIn(this.document).map((each) => wordsOn(each).toLowerCase());
    const like = this.#allWords.filter((each) => each.includes(folded));
    return words !== '' && words.length < LONGEST_WORDS && like.length === 1
      ? { words }
      : selectorOf(this.document, element);
  }
}

/** The layer that lies over most of what stands in view; null where none does. */
function layerOver(page: Seen): Element | null {
  const modal = selected(page.document, '[aria-modal="true"], dialog[open]').find(
    (element) => page.boxOf(element) !== null,
  );
  if (modal !== undefined && !isHidden(modal) && leadsOn(modal)) return modal;
  const wide = page.elements
    .filter((element) => areaInView(page.boxOf(element)) >= LEAST_AREA * VIEW.w * VIEW.h)
    .slice(-MOST_COVERING);
  // A frame that stands before the page was made to: it need not cover most of it.
  const frame = wide.find((element) => element.attribs[FRAME_MARK] !== undefined && askedIn(element) !== null);
  if (frame !== undefined) return frame;
  const leaves = page.elements.filter((element) => isLeafInView(page, element));
  for (const element of wide) {
    if (!covers(page, element, leaves)) continue;
    const layer = visibleText(element) === '' ? standingBefore(page, element) : element;
    if (layer !== null && leadsOn(layer)) return layer;
  }
  return null;
}

/** Whether most of what stands in view elsewhere lies under an element that comes after it. */
function covers(page: Seen, element: Element, leaves: Element[]): boolean {
  const box = page.boxOf(element);
  const [from, to] = [page.numberOf(element), page.lastIn(element)];
  const above = new Set(parentsOf(element));
  const others = leaves.filter((leaf) => (page.numberOf(leaf) < from || page.numberOf(leaf) > to) && !above.has(leaf));
  const under = others.filter((leaf) => page.numberOf(leaf) < from && holdsMiddle(box, page.boxOf(leaf)));
  // What stands before a curtain is not under it, nor counted as uncovered.
  const behind = others.filter((leaf) => page.numberOf(leaf) < from || !holdsMiddle(box, page.boxOf(leaf)));
  return under.length > 0 && under.length >= COVERED * behind.length;
}

/** What comes after a curtain without words and stands before it. */
function standingBefore(page: Seen, curtain: Element): Element | null {
  const box = page.boxOf(curtain);
  const after = page.elements.slice(page.lastIn(curtain) + 1);
  return after.find((element) => visibleText(element) !== '' && holdsMiddle(box, page.boxOf(element))) ?? null;
}

function isLeafInView(page: Seen, element: Element): boolean {
  const box = page.boxOf(element);
  if (box === null || areaInView(box) === 0) return false;
  return !element.children.some((child) => isTag(child) && page.boxOf(child) !== null) && visibleText(element) !== '';
}

function areaInView(box: Box | null): number {
  if (box === null) return 0;
  const [w, h] = [
    Math.min(box.x + box.w, VIEW.w) - Math.max(box.x, 0),
    Math.min(box.y + box.h, VIEW.h) - Math.max(box.y, 0),
  ];
  return w <= 0 || h <= 0 ? 0 : w * h;
}

function holdsMiddle(outer: Box | null, inner: Box | null): boolean {
  if (outer === null || inner === null) return false;
  const [x, y] = [inner.x + inner.w / 2, inner.y + inner.h / 2];
  return x >= outer.x && x <= outer.x + outer.w && y >= outer.y && y <= outer.y + outer.h;
}

function wallOf(page: Seen, layer: Document | Element, kind: WallKind): Wall {
  const fields = kind === 'sign-in' ? fillablesIn(layer) : [];
  return {
    kind,
    buttons: pressablesIn(layer)
      .slice(0, MOST_BUTTONS)
      .map((element) => page.pressable(element)),
    fields: fields.map((field) => fillableOf(page.document, field, fields)),
  };
}

function isPressable({ name, attribs }: Element): boolean {
  if (name === 'button' || name === 'summary') return true;
  if (name === 'a') return attribs.href !== undefined;
  if (name === 'input') return ['submit', 'button', 'image'].includes(attribs.type ?? '');
  return ['button', 'link', 'tab'].includes(attribs.role ?? '');
}

function fillablesIn(layer: Document | Element): Element[] {
  const fields = selected(layer, 'input, textarea').filter(
    (field) => !isUnseen(field) && /^(text|email|tel|number|password|)$/.test(field.attribs.type ?? ''),
  );
  return fields.slice(0, MOST_FIELDS);
}

function fillableOf(document: Document, field: Element, all: Element[]): Fillable {
  const label = labelOf(document, field);
  const alone =
    label !== '' &&
    all.filter((each) => labelOf(document, each).toLowerCase().includes(label.toLowerCase())).length === 1;
  return {
    label: label || (field.attribs.name ?? 'unnamed'),
    secret: field.attribs.type === 'password',
    at: alone ? { words: label } : selectorOf(document, field),
  };
}

function labelOf(document: Document, field: Element): string {
  const { id, placeholder, 'aria-label': said } = field.attribs;
  const [by] = id === undefined || !SIMPLE.test(id) ? [] : selected(document, `label[for="${id}"]`);
  const around = parentsOf(field).find(({ name }) => name === 'label');
  return cut(
    [said, by && visibleText(by), around && visibleText(around), placeholder].find((text) => !!text) ?? '',
    LONGEST_WORDS,
  );
}

const SIMPLE = /^[A-Za-z][\w-]*$/;

/** By a name of its own where that is the only one, else by its place; in a frame by what it is there. */
function selectorOf(document: Document, element: Element): Target {
  const frame = parentsOf(element).find(({ attribs }) => attribs[FRAME_MARK] !== undefined);
  const { id, name } = element.attribs;
  const own = [
    id !== undefined && SIMPLE.test(id) ? `#${id}` : null,
    name !== undefined && SIMPLE.test(name) ? `${element.name}[name="${name}"]` : null,
  ];
  const selector =
    own.find((each) => each !== null && selected(frame ?? document, each).length === 1) ??
    placeOf(frame ?? document, element);
  return frame === undefined ? { selector } : { selector: selector.replace(/^:scope/, 'body'), framed: true };
}

const NAMES: Record<WallKind, string> = {
  consent: 'A wall that asks for consent stands before the page.',
  age: 'A wall that asks for your age stands before the page.',
  country: 'A wall that asks for your country stands before the page.',
  'sign-in': 'The page asks to sign in first.',
  cover: 'Something lies over the page.',
};

/** What stands before a page, as a sentence. */
export function describeWall(kind: WallKind): string {
  return NAMES[kind];
}
