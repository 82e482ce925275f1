import { isTag, type AnyNode } from 'domhandler';
import { foldText, parseQuantity } from '../value/parse';
import { inBlockOf } from './block';
import type { FieldType } from './definition';
import { describeLocator } from './describe';
import { evidenceOf, looksGenerated, surenessOf, warningOf, type Evidence, type Sureness } from './evidence';
import { isDocument, parentOf, selectElements, shortText, standingText, visibleText, type Element } from './html';
import { headsOfCell } from './frame/cells';
import { gridPlace } from './frame/grid';
import { linesIn, textsBelow } from './frame/lines';
import { labelFor } from './label';
import { placesOf, type Locator, type Scope } from './locator';
import { keptFor } from './order';
import { structuredLeaves } from './structured';

/** One way of finding a picked place, as it is shown before it is taken. */
export interface WayOffered {
  locator: Locator;
  said: string;
  evidence: Evidence;
  /** How many places it finds on this page. */
  matches: number;
  sureness: Sureness;
  warning: string | null;
}

const NAMING = [
  'itemprop',
  'data-testid',
  'data-price',
  'data-role',
  'data-field',
  'data-test',
  'data-qa',
  'data-name',
  'name',
  'aria-label',
];
const SIMPLE = /^[A-Za-z][\w-]*$/;

/** The independent ways that find a picked element and it alone: by attributes, label, heading, meaning, and place. */
export function locatorsFor(scope: Scope, element: Element, type: FieldType): Locator[] {
  const text = visibleText(element);
  const ways: (Locator | null)[] = [
    byMeaning(scope, element, standingText(element)),
    byLabel(scope, element),
    byGrid(element),
    byAttributes(scope, element),
    byHeading(scope, element, type),
  ];
  const place: Locator = { way: 'css', selector: placeOf(scope, element) };
  return [...ways.filter((way): way is Locator => way !== null && findsOnly(scope, way, element, text)), place];
}

/** A way with what there is to say of it. */
export function offerWay(scope: Scope, locator: Locator, valueText: string): WayOffered {
  const places = placesOf(scope, locator);
  return {
    locator,
    said: describeLocator(locator),
    evidence: evidenceOf(locator),
    matches: places.ok ? places.value.length : 0,
    sureness: places.ok ? surenessOf(locator, valueText) : 'unsure',
    warning: places.ok ? warningOf(locator, valueText) : 'It cannot be used here.',
  };
}

function findsOnly(scope: Scope, locator: Locator, element: Element, text: string): boolean {
  // What is found in many places is told by their number alone, before any of them is read.
  const many = locator.way === 'css' ? selectElements(scope, locator.selector) : null;
  if (many?.ok && many.value.length !== 1) return false;
  const places = placesOf(scope, locator);
  if (!places.ok || places.value.length === 0) return false;
  if (locator.way === 'structured') return true;
  const [only] = places.value;
  return (
    places.value.length === 1 &&
    only !== undefined &&
    (only.element === null || only.element === element) &&
    only.text === text
  );
}

const MEANT = /(^|\.)(price|lowPrice|availability|ratingValue|reviewCount|name|sku)$/;

/** The structured data that says the same as the element: a property on it, or one of the same digits. */
function byMeaning(scope: Scope, element: Element, text: string): Locator | null {
  const leaves = structuredLeaves(scope).filter((leaf) => MEANT.test(leaf.path));
  const digits = digitsOf(text);
  const own = leaves.find((leaf) => leaf.element === element);
  const said = own ?? leaves.find((leaf) => digits !== '' && leaf.element === null && digitsOf(leaf.text) === digits);
  if (said === undefined) return null;
  const same = leaves.filter((leaf) => leaf.type === said.type && leaf.path === said.path);
  return same.every((leaf) => leaf.text === said.text) ? { way: 'structured', type: said.type, path: said.path } : null;
}

/** Digits without marks and without trailing noughts of a fraction: `24.00` and `24` alike. */
export function digitsOf(text: string): string {
  return text.replace(/[.,]0+(?!\d)/, '').replace(/\D/g, '');
}

function byLabel(scope: Scope, element: Element): Locator | null {
  const label = labelFor(scope, element);
  return label === null ? null : { way: 'label', label };
}

/** The heads of its row and its column: of a row of two the label says it. */
function byGrid(element: Element): Locator | null {
  const place = gridPlace(element);
  const heads = place === null || place.cell !== element ? null : headsOfCell(place);
  return heads === null || heads.row.length === 0 || heads.column.length === 0 ? null : { way: 'cell', ...heads };
}

function byAttributes(scope: Scope, element: Element): Locator | null {
  const text = visibleText(element);
  for (const { above, own } of namings(element)) {
    if (!isAlone(scope, above, own)) continue;
    const locator: Locator = { way: 'css', selector: above === null ? own : `${above} ${own}` };
    if (
      evidenceOf(locator) === 'attributes' &&
      findsOnly(scope, locator, element, text) &&
      warningOf(locator, text) === null
    )
      return locator;
  }
  return null;
}

