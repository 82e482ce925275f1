import type { Change } from '../compare/compare';
import type { AlertId } from '../id';
import { flat } from '../value/sanitise';
import { isMeasure, type Value } from '../value/value';
import { renderedImageBlock, renderedImage } from './rendered-image';
import { formatValue } from '../value/format';
import { formatDuration, formatInstant, type Place } from '../when/format';
import { framed, INK, RULE, SERIF, THIRD, TONES, type MailFrame, type Message, type Parts } from './mail-frame';
import { subjectLine } from './subject-line';
import { differenceLines, differenceMarkup, longTextsOf } from './long-text';
import { asManyAsFit } from './mail-size';
import { html, type Markup } from './markup';
import { ALERT_SIZE, DRAWN_DAYS } from './drawing';
import { pagePair } from './page-pair';
import {
  describeAsked,
  differenceParts,
  headline,
  limitOf,
  moved,
  quoted,
  shortHeadline,
  type Headline,
  type News,
} from './news';
import { ownWords } from './wording';
import { ended } from '../words';

/** One alert with the address of its watch in Shrike. */
export interface AlertItem {
  news: News;
  watch: string;
  /** Where it can be taken on; null where there is nothing to be. */
  takeOn?: string | null;
  /** By which its pictures are named; without it there are none. */
  alert?: AlertId;
}

/** One edition of an at-once report, as one reader gets it. */
interface AlertMail extends MailFrame {
  alerts: AlertItem[];
}

/** Renders an at-once edition as a mail. Every foreign text is escaped in HTML and kept off header lines. */
export function alertMail(mail: AlertMail): Message {
  return framed(mail, subject(mail), alertParts(mail.alerts, mail.place));
}

/** So many alerts are tried to be shown at most. */
const MOST_SHOWN = 200;

const hiddenBlock = (count: number): Markup =>
  html`<tr><td colspan="2" style="padding:14px 0 0">${count === 1 ? '1 more alert has' : `${count} more alerts have`} no room in a mail of this form. All are read in Shrike.</td></tr>`;

/** What a mail tells of alerts. */
export function alertParts(alerts: AlertItem[], place: Place): Parts {
  return {
    html: asManyAsFit(Math.min(alerts.length, MOST_SHOWN), (most) => [
      ...alerts.slice(0, most).map((item, at) => alertBlock(item, place, at)),
      ...(most === alerts.length ? [] : [hiddenBlock(alerts.length - most)]),
    ]),
    text: alerts.map((item) => textBlock(item, place)),
  };
}

function subject(mail: AlertMail): string {
  const { locale } = mail.place;
  const [first] = mail.alerts;
  if (first === undefined) return mail.report;
  const { news } = first;
  const how = moved(news, locale);
  const was = how === '' ? '' : `, ${how}`;
  const more = mail.alerts.length > 1 ? ` and ${mail.alerts.length - 1} more` : '';
  const own = ownWords(news, 'subject', locale);
  if (own !== null) return `${own}${more}`;
  if (news.told !== undefined && news.told.what !== 'alert')
    return subjectLine(news.subject, [
      (name) => `${subjectOfTold({ ...news, subject: name }, locale)}${more}`,
      (name) => `${shortHeadline({ ...news, subject: name }, locale)}${more}`,
    ]);
  const said = `${news.field.label} ${quoted(news.value, locale)}${was}${more}`;
  return subjectLine(news.subject, [(name) => `${news.site}: ${name} ${said}`, (name) => `${name} ${said}`]);
}

/** Of all but a first alert the headline says it best. */
function subjectOfTold(news: News, locale: string): string {
  const { lead, meaning } = headline(news, locale);
  return meaning === '' ? lead : `${lead}, ${meaning}`;
}

interface Fact {
  name: string;
  said: string;
}

