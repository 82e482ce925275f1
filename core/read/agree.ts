import { fail, ok, type Result } from '../result';
import { foldText } from '../value/parse';
import { cut } from '../value/sanitise';
import { ABSENT, sameValue, type Value } from '../value/value';
import { shapedElements } from './block';
import type { Field, FieldType } from './definition';
import { describeLocator } from './describe';
import { evidenceOf } from './evidence';
import type { LocateProblem, Quality } from './found';
import { ANY, frameChanges, varyingKey } from './frame/changes';
import { plainWords, senseOf } from './frame/words';
import { keptFor } from './order';
import { frameAt } from './frame/frame';
import { isDocument, pageFacts, standingText, type Element } from './html';
import type { Locator, Scope } from './locator';
import type { ReadProblem } from './problem';
import type { RawRecord } from './records';
import { parseAs, type Typing } from './typed';
import type { Frame, FrameChange } from './frame/types';

/** A value as read, with the text it was made from. */
export interface ReadValue {
  value: Value;
  text: string;
  /** True when only the locale could tell what a mark in the number means. */
  byLocale: boolean;
  /** The ways that no longer find it, in words, when what is left is enough. */
  lost: string[];
  /** How far the source vouches for it, where it says so of this value and not of its whole record. */
  quality?: Quality | null;
  /** What stands around it now, where it stands in a page and it is known what stood there before. */
  frame?: Frame;
}

/** What is needed of a field to read it. */
type Readable = Pick<Field, 'type' | 'locale' | 'locators' | 'absentWhen' | 'frames' | 'varying'>;

const SHOWN_TEXT = 80;

interface Way {
  locator: Locator;
  /** Something else moved about the place: it may confirm another way, and no more. */
  unsure: boolean;
  outcome: Result<ReadValue, ReadProblem>;
  elements: Element[];
}

/** A way that found a value. */
interface Voter extends Omit<Way, 'outcome'> {
  read: ReadValue;
}

/**
 * Reads one field of a record by all its ways. Ways that find the place must agree; a way on position alone only
 * confirms. Where it is known what stood around the value, a frame that changed puts the reading in question, and one
 * that did not makes one way enough; where it is not, two independent ways have to agree as soon as one is lost. A
 * value said to be missing on purpose is absent.
 */
export function readField(
  raw: Pick<RawRecord, 'find' | 'text' | 'scope'>,
  field: Readable,
  typing: Typing,
): Result<ReadValue, ReadProblem> {
  const own = field.locale === null ? typing : { ...typing, locale: field.locale };
  const ways = field.locators.map((locator) => readBy(raw, locator, field.type, own));
  const { frames } = field;
  const agreed =
    frames === undefined || frames.length === 0 || raw.scope === null
      ? agree(ways)
      : agreeInFrame(ways, raw.scope, field);
  return !agreed.ok && isNotFound(agreed.error) && saysAbsent(raw, field.absentWhen) ? ok(readAs(ABSENT, '')) : agreed;
}

const isNotFound = ({ reason }: ReadProblem) => reason !== 'disagreement' && reason !== 'in question';

/** Those whose word counts: what leans on position alone has none where there is another. */
function votersAmong(ways: Way[]): { voting: Way[]; sure: Voter[] } {
  const strong = ways.filter((way) => evidenceOf(way.locator) !== 'position');
  const voting = strong.length > 0 ? strong : ways;
  return {
    voting,
    sure: voting.flatMap((way) => (way.outcome.ok && !way.unsure ? { ...way, read: way.outcome.value } : [])),
  };
}

const lostOf = (voting: Way[], sure: Voter[]) =>
  voting.filter((way) => !sure.some((each) => each.locator === way.locator)).map((way) => describeLocator(way.locator));

