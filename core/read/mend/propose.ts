import { fail, ok, type Result } from '../../result';
import { ordersApart, percentOf, subtract, compareDecimals, magnitude, type Decimal } from '../../value/decimal';
import { isMeasure, sameValue, unitOf, type Value } from '../../value/value';
import { shapedElements } from '../block';
import type { Field } from '../definition';
import { describeLocator } from '../describe';
import { frameChanges } from '../frame/changes';
import { frameAt } from '../frame/frame';
import { standingText, visibleText, type Document, type Element } from '../html';
import { isStruck, labelFor } from '../label';
import { foldLabel } from '../lines';
import { follows } from '../order';
import { placesOf, type Locator } from '../locator';
import { headingBefore, locatorsFor, placeOf } from '../pick';
import { parseAs, type Typing } from '../typed';
import type { Frame } from '../frame/types';

/** Where a value seems to have gone, with the evidence, and the ways that would find it there. */
export interface Proposal {
  selector: string;
  text: string;
  value: Value;
  /** What speaks for it, in words. */
  because: string[];
  locators: Locator[];
  /** What stands around it there. */
  frames: Frame[];
}

/** What is known of a field that is no longer found. */
export interface Lost {
  field: Pick<Field, 'type' | 'locators' | 'label' | 'frames'>;
  /** Its last good value. */
  last: Value | null;
  /** What is followed, as she calls it. */
  subject: string;
}

interface Scored {
  element: Element;
  text: string;
  value: Value;
  score: number;
  because: string[];
}

/** A proposal has to be this much likelier than the next place. */
const MARGIN = 1;
const LEAST = 2.5;
/** Places that are weighed: what stands after so many others is not looked for. */
const MOST_PLACES = 400;

/**
 * Proposes where a value went on a page that was built anew: by its label, its shape and unit, its likeness to the last
 * value, its place under the heading of what is followed, and whether it is struck out. The error says why nothing is
 * proposed: nothing of its shape is there, or two places speak for themselves alike.
 */
export function proposePlace(
  document: Document,
  lost: Lost,
  typing: Typing,
): Result<Proposal, 'nothing like it' | 'several alike'> {
  const places = candidatesOf(document, lost, typing).sort((a, b) => b.score - a.score);
  const [best] = places;
  if (best === undefined || (best.score < LEAST && !isTold(lost.field))) return fail('nothing like it');
  const rival = places.find((place) => place !== best && !sameValue(place.value, best.value));
  if (rival !== undefined && best.score - rival.score <= MARGIN) return fail('several alike');
  return ok(proposalOf(document, best, lost.field));
}

/** Where it is known what stood around a value, that says more than any likeness. */
const isTold = ({ frames }: Lost['field']) => frames !== undefined && frames.length > 0;

/** A place that is known, because some ways still find it: what to say of it, and all the ways that would. */
export function proposeKnown(document: Document, element: Element, value: Value, field: Lost['field']): Proposal {
  return proposalOf(
    document,
    { element, text: visibleText(element), value, because: ['the other ways still find it there'] },
    field,
  );
}

function proposalOf(
  document: Document,
  { element, text, value, because }: Omit<Scored, 'score'>,
  { type }: Lost['field'],
): Proposal {
  return {
    selector: placeOf(document, element),
    text,
    value,
    because,
    locators: locatorsFor(document, element, type),
    frames: [frameAt(document, element, type)],
  };
}

/**
 * Around a place that is proposed nothing may be otherwise than it was: under another label, name, row or unit it is no
 * such value.
 */
function isFramed(document: Document, element: Element, { type, frames }: Lost['field']): boolean {
  if (frames === undefined || frames.length === 0) return true;
  const now = frameAt(document, element, type);
  return frames.some((frame) => frameChanges(frame, now).length === 0);
}

