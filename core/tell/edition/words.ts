import { isReturn, movesOf, type Net } from '../../compare/net';
import { isAvailable } from '../../value/availability';
import { formatDifference, formatValue } from '../../value/format';
import { isMeasure, type Measure, type Value } from '../../value/value';
import { formatDuration, formatInstant, formatRecent, type Place } from '../../when/format';
import type { Instant } from '../../when/interval';
import { capital, countOf, listed } from '../../words';
import { CAUSES } from '../failure';
import { describeNet } from '../net-words';
import { describeAsked, differenceParts, headline, quoted } from '../news';
import { countBeyond, type EditionDocument, type EditionWindow } from './document';
import type { Broken, Coverage, PresentValue } from './gathered';
import type { Group, Row } from './groups';
import { LINE_KINDS, type LineKind, type Presence } from './lines';
import { valueWords, type Share } from './share';
import { subjectLine } from '../subject-line';
import { fill, OUR_WORDS, type Filled, type OwnWords } from './template';

// What an edition says, in the reader's language of numbers and her zone; for the mail, its plain text and the page
// alike.

/** How many lines of each kind there are, in words: the singular and the plural. */
const KIND_WORDS: Record<LineKind, [one: string, many: string]> = {
  alert: ['alert', 'alerts'],
  'first read': ['first reading', 'first readings'],
  appeared: ['appeared', 'appeared'],
  'sold out': ['sold out', 'sold out'],
  'sold out and the price withdrawn': ['sold out and the price withdrawn', 'sold out and their prices withdrawn'],
  'under the agreed minimum': ['under the agreed minimum', 'under the agreed minimum'],
  'back above the agreed minimum': ['back above the agreed minimum', 'back above the agreed minimum'],
  fall: ['fall', 'falls'],
  rise: ['rise', 'rises'],
  returned: ['returned to where it was', 'returned to where they were'],
  'back in stock': ['back in stock', 'back in stock'],
  'sold out and back': ['sold out and back', 'sold out and back'],
  'back and sold out again': ['back in stock and sold out again', 'back in stock and sold out again'],
  'price withdrawn': ['price withdrawn', 'prices withdrawn'],
  vanished: ['vanished', 'vanished'],
  'gone and back': ['gone and back', 'gone and back'],
  'came and went': ['came and went', 'came and went'],
  changed: ['other change', 'other changes'],
};

/** `120 falls, 90 rises, 4 sold out`, the most of them first. */
export function describeKinds(kinds: Partial<Record<LineKind, number>>): string {
  const counts = LINE_KINDS.map((kind) => [kind, kinds[kind] ?? 0] as const).filter(([, count]) => count > 0);
  counts.sort(([, one], [, other]) => other - one);
  return counts.map(([kind, count]) => `${count} ${KIND_WORDS[kind][count === 1 ? 0 : 1]}`).join(', ');
}

/** What an edition has no room for: by kind, and by the groups that it would stand in. */
export function beyondWords({ beyond, beyondGroups }: EditionDocument): string {
  if (beyondGroups === undefined) return describeKinds(beyond);
  const { count, largest } = beyondGroups;
  const named = largest.map((each) => `${groupWords(each)} ${each.lines}`);
  const others = count - largest.length;
  const more = others > 0 ? [countOf(others, 'more group')] : [];
  return `${describeKinds(beyond)} (${[...named, ...more].join(', ')})`;
}

/** Since when an edition tells, and how long that was: `since Wed 07:30, 23 h`. */
const describeWindow = ({ from, until }: EditionWindow, place: Place): string =>
  `since ${formatRecent(from, until, place)}, ${formatDuration(until - from)}`;

const MOST_STALE = 3;

/** What could not be read, which an edition says before anything else; empty where all was. */
export function staleWords(
  { coverage: { stale, staleCount, watches } }: EditionDocument,
  until: number,
  place: Place,
): string {
  if (staleCount === 0) return '';
  const named = stale
    .slice(0, MOST_STALE)
    .map(({ subject, site, since }) => `${subject} at ${site} since ${formatRecent(since, until, place)}`);
  const more = staleCount > named.length ? [`${staleCount - named.length} more`] : [];
  return `${staleCount} of ${countOf(watches, 'watch', 'watches')} could not be read: ${listed([...named, ...more])}.`;
}

