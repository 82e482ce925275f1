import { ok, type Result } from '../result';
import type { Value } from '../value/value';
import type { Body } from './body';
import type { Field, WatchDefinition } from './definition';
import { describeLocator } from './describe';
import { describeGuard, failedGuard, passes, seemingCause, type Guard, type GuardedPage } from './guard';
import { pageFacts, selectElements, visibleText, type Document, type Element } from './html';
import { placesOf, type Locator } from './locator';
import { guardsFor, headingBefore, placeOf } from './pick';
import { proposeKnown, proposePlace, type Proposal } from './propose';
import { describeProblem, readField, type ReadProblem } from './read';
import { pageRecord } from './records';

/** A field that is not read any more, or not by all its ways, with where its value seems to be now. */
interface FieldMending {
  key: string;
  label: string;
  /** Why it is not read; null where it is, by the ways that are left. */
  problem: string | null;
  /** The ways that no longer find it. */
  lost: string[];
  proposal: Result<Proposal, 'nothing like it' | 'several alike'>;
  /** The ways with the mending done: those that still find the place and those that would. */
  locators: Locator[];
}

/** A guard that does not pass, with the one that would and means the same; null where none would. */
interface GuardMending {
  guard: Guard;
  proposal: Guard | null;
}

/** How a watch on a page that was built anew could be mended. */
export interface Mending {
  guards: GuardMending[];
  fields: FieldMending[];
  /** The definition with all of it done; null where something has no proposal. */
  definition: WatchDefinition | null;
  /** What that changes, in sentences. */
  said: string[];
}

/**
 * Proposes how a watch of one page reads it again: where each lost value went, and which guards say the same in the page's
 * new words. Null where there is nothing to mend, and where another page came: that is waited for, not read.
 */
export function proposeMending(body: Body, definition: WatchDefinition, last: Record<string, Value | null>, address: string | null): Mending | null {
  if (body.format !== 'html' || definition.records.from !== 'page') return null;
  const { document } = body;
  const page: GuardedPage = { body, address, records: 1 };
  const cause = failedGuard(definition.guards, page)?.cause ?? seemingCause(document);
  if (cause !== null && cause !== 'another layout' && cause !== 'wrong product') return null;
  const fields = definition.fields.flatMap((field) => mendField(document, field, last[field.key] ?? null, definition.subject));
  const guards = definition.guards.filter((guard) => !passes(guard, page)).map((guard) => mendGuard(document, guard, fields));
  if (fields.length === 0 && guards.length === 0) return null;
  const whole = guards.every(({ proposal }) => proposal !== null) && fields.every(({ locators }) => locators.length > 0);
  return {
    guards,
    fields,
    definition: whole ? mended(definition, fields, guards) : null,
    said: [...fields.flatMap(sayField), ...guards.flatMap(sayGuard)],
  };
}

function mendField(document: Document, field: Field, last: Value | null, subject: string): FieldMending[] {
  if (field.type.kind === 'computed') return [];
  const typing = { locale: pageFacts(document).locale, address: null };
  const read = readField(pageRecord(document), field, typing);
  if (read.ok && read.value.lost.length === 0) return [];
  const lost = field.locators.filter((locator) => !finds(document, locator)).map(describeLocator);
  if (!read.ok) return [unread(field, read.error, lost, proposePlace(document, { field, last, subject }, typing))];
  const element = placeRead(document, field);
  if (element === null) return [];
  const proposal = proposeKnown(document, element, read.value.value, field);
  return [{ key: field.key, label: field.label, problem: null, lost, proposal: ok(proposal), locators: proposal.locators }];
}

function unread(field: Field, error: ReadProblem, lost: string[], proposal: FieldMending['proposal']): FieldMending {
  const locators = proposal.ok ? proposal.value.locators : [];
  return { key: field.key, label: field.label, problem: describeProblem(error), lost, proposal, locators };
}

function finds(document: Document, locator: Locator): boolean {
  const places = placesOf(document, locator);
  return places.ok && places.value.length > 0;
}

/** The element that the ways which still work agree on. */
function placeRead(document: Document, field: Field): Element | null {
  for (const locator of field.locators) {
    const places = placesOf(document, locator);
    const [only] = places.ok ? places.value : [];
    if (only?.element != null) return only.element;
  }
  return null;
}

/** The same said of the page as it is now: a heading that reads so elsewhere, the label beside the value's new place. */
function mendGuard(document: Document, guard: Guard, fields: FieldMending[]): GuardMending {
  if (guard.check === 'says') {
    const wanted = guard.text.toLowerCase();
    const headings = selectElements(document, 'h1, h2, h3, h4');
    const heading = headings.ok ? headings.value.find((each) => visibleText(each).toLowerCase() === wanted) : undefined;
    if (heading !== undefined) return { guard, proposal: { ...guard, selector: placeOf(document, heading), how: 'equal' } };
    const here: Guard = { check: 'text here', text: guard.text };
    return { guard, proposal: visibleText(document).toLowerCase().includes(wanted) ? here : null };
  }
  if (guard.check !== 'label beside') return { guard, proposal: null };
  for (const { proposal } of fields) {
    const places = proposal.ok ? selectElements(document, proposal.value.selector) : null;
    const element = places?.ok ? places.value[0] : undefined;
    const label = element === undefined ? undefined : guardsFor(document, element).find((each) => each.check === 'label beside');
    if (label !== undefined) return { guard, proposal: label };
    const heading = element === undefined ? null : headingBefore(document, element);
    if (heading !== null) return { guard, proposal: { check: 'text here', text: visibleText(heading) } };
  }
  return { guard, proposal: null };
}

function mended(definition: WatchDefinition, fields: FieldMending[], guards: GuardMending[]): WatchDefinition {
  const anew = (field: Field): Field => {
    const mending = fields.find((each) => each.key === field.key);
    return mending === undefined ? field : { ...field, locators: mending.locators };
  };
  const kept = definition.guards.flatMap((guard) => {
    const mending = guards.find((each) => each.guard === guard);
    return mending === undefined ? guard : (mending.proposal ?? []);
  });
  const distinct = kept.filter((guard, at) => kept.findIndex((other) => JSON.stringify(other) === JSON.stringify(guard)) === at);
  return { ...definition, fields: definition.fields.map(anew), guards: distinct };
}

function sayField({ label, lost, locators }: FieldMending): string[] {
  if (locators.length === 0) return [];
  const before = lost.length === 0 ? '' : `; no longer by ${lost.map(lower).join(', ')}`;
  return [`${label}: found by ${locators.map((locator) => lower(describeLocator(locator))).join(', ')}${before}.`];
}

function sayGuard({ guard, proposal }: GuardMending): string[] {
  return proposal === null ? [] : [`Guard: ${lower(describeGuard(proposal))}; before, ${lower(describeGuard(guard))}.`];
}

const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);
