import { fail, ok, type Result } from '../result';
import { isCurrency } from '../value/currency';
import { foldText, parsePrice, parseQuantity, type Refusal } from '../value/parse';
import { describeRefusal } from '../value/refusals';
import { sameValue, type Value } from '../value/value';
import type { Field, FieldType, WatchDefinition } from './definition';
import { pageFacts, type Document } from './html';
import { describeLocator, locate, type Found, type LocateProblem, type Locator } from './locator';

/** A value as read, with the text it was made from. */
export interface ReadValue {
  value: Value;
  text: string;
  /** True when only the locale could tell what a mark in the number means. */
  byLocale: boolean;
}

/** Why a field was not read. Never a value: the last good one stands. */
export type ReadProblem =
  | { reason: 'no match'; where: string }
  | { reason: 'several matches'; where: string; count: number }
  | { reason: 'bad selector'; where: string; detail: string }
  | { reason: 'not parsed'; where: string; text: string; refusal: Refusal }
  | { reason: 'disagreement'; first: string; second: string };

/** One field of one record, read or not. */
export interface FieldReading {
  field: string;
  outcome: Result<ReadValue, ReadProblem>;
}

/** One record with its identity; a page without further identity is one record, called `page`. */
export interface ReadRecord {
  identity: string;
  fields: FieldReading[];
}

const SHOWN_TEXT = 80;

/** Reads every field of a watch from a parsed page. A field that cannot be read does not stop the others. */
export function readPage(document: Document, definition: WatchDefinition): ReadRecord[] {
  const pageLocale = pageFacts(document).locale;
  const fields = definition.fields.map((field) => ({ field: field.key, outcome: readField(document, field, pageLocale) }));
  return [{ identity: 'page', fields }];
}

/**
 * Reads one field by all its locators. Those that find the place must agree; when none does, the first
 * one's reason stands.
 */
export function readField(
  document: Document,
  field: Pick<Field, 'type' | 'locale' | 'locators'>,
  pageLocale: string | null,
): Result<ReadValue, ReadProblem> {
  const locale = field.locale ?? pageLocale;
  const outcomes = field.locators.map((locator) => readBy(document, locator, field.type, locale));
  const read = outcomes.filter((outcome) => outcome.ok).map((outcome) => outcome.value);
  const [first] = read;
  if (first === undefined) return outcomes[0] ?? fail({ reason: 'no match', where: 'no locator' });
  const other = read.find((each) => !sameValue(each.value, first.value));
  return other === undefined ? ok(first) : fail({ reason: 'disagreement', first: first.text, second: other.text });
}

function readBy(document: Document, locator: Locator, type: FieldType, locale: string | null): Result<ReadValue, ReadProblem> {
  const where = describeLocator(locator);
  const found = locate(document, locator);
  if (!found.ok) return fail(withPlace(found.error, where));
  const parsed = parseAs(type, found.value, locale);
  const text = foldText(found.value.text);
  if (!parsed.ok) return fail({ reason: 'not parsed', where, text: text.slice(0, SHOWN_TEXT), refusal: parsed.error });
  return ok({ ...parsed.value, text });
}

function withPlace(problem: LocateProblem, where: string): ReadProblem {
  return { ...problem, where };
}

/** Turns a found text into a value of the given type, or a stated refusal. */
export function parseAs(type: FieldType, found: Found, locale: string | null): Result<{ value: Value; byLocale: boolean }, Refusal> {
  if (type.kind === 'text') return ok({ value: { kind: 'text', text: foldText(found.text) }, byLocale: false });
  if (type.kind === 'number') return parseQuantity(found.text, { locale });
  const stated = found.currency !== null && isCurrency(found.currency) ? found.currency : null;
  // Structured data writes numbers with a point whatever the page's language is (schema.org/price).
  const hints = stated === null ? { locale, currency: type.currency } : { locale: 'en', currency: stated };
  return parsePrice(found.text, hints);
}

/** A reading problem as a sentence for the analyst. */
export function describeProblem(problem: ReadProblem): string {
  switch (problem.reason) {
    case 'no match':
      return `Nothing on the page matches any more (${problem.where}).`;
    case 'several matches':
      return `${problem.count} places match with different values (${problem.where}).`;
    case 'bad selector':
      return `The selector cannot be used: ${problem.detail}`;
    case 'not parsed':
      return `“${problem.text}” was found, but ${describeRefusal(problem.refusal)}.`;
    case 'disagreement':
      return `Two ways of finding it disagree: “${problem.first}” and “${problem.second}”.`;
  }
}