/** What fills her own words of an edition. */
function filledFor(edition: EditionDocument, place: Place, report: string, reader: string): Filled {
  const { kinds, counts, share, stretch } = edition;
  return {
    report,
    reader,
    part: shareWords(share),
    news: newsOf(edition, place),
    sentence: newsSentence(edition, place),
    lines: counts.lines,
    falls: kinds.fall ?? 0,
    rises: kinds.rise ?? 0,
    alerts: kinds.alert ?? 0,
    below: counts.nowBelowOurs,
    since: formatRecent(stretch.from, stretch.until, place),
  };
}

/** Her own words of a part of an edition; null where it is in ours, or hers cannot be filled with what it holds. */
function ownWordsOf(words: string, filled: () => Filled): string | null {
  if (words.trim() === '') return null;
  const said = fill(words, filled());
  return said.ok && said.value !== '' ? said.value : null;
}

/** The opening of an edition: the news in one sentence, or in her own words. */
export const leadWords = (edition: EditionDocument, place: Place, report = '', reader = ''): string =>
  ownWordsOf(edition.words.opening, () => filledFor(edition, place, report, reader)) ?? newsSentence(edition, place);

function newsSentence(edition: EditionDocument, place: Place): string {
  const { counts, kinds, stretch, share } = edition;
  if (share?.of === 'broken') return brokenLead(edition, place);
  if (edition.present !== undefined) return presentLead(edition, place);
  const since = describeWindow(stretch, place);
  if (counts.lines === 0) return `Nothing moved ${since}.`;
  const [falls, rises] = [kinds.fall ?? 0, kinds.rise ?? 0];
  const prices = falls + rises;
  const { fall: _, rise: __, ...others } = kinds;
  const moved = prices === 0 ? '' : priceWords(falls, rises);
  const rest = describeKinds(others);
  const on = counts.items > 0 ? ` on ${countOf(counts.items, 'item')}` : '';
  const said = [moved, rest].filter(Boolean).join(', ');
  const below =
    counts.nowBelowOurs === 0
      ? ''
      : ` ${counts.nowBelowOurs === 1 ? 'One offer is' : `${counts.nowBelowOurs} offers are`} now below ours.`;
  return `${capital(said)}${on} ${since}.${below}`;
}

/** `4 values as they stand Fri 27 Nov 07:30, 1 of them not read now. 1 alert since Thu 07:30, 24 h.` */
function presentLead({ present = [], stretch, kinds }: EditionDocument, place: Place): string {
  const stale = present.filter(({ staleSince }) => staleSince !== null).length;
  const read = stale === 0 ? '' : `, ${stale} of them not read now`;
  const raised = describeKinds(kinds);
  const besides = raised === '' ? '' : ` ${capital(raised)} ${describeWindow(stretch, place)}.`;
  return (
    `${capital(countOf(present.length, 'value'))} as ${present.length === 1 ? 'it stands' : 'they stand'} ` +
    `${formatInstant(stretch.until, 'moment', place)}${read}.${besides}`
  );
}

/** A value that is shown as it stands. */
export const presentWords = ({ value }: PresentValue, locale: string): string =>
  value.kind === 'absent' ? 'none' : formatValue(value, locale);

/** When it moved last, since when it is not read, or that its watch is gone. */
export function presentMark(
  { watch, movedAt: at, staleSince }: PresentValue,
  { stretch }: EditionDocument,
  place: Place,
): string {
  if (watch === null) return 'its watch was deleted';
  if (staleSince !== null) return `not read since ${formatRecent(staleSince, stretch.until, place)}`;
  return at === null ? '' : formatRecent(at, stretch.until, place);
}

function brokenLead({ broken, stretch }: EditionDocument, place: Place): string {
  const failing = broken.filter(({ kind }) => kind === 'failing').length;
  const back = broken.length - failing;
  const said = [
    failing === 0 ? '' : `${countOf(failing, 'watch', 'watches')} stopped being read`,
    back === 0 ? '' : `${countOf(back, 'watch', 'watches')} ${back === 1 ? 'is' : 'are'} read again`,
  ];
  return `${capital(listed(said.filter(Boolean)) || 'nothing broke')} ${describeWindow(stretch, place)}.`;
}

