import { formatRecent } from '../../when/format';
import { INK, RULE, SECOND, SERIF, THIRD, TONES } from '../mail-frame';
import { MOVE_SIZE } from '../drawing';
import { pagePair } from '../page-pair';
import { renderedImageBlock, renderedImage } from '../rendered-image';
import { asManyAsFit } from '../mail-size';
import { html, type Markup } from '../markup';
import { headline } from '../news';
import type { DigestPart } from './digest';
import { countBeyond, type EditionDocument } from './document';
import type { PresentValue } from './gathered';
import type { Group, Row } from './groups';
import { recordKey } from './lines';
import {
  titleWords,
  landedWords,
  presentMark,
  presentWords,
  notReadWords,
  referenceWords,
  variantWords,
  wayWords,
  brokenWords,
  beyondWords,
  fallbackWords,
  leadWords,
  movedAt,
  movedWords,
  nowShown,
  placeSense,
  placeWords,
  raisedWords,
  shown,
  staleWords,
  stockWords,
  toOursWords,
  toldWords,
} from './words';
import { differenceMarkup, longTextsOf } from '../long-text';

/** So many lines are tried to be shown at most. */
const MOST_SHOWN = 400;

/** The parts of an edition's mail, as rows of its page; what has no room in a mail is linked. */
export function htmlBlocks(mail: DigestPart): Markup[] {
  const count = countShown(mail.document);
  return asManyAsFit(Math.min(count, MOST_SHOWN), (most) => blocksWith(mail, most, count - most));
}

const countShown = ({ alerts, groups, present = [], broken }: EditionDocument): number =>
  alerts.length + present.length + broken.length + groups.reduce((sum, { rows }) => sum + rows.length, 0);

/** An edition with its first lines alone; what broke comes before them. */
function withFirst(document: EditionDocument, most: number): EditionDocument {
  let left = most;
  const take = <T>(all: readonly T[]): T[] => {
    const taken = all.slice(0, left);
    left -= taken.length;
    return taken;
  };
  const broken = take(document.broken);
  const present = document.present === undefined ? {} : { present: take(document.present) };
  const alerts = take(document.alerts);
  const groups = document.groups.map((group) => ({ ...group, rows: take(group.rows) }));
  return { ...document, ...present, broken, alerts, groups: groups.filter(({ rows }) => rows.length > 0) };
}

function blocksWith(whole: DigestPart, most: number, hidden: number): Markup[] {
  const { document: all, place } = whole;
  const mail = hidden === 0 ? whole : { ...whole, document: withFirst(all, most) };
  const { document } = mail;
  const stale = staleWords(all, all.stretch.until, place);
  const fallback = fallbackWords(document.share);
  const drawn = drawnRows(mail);
  const paged = pagedRows(mail);
  return [
    ...(stale === '' ? [] : [row(html`<p class="worse" style="margin:12px 0 0;color:${TONES.worse}">${stale}</p>`)]),
    ...(fallback === '' ? [] : [row(html`<p class="second" style="margin:12px 0 0;color:${SECOND}">${fallback}</p>`)]),
    row(
      html`<p class="ink" style="margin:14px 0 4px;font:400 16px/23px ${SERIF}">${leadWords(all, place, mail.report, mail.readerName)}</p>`,
    ),
    ...(document.present === undefined || document.present.length === 0 ? [] : [presentBlock(document.present, mail)]),
    ...(document.alerts.length === 0 ? [] : [alertsBlock(mail)]),
    ...document.groups.map((group) => groupBlock(group, mail, drawn, paged)),
    ...(Object.keys(document.beyond).length === 0 ? [] : [beyondBlock(mail)]),
    ...(hidden === 0 ? [] : [hiddenBlock(hidden, mail)]),
    ...(document.broken.length === 0 ? [] : [brokenBlock(mail)]),
  ];
}

const row = (content: Markup): Markup => html`<tr><td colspan="2" style="padding:0">${content}</td></tr>`;

const HEAD = `margin:20px 0 4px;font:500 17px/23px ${SERIF}`;
const link = (address: string, said: string): Markup => html`<a href="${address}" style="color:${INK}">${said}</a>`;
const small = (said: string, unbroken = false): Markup =>
  html`<span class="third" style="font-size:12px;color:${THIRD}${unbroken ? ';white-space:nowrap' : ''}">${said}</span>`;