function facts({ news }: AlertItem, place: Place): Fact[] {
  const before = news.lookedBefore;
  const gap = before === null ? '' : ` (${formatDuration(news.seenAt - before)} earlier)`;
  return [
    { name: 'Seen', said: formatInstant(news.seenAt, 'exact', place) },
    {
      name: 'Last read before',
      said: before === null ? 'none; this is the first' : `${formatInstant(before, 'exact', place)}${gap}`,
    },
    { name: 'Asked for by', said: describeAsked(news, place.locale) },
    ...(news.carried ?? []).map(({ label, value }) => ({ name: label, said: quoted(value, place.locale) })),
  ];
}

/** The line of an alert: in her own words, where she has some. */
function lineOf(news: News, locale: string): Headline {
  const own = ownWords(news, 'line', locale);
  return own === null ? headline(news, locale) : { lead: own, meaning: '' };
}

/** Of so many alerts of one mail a series is drawn, and of so many the page. */
const MOST_SERIES = 20;
const MOST_PAGES = 3;

const pictureRow = (content: Markup): Markup =>
  renderedImageBlock(html`<tr><td colspan="2" style="padding:0 0 10px">${content}</td></tr>`);

/** The course of what it is about, and how its page looked before and after. */
function pictureRows({ news, alert }: AlertItem, place: Place, at: number): Markup[] {
  if (alert === undefined) return [];
  const limit = limitOf(news);
  const rule = limit === null ? '' : `; the dashed rule is ${formatValue(limit, place.locale)}`;
  const said = `The course of ${news.field.label} of ${news.subject} until then`;
  const series = renderedImage(
    { of: 'alert', alert },
    { alt: said, ...ALERT_SIZE, style: 'display:block;width:100%;height:auto' },
  );
  const caption = html`<span class="third" style="font-size:12px;color:${THIRD}">Its course until then, of ${String(DRAWN_DAYS)} days at most${rule}.</span>`;
  return [
    ...(isMeasure(news.value) && at < MOST_SERIES ? [pictureRow(html`${series}${caption}`)] : []),
    ...(news.change !== null && at < MOST_PAGES
      ? [pictureRow(pagePair(`${news.subject} at ${news.site}`, (when) => ({ of: 'page', when, alert })))]
      : []),
  ];
}

function alertBlock(item: AlertItem, place: Place, at: number): Markup {
  const { news } = item;
  const line = lineOf(news, place.locale);
  const sense = news.change?.sense ?? 'neither';
  const meaning =
    line.meaning === '' ? html`` : html`, <span class="${sense}" style="color:${TONES[sense]}">${line.meaning}</span>`;
  return html`<tr><td class="ink" colspan="2" style="padding:18px 0 6px;font:500 22px/29px ${SERIF}">${line.lead}${meaning}</td></tr>
<tr><td colspan="2" style="padding:6px 0 10px">${movedTable(news, place)}</td></tr>
${pictureRows(item, place, at)}
<tr><td colspan="2" style="padding:0 0 10px"><table role="presentation" cellpadding="0" cellspacing="0">${facts(item, place).map(factRow)}</table></td></tr>
<tr><td colspan="2" style="padding:0 0 22px"><a href="${item.news.page}" style="color:${INK}">Open the page</a> &#183; <a href="${item.watch}" style="color:${INK}">Open the watch in Shrike</a>${takeOnMarkup(item)}<br><span class="third" style="font-size:12px;color:${THIRD};word-break:break-all">${item.news.page}</span></td></tr>`;
}

const takeOnMarkup = ({ takeOn = null }: AlertItem): Markup =>
  takeOn === null ? html`` : html` &#183; <a href="${takeOn}" style="color:${INK}">Take it on</a>`;

const takeOnText = ({ takeOn = null }: AlertItem): string[] => (takeOn === null ? [] : [`Take it on: ${takeOn}`]);

/** Two long texts are told by their difference, not side by side. */
const longTexts = ({ change }: News) => (change === null ? null : longTextsOf(change.from, change.to));