/** What an edition's share of its cut is called; empty of the whole. */
export function shareWords(share: Share | null): string {
  if (share === null) return '';
  if (share.of === 'broken') return 'what broke';
  return share.of === 'others' ? `${share.values.length} others` : valueWords(share.by, share.value);
}

/** Why an edition comes to those who read the rest; empty where it does not. */
export function fallbackWords(share: Share | null): string {
  if (share?.of === 'others') return `Nobody is named for these ${share.values.length}, so they come to you, together.`;
  if (share?.of !== 'value' || share.because === null) return '';
  const what = shareWords(share);
  switch (share.because) {
    case 'nobody named':
      return `Nobody is named for ${share.value === null ? `what is ${what}` : what}, so this comes to you.`;
    case 'all left':
      return `All who read ${what} have left this report, so this comes to you.`;
    case 'all paused':
      return (
        `The addresses of all who read ${what} refused mail when this was made: it went to those who read the rest, ` +
        'and was kept back for them.'
      );
  }
}

function priceWords(falls: number, rises: number): string {
  if (falls === 0) return `${countOf(rises, 'price')} rose`;
  return rises === 0 ? `${countOf(falls, 'price')} fell` : `${countOf(falls, 'price')} fell and ${rises} rose`;
}

/** The subject of an edition's mail: its first news, and how much more there is; or her own words. */
export function subjectWords(report: string, edition: EditionDocument, place: Place, reader = ''): string {
  const own = ownWordsOf(edition.words.subject, () => filledFor(edition, place, report, reader));
  if (own !== null) return own;
  const { counts, broken } = edition;
  const first = edition.share?.of === 'broken' ? null : firstNews(edition, place);
  if (first === null)
    return (
      `${report}: ` +
      `${broken.length > 0 ? brokenSubject(broken) : `nothing moved ${describeWindow(edition.stretch, place)}`}`
    );
  const count = edition.present?.length ?? counts.lines;
  const more = count > 1 ? `, and ${count - 1} more` : '';
  return subjectLine(first.name, [
    (name) => `${report}: ${first.said(name)}${more}`,
    (name) => `${first.said(name)}${more}`,
    (name) => `${first.shortly(name)}${more}`,
  ]);
}

const newsOf = (edition: EditionDocument, place: Place): string => {
  const first = firstNews(edition, place);
  return first === null ? '' : first.said(first.name);
};

/** A piece of news by the name that it is of. */
interface Named {
  name: string;
  said: (name: string) => string;
  /** Without what can be left to the mail. */
  shortly: (name: string) => string;
}

function brokenSubject(broken: Broken[]): string {
  const failing = broken.filter(({ kind }) => kind === 'failing').length;
  return failing === 0
    ? `${countOf(broken.length, 'watch', 'watches')} read again`
    : `${countOf(failing, 'watch', 'watches')} not read`;
}

const asSaid = (name: string, said: Named['said']): Named => ({ name, said, shortly: said });

function firstNews({ alerts, groups, present }: EditionDocument, { locale }: Place): Named | null {
  const [value] = present ?? [];
  if (value !== undefined) return asSaid(value.name, (name) => `${name} ${presentWords(value, locale)}`);
  const [alert] = alerts;
  if (alert !== undefined) {
    const { subject } = alert.news;
    return asSaid(subject, (name) => headline({ ...alert.news, subject: name }, locale).lead);
  }
  const [group] = groups;
  const row = group?.rows.find(({ moved }) => moved);
  if (group === undefined || row === undefined) return null;
  return {
    name: whatMoved(group, row),
    said: (name) => sentenceOf(name, row, locale),
    shortly: (name) => shortSentence(name, row, locale),
  };
}

/** What became of a row, with what it is of: `Copper smoker at Skepwright £21.50, down 10.4%`. */
export function rowSentence(group: Pick<Group, 'of' | 'title'>, row: Row, locale: string): string {
  return sentenceOf(whatMoved(group, row), row, locale);
}

const sentenceOf = (what: string, row: Row, locale: string): string =>
  `${what} at ${row.site.name} ${rowNews(row, locale)}`;