/** The element by its own names, then by those below each named ancestor, the nearest first. */
function* namings(element: Element): Generator<{ above: string | null; own: string }> {
  const names = [...ownSelectors(element)];
  for (const own of names) yield { above: null, own };
  for (let parent = parentOf(element); parent !== null; parent = parentOf(parent)) {
    for (const above of ownSelectors(parent)) for (const own of [...names, element.name]) yield { above, own };
  }
}

/** The elements of a scope by each of their names. */
const namedIn = keptFor((scope: Scope): Map<string, Element[]> => {
  const named = new Map<string, Element[]>();
  const note = (name: string, element: Element) => {
    const known = named.get(name);
    if (known === undefined) named.set(name, [element]);
    else known.push(element);
  };
  const open: AnyNode[] = [...scope.children];
  for (let next = open.pop(); next !== undefined; next = open.pop()) {
    if (!isTag(next)) continue;
    note(next.name, next);
    for (const name of ownSelectors(next)) note(name, next);
    for (const child of next.children) open.push(child);
  }
  return named;
});

/** Whether a name, or a name below another, is no second element's. Told without asking the whole page for each. */
function isAlone(scope: Scope, above: string | null, own: string): boolean {
  const found = namedIn(scope).get(own) ?? [];
  if (above === null) return found.length <= 1;
  const around = new Set<AnyNode>(namedIn(scope).get(above) ?? []);
  let count = 0;
  for (const element of found) {
    if (!isBelow(element, around)) continue;
    count += 1;
    if (count > 1) return false;
  }
  return true;
}

function isBelow(element: Element, around: Set<AnyNode>): boolean {
  for (let at = element.parent as AnyNode | null; at !== null; at = at.parent) if (around.has(at)) return true;
  return false;
}

function* ownSelectors(element: Element): Generator<string> {
  const { id, class: classes = '' } = element.attribs;
  if (id !== undefined && SIMPLE.test(id) && !looksGenerated(id)) yield `#${id}`;
  for (const name of NAMING) {
    const value = element.attribs[name];
    if (value !== undefined && /^[\w -]+$/.test(value) && !/\d/.test(value))
      yield `${element.name}[${name}="${value}"]`;
  }
  for (const name of classes.split(/\s+/)) if (SIMPLE.test(name) && !looksGenerated(name)) yield `.${name}`;
}

function byHeading(scope: Scope, element: Element, type: FieldType): Locator | null {
  if (type.kind !== 'money' && type.kind !== 'number') return null;
  const shape = type.kind === 'money' ? 'money' : 'number';
  const heading = headingBefore(scope, element);
  if (heading === null) return null;
  const read = shape === 'number' ? parseQuantity(visibleText(element), { locale: null }) : null;
  const unit = read?.ok ? (read.value.value.unit ?? undefined) : undefined;
  const block = inBlockOf(scope, heading, shape, unit);
  const nth = block.indexOf(element) + 1;
  return nth === 0
    ? null
    : {
        way: 'block',
        heading: visibleText(heading),
        shape,
        nth,
        of: block.length,
        ...(unit === undefined ? {} : { unit }),
      };
}

const LONGEST_HEADING = 120;

const headingsIn = keptFor((scope: Scope): Element[] => {
  const found = selectElements(scope, 'h1, h2, h3, h4');
  if (!found.ok) return [];
  return found.value.filter((heading) => {
    const text = shortText(heading);
    return text !== null && text !== '' && text.length <= LONGEST_HEADING;
  });
});

/** The nearest heading that governs an element; the main one of the page where none does. */
export function headingBefore(scope: Scope, element: Element): Element | null {
  const { lines, at } = linesIn(scope);
  const text = textsBelow(element).find((each) => at.has(each));
  const under = text === undefined ? [] : (lines[at.get(text) ?? -1]?.under ?? []);
  const nearest = under
    .filter(({ text: said, element: heading }) => said.length <= LONGEST_HEADING && !isInside(element, heading))
    .at(-1);
  if (nearest !== undefined) return nearest.element;
  const usable = headingsIn(scope).filter((heading) => !isInside(element, heading));
  return usable.find((heading) => heading.name === 'h1') ?? null;
}

function isInside(element: Element, above: Element): boolean {
  for (let at: AnyNode | null = element; at !== null; at = at.parent) if (at === above) return true;
  return false;
}

/** The selector that says nothing but where the element stands. */
export function placeOf(scope: Scope, element: Element): string {
  const steps: string[] = [];
  for (let at: Element | null = element; at !== null && at !== scope; at = parentOf(at)) {
    const siblings = (at.parent?.children ?? []).filter(
      (each): each is Element => isTag(each) && each.name === at?.name,
    );
    steps.unshift(siblings.length > 1 ? `${at.name}:nth-of-type(${siblings.indexOf(at) + 1})` : at.name);
  }
  return `${isDocument(scope) ? '' : ':scope > '}${steps.join(' > ')}`;
}

/** What a picked element's text is, for a type to be guessed from. */
export function typeOfText(text: string, parses: (type: FieldType) => boolean): FieldType {
  const money: FieldType = { kind: 'money', currency: null };
  if (parses(money)) return money;
  return /^[\D]{0,3}\d/.test(foldText(text)) && parses({ kind: 'number' }) ? { kind: 'number' } : { kind: 'text' };
}