function agree(ways: Way[]): Result<ReadValue, ReadProblem> {
  const [only] = ways;
  // The one way of a data format has nobody to agree with; large feeds go through here.
  if (only !== undefined && ways.length === 1 && !only.unsure) return only.outcome;
  const { voting, sure } = votersAmong(ways);
  const [first] = sure;
  if (first === undefined) return firstProblem(voting);
  const other = sure.find((way) => !sameValue(way.read.value, first.read.value));
  if (other !== undefined) return fail({ reason: 'disagreement', first: first.read.text, second: other.read.text });
  const lost = lostOf(voting, sure);
  if (lost.length === 0) return ok(first.read);
  const confirming = ways.filter((way) => way.outcome.ok && sameValue(way.outcome.value.value, first.read.value));
  const independent = new Set(confirming.map((way) => (way.unsure ? 'position' : evidenceOf(way.locator)))).size;
  const where = describeLocator(first.locator);
  return independent >= 2
    ? ok({ ...first.read, lost })
    : fail({ reason: 'one way left', where, text: first.read.text });
}

/** What stands around a value that some ways found, and what of that is not as it was accepted. */
interface Seen extends Around {
  /** How many ways found it, what is seen on the page before what is only in its data, and by which, in words. */
  ways: number;
  by: string[];
}

interface Around {
  read: ReadValue;
  frame: Frame;
  changes: FrameChange[];
}

/**
 * Of ways that disagree the one is believed around which nothing changed; but never against what the page states of
 * itself as data.
 */
function agreeInFrame(
  ways: Way[],
  scope: Scope,
  { type, frames = [], varying = [] }: Readable,
): Result<ReadValue, ReadProblem> {
  const { voting, sure } = votersAmong(ways);
  const [first, ...others] = sure;
  if (first === undefined) return firstProblem(voting);
  const other = others.find((way) => !sameValue(way.read.value, first.read.value));
  const seen = groupsOf(sure).map((group): Seen => {
    const shown = group.filter(({ elements }) => elements.length > 0).length;
    const by = group.map(({ locator }) => describeLocator(locator));
    return { ...seenAround(group, ways, scope, type, frames), ways: 10 * shown + group.length, by };
  });
  const whole = seen.filter(({ changes }) => changes.length === 0);
  const [only] = other === undefined ? seen : whole;
  const against = sure.some(
    (way) => evidenceOf(way.locator) === 'meaning' && only !== undefined && !sameValue(way.read.value, only.read.value),
  );
  if (only === undefined || (other !== undefined && (whole.length > 1 || against))) return fail(asked(seen));
  const { read, frame } = only;
  const changes = only.changes.filter((change) => !varying.includes(varyingKey(change) ?? 'none'));
  if (changes.length > 0) return fail({ reason: 'in question', text: read.text, value: read.value, changes, frame });
  return ok({
    ...read,
    frame,
    lost: lostOf(
      voting,
      sure.filter((way) => sameValue(way.read.value, read.value)),
    ),
  });
}

/** Ways that disagree ask: about the place that most of them found, with what the others say. */
function asked(seen: Seen[]): ReadProblem {
  const [first, ...others] = [...seen].sort((a, b) => b.ways - a.ways) as [Seen, ...Seen[]];
  const told = others
    .map(({ read, by }) => `“${cut(read.text, SHOWN_TEXT)}” by ${by.map(lower).join(', ')}`)
    .join('; ');
  const apart: FrameChange = {
    part: 'found',
    was: 'alike by every way',
    is: told,
    ways: others.flatMap(({ by }) => by),
  };
  return {
    reason: 'in question',
    text: first.read.text,
    value: first.read.value,
    changes: [...first.changes, apart],
    frame: first.frame,
  };
}

const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);

/** Ways by what they read. */
function groupsOf(sure: Voter[]): Voter[][] {
  const groups: Voter[][] = [];
  for (const way of sure) {
    const group = groups.find(([one]) => one !== undefined && sameValue(one.read.value, way.read.value));
    if (group === undefined) groups.push([way]);
    else group.push(way);
  }
  return groups;
}