/** A reference of ours stands on one line, unless it is so long that a phone has no room for it. */
const MOST_UNBROKEN = 24;

function alertsBlock({ document, place, home, told }: DigestPart): Markup {
  const items = document.alerts.map(({ id, news, watch }) => {
    const { lead, meaning } = headline(news, place.locale);
    const sense = news.change?.sense ?? 'neither';
    const means =
      meaning === '' ? html`` : html`, <span class="${sense}" style="color:${TONES[sense]}">${meaning}</span>`;
    const marks = [formatRecent(news.seenAt, document.stretch.until, place), toldWords(told.get(id), document, place)]
      .filter(Boolean)
      .join(' · ');
    return html`<li style="margin:0 0 6px">${link(`${home}/watches/${watch}`, lead)}${means} ${small(marks)}</li>`;
  });
  return row(html`<h2 class="ink" style="${HEAD}">Raised</h2><ul style="margin:0;padding:0 0 0 18px">${items}</ul>`);
}

function groupBlock(group: Group, mail: DigestPart, drawn: ReadonlySet<Row>, paged: ReadonlySet<Row>): Markup {
  const more = [
    group.unmoved > 0 ? `${group.unmoved} more did not move` : '',
    group.beyond > 0 ? `${group.beyond} more of ${titleWords(group)} are not shown` : '',
  ].filter(Boolean);
  const foot = more.length === 0 ? html`` : html`<p style="margin:4px 0 0">${small(`${more.join('; ')}.`)}</p>`;
  const pages = group.rows.filter((each) => paged.has(each)).map(pagesOf);
  return row(
    html`${groupHead(group, mail)}${group.of === 'item' ? itemTable(group, mail, drawn) : plainTable(group, mail, drawn)}${pages}${foot}`,
  );
}

/** What a group is, and on the right our place in it. */
function groupHead(group: Group, { document }: DigestPart): Markup {
  if (group.title === '') return html``;
  const sense = placeSense(group);
  const parts = referenceWords(group);
  const note = parts.map(
    (part, at) => html` ${small(at === parts.length - 1 ? part : `${part},`, part.length <= MOST_UNBROKEN)}`,
  );
  const weight = sense === 'neither' ? 400 : 600;
  return html`<table role="presentation" width="100%" cellpadding="0" cellspacing="0" style="border-collapse:collapse"><tr><td class="over" style="padding:20px 0 4px"><h2 class="ink" style="margin:0;font:500 17px/23px ${SERIF}">${titleWords(group, document.words)}${note}</h2></td><td class="${sense} under" align="right" style="padding:20px 0 4px 12px;vertical-align:bottom;font-size:12px;line-height:20px;font-weight:${weight};color:${TONES[sense]}">${placeWords(group)}</td></tr></table>`;
}

const TABLE = 'border-collapse:collapse;table-layout:fixed;font-variant-numeric:tabular-nums';
const CELL = `padding:6px 0 6px 10px;border-bottom:1px solid ${RULE};vertical-align:top`;
const FIRST = `padding:6px 0;border-bottom:1px solid ${RULE};vertical-align:top`;

interface Column {
  head: string;
  /** In px; the first takes what is left. */
  width?: number;
  /** Left out on a narrow screen, or of another width there. */
  narrow?: 'wide' | 'slim' | 'middling';
}

function table(columns: Column[], rows: Markup[]): Markup {
  const head = `font-weight:400;font-size:12px;color:${THIRD}`;
  return html`<table width="100%" cellpadding="0" cellspacing="0" style="${TABLE}"><tr>${columns.map(
    ({ head: said, narrow, width }, place) =>
      html`<th class="third rule${narrow === undefined ? '' : ` ${narrow}`}" scope="col"${{ markup: width === undefined ? '' : ` width="${width}"` }} align="${place === 0 ? 'left' : 'right'}" style="${place === 0 ? FIRST : CELL};${head}">${said}</th>`,
  )}</tr>${rows}</table>`;
}

const ITEM_COLUMNS: Column[] = [
  { head: 'Seller' },
  { head: 'Was', width: 62, narrow: 'wide' },
  { head: 'Now', width: 64 },
  { head: 'Moved', width: 114 },
  { head: 'To ours', width: 54, narrow: 'wide' },
  { head: 'Stock', width: 36, narrow: 'wide' },
  { head: 'Last moved', width: 78, narrow: 'wide' },
];

