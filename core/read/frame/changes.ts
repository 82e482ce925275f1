import { foldText } from '../../value/parse';
import type { Frame, FrameChange, FramePart } from './types';
import {
  isLabelLike,
  isOtherCost,
  moves,
  onlyMoves,
  plainWords,
  saysHowMany,
  senseOf,
  telling,
  tellingWithTimes,
  withoutAmounts,
  withoutTimes,
} from './words';

/**
 * What of a frame changed the sense of its value. Words move freely between its line, its labels and its heads, for
 * pages are built anew; a word more or less there, another row, column, heading, thing or choice counts, and elsewhere
 * what is known to change a number's sense or what took the place of something else. None: it is the same value.
 */
export function frameChanges(accepted: Frame, found: Frame): FrameChange[] {
  const [before, now] = withoutAny(accepted, found);
  return [
    ...besideChanges(before, now),
    ...signChanges(before, now),
    ...othersChanges(before, now),
    ...closeChanges(before, now),
    ...headsChanges('row', before, now),
    ...headsChanges('column', before, now),
    ...headingChanges(before, now),
    ...windowChanges(before, now),
    ...thingChanges(before, now),
    ...chosenChanges(before, now),
    ...factChanges(before, now),
    ...lineChanges(before, now),
  ];
}

/** Stands for words that may be any, as the names of records are. */
export const ANY = '*';

/** Two frames without the parts that may say anything, unless they say what changes a number's sense. */
function withoutAny(before: Frame, now: Frame): [Frame, Frame] {
  const parts = (['before', 'own', 'after', 'bare', 'above', 'under'] as const).filter((part) => before[part] === ANY);
  if (parts.length === 0) return [before, now];
  const blank = (frame: Frame, left: readonly string[]): Frame => ({
    ...frame,
    ...Object.fromEntries(left.map((part) => [part, part === 'above' || part === 'under' ? null : ''])),
  });
  const plain = blank(before, parts);
  return [
    plain,
    blank(
      now,
      parts.filter((part) => !hasNewSense([now[part] ?? ''], plain)),
    ),
  ];
}

const wordsOf = (text: string) => telling(text).split(' ').filter(Boolean);
const lineOf = ({ before, own, after }: Frame) => foldText(`${before} ${own} ${after}`);
const hasAmount = (text: string) => withoutAmounts(plainWords(text)).includes('#');

/** All words that stand as close to a value as its label would. */
function wordsNear(frame: Frame): Set<string> {
  const { above, under, row, column, headings } = frame;
  const close = [above, under !== null && goesOn(under) ? under : null].filter(
    (line): line is string => line !== null && !hasAmount(line),
  );
  return new Set([lineOf(frame), ...close, ...row, ...column, headings.at(-1) ?? ''].flatMap(wordsOf));
}