const MOST_PLACES = 6;

/** The place among those that read alike around which least changed. */
function seenAround(group: Voter[], ways: Way[], scope: Scope, type: FieldType, frames: readonly Frame[]): Around {
  const read = (group[0] as Voter).read;
  const found = [...new Set(group.flatMap(({ elements }) => elements))];
  const elements = (found.length > 0 ? found : placesReading(scope, read.value, type)).slice(0, MOST_PLACES);
  if (elements.length === 0) return seenAsData(read, ways, scope, type, frames);
  const seen = elements.map((element) => {
    const frame = frameAt(scope, element, type);
    return {
      read,
      frame,
      changes: [...leastChanges(frames, frame), ...languageChanges(read, type, frames, frame), ...severalInData(ways)],
    };
  });
  return seen.reduce((least, each) => (each.changes.length < least.changes.length ? each : least));
}

/** Where a page shows what it states as data, when the ways to the place in sight are lost. */
function placesReading(scope: Scope, value: Value, type: FieldType): Element[] {
  if (type.kind !== 'money' && type.kind !== 'number') return NOWHERE;
  const typing = { locale: isDocument(scope) ? pageFacts(scope).locale : null, address: null };
  return shapedElements(scope, type.kind).filter((element) => {
    const parsed = parseAs(type, { text: standingText(element), currency: null }, typing);
    return parsed.ok && sameValue(parsed.value.value, value);
  });
}

/** What the page states as data and shows nowhere, though it did, is in question. */
function seenAsData(read: ReadValue, ways: Way[], scope: Scope, type: FieldType, frames: readonly Frame[]): Around {
  const frame = frameAt(scope, null, type);
  const shown = ways.some(({ locator }) => locator.way !== 'structured');
  const unseen: FrameChange[] = shown ? [{ part: 'beside', was: 'shown on the page', is: 'only in its data' }] : [];
  return {
    read,
    frame,
    changes: [...unseen, ...leastChanges(frames, frame).filter(({ part }) => !shown || part === 'thing')],
  };
}

/** What changed since the accepted frame that is most like the one of now. */
export function leastChanges(frames: readonly Frame[], now: Frame): FrameChange[] {
  return isOfRecord(now) ? leastInRecord(frames, now) : comparedTo(frames, now);
}

/** Of one record among many nothing is known of the page around. */
const isOfRecord = ({ title, locale, headings, chosen, facts }: Frame) =>
  title === null && locale === null && headings.length === 0 && chosen.length === 0 && facts.length === 0;

/** The rows of a list are framed alike: what was compared once is known. */
function leastInRecord(frames: readonly Frame[], now: Frame): FrameChange[] {
  const known = comparedWith(frames);
  const key = keyOf(frames, now);
  const changes = known.get(key) ?? comparedTo(frames, now);
  if (known.size >= MOST_COMPARED) known.clear();
  known.set(key, changes);
  return changes;
}

const MOST_COMPARED = 200;
/** What a frame was found to differ in, by the frame: the rows of a list are framed alike. */
const comparedWith = keptFor((_frames: readonly Frame[]) => new Map<string, FrameChange[]>());

const PARTS = ['before', 'own', 'after', 'bare', 'above', 'under'] as const;
const partsOfAnyWords = keptFor((frames: readonly Frame[]) =>
  PARTS.filter((part) => frames.every((frame) => frame[part] === ANY)),
);

/** A record's frame as it is told from others: of words that may be any, only those that change a sense. */
function keyOf(frames: readonly Frame[], now: Frame): string {
  const any = partsOfAnyWords(frames);
  const said = (part: (typeof PARTS)[number]) =>
    any.includes(part) && senseOf(plainWords(now[part] ?? '')).length === 0 ? ANY : (now[part] ?? '');
  return `${PARTS.map(said).join('\n')}\n${now.sign}\n${now.others}\n${now.labelled}\n${now.column.join('\t')}\n${now.lines.join('\t')}`;
}