function itemTable(group: Group, mail: DigestPart, drawn: ReadonlySet<Row>): Markup {
  return table(
    ITEM_COLUMNS,
    group.rows.map((each) => itemRow(each, mail, drawn)),
  );
}

function itemRow(each: Row, mail: DigestPart, drawn: ReadonlySet<Row>): Markup {
  const { place, document } = mail;
  const { locale } = place;
  const stock = each.field === null ? stockWords(each.stock, locale) : '';
  const away = toOursWords(each.toOurs, locale);
  const below = away.startsWith('−');
  const at = movedAt(each, document, place);
  const texts = longTextsOf(each.was, each.now);
  const was = each.moved && texts === null ? shown(each.was, locale) : '';
  const narrow = [
    was === '' ? '' : `was ${was}`,
    away === '' ? '' : `${away} to ours`,
    stock === '' ? '' : `stock ${stock}`,
    at,
  ];
  return html`<tr>${first(each, sellerName(each, mail), narrow)}${cell(each, was, { ink: 'third', wide: true })}${cell(each, texts === null ? nowShown(each, locale) : '', { strong: each.change !== null })}${movedCell(each, mail, drawn)}${cell(each, away, { wide: true, ...(below ? { ink: 'worse', strong: true } : {}) })}${cell(each, stock, { wide: true, strong: each.stockMoved })}${cell(each, at, { ink: 'third', wide: true })}</tr>${textRow(texts, ITEM_COLUMNS.length)}${notReadRow(each, mail)}${raisedRow(each, mail, ITEM_COLUMNS.length)}`;
}

const INKS = { third: THIRD, ...TONES } as const;

interface CellLook {
  ink?: keyof typeof INKS;
  strong?: boolean;
  /** Left out on a narrow screen. */
  wide?: boolean;
  breaks?: boolean;
}

/** Where something stands below a row, its rule does, too. */
const ending = ({ alerts, was, now, stale }: Row): string =>
  alerts.length > 0 || stale != null || longTextsOf(was, now) !== null ? ';border-bottom:0' : '';

function cell(
  each: Row,
  said: string | Markup,
  { ink = 'neither', strong = false, wide = false, breaks = false }: CellLook = {},
): Markup {
  const style = `${CELL}${ending(each)};color:${INKS[ink]};${breaks ? 'overflow-wrap:anywhere' : 'white-space:nowrap'}${strong ? ';font-weight:600' : ''}`;
  return html`<td class="rule ${ink}${wide ? ' wide' : ''}" align="right" style="${style}">${said}</td>`;
}

/** Who or what a row is of; on a narrow screen with what its left-out columns say. */
const first = (each: Row, said: Markup, narrow: string[]): Markup =>
  html`<td class="rule ink" style="${FIRST}${ending(each)}">${said}<span class="only-narrow third" style="display:none;font-size:12px;color:${THIRD}">${narrow.filter(Boolean).join(' · ')}</span></td>`;

/** Where somebody looks at it now: the link opens a page with a button. */
const lookNow = (watch: number, home: string): Markup =>
  html`<a class="third" href="${home}/watches/${String(watch)}" style="color:${THIRD};font-size:12px;white-space:nowrap">see it now</a>`;

function sellerName(each: Row, { document, place, home }: DigestPart): Markup {
  const name = each.field === null || each.record === null ? each.site.name : `${each.site.name}, ${each.field.label}`;
  const ours = each.site.kind === 'own' || each.site.kind === 'channel';
  const said =
    ours || each.record === null ? html`<span style="font-weight:600">${name}</span>` : link(each.record.page, name);
  const notes = [variantWords(each), landedWords(each, place.locale), wayWords(each, document, place)]
    .filter(Boolean)
    .join(', ');
  const look = each.record === null || !each.moved ? html`` : html` ${lookNow(each.record.watch, home)}`;
  return html`${said}${notes === '' ? '' : ' '}${notes === '' ? html`` : small(notes)}${look}`;
}

/** How many columns a narrow screen leaves of a table. */
const NARROW_COLUMNS = 3;

