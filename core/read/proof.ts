import { isTag, isText, Text, type AnyNode } from 'domhandler';
import { cloneNode } from 'domhandler';
import type { Field, FieldType } from './definition';
import { selectElements, type Document, type Element } from './html';
import { placesOf, locate, type Locator } from './locator';
import { placeOf } from './pick';
import { parseAs, type Typing } from './typed';

/** What a way finds when the watched value is gone from its place, and when it is another. */
export interface Proof {
  locator: Locator;
  /** It still finds the very place with the text there blanked; structured data and patterns have no place to find. */
  blanked: boolean | null;
  /** It reads the other value from the place where that was put. */
  altered: boolean;
}

/**
 * Proves each way of a field on a page: with the text at its place blanked and with its digits altered, a way that
 * leans on the watched value itself no longer finds it. Structured data is altered with the page, since a shop changes
 * both.
 */
export function proveWays(document: Document, field: Pick<Field, 'type' | 'locators'>, typing: Typing): Proof[] {
  return field.locators.map((locator) => prove(document, locator, field, typing));
}

function prove(document: Document, locator: Locator, field: Pick<Field, 'type'>, typing: Typing): Proof {
  const places = placesOf(document, locator);
  const place = places.ok ? (places.value[0] ?? null) : null;
  if (place === null) return { locator, blanked: false, altered: false };
  const other = alteredFor(field.type, place.text);
  const changed =
    place.element === null ? withTextReplaced(document, place.text, other) : withTextAt(document, place.element, other);
  const read = locate(changed, locator);
  const altered = read.ok && sameReading(read.value.text, other, field, typing);
  if (place.element === null) return { locator, blanked: null, altered };
  const blank = withTextAt(document, place.element, '');
  const selector = placeOf(document, place.element);
  const expected = selectElements(blank, selector);
  const found = placesOf(blank, locator);
  const still = expected.ok && found.ok && found.value.some((each) => each.element === expected.value[0]);
  return { locator, blanked: still || isShape(locator), altered };
}

/** A way by shape needs a price to be there; blanking tells nothing of it. */
const isShape = (locator: Locator) => locator.way === 'block';

function sameReading(text: string, other: string, field: Pick<Field, 'type'>, typing: Typing): boolean {
  if (text === other) return true;
  const [a, b] = [text, other].map((each) => parseAs(field.type, { text: each, currency: null }, typing));
  return a?.ok === true && b?.ok === true && JSON.stringify(a.value.value) === JSON.stringify(b.value.value);
}

/**
 * Another text that a field of this type reads as another value: of a scale another grade, of states another one's
 * phrase, of a moment the day or the year before.
 */
export function alteredFor(type: FieldType, text: string): string {
  const said = text.toLowerCase();
  if (type.kind === 'moment')
    return text.replace(/\d+/, (first) =>
      String(Number(first) > 1 ? Number(first) - 1 : 2).padStart(first.length, '0'),
    );
  if (type.kind === 'grade') return type.scale.find((grade) => grade.toLowerCase() !== said.trim()) ?? text;
  const other =
    type.kind === 'state'
      ? type.states.find(({ phrases }) => !phrases.some((phrase) => said.includes(phrase)))
      : undefined;
  return other?.phrases[0] ?? alteredText(text);
}

/** The same text with every digit another, so that no part of it stays: nine's complement, never a leading nought. */
function alteredText(text: string): string {
  if (!/\d/.test(text)) return `${text} otherwise`;
  return text.replace(/\d/g, (digit, at: number) => {
    const other = 9 - Number(digit);
    return other === 0 && !/\d/.test(text.charAt(at - 1)) ? '1' : String(other === Number(digit) ? 0 : other);
  });
}

/** A copy of the page with the text of one element replaced, its markup kept. */
export function withTextAt(document: Document, element: Element, text: string): Document {
  const copy = cloneNode(document, true);
  const twin = selectElements(copy, placeOf(document, element));
  const [at] = twin.ok ? twin.value : [];
  if (at !== undefined) setText(at, text);
  return copy;
}

function setText(element: Element, text: string): void {
  const texts: Text[] = [];
  const visit = (node: AnyNode): void => {
    if (isText(node)) texts.push(node);
    else if (isTag(node)) node.children.forEach(visit);
  };
  visit(element);
  for (const [at, node] of texts.entries()) node.data = at === 0 ? text : '';
  if (texts.length === 0) {
    if (element.attribs.content !== undefined) element.attribs.content = text;
    else {
      const node = new Text(text);
      node.parent = element;
      element.children.push(node);
    }
  }
}

function withTextReplaced(document: Document, text: string, other: string): Document {
  const copy = cloneNode(document, true);
  const visit = (node: AnyNode): void => {
    if (isText(node)) node.data = node.data.split(text).join(other);
    else if ('children' in node) node.children.forEach(visit);
  };
  copy.children.forEach(visit);
  return copy;
}