/** Whether a line goes on with what stands above it. */
const goesOn = (line: string) => /^[\p{Ll}(+/]/u.test(line) || senseOf(plainWords(line)).length > 0;

const changed = (part: FramePart, was: string, is: string): FrameChange => ({
  part,
  was: was === '' ? null : was,
  is: is === '' ? null : is,
});

function besideChanges(before: Frame, now: Frame): FrameChange[] {
  const [was, is] = [lineOf(before), lineOf(now)];
  const [nearBefore, nearNow] = [wordsNear(before), wordsNear(now)];
  const bare = new Set(wordsOf(before.bare));
  const same =
    wordsOf(was).every((word) => nearNow.has(word)) &&
    wordsOf(is).every((word) => nearBefore.has(word)) &&
    wordsOf(now.bare).every((word) => bare.has(word) || nearBefore.has(word));
  return same ? [] : [changed('beside', was, foldText(`${is} ${is.includes(now.bare) ? '' : now.bare}`))];
}

/** A sign of money that is gone; another one is another currency, which the value itself says. */
function signChanges(before: Frame, now: Frame): FrameChange[] {
  const said = [now.sign, lineOf(now), ...now.column, ...now.row].join(' ');
  return before.sign === '' || /\p{Sc}|\p{Lu}{3}|\p{Ll}/u.test(now.sign) || said.includes(before.sign)
    ? []
    : [changed('sign', before.sign, now.sign)];
}

/** Another sum of money right beside it, of which nothing says what it is: one of them is the price, and not both. */
function othersChanges(before: Frame, now: Frame): FrameChange[] {
  return now.others <= Math.max(before.others, 0)
    ? []
    : [changed('beside', before.others > 0 ? SUMS(before.others) : '', SUMS(now.others))];
}

const SUMS = (count: number) => (count === 1 ? 'another sum' : `${count} other sums`);

/** A label above it that was another or none, and lines that touch it and change its sense. */
function closeChanges(before: Frame, now: Frame): FrameChange[] {
  const found: FrameChange[] = [];
  const [labelBefore, labelNow] = [labelOf(before), labelOf(now)];
  const [nearBefore, nearNow] = [wordsNear(before), wordsNear(now)];
  const known = knownTo(before);
  const lost = labelBefore !== null && !wordsOf(labelBefore).every((word) => nearNow.has(word));
  const strange =
    labelNow !== null && !known.has(plainWords(labelNow)) && !wordsOf(labelNow).every((word) => nearBefore.has(word));
  if (lost || strange) found.push(changed('above', labelBefore ?? '', labelNow ?? ''));
  for (const part of ['above', 'under'] as const) {
    const line = now[part];
    if (line === null || known.has(plainWords(line)) || (part === 'above' && found.length > 0)) continue;
    if (touches(line, before)) found.push(changed(part, before[part] ?? '', line));
  }
  return found;
}

/** The line above where it is a label: of words, and not of those that move by themselves. */
function labelOf({ above, labelled }: Frame): string | null {
  if (above === null || !labelled || hasAmount(above) || telling(above) === '') return null;
  return moves(plainWords(above)) && !isOtherCost(above) ? null : above;
}

const LONGEST_REMARK = 60;

/**
 * Whether a line that touches the value now speaks of it: in words that change a sense, or going on in the middle of a
 * sentence.
 */
function touches(line: string, before: Frame): boolean {
  const said = plainWords(line);
  if (line.length > LONGEST_REMARK || telling(line) === '') return false;
  if (hasAmount(line)) return saysHowMany(said) || ADDS.test(said);
  if (hasNewSense([line], before)) return true;
  // A script without capitals does not show where a sentence begins.
  return /^[\p{Ll}\p{Lo}(+/]/u.test(line) && (!moves(said) || isOtherCost(line)) && isLabelLike(line);
}

/** Begins what is added to a sum, not another sum in its place. */
const ADDS =
  /^(?:[+(]|incl|including|with|plus|after|when|if|for|before|mit|inkl|nach|bei|für|avec|après|pour|con|met|med)(?!\p{L})/u;

/** Every text that was seen around the value. */
function textsOf(frame: Frame): string[] {
  const { above, under, row, column, headings, facts, lines, chosen, window } = frame;
  return [
    window ?? '',
    lineOf(frame),
    above ?? '',
    under ?? '',
    ...row,
    ...column,
    ...headings,
    ...facts.flatMap(([label, said]) => [label, said]),
    ...lines,
    ...chosen,
  ];
}

const knownTo = (frame: Frame) => new Set(textsOf(frame).map(plainWords));

function hasNewSense(lines: string[], other: Frame): boolean {
  const known = new Set(textsOf(other).flatMap((text) => senseOf(plainWords(text))));
  return lines.flatMap((line) => senseOf(plainWords(line))).some((word) => !known.has(word));
}

/**
 * Heads of a row or a column: the same in the same table; where there is a table no more, or is one now, their words
 * have to stand near.
 */
function headsChanges(part: 'row' | 'column', before: Frame, now: Frame): FrameChange[] {
  const [was, is] = [headsIn(before[part]), headsIn(now[part])];
  if (was.length === 0 && is.length === 0) return [];
  const known = was.length > 0 && is.length > 0;
  const same = known ? sameHeads(was, is) : wordsIn(was, wordsNear(now)) && wordsIn(is, wordsNear(before));
  return same ? [] : [changed(part, before[part].join(', '), now[part].join(', '))];
}

/** Of the cells that follow in a row those are left out that only say what moves by itself. */
const headsIn = (heads: string[]) =>
  heads
    .filter((head, at) => at === 0 || !onlyMoves(plainWords(head)) || /\p{Sc}|%/u.test(head))
    .map(headWords)
    .filter(Boolean);
/** Of a head its sums count, too: it may be nothing but a currency's sign. */
const headWords = (head: string) => foldText(`${telling(head)} ${head.match(/\p{Sc}|%/gu)?.join(' ') ?? ''}`);
const sameHeads = (was: string[], is: string[]) => was.length === is.length && was.every((head) => is.includes(head));
const wordsIn = (heads: string[], near: Set<string>) => heads.flatMap(wordsOf).every((word) => near.has(word));

/** Every heading above it has to be there still, and the nearest has to be one of those before. */
function headingChanges(before: Frame, now: Frame): FrameChange[] {
  const [was, is] = [headingsOf(before), headingsOf(now)];
  const nearIs = is.at(-1) ?? '';
  if (was.length === 0 && nearIs === '') return titleChanges(before, now);
  const [saidBefore, saidNow] = [wordsSaid(before), wordsSaid(now)];
  const kept = was.every((heading) => is.includes(heading) || saidNow.has(heading));
  const known = nearIs === '' || was.includes(nearIs) || saidBefore.has(nearIs);
  return kept && known ? [] : [changed('heading', before.headings.join(' › '), now.headings.join(' › '))];
}

const headingsOf = ({ headings }: Frame) => headings.map(headingWords).filter(Boolean);
const headingWords = (heading: string) => foldText(withoutTimes(telling(heading)));

/** What may say the same as a heading: the page's own title, a label, a line. */
function wordsSaid({ title, above, lines, row, column }: Frame): Set<string> {
  return new Set([title ?? '', above ?? '', ...lines, ...row, ...column].map(headingWords));
}

function titleChanges(before: Frame, now: Frame): FrameChange[] {
  const [was, is] = [before.title ?? '', now.title ?? ''];
  return headingWords(was) === headingWords(is) ? [] : [changed('title', was, is)];
}

/**
 * A window's title is reworded freely; another size or number in it, or a word that changes a sense, is another thing.
 */
function windowChanges(before: Frame, now: Frame): FrameChange[] {
  const [was, is] = [before.window ?? '', now.window ?? ''];
  const [numbersBefore, numbersNow] = [was, is].map((title) =>
    telling(title)
      .split(' ')
      .filter((word) => /\d/.test(word)),
  );
  const other =
    numbersBefore?.length !== 0 && numbersNow?.length !== 0 && numbersBefore?.join(' ') !== numbersNow?.join(' ');
  return was === '' || is === '' || (!other && !hasNewSense([is], { ...before, title: was }))
    ? []
    : [changed('title', was, is)];
}

function thingChanges(before: Frame, now: Frame): FrameChange[] {
  const named = before.headings.length > 0 && headingsOf(before).at(-1) === headingsOf(now).at(-1);
  return Object.entries(before.thing).flatMap(([of, was]) => {
    // A name in the data is said in many ways; what stands above the value is what a reader goes by.
    const is = of === 'name' && named ? undefined : now.thing[of];
    return is === undefined || plainWords(is) === plainWords(was) ? [] : [{ part: 'thing' as const, of, was, is }];
  });
}

/**
 * Another choice in the place of one, or a choice where there was none. What is merely no longer said to be chosen is
 * no other choice.
 */
function chosenChanges(before: Frame, now: Frame): FrameChange[] {
  const [was, is] = [before.chosen, now.chosen].map((texts) => texts.map(choiceWords).filter(Boolean));
  const more = now.chosen.filter((text) => choiceWords(text) !== '' && !was?.includes(choiceWords(text)));
  if (more.length === 0) return [];
  const less = before.chosen.filter((text) => choiceWords(text) !== '' && !is?.includes(choiceWords(text)));
  return [changed('chosen', less.join(', '), more.join(', '))];
}

/** Tabs of a page that only show other parts of it. */
const PARTS =
  /^(?:description|details?|overview|specifications?|specs|reviews?|delivery|returns|questions?|features|gallery|photos?|home|1)$/;
const choiceWords = (text: string) => {
  const words = telling(text);
  return PARTS.test(words) || onlyMoves(plainWords(text)) ? '' : words;
};

/** The same label with something else beside it, where that is no number that moves. */
function factChanges(before: Frame, now: Frame): FrameChange[] {
  const [was, is] = [byLabel(before), byLabel(now)];
  const changes = [...was].flatMap(([label, said]): FrameChange[] => {
    const other = is.get(label);
    if (other === undefined || said === null || other === null || moves(label) || factWords(said) === factWords(other))
      return [];
    return movesInWords(said) && movesInWords(other) ? [] : [{ part: 'fact', of: label, was: said, is: other }];
  });
  // What is said of another sum speaks of that.
  const announced = new Set(now.facts.flatMap(([label, , how]) => (how === undefined ? [] : plainWords(label))));
  const more = [...is].filter(
    ([label, said]) =>
      !announced.has(label) &&
      !was.has(label) &&
      said !== null &&
      !hasAmount(said) &&
      hasNewSense([`${label}: ${said}`], before) &&
      !moves(label),
  );
  return [...changes, ...more.map(([label, said]): FrameChange => ({ part: 'fact', of: label, was: null, is: said }))];
}

/** What is said in words that move by themselves: a bare count that is no sum is what the thing is. */
const movesInWords = (said: string) => /\p{L}/u.test(said) && moves(plainWords(said));

/** Facts by their label; null for one that is given several times. */
function byLabel({ facts }: Frame): Map<string, string | null> {
  const found = new Map<string, string | null>();
  for (const [label, said] of facts) found.set(plainWords(label), found.has(plainWords(label)) ? null : said);
  return found;
}

/** Sums and measured numbers move; a count of gigabytes or grams is what the thing is. */
const factWords = (said: string) =>
  foldText(withoutAmounts(plainWords(said)).replace(/^(?!(?:19|20)\d\d$)\d[\d,]*$/, '#'));

/** Lines that took the place of others, and those that came or went and change what a number is. */
function lineChanges(before: Frame, now: Frame): FrameChange[] {
  const [knownBefore, knownNow] = [knownLines(before), knownLines(now)];
  const went = before.lines.filter((line) => !knownNow.has(lineWords(line)) && !hasAmount(line));
  const came = now.lines.filter((line) => !knownBefore.has(lineWords(line)) && !hasAmount(line));
  const [replaced] = replacements(before.lines, now.lines, went, came);
  if (replaced !== undefined) return [changed('line', replaced[0], replaced[1])];
  const remarks = went.filter((line) => isLabelLike(line));
  if (!hasNewSense(came, before) && !hasNewSense(remarks, now)) return [];
  return [changed('line', remarks.join(' / '), came.join(' / '))];
}

/** One line in the place of another: between the same neighbours, or in much the same words. */
function replacements(before: string[], now: string[], went: string[], came: string[]): [string, string][] {
  return went.flatMap((line) => {
    const beside = came.find(
      (other) =>
        sharesWords(line, other) ||
        hasNeighbour(before, line, now, other, -1) ||
        hasNeighbour(before, line, now, other, 1),
    );
    return beside === undefined ? [] : [[line, beside] as [string, string]];
  });
}

function sharesWords(one: string, other: string): boolean {
  const [a, b] = [one, other].map((line) => new Set(lineWords(line).split(' ')));
  const shared = [...(a ?? [])].filter((word) => b?.has(word)).length;
  // Said in fewer words it is no other thing.
  if (shared === b?.size) return false;
  const others = [...(a ?? [])].filter((word) => !b?.has(word));
  return (
    shared * 2 >= Math.min(a?.size ?? 0, b?.size ?? 0) &&
    (shared >= 2 || (shared === 1 && others.every((word) => /\d/.test(word))))
  );
}

/** Whether the lines next to two lines on one side are the same line. */
function hasNeighbour(before: string[], line: string, now: string[], other: string, side: 1 | -1): boolean {
  const [was, is] = [before[before.indexOf(line) + side], now[now.indexOf(other) + side]];
  return was !== undefined && is !== undefined && lineWords(was) === lineWords(is) && lineWords(was) !== '';
}

const lineWords = (line: string) => foldText(tellingWithTimes(line).replace(/#/g, ''));
const knownLines = (frame: Frame) => new Set([...textsOf(frame), frame.title ?? ''].map(lineWords).concat(''));

/**
 * What a change is of, where only digits differ in it, as of a table that is made anew each week: once it is accepted,
 * such changes are no questions. Null for others, and for what is right beside the value, its row or its column.
 */
export function varyingKey({ part, of = '', was, is }: FrameChange): string | null {
  if (was === null || is === null || !['heading', 'title', 'line', 'fact', 'under', 'above'].includes(part))
    return null;
  const [before, now] = [was, is].map((text) => plainWords(text).replace(/\d+/g, '0'));
  return before === now ? `${part} ${of} ${now ?? ''}`.slice(0, LONGEST_KEY) : null;
}

const LONGEST_KEY = 300;

const NAMES: Record<FrameChange['part'], string> = {
  beside: 'beside it',
  sign: 'its sign',
  above: 'above it',
  under: 'under it',
  row: 'its row',
  column: 'its column',
  heading: 'under the heading',
  title: 'the page',
  thing: 'the thing',
  chosen: 'chosen',
  fact: 'said of it',
  line: 'near it',
  found: 'found by',
  currency: 'its currency',
  unit: 'its unit',
  nought: 'its value',
  jump: 'its value',
  mark: 'the language that settles its mark',
};

const THINGS: Record<string, string> = {
  name: 'name',
  sku: 'reference',
  mpn: 'reference',
  itemCondition: 'condition',
  productID: 'reference',
  isbn: 'ISBN',
};

/** What a change is of, in words: `its column`, `Condition`. */
export function namePart({ part, of }: FrameChange): string {
  if (of === undefined) return NAMES[part];
  return part === 'thing' ? (THINGS[of] ?? of.toUpperCase()) : of.charAt(0).toUpperCase() + of.slice(1);
}

/** A change in words: `beside it now “for members”, before nothing`. */
export function describeChange(change: FrameChange): string {
  const said = (text: string | null) => (text === null ? 'nothing' : change.part === 'found' ? text : `“${text}”`);
  return `${namePart(change)} now ${said(change.is)}, before ${said(change.was)}`;
}

/** Several of them as one sentence's part, the first few. */
export function describeChanges(changes: readonly FrameChange[], most = MOST_TOLD): string {
  const shown = changes.slice(0, most).map(describeChange);
  const more = changes.length - shown.length;
  return `${shown.join('; ')}${more > 0 ? `; and ${more} more` : ''}`;
}

const MOST_TOLD = 3;