/** Something below a row, over the whole width of its table: which has fewer columns on a narrow screen. */
function below(content: Markup, columns: number, look: { ink: string; style: string }): Markup {
  const cell = (span: number) =>
    html`<td class="rule ${look.ink}" colspan="${span}" style="border-bottom:1px solid ${RULE};${look.style}">${content}</td>`;
  return html`<tr class="wide">${cell(columns)}</tr><tr class="narrow-row" style="display:none">${cell(NARROW_COLUMNS)}</tr>`;
}

/** That an offer is not read, and why. */
function notReadRow(each: Row, { document, place }: DigestPart): Markup {
  const said = notReadWords(each, document, place);
  if (said === '') return html``;
  const more = each.alerts.length > 0 ? ';border-bottom:0' : '';
  return below(html`${said}`, ITEM_COLUMNS.length, {
    ink: 'worse',
    style: `padding:0 0 6px;font-size:12px;line-height:17px;color:${TONES.worse}${more}`,
  });
}

/** What was raised on a row. */
function raisedRow(each: Row, mail: DigestPart, columns: number): Markup {
  const said = raisedWords(each, mail.told, mail.document, mail.place);
  if (said.length === 0) return html``;
  return below(html`${said.join(' · ')}`, columns, {
    ink: 'third',
    style: `padding:0 0 6px;font-size:12px;line-height:17px;color:${THIRD}`,
  });
}

/** How a value moved, and below that its course, where it can be drawn. */
function movedCell(each: Row, { place: { locale }, document }: DigestPart, drawn: ReadonlySet<Row>): Markup {
  const said = movedWords(each, locale);
  const look = { ink: each.change?.sense ?? 'neither', strong: true, breaks: each.change === null } as const;
  if (each.drawn === undefined || !drawn.has(each)) return cell(each, html`${said}`, look);
  const what = `the course of ${each.field?.label ?? 'price'} at ${each.site.name}`;
  const image = renderedImage(
    { of: 'move', move: each.drawn, until: document.stretch.until },
    { alt: what, ...MOVE_SIZE, style: 'display:block;margin:3px 0 0 auto' },
  );
  return cell(each, html`${said}${renderedImageBlock(image)}`, look);
}

/** So many rows of one mail are drawn, the first of them. */
const MOST_DRAWN = 60;

/** Rows beside which the course of their series stands: once of each, where each of its moves is a row. */
function drawnRows({ document }: DigestPart): ReadonlySet<Row> {
  const first = new Map<string, Row>();
  for (const row of document.groups.flatMap(({ rows }) => rows)) {
    const series = row.record === null ? '' : `${recordKey(row.record)} ${row.field?.key ?? ''}`;
    if (row.drawn !== undefined && !first.has(series)) first.set(series, row);
  }
  return new Set([...first.values()].slice(0, MOST_DRAWN));
}

/**
 * Of so many rows of one mail the pages are asked for, the first of them; most pages are not rendered, and are not
 * shown.
 */
const MOST_PAGED = 12;

/** Rows of which a picture of the page says more than a course: what moved is no measure. */
function pagedRows({ document }: DigestPart): ReadonlySet<Row> {
  const rows = document.groups
    .flatMap((group) => group.rows)
    .filter(({ record, changes }) => record !== null && changes.length > 0);
  return new Set(rows.filter(({ drawn, stockMoved }) => drawn === undefined || stockMoved).slice(0, MOST_PAGED));
}

/** The page of a row before its first move and after its last, below its table. */
function pagesOf({ record, site, field, changes }: Row): Markup {
  const [first, last] = [changes[0], changes.at(-1)];
  if (record === null || first === undefined || last === undefined) return html``;
  const what = `${record.name} at ${site.name}`;
  const pair = pagePair(what, (when) => ({ of: 'moved page', when, move: when === 'before' ? first : last }));
  return renderedImageBlock(
    html`<p style="margin:10px 0 4px">${small(`${what}${field === null ? '' : `, ${field.label}`}: its page`)}</p>${pair}`,
  );
}

const PLAIN_COLUMNS: Column[] = [
  { head: 'What' },
  { head: 'Was', width: 110, narrow: 'wide' },
  { head: 'Now', width: 110, narrow: 'slim' },
  { head: 'Moved', width: 124 },
  { head: 'Seen', width: 84, narrow: 'wide' },
];

