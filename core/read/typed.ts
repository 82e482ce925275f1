import { fail, ok, type Result } from '../result';
import { isCurrency } from '../value/currency';
import { parseMoment } from '../value/timestamp';
import { foldText, parsePrice, parseQuantity, type Refusal } from '../value/parse';
import type { Decimal } from '../value/decimal';
import { plainNumber } from '../value/plain';
import { ABSENT, type Value } from '../value/value';
import type { FieldType, NamedState } from './definition';
import type { Found } from './found';
import { maskText } from './pattern';

/** What is known of the source while its texts are typed. */
export interface Typing {
  /** BCP 47 tag of the source or the field, or null. */
  locale: string | null;
  /** The page's own address, from which links lead on. */
  address: string | null;
}

/** A value with a note when only the source's locale settled its reading. */
export interface Typed {
  value: Value;
  byLocale: boolean;
}

const NOTHING = /^(?:[-–—]|n\/?a|none|null|nan)?$/i;

/**
 * Turns a found text into a value of the given type, or a stated refusal. What the source states to be null is absent.
 */
export function parseAs(type: FieldType, found: Found, typing: Typing): Result<Typed, Refusal> {
  return found.stated === 'null' ? plain(ABSENT) : parseText(type, found, typing);
}

function parseText(type: FieldType, found: Found, typing: Typing): Result<Typed, Refusal> {
  switch (type.kind) {
    case 'money':
      return parseMoney(type.currency, found, typing);
    case 'number':
      return parseNumber(type.unit ?? null, found, typing);
    case 'text':
      return plain({ kind: 'text', text: maskText(foldText(found.text), type.masks ?? []) });
    case 'flag':
      return parseFlag(type, found);
    case 'phrase':
      return plain({
        kind: 'flag',
        is: foldText(found.text).toLowerCase().includes(foldText(type.phrase).toLowerCase()),
      });
    case 'state':
      return parseState(type.states, found.text);
    case 'grade':
      return parseGrade(type.scale, found.text);
    case 'moment':
      return parseTime(found.text, typing.locale, type.zone);
    case 'link':
    case 'picture':
      return parseLink(type.kind, found.text, typing.address);
    case 'stated':
      return parseStated(found, typing);
    case 'computed':
    case 'count':
      return fail('empty');
  }
}

const plain = (value: Value): Result<Typed, Refusal> => ok({ value, byLocale: false });

/**
 * The number as a machine wrote it, where one did: with a point, whatever the page's language is (schema.org/price).
 */
function machineNumber(found: Found, locale: string | null): Decimal | null {
  const machine = found.currency !== null || found.stated === 'number' || (found.stated === 'text' && locale === null);
  return machine ? plainNumber(found.text) : null;
}

function parseMoney(assumed: string | null, whole: Found, { locale }: Typing): Result<Typed, Refusal> {
  const found = standing(whole);
  const stated = found.currency !== null && isCurrency(found.currency) ? found.currency : null;
  const currency = stated ?? assumed;
  const machine = machineNumber({ ...found, currency: stated }, locale);
  if (machine !== null && currency !== null) return plain({ kind: 'money', amount: machine, currency });
  const read = parsePrice(found.text, stated === null ? { locale, currency } : { locale: 'en', currency });
  return read.ok || !isNothing(found) ? read : plain(ABSENT);
}

/** What is struck out is no longer the number. */
const standing = (found: Found): Found => (found.standing === undefined ? found : { ...found, text: found.standing });

function parseNumber(assumed: string | null, whole: Found, { locale }: Typing): Result<Typed, Refusal> {
  const found = standing(whole);
  const unit = found.unit ?? assumed;
  const machine = machineNumber(found, locale);
  if (machine !== null) return plain({ kind: 'number', amount: machine, unit });
  const read = parseQuantity(found.text, { locale });
  if (!read.ok) return isNothing(found) ? plain(ABSENT) : read;
  return ok({ ...read.value, value: { ...read.value.value, unit: read.value.value.unit ?? unit } });
}

/** A data format's empty cell, or its dash, says that there is none. On a page it says nothing. */
function isNothing(found: Found): boolean {
  return found.stated !== undefined && NOTHING.test(foldText(found.text));
}

const YES = ['yes', 'true', 'on', 'open', '1', 'ja', 'oui'];
const NO = ['no', 'false', 'off', 'closed', '0', 'nein', 'non'];

function parseFlag({ yes, no }: { yes: string[]; no: string[] }, found: Found): Result<Typed, Refusal> {
  const text = foldText(found.text).toLowerCase();
  if (fits(text, no.length > 0 ? no : NO)) return plain({ kind: 'flag', is: false });
  if (fits(text, yes.length > 0 ? yes : YES)) return plain({ kind: 'flag', is: true });
  return fail('neither yes nor no');
}

const fits = (text: string, phrases: string[]) => phrases.some((phrase) => text === foldText(phrase).toLowerCase());

/** The first state, as they are ordered, one of whose phrases stands in the text as whole words. */
function parseState(states: NamedState[], text: string): Result<Typed, Refusal> {
  const folded = ` ${foldText(text)
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')} `;
  const found = states.find((state) => state.phrases.some((phrase) => folded.includes(` ${foldPhrase(phrase)} `)));
  return found === undefined ? fail('no known state') : plain({ kind: 'state', state: found.name });
}

const foldPhrase = (phrase: string) =>
  foldText(phrase)
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim();

function parseGrade(scale: string[], text: string): Result<Typed, Refusal> {
  const folded = foldText(text).toLowerCase();
  const grade = scale.find((each) => each.toLowerCase() === folded) ?? gradeIn(scale, folded);
  return grade === undefined ? fail('not on the scale') : plain({ kind: 'grade', grade, scale });
}

/** A grade said with a word before or after it, as in `Grade B`; two of them say none. */
function gradeIn(scale: string[], text: string): string | undefined {
  const words = text.split(/[^\p{L}\p{N}+-]+/u);
  const found = scale.filter((each) => words.includes(each.toLowerCase()));
  return words.length <= 4 && found.length === 1 ? found[0] : undefined;
}

function parseTime(text: string, locale: string | null, zone: string | undefined): Result<Typed, Refusal> {
  const moment = parseMoment(foldText(text), locale ?? 'en-GB', zone);
  return moment === null ? fail('no moment') : plain(moment);
}

function parseLink(kind: 'link' | 'picture', text: string, from: string | null): Result<Typed, Refusal> {
  const written = foldText(text);
  try {
    const address = new URL(written, from ?? undefined);
    return address.protocol === 'http:' || address.protocol === 'https:'
      ? plain({ kind, address: address.href })
      : fail('no address');
  } catch {
    return fail('no address');
  }
}

function parseStated(found: Found, typing: Typing): Result<Typed, Refusal> {
  if (found.stated === 'number') return parseNumber(null, found, typing);
  if (found.stated === 'flag') return plain({ kind: 'flag', is: found.text === 'yes' });
  return plain({ kind: 'text', text: foldText(found.text) });
}
