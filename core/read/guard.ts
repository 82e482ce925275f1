import { foldText } from '../value/parse';
import { askedAlone } from './asking';
import type { Body } from './body';
import { pageFacts, selectElements, visibleText, type Document } from './html';
import { elementsBeside } from './label';
import { cut } from '../value/sanitise';

/** A check that the right thing was fetched, before anything is read. */
export type Guard =
  | { check: 'text here'; text: string }
  | { check: 'says'; selector: string; text: string; how: 'equal' | 'contains' }
  | { check: 'label beside'; label: string }
  | { check: 'count'; least: number | null; most: number | null }
  | { check: 'address'; address: string };

/** What a page that failed its guards seems to be instead. */
export type GuardCause =
  | 'consent wall'
  | 'sign-in page'
  | 'retired page'
  | 'wrong product'
  | 'another address'
  | 'another layout'
  | 'too few or too many';

/** A guard that did not pass: what was expected, what stood there, and what the page seems to be. */
export interface GuardFailure {
  guard: Guard;
  stood: string | null;
  cause: GuardCause;
}

/** What guards are held against. */
export interface GuardedPage {
  body: Body;
  /** The address after redirects. */
  address: string | null;
  records: number;
}

const SHOWN = 80;

/** The first guard that a page fails; null when all pass. */
export function failedGuard(guards: Guard[], page: GuardedPage): GuardFailure | null {
  for (const guard of guards) {
    const stood = failure(guard, page);
    if (stood !== null)
      return { guard, stood: stood.text == null ? null : cut(stood.text, SHOWN), cause: causeOf(guard, page) };
  }
  return null;
}

/** Whether a page passes one guard. */
export function passes(guard: Guard, page: GuardedPage): boolean {
  return failure(guard, page) === null;
}

/** What stood there instead, when a guard fails; null when it passes. */
function failure(guard: Guard, { body, address, records }: GuardedPage): { text: string | null } | null {
  if (guard.check === 'count') {
    const few = guard.least !== null && records < guard.least;
    const many = guard.most !== null && records > guard.most;
    return few || many ? { text: String(records) } : null;
  }
  if (guard.check === 'address') return sameAddress(guard.address, address) ? null : { text: address };
  if (body.format !== 'html') return null;
  return failureOnPage(guard, body.document);
}

function failureOnPage(guard: Guard, document: Document): { text: string | null } | null {
  switch (guard.check) {
    case 'text here':
      return fold(visibleText(document)).includes(fold(guard.text)) ? null : { text: null };
    case 'label beside':
      return elementsBeside(document, guard.label).length > 0 ? null : { text: null };
    case 'says': {
      const elements = selectElements(document, guard.selector);
      const texts = elements.ok ? elements.value.map((element) => visibleText(element)) : [];
      const says = (text: string) =>
        guard.how === 'equal' ? fold(text) === fold(guard.text) : fold(text).includes(fold(guard.text));
      return texts[0] !== undefined && says(texts[0]) ? null : { text: texts[0] ?? null };
    }
    default:
      return null;
  }
}

const fold = (text: string) => foldText(text).toLowerCase();

function sameAddress(expected: string, actual: string | null): boolean {
  return actual === null || actual.replace(/\/$/, '') === expected.replace(/\/$/, '');
}

const SIGN_IN = /\b(sign in|log in|password|anmelden|passwort)\b/i;
const RETIRED =
  /\b(no longer (sold|available|sell)|discontinued|not here|cannot find|not found|retired|nicht mehr|nicht gefunden)\b/i;
const LITTLE_TEXT = 1500;

/** What a page seems to be, told from its words; a wrong product where nothing else fits and the heading is another. */
function causeOf(guard: Guard, { body }: GuardedPage): GuardCause {
  if (guard.check === 'address') return 'another address';
  if (guard.check === 'count') return 'too few or too many';
  if (body.format !== 'html') return 'another layout';
  const seems = seemingCause(body.document);
  if (seems !== null) return seems;
  return guard.check === 'label beside' ? 'another layout' : 'wrong product';
}

/** A consent wall, a sign-in page or a retired page, where the page's own words say so. */
export function seemingCause(document: Document): GuardCause | null {
  const text = visibleText(document);
  const password = selectElements(document, 'input[type="password"]');
  if (password.ok && password.value.length > 0 && SIGN_IN.test(text)) return 'sign-in page';
  if (askedAlone(document)?.asked === 'consent') return 'consent wall';
  const heading = pageFacts(document).title ?? '';
  return RETIRED.test(heading) || (text.length < LITTLE_TEXT && RETIRED.test(text)) ? 'retired page' : null;
}

const CAUSES: Record<GuardCause, string> = {
  'consent wall': 'A consent wall stands before the page',
  'sign-in page': 'The site asks to sign in first',
  'retired page': 'The page seems to be retired',
  'wrong product': 'This is another product',
  'another address': 'The address leads somewhere else now',
  'another layout': 'The page is built differently now',
  'too few or too many': 'The number of records is not what it should be',
};

/** What a page seems to be, as the beginning of a sentence. */
export function describeCause(cause: GuardCause): string {
  return CAUSES[cause];
}

/** A guard in words: what it checks. */
export function describeGuard(guard: Guard): string {
  switch (guard.check) {
    case 'text here':
      return `“${guard.text}” stands on the page`;
    case 'says':
      return (
        `${/(^|\s)h[1-6](:[^\s]*)?$/.test(guard.selector) ? 'The heading' : guard.selector} ` +
        `${guard.how === 'equal' ? 'says exactly' : 'contains'} “${guard.text}”`
      );
    case 'label beside':
      return `“${guard.label}” stands beside a value`;
    case 'count':
      return (
        'There are ' +
        `${[guard.least === null ? null : `at least ${guard.least}`, guard.most === null ? null : `at most ${guard.most}`].filter(Boolean).join(' and ')} records`
      );
    case 'address':
      return `The page is at ${guard.address} after redirects`;
  }
}

/** A failed guard as a sentence: what the page seems to be, and what was expected of it. */
export function describeGuardFailure({ guard, stood, cause }: GuardFailure): string {
  const instead = stood === null ? 'and that is not there' : `and it is “${stood}”`;
  return `${CAUSES[cause]}: ${lower(describeGuard(guard))} was expected, ${instead}.`;
}

const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);
