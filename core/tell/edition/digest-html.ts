import { formatRecent } from '../../when/format';
import { INK, RULE, SECOND, SERIF, THIRD, TONES } from '../mail-frame';
import { html, type Markup } from '../markup';
import { describeAsked, headline } from '../news';
import type { DigestMail } from './digest';
import type { Group, Row } from './groups';
import {
  awayWords,
  brokenWords,
  describeKinds,
  leadWords,
  movedAt,
  movedWords,
  nowShown,
  placeSense,
  placeWords,
  shown,
  staleWords,
  stockWords,
  toOursWords,
  toldWords,
} from './words';

/** The parts of an edition's mail, as rows of its page. */
export function htmlBlocks(mail: DigestMail): Markup[] {
  const { document, place } = mail;
  const stale = staleWords(document, document.stretch.until, place);
  return [
    ...(stale === '' ? [] : [row(html`<p class="worse" style="margin:12px 0 0;color:${TONES.worse}">${stale}</p>`)]),
    row(html`<p class="ink" style="margin:14px 0 4px;font:400 16px/23px ${SERIF}">${leadWords(document, place)}</p>`),
    ...(document.alerts.length === 0 ? [] : [alertsBlock(mail)]),
    ...document.groups.map((group) => groupBlock(group, mail)),
    ...(Object.keys(document.beyond).length === 0 ? [] : [beyondBlock(mail)]),
    ...(document.broken.length === 0 ? [] : [brokenBlock(mail)]),
  ];
}

const row = (content: Markup): Markup => html`<tr><td colspan="2" style="padding:0">${content}</td></tr>`;

const HEAD = `margin:20px 0 4px;font:500 17px/23px ${SERIF}`;
const link = (address: string, said: string): Markup => html`<a href="${address}" style="color:${INK}">${said}</a>`;
const small = (said: string): Markup => html`<span class="third" style="font-size:12px;color:${THIRD}">${said}</span>`;

function alertsBlock({ document, place, home, told }: DigestMail): Markup {
  const items = document.alerts.map(({ id, news, watch }) => {
    const { lead, meaning } = headline(news, place.locale);
    const sense = news.change?.sense ?? 'neither';
    const means = meaning === '' ? html`` : html`, <span class="${sense}" style="color:${TONES[sense]}">${meaning}</span>`;
    const marks = [formatRecent(news.seenAt, document.stretch.until, place), toldWords(told.get(id), document, place)].filter(Boolean).join(' · ');
    return html`<li style="margin:0 0 6px">${link(`${home}/watches/${watch}`, lead)}${means} ${small(marks)}</li>`;
  });
  return row(html`<h2 class="ink" style="${HEAD}">Raised</h2><ul style="margin:0;padding:0 0 0 18px">${items}</ul>`);
}

function groupBlock(group: Group, mail: DigestMail): Markup {
  const sense = placeSense(group);
  const said = placeWords(group);
  const note = group.note === '' ? html`` : html` ${small(group.note)}`;
  const place = said === '' ? html`` : html` <span class="${sense}" style="font:600 12px/18px inherit;color:${TONES[sense]}">&#183; ${said}</span>`;
  const title = group.title === '' ? html`` : html`<h2 class="ink" style="${HEAD}">${group.title}${note}${place}</h2>`;
  const more = [
    group.unmoved > 0 ? `${group.unmoved} more did not move` : '',
    group.beyond > 0 ? `${group.beyond} more of ${group.title} are not shown` : '',
  ].filter(Boolean);
  const foot = more.length === 0 ? html`` : html`<p style="margin:4px 0 0">${small(`${more.join('; ')}.`)}</p>`;
  return row(html`${title}${group.of === 'item' ? itemTable(group, mail) : plainTable(group, mail)}${foot}`);
}

const TABLE = 'border-collapse:collapse;font-variant-numeric:tabular-nums';
const CELL = `padding:6px 0 6px 10px;border-bottom:1px solid ${RULE};vertical-align:top`;
const FIRST = `padding:6px 0;border-bottom:1px solid ${RULE};vertical-align:top`;

interface Column {
  head: string;
  wide?: boolean;
}

function table(columns: Column[], rows: Markup[]): Markup {
  const head = `font-weight:400;font-size:12px;color:${THIRD}`;
  return html`<table width="100%" cellpadding="0" cellspacing="0" style="${TABLE}"><tr>${columns.map(
    ({ head: said, wide }, place) =>
      html`<th class="third rule${wide === true ? ' wide' : ''}" scope="col" align="${place === 0 ? 'left' : 'right'}" style="${place === 0 ? FIRST : CELL};${head}">${said}</th>`,
  )}</tr>${rows}</table>`;
}

const ITEM_COLUMNS: Column[] = [
  { head: 'Seller' },
  { head: 'Was', wide: true },
  { head: 'Now' },
  { head: 'Moved' },
  { head: 'To ours', wide: true },
  { head: 'Stock', wide: true },
  { head: 'Last moved', wide: true },
];

function itemTable(group: Group, mail: DigestMail): Markup {
  return table(
    ITEM_COLUMNS,
    group.rows.map((each) => itemRow(each, mail)),
  );
}

