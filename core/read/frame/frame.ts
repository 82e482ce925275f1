import { isTag, isText, type AnyNode, type Text } from 'domhandler';
import { isDocument, pageFacts, selectElements, textOf, type Document, type Element } from '../html';
import { structuredLeaves } from '../structured';
import { chosenIn } from './chosen';
import { columnHeads, gridPlace, rowHeads, type GridPlace } from './grid';
import { isInlineTag, linesIn, textsBelow, type Heading, type Line, type Lines } from './lines';
import type { Frame } from './types';
import { isLabelLike, leadsNotice, moves, plainWords, senseOf, speaksOfFigures, withoutAmounts } from './words';
import { latinDigits } from '../../value/digits';
import { foldText } from '../../value/parse';
import { keptFor } from '../order';

/** What a value is read as, as far as its frame goes by it. */
interface Typed {
  kind: string;
}

const LONGEST_LINE = 90;
const LONGEST_WORDS = 160;
const MOST_LINES = 30;
const MOST_FACTS = 30;

/**
 * The frame of the value that is read at an element: in a page, or in one record of it. Without an element, what the
 * page says alone.
 */
export function frameAt(scope: Document | Element, element: Element | null, type: Typed): Frame {
  return isDocument(scope) ? frameOnPage(scope, element, type) : frameInRecord(scope, element, type);
}

/** Where an element stands among the lines of a scope. */
interface Spot {
  texts: Text[];
  /** The lines in which it begins and ends; -1 where it says nothing. */
  at: number;
  end: number;
}

function spotOf(around: Lines, element: Element | null): Spot {
  const texts = element === null ? [] : textsBelow(element).filter((text) => around.at.has(text));
  const lineOf = (text: Text | undefined) => (text === undefined ? -1 : (around.at.get(text) ?? -1));
  return { texts, at: lineOf(texts[0]), end: lineOf(texts.at(-1)) };
}

function frameOnPage(page: Document, element: Element | null, type: Typed): Frame {
  const around = linesIn(page);
  const { texts, at, end } = spotOf(around, element);
  const line = around.lines[at];
  const place = element === null ? null : gridPlace(element);
  const { locale, title } = pageFacts(page);
  // What stands in a text of several lines is a part of it, and not around it.
  const outside = at === end ? around : { ...around, lines: around.lines.filter((_, n) => n < at || n > end) };
  return {
    ...besideIn(around, texts, type),
    ...closeTo(around, at, end, place),
    ...(place === null
      ? inLine(around, texts)
      : { row: rowHeads(place), column: columnHeads(place.table, place.column) }),
    headings:
      line === undefined ? [] : line.under.filter(({ text }) => text !== line.text).map(({ text }) => cutTo(text)),
    locale,
    // A text of several lines may hold the page's own heading: that it changes is news.
    title: at === end ? title : null,
    window: at === end ? windowTitle(page) : null,
    thing: thingIn(page),
    chosen: chosenIn(page),
    facts: factsIn(outside, line ?? null, at),
    lines: line === undefined ? [] : contextOf(outside, at, line, line.under),
  };
}

/**
 * Of one record among many what is close, and what in it changes a sense. Written out: a list may have tens of
 * thousands.
 */
function frameInRecord(record: Element, element: Element | null, type: Typed): Frame {
  const around = linesIn(record);
  const { texts, at, end } = spotOf(around, element);
  const line = around.lines[at];
  const place = element === null ? null : gridPlace(element);
  const { before, own, after, bare, sign } = besideIn(around, texts, type);
  const { above, under, labelled, others } = closeTo(around, at, end, place);
  return {
    before,
    own,
    after,
    bare,
    sign,
    others,
    above,
    under,
    labelled,
    row: NOTHING.row,
    column: place === null ? NOTHING.column : columnHeads(place.table, place.column),
    headings: NOTHING.headings,
    locale: null,
    title: null,
    window: null,
    thing: NOTHING.thing,
    chosen: NOTHING.chosen,
    facts: NOTHING.facts,
    lines: line === undefined ? NOTHING.lines : sensibleLines(around, line),
  };
}

const NOTHING: Frame = {
  before: '',
  own: '',
  after: '',
  bare: '',
  sign: '',
  others: 0,
  above: null,
  under: null,
  labelled: false,
  row: [],
  column: [],
  headings: [],
  locale: null,
  title: null,
  window: null,
  thing: {},
  chosen: [],
  facts: [],
  lines: [],
};

/**
 * What stands around all records of a page: the headings above the first of them, what the page says before it, what it
 * says after them of all its figures, what is chosen.
 */