/** Under the agreed minimum that, and how much it is now, says more than how far it moved. */
function shortSentence(what: string, row: Row, locale: string): string {
  const minimum = minimumWords(row, locale);
  return minimum === '' || row.now === null
    ? sentenceOf(what, row, locale)
    : `${what} at ${row.site.name} ${formatValue(row.now, locale)}, ${minimum}`;
}

const whatMoved = (group: Pick<Group, 'of' | 'title'>, row: Row): string =>
  group.of === 'item' ? group.title : (row.record?.name ?? group.title);

/** What became of a row, as a sentence ends: `£21.50, down 10.4%`, `sold out`. */
function rowNews(row: Row, locale: string): string {
  const presence = row.presence === undefined ? '' : PRESENCE_WORDS[row.presence];
  return [valueNews(row, locale), minimumWords(row, locale), presence].filter(Boolean).join(', ');
}

/** What became of a record as such, after what became of its value. */
const PRESENCE_WORDS: Record<Presence, string> = {
  appeared: 'appeared',
  vanished: 'then vanished',
  'gone and back': 'gone and back',
  'came and went': 'came and went',
};

function valueNews(row: Row, locale: string): string {
  const { change, now, kind, field } = row;
  const label = field === null || field.role === 'price' ? '' : `${field.label} `;
  if (change !== null && change.difference !== null && now !== null) {
    const { glyph, amount, percent } = differenceParts(change, locale);
    return `${label}${formatValue(now, locale)}, ${glyph === '▼' ? 'down' : 'up'} ${percent ?? amount}`;
  }
  if (kind === 'first read' && now !== null) return `${label}first read at ${quoted(now, locale)}`;
  if (kind !== null && kind !== 'changed' && kind !== 'alert') return KIND_WORDS[kind][0];
  return now === null ? 'changed' : `${label}${label === '' ? '' : 'now '}${quoted(now, locale)}`;
}

/**
 * That what stands in a row is its last good, and why: `not read since Sat 02:22: its page is gone`; empty where it is
 * read.
 */
export function notReadWords({ stale }: Row, { stretch }: EditionDocument, place: Place): string {
  if (stale == null) return '';
  const why = stale.cause === null ? '' : `: ${CAUSES[stale.cause].happened}`;
  return `not read since ${formatRecent(stale.since, stretch.until, place)}${why}`;
}

/** How a row's value moved: its glyph and figures, or in words; empty where it did not. */
export function movedWords(row: Row, locale: string): string {
  const { change, moved, kind, net } = row;
  if (!moved) return '';
  if (change !== null) {
    const { glyph, amount, percent } = differenceParts(change, locale);
    return `${glyph} ${amount}${percent === null ? '' : `  ${percent}`}`;
  }
  return `◇ ${kind === null ? netWord(net) : kindWord(row, kind)}`;
}

/** What became of a field below another one, in a word. */
function netWord(net: Net | null): string {
  if (net === null) return 'changed';
  if (isReturn(net)) return returnWords(net);
  if (net.absentSince !== null) return 'withdrawn';
  return net.isFirst ? 'first read' : 'changed';
}

const returnWords = (net: Net) => `returned after ${countOf(movesOf(net), 'move')}`;

function kindWord({ net, stockMoved }: Row, kind: LineKind): string {
  if (kind === 'returned' && net !== null) return returnWords(net);
  if (kind === 'changed') return stockMoved ? 'stock' : 'changed';
  return KIND_WORDS[kind][0];
}

/**
 * What there was on the way, where it was more than one move: `2 moves, away 2 h`; through several units each of its
 * parts.
 */
export function wayWords(row: Row, edition: EditionDocument, place: Place): string {
  const presence = row.presence === undefined ? '' : PRESENCE_WORDS[row.presence];
  return [onTheWay(row, edition, place), minimumWords(row, place.locale), presence].filter(Boolean).join(', ');
}

/** That a move went below the agreed minimum, or back above it, and what that is. */
function minimumWords({ kind, change, record }: Row, locale: string): string {
  const minimum = record?.item?.minimum ?? null;
  if (change === null || minimum === null) return '';
  if (kind !== 'under the agreed minimum' && kind !== 'back above the agreed minimum') return '';
  return `${KIND_WORDS[kind][0]} of ${formatValue(minimum, locale)}`;
}