function itemRow(each: Row, mail: DigestMail): Markup {
  const { place } = mail;
  const { locale } = place;
  const stock = each.field === null ? stockWords(each.stock, locale) : '';
  const below = each.toOurs?.amount.startsWith('-') === true;
  const away = toOursWords(each.toOurs, locale);
  const narrow = [
    each.was === null || !each.moved ? '' : `was ${shown(each.was, locale)}`,
    away === '' ? '' : `${away} to ours`,
    stock === '' ? '' : `stock ${stock}`,
    movedAt(each, mail.document, mail.place),
  ];
  return html`<tr>${nameCell(each, mail, narrow)}
<td class="rule third wide" align="right" style="${CELL};color:${THIRD}">${each.moved ? shown(each.was, locale) : ''}</td>
<td class="rule" align="right" style="${CELL}${each.change === null ? '' : ';font-weight:600'}">${nowShown(each, locale)}</td>
${movedCell(each, mail)}
<td class="rule wide${below ? ' worse' : ''}" align="right" style="${CELL}${below ? `;font-weight:600;color:${TONES.worse}` : ''}">${away}</td>
<td class="rule wide" align="right" style="${CELL}${each.stockMoved ? ';font-weight:600' : ''}">${stock}</td>
<td class="rule third wide" align="right" style="${CELL};color:${THIRD};white-space:nowrap">${movedAt(each, mail.document, mail.place)}</td></tr>`;
}

/** Who or what a row is of: linked to its page, with what was raised on it; on a narrow screen with what its left-out columns say. */
function nameCell(each: Row, mail: DigestMail, narrow: string[]): Markup {
  const name = each.field === null || each.record === null ? each.site.name : `${each.site.name}, ${each.field.label}`;
  const ours = each.site.kind === 'own' || each.site.kind === 'channel';
  const said = ours || each.record === null ? html`<span style="font-weight:600">${name}</span>` : link(each.record.page, name);
  const notes = [each.shipped ? 'landed' : '', awayWords(each)].filter(Boolean).join(', ');
  return html`<td class="rule ink" style="${FIRST}">${said}${notes === '' ? html`` : html` ${small(notes)}`}${raisedOn(each, mail)}${onlyNarrow(narrow)}</td>`;
}

/** What was raised on a row, with when she was told of it at once. */
const raisedOn = ({ alerts }: Row, { document, place, told }: DigestMail): Markup[] =>
  alerts.map(
    ({ id, news }) => html`<br>${small([describeAsked(news, place.locale), toldWords(told.get(id), document, place)].filter(Boolean).join(' · '))}`,
  );

/** On a narrow screen, what its left-out columns say. */
const onlyNarrow = (parts: string[]): Markup =>
  html`<span class="only-narrow third" style="display:none;font-size:12px;color:${THIRD}">${parts.filter(Boolean).join(' · ')}</span>`;

function movedCell(each: Row, { place }: DigestMail): Markup {
  const sense = each.change?.sense ?? 'neither';
  return html`<td class="rule ${sense}" align="right" style="${CELL};font-weight:600;color:${TONES[sense]}">${movedWords(each, place.locale)}</td>`;
}

const PLAIN_COLUMNS: Column[] = [{ head: 'What' }, { head: 'Was', wide: true }, { head: 'Now' }, { head: 'Moved' }, { head: 'Seen', wide: true }];

function plainTable(group: Group, mail: DigestMail): Markup {
  const { locale } = mail.place;
  return table(
    PLAIN_COLUMNS,
    group.rows.map(
      (each) => html`<tr>${plainName(group, each, mail)}
<td class="rule third wide" align="right" style="${CELL};color:${THIRD}">${shown(each.was, locale)}</td>
<td class="rule" align="right" style="${CELL}">${nowShown(each, locale)}</td>
${movedCell(each, mail)}
<td class="rule third wide" align="right" style="${CELL};color:${THIRD};white-space:nowrap">${movedAt(each, mail.document, mail.place)}</td></tr>`,
    ),
  );
}

function plainName(group: Group, each: Row, mail: DigestMail): Markup {
  const { place, home } = mail;
  const { record, field, site } = each;
  const where = group.of === 'site' || group.of === 'watch' ? '' : site.name;
  const what = [where, field === null || field.role === 'price' ? '' : field.label, awayWords(each)].filter(Boolean).join(', ');
  const name = record?.name ?? site.name;
  const was = each.was === null ? '' : `was ${shown(each.was, place.locale)}`;
  return html`<td class="rule ink" style="${FIRST}">${record === null ? html`${name}` : link(`${home}/watches/${record.watch}`, name)} ${small(what)}${raisedOn(each, mail)}${onlyNarrow([was, movedAt(each, mail.document, place)])}</td>`;
}

function beyondBlock({ document, reportLink }: DigestMail): Markup {
  const count = Object.values(document.beyond).reduce((sum, each) => sum + each, 0);
  return row(
    html`<p style="margin:14px 0 0">And ${String(count)} more: ${describeKinds(document.beyond)}. <a class="second" href="${reportLink}" style="color:${SECOND}">See all of them</a></p>`,
  );
}

function brokenBlock({ document, place, home }: DigestMail): Markup {
  const failing = document.broken.filter(({ kind }) => kind === 'failing');
  const back = document.broken.filter(({ kind }) => kind === 'recovered');
  const items = [...failing, ...back].map(
    (each) =>
      html`<p class="ink" style="margin:0 0 6px">${link(`${home}/watches/${each.watch}`, `${each.subject} at ${each.site}`)}: ${brokenWords(each, document.stretch.until, place)}</p>`,
  );
  return row(html`<h2 class="ink" style="${HEAD}">${failing.length > 0 ? 'Not read' : 'Read again'}</h2>${items}`);
}