function comparedTo(frames: readonly Frame[], now: Frame): FrameChange[] {
  const all = frames.map((frame) => frameChanges(frame, now));
  return all.reduce((least, each) => (each.length < least.length ? each : least));
}

/** Data that spoke of one thing and speaks of several now does not say which of them is shown. */
function severalInData(ways: Way[]): FrameChange[] {
  const several = ways.some(
    ({ locator, outcome }) => locator.way === 'structured' && !outcome.ok && outcome.error.reason === 'several matches',
  );
  return several ? [{ part: 'thing', of: 'name', was: 'one in the data of the page', is: 'several' }] : [];
}

/** A text that the page's language before would have settled otherwise than the one of now. */
function languageChanges({ text }: ReadValue, type: FieldType, frames: readonly Frame[], now: Frame): FrameChange[] {
  const [first] = frames;
  if (
    first === undefined ||
    (type.kind !== 'money' && type.kind !== 'number') ||
    frames.some(({ locale }) => locale === now.locale)
  )
    return [];
  const open: FieldType = type.kind === 'money' ? { kind: 'money', currency: null } : type;
  const [was, is] = [first.locale, now.locale].map((locale) =>
    parseAs(open, { text, currency: null }, { locale, address: null }),
  );
  const same = was?.ok && is?.ok ? sameValue(was.value.value, is.value.value) : was?.ok === is?.ok;
  return same ? [] : [{ part: 'mark', was: first.locale, is: now.locale }];
}

/** What says most: a text that stands there and cannot be read, before nothing at all. */
function firstProblem(ways: Way[]): Result<ReadValue, ReadProblem> {
  const failed = ways.flatMap((way) => (way.outcome.ok ? [] : way.outcome.error));
  const [only] = ways;
  const unsure = only?.outcome.ok
    ? fail<ReadProblem>({ reason: 'one way left', where: describeLocator(only.locator), text: only.outcome.value.text })
    : null;
  const said = failed.find((problem) => problem.reason === 'not parsed') ?? failed[0];
  return said === undefined
    ? (unsure ?? fail({ reason: 'no match', where: 'no way to find it was given' }))
    : fail(said);
}

function saysAbsent(raw: Pick<RawRecord, 'text'>, phrases: string[] | undefined): boolean {
  if (phrases === undefined || phrases.length === 0) return false;
  const text = raw.text().toLowerCase();
  return phrases.some((phrase) => phrase !== '' && text.includes(foldText(phrase).toLowerCase()));
}

const readAs = (value: Value, text: string): ReadValue => ({ value, text, byLocale: false, lost: [] });

const NOWHERE: Element[] = [];

function readBy(raw: Pick<RawRecord, 'find'>, locator: Locator, type: FieldType, typing: Typing): Way {
  const found = raw.find(locator);
  if (!found.ok)
    return {
      locator,
      unsure: false,
      outcome: fail(withPlace(found.error, describeLocator(locator))),
      elements: NOWHERE,
    };
  const parsed = parseAs(type, found.value, typing);
  const whole = foldText(found.value.text);
  const text = type.kind === 'text' ? whole : whole.slice(0, 10 * SHOWN_TEXT);
  const unsure = found.value.unsure === true;
  const elements = found.value.elements ?? NOWHERE;
  if (parsed.ok) {
    const { value, byLocale } = parsed.value;
    const { quality } = found.value;
    return {
      locator,
      unsure,
      elements,
      outcome: ok({ value, text, byLocale, lost: [], ...(quality === undefined ? {} : { quality }) }),
    };
  }
  const where = describeLocator(locator);
  return {
    locator,
    unsure,
    elements,
    outcome: fail({ reason: 'not parsed', where, text: cut(text, SHOWN_TEXT), refusal: parsed.error }),
  };
}

function withPlace(problem: LocateProblem, where: string): ReadProblem {
  return { ...problem, where };
}
