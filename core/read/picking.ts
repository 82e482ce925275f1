import { isTag, type AnyNode } from 'domhandler';
import { fail, ok, type Result } from '../result';
import { candidateAt, type Candidate } from './candidates';
import type { FieldType } from './definition';
import { pageFacts, selectElements, visibleText, type Document, type Element, parentOf } from './html';
import { placesOf, type Locator } from './locator';
import { offerWay, type WayOffered } from './pick';
import { rowsLike } from './listing/blocks';
import { listingOf, type Listing } from './listing/listing';
import type { Origin } from './listing/column';
import { tableOrigin } from './listing/tables';
import { tableAbove } from './frame/grid';
import { proveWays, type Proof } from './proof';

/** What a click on the picture of a page picked: the place, how it is read, how it would be found again. */
export interface Picked {
  /** The number of the element, in the order of the body. */
  n: number;
  /** The way down to it, as names of elements. */
  trail: string[];
  text: string;
  candidate: Candidate;
  ways: (WayOffered & { proof: Proof | null })[];
  wider: number | null;
  narrower: number | null;
  /** The records it belongs to, when its like repeats on the page. */
  listing: Listing | null;
}

const SHOWN_TRAIL = 4;

/** Every element of a page in the order of its body. */
export function elementsInOrder(document: Document): Element[] {
  const found: Element[] = [];
  const open: AnyNode[] = [...document.children].reverse();
  for (let next = open.pop(); next !== undefined; next = open.pop()) {
    if (!isTag(next)) continue;
    found.push(next);
    for (let at = next.children.length - 1; at >= 0; at -= 1) open.push(next.children[at] as AnyNode);
  }
  return found;
}

/** The number of the element that one of these ways finds and it alone, else `otherwise`; null when there is none. */
export function numberFound(document: Document, locators: Locator[], otherwise?: Element): number | null {
  const places = locators.map((locator) => placesOf(document, locator));
  const alone = places.flatMap((each) =>
    each.ok && each.value.length === 1 && each.value[0]?.element ? each.value[0].element : [],
  );
  const element = alone[0] ?? otherwise;
  const n = element === undefined ? -1 : elementsInOrder(document).indexOf(element);
  return n < 0 ? null : n;
}

/** The numbers of the elements that a selector matches; none where it cannot be used. */
export function numbersOf(document: Document, selector: string): number[] {
  const found = selectElements(document, selector);
  const wanted = new Set(found.ok ? found.value : []);
  return elementsInOrder(document).flatMap((element, n) => (wanted.has(element) ? [n] : []));
}

/**
 * Reads what was picked on a page as it is shown. `read` is the page as the watch reads it: the same, or the plainly
 * fetched one, on which the place is looked up by the ways that find it on the shown page. The error is a sentence.
 */
export function pickAt(shown: Document, read: Document, n: number, wanted: FieldType | null): Result<Picked, string> {
  const elements = elementsInOrder(shown);
  const element = elements[n];
  if (element === undefined) return fail('There is nothing at this place any more.');
  const typing = { locale: pageFacts(read).locale, address: null };
  const seen = candidateAt(shown, element, typing, wanted);
  if (!seen.ok) return fail(wanted === null ? 'Nothing can be read there.' : `This cannot be read so: ${seen.error}.`);
  const target = shown === read ? element : twinOf(read, seen.value);
  if (target === null)
    return fail(
      'This part is filled in by the page’s script: a plain fetch does not have it. Fetch the page rendered, ' +
        'under Source.',
    );
  const candidate = shown === read ? seen : candidateAt(read, target, typing, wanted);
  if (!candidate.ok) return fail(`This cannot be read so: ${candidate.error}.`);
  const { locators, type, text } = candidate.value;
  const proofs = proveWays(read, { type, locators }, typing);
  return ok({
    n,
    trail: trailOf(element),
    text,
    candidate: candidate.value,
    ways: locators.map((locator, at) => ({ ...offerWay(read, locator, text), proof: proofs[at] ?? null })),
    wider: widerThan(elements, element),
    narrower: narrowerThan(elements, element),
    listing: listingAround(read, target),
  });
}

/** The same place on the page as it is fetched plainly. */
function twinOf(read: Document, seen: Candidate): Element | null {
  for (const locator of seen.locators) {
    const places = placesOf(read, locator);
    const [only] = places.ok ? places.value : [];
    if (places.ok && places.value.length === 1 && only !== undefined && only.element !== null) return only.element;
  }
  return null;
}

function trailOf(element: Element): string[] {
  const names: string[] = [];
  for (let at: Element | null = element; at !== null && names.length < SHOWN_TRAIL; at = parentOf(at))
    names.unshift(at.name);
  return names;
}

function widerThan(elements: Element[], element: Element): number | null {
  const parent = parentOf(element);
  return parent === null || parent.name === 'body' || parent.name === 'html' ? null : elements.indexOf(parent);
}