function candidatesOf(document: Document, lost: Lost, typing: Typing): Scored[] {
  const { type } = lost.field;
  const elements =
    type.kind === 'money' || type.kind === 'number' ? shapedElements(document, type.kind) : leafElements(document);
  return elements.slice(0, MOST_PLACES).flatMap((element) => {
    const text = standingText(element);
    const parsed = parseAs(type, { text, currency: null }, typing);
    const stands = parsed.ok && isFramed(document, element, lost.field);
    return stands ? [score(document, element, text, parsed.value.value, lost)] : [];
  });
}

function leafElements(document: Document): Element[] {
  const found: Element[] = [];
  const visit = (element: Element): boolean => {
    const inner = element.children
      .filter((child): child is Element => child.type === 'tag')
      .map(visit)
      .some(Boolean);
    const text = inner ? '' : visibleText(element);
    if (text !== '' && text.length < 80) found.push(element);
    return inner || text !== '';
  };
  document.children.filter((child): child is Element => child.type === 'tag').forEach(visit);
  return found;
}

function score(document: Document, element: Element, text: string, value: Value, lost: Lost): Scored {
  const scored: Scored = { element, text, value, score: 0, because: [] };
  const say = (points: number, because: string | null) => {
    scored.score += points;
    if (because !== null) scored.because.push(because);
  };
  if (isStruck(element)) say(-3, null);
  const known = lost.field.locators.flatMap((locator) => (locator.way === 'label' ? foldLabel(locator.label) : []));
  const label = labelFor(document, element);
  if (label !== null && known.includes(foldLabel(label))) say(3, `it stands beside “${label}”, as before`);
  else if (label !== null && foldLabel(label).includes(foldLabel(lost.field.label)))
    say(1.5, `it stands beside “${label}”`);
  const still = lost.field.locators.filter(
    (locator) => locator.way !== 'block' && findsAlone(document, locator, element),
  );
  for (const locator of still) say(1.5, `it is still found: ${describeLocator(locator)}`);
  likeness(value, lost.last, say);
  underHeading(document, element, lost, say);
  if (nameSays(element, lost.field.label)) say(1, 'its name on the page says so');
  return scored;
}

function findsAlone(document: Document, locator: Locator, element: Element): boolean {
  const places = placesOf(document, locator);
  return places.ok && places.value.length === 1 && places.value[0]?.element === element;
}

type Say = (points: number, because: string | null) => void;

function likeness(value: Value, last: Value | null, say: Say): void {
  if (last === null) return;
  if (sameValue(value, last)) return say(2.5, 'it reads as the last good value did');
  if (!isMeasure(value) || !isMeasure(last) || unitOf(value) !== unitOf(last)) return say(-1, null);
  if (isNear(value, last)) return say(1.5, 'it is near the last good value');
  if ((ordersApart(value.amount, last.amount) ?? 0) >= 1) say(-2, null);
}

/** Whether a value is the last good one, or less than 30% away from it. */
export function isNear(value: Value, last: Value): boolean {
  if (sameValue(value, last)) return true;
  if (!isMeasure(value) || !isMeasure(last) || unitOf(value) !== unitOf(last)) return false;
  const percent = percentOf(subtract(value.amount, last.amount), last.amount);
  return percent !== null && compareDecimals(magnitude(percent), '30' as Decimal) < 0;
}

function underHeading(document: Document, element: Element, lost: Lost, say: Say): void {
  const heading = headingBefore(document, element);
  if (heading === null || !follows(heading, element)) return;
  const words = visibleText(heading).toLowerCase();
  const named = [
    lost.subject,
    ...lost.field.locators.flatMap((locator) => (locator.way === 'block' ? locator.heading : [])),
  ];
  if (!named.some((name) => name !== '' && words === name.toLowerCase())) return;
  say(1, null);
  const first = shapedElements(document, 'money').find((each) => follows(heading, each) && !isStruck(each));
  if (first === element) say(1, `it is the first under “${visibleText(heading)}”`);
}

function nameSays(element: Element, label: string): boolean {
  const own =
    `${element.attribs.class ?? ''} ${element.attribs.id ?? ''} ${element.attribs.itemprop ?? ''}`.toLowerCase();
  return label.length > 2 && own.includes(label.toLowerCase()) && !/(old|was|list|rrp)/.test(own);
}