export function frameAround(document: Document, first: Element): Frame {
  const around = linesIn(document);
  const text = textsBelow(first).find((each) => around.at.has(each));
  const at = text === undefined ? -1 : (around.at.get(text) ?? -1);
  const under = (around.lines[at]?.under ?? []).filter(({ element }) => !isBelow(element, first));
  const before: Lines = { lines: around.lines.slice(0, at), at: around.at };
  const after = around.lines.slice(at + 1).filter((line) => saysOfAll(line) && !isInRecord(line, first));
  return {
    ...NOTHING,
    headings: under.map(({ text: said }) => cutTo(said)),
    locale: pageFacts(document).locale,
    title: pageFacts(document).title,
    chosen: chosenIn(document),
    lines: [...new Set([...contextOf(before, at, null, under), ...after.slice(0, MOST_AFTER).map(({ text }) => text)])],
  };
}

const MOST_AFTER = 5;
const saysOfAll = ({ aside, struck, linked, heading, text }: Line) =>
  !aside && !struck && !linked && heading === 0 && text.length <= LONGEST_LINE && speaksOfFigures(plainWords(text));

/**
 * Whether a line stands in a record like the first: in a row or an item beside it, or in an element of its name and
 * class.
 */
function isInRecord({ block }: Line, first: Element): boolean {
  for (let at = block as AnyNode | null; at !== null && isTag(at); at = at.parent) {
    if (at.parent !== first.parent) continue;
    return at.name === first.name && (/^(?:tr|li)$/.test(at.name) || at.attribs.class === first.attribs.class);
  }
  return false;
}

function isBelow(element: Element, above: Element): boolean {
  for (let at = element as AnyNode | null; at !== null; at = at.parent) if (at === above) return true;
  return false;
}

const cutTo = (text: string) => (text.length > LONGEST_WORDS ? text.slice(0, LONGEST_WORDS) : text);

/** What the element itself says beside its number, and its line before and after it up to the next one. */
function besideIn(
  { lines, at }: Lines,
  texts: Text[],
  type: Typed,
): Pick<Frame, 'before' | 'own' | 'after' | 'bare' | 'sign'> {
  const [first, last] = [texts[0], texts.at(-1)];
  if (first === undefined || last === undefined) return { before: '', own: '', after: '', bare: '', sign: '' };
  const said = (line: Line | undefined, part: (pieces: Text[]) => Text[]) => seen(joined(part(line?.texts ?? [])));
  const before = said(lines[at.get(first) ?? -1], (pieces) => pieces.slice(0, pieces.indexOf(first)));
  const after = said(lines[at.get(last) ?? -1], (pieces) => pieces.slice(pieces.indexOf(last) + 1));
  return {
    before: bareEnds(withoutAmounts(before.slice(-LONGEST_WORDS)).split('#').at(-1) ?? ''),
    own: type.kind === 'money' || type.kind === 'number' ? ownWords(first, last, joined(texts)) : '',
    after: bareEnds(withoutAmounts(cutTo(after)).split('#')[0] ?? ''),
    bare: bareEnds(cutTo(seen(bareBeside(first, last)))),
    sign: type.kind === 'money' ? (/\p{Sc}/u.exec(joined(texts))?.[0] ?? '') : '',
  };
}

/**
 * What is said with a number in its own place, to those who see it and those who do not, and that a note goes with it.
 */
function ownWords(first: Text, last: Text, text: string): string {
  const said = withoutNumber(cutTo(`${seen(text)} ${spokenOf(first)}`));
  const noted = NOTED.test(`${cutTo(text)}${cutTo(bareBeside(first, last))}`);
  return noted ? `${said} with a note`.trim() : said;
}

/** A mark of a note below, against the number. */
const NOTED = /\d\s?[*†‡]/;

/** The text against the elements that the value is all of. */
function bareBeside(first: Text, last: Text): string {
  const outer = (text: Text, side: 'prev' | 'next') => {
    for (let at: AnyNode = text; ; at = at.parent as AnyNode) {
      const next = at[side];
      if (next !== null) return isText(next) ? next.data : '';
      if (at.parent === null || !isTag(at.parent) || !isInlineTag(at.parent)) return '';
    }
  };
  return `${outer(first, 'prev')} ${outer(last, 'next')}`;
}

/** A text as it is seen, its digits Latin ones. */
const seen = (text: string) => latinDigits(foldText(text));
/** Without the marks that only set words apart. */
const bareEnds = (text: string) => text.replace(/^[\s:,;·|•–—-]+|[\s:,;·|•–—-]+$/gu, '');

const joined = (texts: Text[]) => texts.map(({ data }) => data).join('');

/** What a reader who does not see is told of a value: on its element, or on the one that holds nothing else. */
function spokenOf(first: Text): string {
  for (
    let at = first.parent as AnyNode | null, climbs = 0;
    at !== null && isTag(at) && climbs < 2;
    at = at.parent, climbs += 1
  ) {
    const said = at.attribs['aria-label'] ?? at.attribs.title;
    if (said !== undefined) return seen(said);
  }
  return '';
}

