import { fail, ok } from '../../result';
import { sameValue, type Value } from '../../value/value';
import { readField } from '../agree';
import { isFound, type Field, type WatchDefinition } from '../definition';
import { describeLocator } from '../describe';
import type { GuardedPage } from '../guard';
import { pageFacts, type Document, type Element } from '../html';
import { placesOf, type Locator } from '../locator';
import { describeProblem, type ReadProblem } from '../problem';
import type { Typing } from '../typed';
import { pageRecord } from '../records';
import { mendGuards } from './guards';
import { mendingOf, type FieldMending, type Mending } from './mending';
import { proposeKnown, proposePlace, type Lost } from './propose';

/** Where each lost value of a page's one record went, and which guards say the same in the page's new words. */
export function mendOneRecord(
  document: Document,
  definition: WatchDefinition,
  last: Record<string, Value>,
  page: GuardedPage,
): Mending | null {
  const fields = definition.fields.flatMap((field) =>
    mendField(document, field, last[field.key] ?? null, definition.subject),
  );
  return mendingOf(definition, { rows: null, fields, guards: mendGuards(document, definition, page, fields) });
}

function mendField(document: Document, field: Field, last: Value | null, subject: string): FieldMending[] {
  if (!isFound(field)) return [];
  const typing = { locale: pageFacts(document).locale, address: null };
  const read = readField(pageRecord(document), field, typing);
  if (read.ok && read.value.lost.length === 0) return [];
  const lost = field.locators.filter((locator) => !finds(document, locator)).map(describeLocator);
  if (!read.ok)
    return [unread(field, read.error, lost, placeFor(document, { field, last, subject }, read.error, typing))];
  const element = placeRead(document, field);
  if (element === null) return [];
  const proposal = proposeKnown(document, element, read.value.value, field);
  return [
    { key: field.key, label: field.label, problem: null, lost, proposal: ok(proposal), locators: proposal.locators },
  ];
}

/**
 * Where an unread value seems to be. What says in its old place that there is none is an answer, and what the page's
 * parts disagree about none of them settles: then nothing is proposed. Beside a reading in question only the last good
 * value itself is.
 */
function placeFor(document: Document, lost: Lost, error: ReadProblem, typing: Typing): ReturnType<typeof proposePlace> {
  if (error.reason === 'disagreement' || (error.reason === 'not parsed' && !/\d/.test(error.text)))
    return fail('nothing like it');
  const proposal = proposePlace(document, lost, typing);
  if (error.reason !== 'in question' || !proposal.ok) return proposal;
  return lost.last !== null && sameValue(proposal.value.value, lost.last) ? proposal : fail('nothing like it');
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