function narrowerThan(elements: Element[], element: Element): number | null {
  const inner = element.children.filter(isTag).find((child) => visibleText(child) !== '');
  return inner === undefined ? null : elements.indexOf(inner);
}

const LEAST_RECORDS = 2;

/** The records around an element: the nearest block above it whose like repeats. */
function listingAround(document: Document, element: Element): Listing | null {
  const origin = originAround(document, element);
  return origin === null ? null : listingOf({ format: 'html', document }, origin.records, origin.columns);
}

function originAround(document: Document, element: Element): Origin | null {
  for (let at: Element | null = element; at !== null && at.name !== 'body'; at = parentOf(at)) {
    const origin = textCount(at) > 1 ? originAt(document, at) : null;
    if (origin !== null) return origin;
  }
  return null;
}

function originAt(document: Document, element: Element): Origin | null {
  if (element.name === 'tr') {
    const table = tableAbove(element);
    return table === null ? null : tableOrigin(document, table, LEAST_RECORDS);
  }
  const rows = rowsLike(element);
  const found = selectElements(document, rows);
  return found.ok && found.value.length >= LEAST_RECORDS && found.value.includes(element)
    ? { records: { from: 'rows', rows } }
    : null;
}

function textCount(element: Element): number {
  return element.children.filter((child) => isTag(child) && visibleText(child) !== '').length;
}

/**
 * The records that several picks have in common: the blocks right below where their ways part, or around the one that
 * is given, without those in which anything of `not` stands.
 */
export function listingOfPicks(document: Document, numbers: number[], not: number[] = []): Result<Listing, string> {
  const elements = elementsInOrder(document);
  const [picked, left] = [numbers, not].map((each) => each.flatMap((n) => elements[n] ?? []));
  const [first, second] = picked ?? [];
  if (first === undefined) return fail('Pick a place that is one of them.');
  const block = second === undefined ? null : blockBelowParting(first, second);
  const origin =
    second === undefined ? originAround(document, first) : block === null ? null : originAt(document, block);
  if (origin?.records.from !== 'rows') return fail('These do not stand in blocks that are alike.');
  const { rows } = origin.records;
  const narrowed = withoutRows(document, rows, picked ?? [], left ?? []);
  const narrower =
    narrowed === rows
      ? origin
      : narrowed === null
        ? null
        : { records: { from: 'rows' as const, rows: narrowed }, columns: origin.columns };
  const listing =
    narrower === null ? null : listingOf({ format: 'html', document }, narrower.records, narrower.columns);
  return listing === null ? fail('Nothing in how the page is built tells those apart.') : ok(listing);
}

/**
 * A narrower selector that leaves out the rows in which the excluded elements stand; null where nothing tells them
 * apart.
 */
function withoutRows(document: Document, rows: string, picked: Element[], not: Element[]): string | null {
  if (not.length === 0) return rows;
  const holds = (row: Element, elements: Element[]) =>
    elements.some((element) => row === element || isAbove(row, element));
  const fits = (selector: string) => {
    const found = selectElements(document, selector);
    return (
      found.ok &&
      !found.value.some((row) => holds(row, not)) &&
      picked.every((element) => found.value.some((row) => holds(row, [element])))
    );
  };
  const all = selectElements(document, rows);
  const [kept, left] = [picked, not].map((elements) => (all.ok ? all.value.filter((row) => holds(row, elements)) : []));
  const tells = [
    ...marksOf(left ?? []).map((mark) => `${rows}:not(${mark})`),
    ...marksOf(kept ?? []).map((mark) => `${rows}:is(${mark})`),
  ];
  return tells.find(fits) ?? null;
}

function isAbove(above: Element, element: Element): boolean {
  for (let at = parentOf(element); at !== null; at = parentOf(at)) if (at === above) return true;
  return false;
}

/** What may tell rows from others: their own classes, and the names and classes of what is inside. */
function marksOf(rows: Element[]): string[] {
  const classes = (element: Element) =>
    (element.attribs.class ?? '').split(/\s+/).filter((name) => /^[A-Za-z][\w-]*$/.test(name));
  const own = rows.flatMap((row) => classes(row).map((name) => `.${name}`));
  const inner = rows.flatMap((row) =>
    row.children
      .filter(isTag)
      .flatMap((child) => [...classes(child).map((name) => `:has(> .${name})`), `:has(> ${child.name})`]),
  );
  return [...new Set([...own, ...inner])];
}

function blockBelowParting(first: Element, second: Element): Element | null {
  const above = new Set<Element>();
  for (let at: Element | null = second; at !== null; at = parentOf(at)) above.add(at);
  for (let at: Element | null = first; at !== null; at = parentOf(at)) {
    const parent = parentOf(at);
    if (parent !== null && above.has(parent) && !above.has(at)) return at;
  }
  return null;
}