function movedTable(news: News, place: Place): Markup {
  const texts = longTexts(news);
  if (texts !== null)
    return html`<p class="rule" style="margin:0;padding:6px 0;border-top:1px solid ${RULE};border-bottom:1px solid ${RULE}">${differenceMarkup(texts)}</p>`;
  const head = `padding:0 0 5px;font-weight:400;font-size:12px;color:${THIRD};border-bottom:1px solid ${RULE}`;
  const first = `padding:6px 0;border-bottom:1px solid ${RULE}`;
  const cell = `padding:6px 0 6px 10px;border-bottom:1px solid ${RULE};font-variant-numeric:tabular-nums`;
  const difference = differenceText(news, place) === '' ? html`&#8211;` : differenceCell(news, place);
  const unbroken = (value: Value) => shortUnbroken(formatValue(value, place.locale));
  return html`<table width="100%" cellpadding="0" cellspacing="0" style="border-collapse:collapse">
<tr><th class="third rule" scope="col" align="left" style="${head}">Field</th><th class="third rule" scope="col" align="right" style="${head}">Was</th><th class="third rule" scope="col" align="right" style="${head}">Now</th><th class="third rule" scope="col" align="right" style="${head}">Difference</th></tr>
<tr><td class="rule" style="${first}">${news.field.label}</td><td class="rule third" align="right" style="${cell};color:${THIRD}">${news.previous === null ? '–' : unbroken(news.previous)}</td><td class="rule" align="right" style="${cell};font-weight:700">${unbroken(news.value)}</td><td class="rule" align="right" style="${cell}">${difference}</td></tr></table>`;
}

const MOST_UNBROKEN = 10;

/** A number and its unit stand on one line, also on a phone. */
const shortUnbroken = (said: string): Markup =>
  said.length > MOST_UNBROKEN ? html`${said}` : html`<span style="white-space:nowrap">${said}</span>`;

function differenceCell(news: News, place: Place): Markup {
  if (news.change === null) return html``;
  const parts = differenceParts(news.change, place.locale);
  return html`<span class="${news.change.sense}" style="color:${TONES[news.change.sense]};font-weight:700;white-space:nowrap">${parts.glyph} ${parts.amount}${parts.percent === null ? '' : ` ${parts.percent}`}</span>`;
}

function factRow(fact: Fact): Markup {
  return html`<tr><td class="third" style="padding:1px 18px 1px 0;color:${THIRD};font-size:12px;white-space:nowrap;vertical-align:top">${fact.name}</td><td style="padding:1px 0">${fact.said}</td></tr>`;
}

const WITHOUT_SIZE: ReadonlySet<Change['kind']> = new Set(['amount', 'state', 'text']);

function textBlock(item: AlertItem, place: Place): string {
  const { news } = item;
  const line = lineOf(news, place.locale);
  const texts = longTexts(news);
  if (texts !== null)
    return [
      `${line.lead}.`,
      '',
      ...differenceLines(texts),
      '',
      `The page: ${item.news.page}`,
      `The watch: ${item.watch}`,
      ...takeOnText(item),
    ]
      .map(flat)
      .join('\n');
  const was = news.previous === null ? [] : [`Was: ${formatValue(news.previous, place.locale)}`];
  const apart = differenceText(news, place);
  const difference = apart === '' ? [] : [`Difference: ${apart}`];
  return [
    ended([line.lead, line.meaning].filter(Boolean).join(', ')),
    '',
    ...was,
    `Now: ${formatValue(news.value, place.locale)}`,
    ...difference,
    ...facts(item, place).map((fact) => `${fact.name}: ${fact.said}`),
    '',
    `The page: ${item.news.page}`,
    `The watch: ${item.watch}`,
    ...takeOnText(item),
  ]
    .map(flat)
    .join('\n');
}

/** How far apart the two are; empty where all there is to say is that it changed. */
function differenceText(news: News, place: Place): string {
  if (news.change === null || (news.change.difference === null && WITHOUT_SIZE.has(news.change.kind))) return '';
  const parts = differenceParts(news.change, place.locale);
  return news.change.difference === null ? parts.amount : moved(news, place.locale);
}
