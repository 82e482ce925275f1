import { flat } from '../../value/sanitise';
import { formatRecent } from '../../when/format';
import { headline, type News } from '../news';
import type { Instant } from '../../when/interval';
import type { DigestPart } from './digest';
import { countBeyond } from './document';
import type { PresentValue } from './gathered';
import type { Group, Row } from './groups';
import {
  presentMark,
  presentWords,
  notReadWords,
  referenceWords,
  titleWords,
  wayWords,
  brokenWords,
  beyondWords,
  fallbackWords,
  leadWords,
  movedAt,
  movedWords,
  nowShown,
  placeWords,
  raisedWords,
  shown,
  staleWords,
  stockWords,
  toOursWords,
  toldWords,
} from './words';
import { differenceLines, longTextsOf } from '../long-text';

/** The parts of an edition as plain text. */
export function textBlocks(mail: DigestPart): string[] {
  const { document, place } = mail;
  const { alerts, groups, broken } = document;
  const cutOff = countBeyond(document);
  return [
    [
      staleWords(document, document.stretch.until, place),
      fallbackWords(document.share),
      leadWords(document, place, mail.report, mail.readerName),
    ]
      .filter(Boolean)
      .map(flat)
      .join('\n\n'),
    ...(document.present === undefined ? [] : [document.present.map((each) => presentLine(each, mail)).join('\n')]),
    ...(alerts.length === 0
      ? []
      : [`RAISED\n${alerts.map(({ news, id }) => alertLine(news, mail.told.get(id), mail)).join('\n')}`]),
    ...groups.map((group) => groupText(group, mail)),
    ...(cutOff === 0 ? [] : [`And ${cutOff} more: ${beyondWords(document)}. Every line: ${mail.reportLink}?lines`]),
    ...(broken.length === 0
      ? []
      : [
          'NOT READ, OR READ ' +
            `AGAIN\n${broken.map((each) => flat(`- ${each.subject} at ${each.site}: ${brokenWords(each, document.stretch.until, place)}`)).join('\n')}`,
        ]),
  ];
}

function presentLine(each: PresentValue, { document, place }: DigestPart): string {
  const mark = presentMark(each, document, place);
  return flat(`- ${each.name}: ${presentWords(each, place.locale)}${mark === '' ? '' : ` (${mark})`}`);
}

function alertLine(news: News, toldAt: Instant | undefined, { document, place }: DigestPart): string {
  const { lead, meaning } = headline(news, place.locale);
  const marks = [formatRecent(news.seenAt, document.stretch.until, place), toldWords(toldAt, document, place)]
    .filter(Boolean)
    .join(', ');
  return flat(`- ${[lead, meaning].filter(Boolean).join(', ')} (${marks})`);
}

function groupText(group: Group, mail: DigestPart): string {
  const said = placeWords(group);
  const title = `${[titleWords(group, mail.document.words).toUpperCase(), referenceWords(group).join(', ')].filter(Boolean).join(' ')}${said === '' ? '' : `: ${said}`}`;
  const more = group.beyond > 0 ? [`  ${group.beyond} more are not shown`] : [];
  return [
    ...(group.title === '' ? [] : [flat(title)]),
    ...group.rows.map((each) => flat(rowText(group, each, mail))),
    ...more,
  ].join('\n');
}

/** A row as a line of words: `- Skepwright: £24.00 -> £21.50, ▼ 2.50 10.4%, −£1.49 to ours, stock in, 09:12`. */
function rowText(group: Group, each: Row, mail: DigestPart): string {
  const { locale } = mail.place;
  const name =
    group.of === 'item'
      ? each.site.name
      : [each.record?.name ?? each.site.name, group.of === 'site' ? '' : each.site.name].filter(Boolean).join(', ');
  const label = each.field === null || each.field.role === 'price' ? '' : `, ${each.field.label}`;
  const texts = longTextsOf(each.was, each.now);
  if (texts !== null)
    return `- ${name}${label}, ${movedAt(each, mail.document, mail.place)}: ${differenceLines(texts).join('')}`;
  const value =
    each.moved && each.was !== null
      ? `${shown(each.was, locale)} -> ${nowShown(each, locale)}`
      : nowShown(each, locale);
  const away = toOursWords(each.toOurs, locale);
  const stock = group.of === 'item' && each.field === null ? stockWords(each.stock, locale) : '';
  const parts = [
    value,
    movedWords(each, locale).replace(/\s+/g, ' '),
    wayWords(each, mail.document, mail.place),
    away === '' ? '' : `${away} to ours`,
    stock === '' ? '' : `stock ${stock}`,
    notReadWords(each, mail.document, mail.place),
    movedAt(each, mail.document, mail.place),
    ...raisedWords(each, mail.told, mail.document, mail.place),
  ].filter(Boolean);
  return `- ${name}${label}: ${parts.join(', ')}`;
}