function onTheWay({ net, change, since }: Row, { stretch }: EditionDocument, place: Place): string {
  if (net === null) return '';
  const counted = since === undefined ? '' : `counted since ${formatRecent(since, stretch.until, place)}`;
  if (net.parts.length > 1) return [describeNet(net, place.locale, stretch.until), counted].filter(Boolean).join(', ');
  const moves = change !== null && movesOf(net) > 1 ? `${movesOf(net)} moves` : '';
  const [part] = net.parts;
  const first =
    net.isFirst && part !== undefined && part.moves > 0 ? `first read at ${quoted(part.from, place.locale)}` : '';
  return [first, moves, net.awayMs === 0 ? '' : `away ${formatDuration(net.awayMs)}`, counted]
    .filter(Boolean)
    .join(', ');
}

/** Which of several that one page offers, where its name does not say so. */
export const variantWords = ({ record }: Pick<Row, 'record'>): string => {
  const variant = record?.variant ?? '';
  return record === null || record.name.includes(variant) ? '' : variant;
};

/** That shipping is in a price, and how much it is. */
export const landedWords = ({ shipped, shipping }: Pick<Row, 'shipped' | 'shipping'>, locale: string): string =>
  !shipped
    ? ''
    : shipping == null || !isMeasure(shipping)
      ? 'landed'
      : `landed, ${formatValue(shipping, locale)} of it shipping`;

/** Our reference of an item, and what it is listed as: `HA-104, listing 88123`. */
export const referenceWords = ({ note, listings = [] }: Pick<Group, 'note' | 'listings'>): string[] =>
  [note, ...listings.map((listing) => `listing ${listing}`)].filter(Boolean);

/** What a group is called in our words: lines of one kind by that. */
export const groupWords = ({ of, title }: Pick<Group, 'of' | 'title'>): string =>
  of === 'kind' ? capital(KIND_WORDS[title as LineKind][1]) : title;

/** What a line tells before all else, in a word. */
export const lineWords = (kind: LineKind): string => KIND_WORDS[kind][0];

/** What a group is called, or her own words for it. */
export function titleWords(group: Group, { heading }: Pick<OwnWords, 'heading'> = OUR_WORDS): string {
  const { note, rows } = group;
  const said = groupWords(group);
  if (said === '') return '';
  return (
    ownWordsOf(heading, () => ({ group: said, reference: note, place: placeWords(group), rows: rows.length })) ?? said
  );
}

const PLACES = ['first', 'second', 'third', 'fourth', 'fifth', 'sixth', 'seventh', 'eighth', 'ninth', 'tenth'];
const NUMBERS = ['none', 'one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine', 'ten'];
const placeWord = (place: number) => PLACES[place - 1] ?? `${place}th`;

/** The place of ours: `third of five, was first`; empty where there is none. */
export function placeWords({ place }: Group): string {
  if (place === null) return '';
  const { now, was } = place;
  const here = `${placeWord(now.place)} of ${NUMBERS[now.of] ?? now.of}`;
  if (was === null) return here;
  return was.place === now.place ? `still ${here}` : `${here}, was ${placeWord(was.place)}`;
}

/** Whether our place got worse or better. */
export function placeSense({ place }: Group): 'worse' | 'better' | 'neither' {
  if (place === null || place.was === null || place.was.place === place.now.place) return 'neither';
  return place.now.place > place.was.place ? 'worse' : 'better';
}

/** What was raised on a row, each said once, with when she was told of it at once. */
export function raisedWords(
  { alerts }: Row,
  told: ReadonlyMap<number, Instant>,
  edition: EditionDocument,
  place: Place,
): string[] {
  const said = new Map<string, Instant | undefined>();
  for (const { id, news } of alerts) {
    const words = describeAsked(news, place.locale);
    said.set(words, told.get(id) ?? said.get(words));
  }
  return [...said].map(([words, at]) => [words, toldWords(at, edition, place)].filter(Boolean).join(', '));
}