function plainTable(group: Group, mail: DigestPart, drawn: ReadonlySet<Row>): Markup {
  const { place, document } = mail;
  const { locale } = place;
  return table(
    PLAIN_COLUMNS,
    group.rows.map((each) => {
      const texts = longTextsOf(each.was, each.now);
      const [was, at] = [texts === null ? shown(each.was, locale) : '', movedAt(each, document, place)];
      return html`<tr>${first(each, recordName(group, each, mail), [was === '' ? '' : `was ${was}`, at])}${words(each, was, { ink: 'third', wide: true })}${words(each, texts === null ? nowShown(each, locale) : '')}${movedCell(each, mail, drawn)}${cell(each, at, { ink: 'third', wide: true })}</tr>${textRow(texts, PLAIN_COLUMNS.length)}${raisedRow(each, mail, PLAIN_COLUMNS.length)}`;
    }),
  );
}

/** What differs between long texts. */
const textRow = (texts: ReturnType<typeof longTextsOf>, columns: number): Markup =>
  texts === null
    ? html``
    : below(html`${differenceMarkup(texts)}`, columns, { ink: 'ink', style: 'padding:0 0 8px;overflow-wrap:anywhere' });

/** A value that may be words, which break where they are long. */
const words = (each: Row, said: string, look: CellLook = {}): Markup => cell(each, said, { ...look, breaks: true });

function recordName(group: Group, each: Row, { home, document, place }: DigestPart): Markup {
  const { record, field, site } = each;
  const where = group.of === 'site' || group.of === 'watch' ? '' : site.name;
  const what = [
    record?.item?.reference ?? '',
    where,
    variantWords(each),
    field === null || field.role === 'price' ? '' : field.label,
    wayWords(each, document, place),
  ]
    .filter(Boolean)
    .join(', ');
  const name = record?.name ?? site.name;
  const look = record === null ? html`` : html` ${lookNow(record.watch, home)}`;
  return html`${record === null ? html`${name}` : link(record.page, name)} ${small(what)}${look}`;
}

const PRESENT_COLUMNS: Column[] = [
  { head: 'What' },
  { head: 'Now', width: 200, narrow: 'middling' },
  { head: 'Last moved', width: 130, narrow: 'wide' },
];

/** Values as they stand, under their names. */
function presentBlock(present: readonly PresentValue[], { document, place, home }: DigestPart): Markup {
  const rows = present.map((each) => {
    const mark = presentMark(each, document, place);
    const cells = `${CELL};overflow-wrap:anywhere`;
    const tone = each.staleSince === null && each.watch !== null ? 'third' : 'worse';
    return html`<tr><td class="rule ink" style="${FIRST};overflow-wrap:anywhere">${each.watch === null ? html`${each.name}` : link(`${home}/watches/${each.watch}`, each.name)}<span class="only-narrow third" style="display:none;font-size:12px;color:${THIRD}">${mark}</span></td><td class="rule ink" align="right" style="${cells};font-weight:600">${presentWords(each, place.locale)}</td><td class="rule ${tone} wide" align="right" style="${CELL};color:${INKS[tone]}">${mark}</td></tr>`;
  });
  return row(table(PRESENT_COLUMNS, rows));
}

function beyondBlock({ document, reportLink }: DigestPart): Markup {
  const count = countBeyond(document);
  return row(
    html`<p style="margin:14px 0 0">And ${String(count)} more: ${beyondWords(document)}. <a class="second" href="${reportLink}?lines" style="color:${SECOND}">See every line</a></p>`,
  );
}

function hiddenBlock(count: number, { reportLink }: DigestPart): Markup {
  const said = count === 1 ? '1 more line has' : `${count} more lines have`;
  return row(
    html`<p style="margin:14px 0 0">${said} no room in a mail of this form. <a class="second" href="${reportLink}?lines" style="color:${SECOND}">See every line</a></p>`,
  );
}

function brokenBlock({ document, place, home }: DigestPart): Markup {
  const failing = document.broken.filter(({ kind }) => kind === 'failing');
  const back = document.broken.filter(({ kind }) => kind === 'recovered');
  const items = [...failing, ...back].map(
    (each) =>
      html`<p class="ink" style="margin:0 0 6px">${link(`${home}/watches/${each.watch}`, `${each.subject} at ${each.site}`)}: ${brokenWords(each, document.stretch.until, place)}</p>`,
  );
  return row(html`<h2 class="ink" style="${HEAD}">${failing.length > 0 ? 'Not read' : 'Read again'}</h2>${items}`);
}
