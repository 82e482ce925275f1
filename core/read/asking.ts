import { isTag } from 'domhandler';
import { cut } from '../value/sanitise';
import { shapedElements } from './block';
import { isHidden, selectElements, visibleText, type Document, type Element, parentOf } from './html';

/** What a site asks for before it shows a page. */
export type Asked = 'consent' | 'age' | 'country' | 'sign-in';

const LITTLE_TEXT = 1500;
/** Characters of the words on a button. */
export const LONGEST_WORDS = 60;

const CONSENT =
  /cookies?\b|consent|privacy|tracking|datenschutz|einwilligung|vie privée|privacidad|privacy-?verklaring|evästeet|informasjonskapsler/i;
const AGE =
  /\b(?:over|under|at least|are you|older than|über|mindestens)\s+(?:1[68]|2[01])\b|\b(?:1[68]|2[01])\s*(?:\+|or (?:older|over)|years|jahre|ans|años|anni|jaar|år)|\b(?:legal|drinking|your) age\b|date of birth|volljährig|geburtsdatum|majeure?s?\b|mayor(?:es)? de edad|maggiorenn/i;
const COUNTRY =
  /\b(?:choose|select|pick|change|confirm)\s+(?:your|a|the)\s+(?:country|region|store|location|market)|\bdeliver(?:ing)?\s+to\b|\bship(?:ping)?\s+to\b|\bvisiting\b.*\bfrom\b|wähle?n? sie (?:ihr )?(?:land|ihre region)|lieferland|choisi\w* (?:votre )?pays|elige tu país|scegli il paese|kies (?:je|uw) land/i;

/** What is pressed to agree or to refuse. */
const AGREE =
  /accept|agree|allow|reject|decline|refus|consent|got it|continue|\bok(?:ay)?\b|zustimm|akzeptier|ablehn|einverstanden|j’accepte|acept|accett|rifiut|weiger|godk|godta|tillad|afvis/i;

/**
 * What a page asks for that is nothing but the asking, and the part that asks: it is short and shows no price, and
 * little else stands on it. A short page with a bar of cookies, a link to what is private or a place to sign in is a
 * page.
 */
export function askedAlone(document: Document): { asked: Asked; block: Document | Element } | null {
  const body = selected(document, 'body')[0] ?? document;
  const asked = isLittle(document) ? askedIn(body) : null;
  if (asked === null) return null;
  const block = innermost(body, asked);
  return saysElse(body, block, asked) ||
    (asked === 'consent' && !pressablesIn(block).some((each) => AGREE.test(wordsOn(each))))
    ? null
    : { asked, block };
}

/** The innermost part of a part that asks for the same. */
function innermost(part: Document | Element, asked: Asked): Document | Element {
  for (let at = part; ;) {
    const inner = at.children.find((child): child is Element => isTag(child) && askedIn(child) === asked);
    if (inner === undefined) return at;
    at = inner;
  }
}

/** Characters that may stand beside what asks, apart from what goes around every page. */
const BESIDE = 60;
const BESIDE_SIGN_IN = 200;

/** Whether a page says more than what it asks: under a heading of its own, or at greater length. */
function saysElse(body: Document | Element, block: Document | Element, asked: Asked): boolean {
  const asking = visibleText(block).length;
  const rest = visibleText(
    body,
    (element) => element === block || isHidden(element) || FRAMING.has(element.name),
  ).length;
  if (asked === 'sign-in') return rest > Math.max(BESIDE_SIGN_IN, asking);
  const inside = new Set(selected(block, 'h1, h2, h3'));
  return (
    rest > Math.max(BESIDE, asking) ||
    selected(body, 'h1, h2, h3').some((heading) => !inside.has(heading) && !isUnseen(heading) && !isFraming(heading))
  );
}

/** What goes around every page of a site, and says nothing of this one. */
const FRAMING = new Set(['header', 'nav', 'footer']);
const isFraming = (element: Element) => [element, ...parentsOf(element)].some(({ name }) => FRAMING.has(name));

/** Whether a page is so short, and so without any price, that it may be nothing but a wall. */
function isLittle(document: Document): boolean {
  return (
    visibleText(document).length < LITTLE_TEXT && !shapedElements(document, 'money').some((price) => !isFraming(price))
  );
}

/** What a part of a page asks for, and can be told; null where it asks for nothing of the kind. */
export function askedIn(layer: Document | Element): Asked | null {
  if (!leadsOn(layer)) return null;
  if (selected(layer, 'input[type="password"]').some((field) => !isHidden(field))) return 'sign-in';
  const text = visibleText(layer).slice(0, LITTLE_TEXT);
  if (AGE.test(text)) return 'age';
  if (CONSENT.test(text)) return 'consent';
  return COUNTRY.test(text) ? 'country' : null;
}

const PRESSABLE =
  'button, a[href], summary, input[type="submit"], input[type="button"], input[type="image"], [role="button"], ' +
  '[role="link"], [role="tab"]';

/** What can be pressed in a part of a page, in sight and with words on it. */
export function pressablesIn(root: Document | Element): Element[] {
  return selected(root, PRESSABLE).filter((element) => !isUnseen(element) && wordsOn(element) !== '');
}

/** Whether anything can be pressed in a part of a page. */
export const leadsOn = (layer: Document | Element) => pressablesIn(layer).length > 0;

/** The words on a button. */
export function wordsOn(element: Element): string {
  const { value, alt, title, 'aria-label': label } = element.attribs;
  return cut(
    visibleText(element) || (element.name === 'input' ? value : undefined) || label || alt || title || '',
    LONGEST_WORDS,
  );
}

/** Whether an element is hidden, or in one that is. */
export const isUnseen = (element: Element) => [element, ...parentsOf(element)].some(isHidden);

/** The elements above another, the nearest first. */
export function parentsOf(element: Element): Element[] {
  const parents: Element[] = [];
  for (let at = parentOf(element); at !== null; at = parentOf(at)) parents.push(at);
  return parents;
}

/** What a selector of our own finds. */
export function selected(root: Document | Element, selector: string): Element[] {
  const found = selectElements(root, selector);
  return found.ok ? found.value : [];
}