/** How far a price is from ours: `−1.49`, `+0.61`. */
export function toOursWords(distance: Measure | null, locale: string): string {
  if (distance === null || !isMeasure(distance)) return '';
  const isLess = distance.amount.startsWith('-');
  const size = { ...distance, amount: distance.amount.replace('-', '') } as Measure;
  return `${isLess ? '−' : '+'}${formatDifference(size.amount, size, locale)}`;
}

/**
 * What an edition rests on, in one line: looks made and failed, what is stale, what is left out, cuts that were quiet.
 */
export function coverageWords(edition: EditionDocument, place: Place): string {
  const { coverage, counts, stretch } = edition;
  const { locale } = place;
  const late = stretch.missed;
  return [
    `Covers ${formatInstant(stretch.from, 'moment', place)} to ${formatInstant(stretch.until, 'moment', place)}:`,
    `${countOf(coverage.looks, 'run').replace(/\d+/, (n) => Number(n).toLocaleString(locale))}, ` +
      `${coverage.failed} failed, ${countOf(coverage.staleCount, 'watch', 'watches')} stale;`,
    edition.present === undefined
      ? `${counts.lines - countBeyond(edition)} of ${counts.lines} ${counts.lines === 1 ? 'line' : 'lines'} shown.`
      : '',
    coverage.tooMany ? 'There was more than one edition can hold: it counts the first only.' : '',
    coverage.leftOut > 0 ? `${coverage.leftOut} not taken by this report.` : '',
    coverage.quietCuts > 0 ? `Before it ${countOf(coverage.quietCuts, 'cut')} had nothing to tell.` : '',
    coverage.uncovered === undefined ? '' : uncoveredWords(coverage.uncovered),
    late === null ? '' : lateWords(late, place),
  ]
    .filter(Boolean)
    .join(' ');
}

function uncoveredWords({ by, values, count }: NonNullable<Coverage['uncovered']>): string {
  const more = count > values.length ? [`${count - values.length} more`] : [];
  const named = listed([...values.map((value) => valueWords(by, value)), ...more]);
  return `No reader is named for ${named}: what is so goes to those who read the rest.`;
}

function lateWords({ count, first }: NonNullable<EditionWindow['missed']>, place: Place): string {
  const due = formatInstant(first, 'moment', place);
  return count === 1 ? `Late: it was due ${due}.` : `Late: it makes up for ${count} cuts, the first due ${due}.`;
}

/** That she was told of an alert at once before. */
export const toldWords = (at: Instant | undefined, { stretch }: EditionDocument, place: Place): string =>
  at === undefined ? '' : `told at once, ${formatRecent(at, stretch.until, place)}`;

/** When a row moved last, as short as it can be told. */
export const movedAt = ({ movedAt: at }: Row, { stretch }: EditionDocument, place: Place): string =>
  at === null ? '' : formatRecent(at, stretch.until, place);

/** `in` or `out`; what says neither stands in its own words. */
export function stockWords(stock: Value | null, locale: string): string {
  if (stock === null || stock.kind === 'absent') return '';
  const has = isAvailable(stock);
  return has === null ? quoted(stock, locale) : has ? 'in' : 'out';
}

/** A value in a cell. */
export const shown = (value: Value | null, locale: string): string =>
  value === null ? '' : value.kind === 'absent' ? '–' : quoted(value, locale);

/** What a row's value is now, which is nothing where it was withdrawn. */
export const nowShown = ({ now, was, moved }: Row, locale: string): string =>
  now === null && was !== null && moved ? '–' : shown(now, locale);

/** What broke, since when, the last good value, what to do, and who still offers it (17). */
export function brokenWords(
  { kind, cause, since, lastGood, elsewhere, sentence }: Broken,
  until: Instant,
  place: Place,
): string {
  const from = formatRecent(since, until, place);
  if (kind === 'recovered') return `read again; it was not since ${from}.`;
  const { happened, means } = CAUSES[cause];
  const good = lastGood === null ? '' : ` Last good: ${lastGood.label} ${quoted(lastGood.value, place.locale)}.`;
  const offered = elsewhere.length === 0 ? '' : ` Still offered by ${elsewhere.join(', ')}.`;
  return `${happened}, since ${from}. ${sentence}${good} ${means}${offered}`;
}