/** What is left of a value's own text without its number; counts stay: `each when you buy 2`. */
function withoutNumber(text: string): string {
  const rest = withoutAmounts(text);
  return (rest.includes('#') ? rest : rest.replace(/[-+]?\d[\d.,'’]*(?: \d{3})*/, '#'))
    .replace(/#/g, ' ')
    .replace(/\s+/g, ' ')
    .trim();
}

/** In a line of several sums: the words that lead it, and which of them this one is. */
function inLine({ lines, at }: Lines, texts: Text[]): Pick<Frame, 'row' | 'column'> {
  const [first] = texts;
  const line = first === undefined ? undefined : lines[at.get(first) ?? -1];
  if (first === undefined || line === undefined) return { row: [], column: [] };
  const before = seen(joined(line.texts.slice(0, line.texts.indexOf(first)))).slice(0, LONGEST_WORDS);
  const ahead = sumsIn(before);
  const lead = bareEnds(withoutAmounts(before).split('#')[0] ?? '');
  return ahead === 0 || lead === ''
    ? { row: [], column: [] }
    : { row: [lead], column: [`sum ${ahead + 1} of its line`] };
}

const windowTitle = keptFor((page: Document): string | null => {
  const found = selectElements(page, 'title');
  const said = found.ok && found.value[0] !== undefined ? foldText(textOf(found.value[0])) : '';
  return said === '' ? null : cutTo(said);
});

/** The lines above and under a value. In a table its cells are, and are told by its heads. */
function closeTo(
  { lines }: Lines,
  at: number,
  end: number,
  place: GridPlace | null,
): Pick<Frame, 'above' | 'under' | 'labelled' | 'others'> {
  if (at < 0 || place !== null) return { above: null, under: null, labelled: false, others: 0 };
  const [above, line, under] = [lines[at - 1], lines[at], lines[end + 1]];
  const close = above !== undefined && line !== undefined && above.heading === 0 && isClose(above.block, line.block);
  return {
    above: above === undefined || above.heading > 0 || above.struck ? null : cutTo(above.text),
    under: under === undefined || under.heading > 0 || isOfAnother(under) ? null : cutTo(under.text),
    labelled: close && isLabelLike(above.text),
    others:
      sumsIn(line?.text ?? '') -
      1 +
      [above, under].filter((each) => each !== undefined && !isOfAnother(each) && isBareSum(each.text)).length,
  };
}

const SUM = /\p{Sc}\s?\d[\d.,'’]*|\d[\d.,'’]*\s?\p{Sc}/gu;
const sumsIn = (text: string) => (text.length > LONGEST_SUMMED ? 1 : (text.match(SUM)?.length ?? 0));
const LONGEST_SUMMED = 400;
const isBareSum = (text: string) => text.length <= 24 && sumsIn(text) > 0 && !/\p{L}/u.test(text);

/** A cell or a term begins something else. */
const isOfAnother = ({ block }: Line) => /^(?:td|th|dt)$/.test((block as Element).name);

const NEAR = 3;

/** Whether two blocks stand in one that is not far above the second. */
function isClose(one: Element | Document, other: Element | Document): boolean {
  const up = (from: Element | Document) => {
    const found: (AnyNode | Document)[] = [from];
    for (
      let at = from.parent as AnyNode | null;
      at !== null && found.length < NEAR && isTag(at) && at.name !== 'body' && at.name !== 'main';
      at = at.parent
    )
      found.push(at);
    return found;
  };
  const known = new Set(up(other));
  return up(one).some((each) => known.has(each));
}

const OF_THE_THING = /^(?:name|sku|gtin\d*|mpn|productID|isbn|itemCondition|offers\.itemCondition)$/;
const THINGS = /Product|Offer|Book|Vehicle|Accommodation|Event|JobPosting|Service/;

/** What structured data says of the one thing on a page; where it speaks of several, nothing. */
function thingIn(document: Document): Record<string, string> {
  const found = new Map<string, string | null>();
  for (const { type, path, text } of structuredLeaves(document)) {
    if (!OF_THE_THING.test(path) || !THINGS.test(type)) continue;
    const known = found.get(path);
    found.set(path, known === undefined || known === text ? cutTo(text) : null);
  }
  return Object.fromEntries(
    [...found].flatMap(([path, text]) => (text === null || text === '' ? [] : [[path.replace('offers.', ''), text]])),
  );
}

const COLON = /^([^:：]{2,40})[:：]\s*(\S.{0,79})$/u;

/**
 * What is said under labels: entries of a list of terms, rows of two cells, lines with a colon. The value's own is left
 * out.
 */
function factsIn({ lines }: Lines, own: Line | null, at: number): Frame['facts'] {
  const facts: Frame['facts'] = [];
  const isAnnounced = own === null ? () => false : announcedAround(lines, own, at, own.under);
  for (const [n, line] of lines.entries()) {
    if (facts.length >= MOST_FACTS) break;
    if (line.aside || line === own) continue;
    const fact = labelledBy(lines[n - 1], line) ?? withColon(line);
    if (fact === null) continue;
    if (!isAnnounced(line, n)) facts.push(fact);
    else if (!leadsNotice(plainWords(fact[0]))) facts.push([...fact, 'announced']);
  }
  return facts;
}

function labelledBy(label: Line | undefined, { block, text }: Line): [string, string] | null {
  if (label === undefined || !isTag(block) || !isTag(label.block)) return null;
  const [named, said] = [label.block, block];
  const pair =
    (named.name === 'dt' && said.name === 'dd') ||
    (isCell(named) && isCell(said) && named.parent === said.parent && isPair(said));
  return pair && text.length <= LONGEST_LINE && isLabelLike(label.text) ? [label.text, text] : null;
}

const isCell = ({ name }: Element) => name === 'td' || name === 'th';
const isPair = ({ parent }: Element) => parent !== null && parent.children.filter(isTag).length === 2;

function withColon({ text, heading }: Line): [string, string] | null {
  const [, label, said] = heading > 0 ? [] : (COLON.exec(text) ?? []);
  return label === undefined || said === undefined ? null : [label, said];
}

const TOLD_OTHERWISE = new Set(['td', 'th', 'dt', 'dd', 'button', 'label', 'legend']);

/** The short lines under the headings of a value that do not move by themselves, the nearest to it. */
function contextOf({ lines }: Lines, at: number, own: Line | null, under: readonly Heading[]): string[] {
  const found: { text: string; far: number }[] = [];
  const isAnnounced = announcedAround(lines, own, at, under);
  for (const [n, line] of lines.entries()) {
    if (line === own || line.aside || line.struck || line.linked || line.heading > 0 || line.text.length > LONGEST_LINE)
      continue;
    if (TOLD_OTHERWISE.has((line.block as Element).name) || !isUnder(under, line.under) || moves(plainWords(line.text)))
      continue;
    if (isAnnounced(line, n)) continue;
    found.push({ text: line.text, far: Math.abs(n - at) });
  }
  const near = found.length <= MOST_LINES ? found : [...found].sort((a, b) => a.far - b.far).slice(0, MOST_LINES);
  return [...new Set(near.map(({ text }) => text))];
}

const FAR_LINES = 8;

/**
 * Tells the lines that speak to whoever comes by, and of other things: those before every heading of the page, and
 * those far from the value, or beyond an aside or a menu, with nothing around both but the page; unless they say how
 * the figures of the page are meant. Such lines come and go from day to day.
 */
function announcedAround(
  lines: Line[],
  own: Line | null,
  at: number,
  under: readonly Heading[],
): (line: Line, n: number) => boolean {
  const foot = own === null ? -1 : lines.findIndex((line, n) => n > at && line.aside);
  const around = new Set(own === null ? [] : blocksAbove(own.block));
  const isFar = (n: number) => Math.abs(n - at) > FAR_LINES || (foot >= 0 && n > foot);
  return (line, n) => {
    const stray =
      (line.under.length === 0 && under.length > 0) ||
      (own !== null && isFar(n) && !blocksAbove(line.block).some((block) => around.has(block)));
    return stray && !speaksOfFigures(plainWords(line.text));
  };
}

/** The blocks that hold a line, but for the page itself. */
function blocksAbove(from: Element | Document): AnyNode[] {
  const blocks: AnyNode[] = [];
  for (
    let at = from as AnyNode | null;
    at !== null && isTag(at) && at.name !== 'body' && at.name !== 'html';
    at = at.parent
  )
    blocks.push(at);
  return blocks;
}

/** Of one record among many the lines that change what a number is; what else it says is of itself. */
function sensibleLines({ lines }: Lines, own: Line): string[] {
  if (lines.length < 2) return [];
  const sensible = lines.filter(
    (line) =>
      line !== own && !line.struck && line.text.length <= LONGEST_LINE && senseOf(plainWords(line.text)).length > 0,
  );
  return [...new Set(sensible.map(({ text }) => text))].slice(0, MOST_LINES);
}

/** Whether a line stands under headings that the value stands under, too, and under no other. */
const isUnder = (own: readonly Heading[], under: readonly Heading[]) =>
  under.length <= own.length && under.every((heading, level) => own[level] === heading);
