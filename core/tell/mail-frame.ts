import { formatInstant, type Place } from '../when/format';
import { withinSize } from './mail-size';
import { html, type Markup } from './markup';
import { begunWords, type Begun } from './begun';
import { missingWords, type Missing } from './missing';
import { flat } from '../value/sanitise';
import { oneLine } from './subject-line';

/** What every mail of a report says of itself. */
export interface MailFrame {
  report: string;
  /** The edition's number within the report; null of one that is not cut yet. */
  edition: number | null;
  readerName: string;
  /** The mail's number for this reader; null of a trial and on a page, which have none. */
  readerNumber: number | null;
  made: number;
  /** What it rests on, and whether it leaves anything out. */
  coverage: string;
  reportLink: string;
  place: Place;
  /** What became of the numbers before it that she does not have. */
  missing?: Missing;
  /** Whose report it is and when it comes, on its first mail to her. */
  begun?: Begun | null;
  /** Where she leaves the report, and her own page; null where no link can be sealed. */
  leave?: string | null;
  ownPage?: string | null;
}

/** What stands between the head of a mail and its foot: rows of its page, and the same as plain text. */
export interface Parts {
  html: Markup[];
  text: string[];
}

/** Of an edition that is all in its mail. */
export const WHOLE = 'This mail leaves out nothing of the edition.';

/** A message ready for a channel: a header line, and the same news in two forms. */
export interface Message {
  subject: string;
  html: string;
  text: string;
}

export const INK = '#1D2124';
export const SECOND = '#4C545A';
export const THIRD = '#656D73';
export const RULE = '#D9D5CB';
export const TONES = { worse: '#9C4526', better: '#14626A', neither: INK } as const;
export const SERIF = "Newsreader,Georgia,'Times New Roman',serif";
const SANS = "'Hanken Grotesk','Segoe UI',Helvetica,Arial,sans-serif";

/**
 * What a style attribute cannot say: the dark, and a narrow screen. Everything bears its ink in its own style, too, for
 * programs that leave this out.
 */
const STYLES = `
:root{color-scheme:light dark;supported-color-schemes:light dark}
.only-narrow{display:none}
@media (max-width:520px){
.wide{display:none!important}.only-narrow{display:block!important}.narrow-row{display:table-row!important}
.margin{padding:16px 14px!important}.slim{width:80px!important}.middling{width:130px!important}
.over,.under{display:block!important}.over{padding-bottom:0!important}.under{padding:0 0 4px!important;text-align:left!important}
}
@media (prefers-color-scheme:dark){
.page{background:#171512!important}.page,.ink,.neither,.page a{color:#E9E4DA!important}.second,.page a.second{color:#BDB5A8!important}
.third{color:#9D9587!important}.worse{color:#E39168!important}.better{color:#72BFC7!important}.rule{border-color:#46413A!important}
}`;

/** `edition 41 · Mon 23 Nov 17:00 · for Ravi, mail 87`. */
function standing({ edition, made, readerName, readerNumber, place }: MailFrame): string {
  const which = edition === null ? 'the next edition' : `edition ${edition}`;
  return (
    `${which} · ${formatInstant(made, 'moment', place)} · for ` +
    `${readerName.split(' ')[0] ?? readerName}${readerNumber === null ? '' : `, mail ${readerNumber}`}`
  );
}

/** What a page of ours says besides what it tells. */
interface Page {
  title: string;
  standing: string;
  /** Its last sentences. */
  foot: string[];
  ways: { said: string; to: string }[];
  locale: string;
}

/** A mail's page around its parts. */
export function pageHtml({ title, standing: said, foot, ways, locale }: Page, blocks: Markup[]): Markup {
  const head = `border-bottom:2px solid ${INK};padding:0 0 10px`;
  const links = ways.map(
    ({ said: words, to }, at) =>
      html`${at === 0 ? '' : ' · '}<a class="second" href="${to}" style="color:${SECOND}">${words}</a>`,
  );
  return html`<!doctype html>
<html lang="${locale}">
<head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><meta name="color-scheme" content="light dark"><meta name="supported-color-schemes" content="light dark"><title>${title}</title><style>${{ markup: STYLES }}</style></head>
<body class="page" style="margin:0;padding:0;background:#FDFCF9;color:${INK};font-family:${SANS};font-size:14px;line-height:20px">
<table role="presentation" width="100%" cellpadding="0" cellspacing="0" style="border-collapse:collapse"><tr><td class="margin" align="center" style="padding:28px 20px">
<table role="presentation" width="632" cellpadding="0" cellspacing="0" style="border-collapse:collapse;max-width:632px;width:100%;text-align:left">
<tr><td class="rule" colspan="2" style="${head}"><h1 style="margin:0;font:500 22px/28px ${SERIF}">${title}</h1><span class="third" style="font-size:12px;line-height:18px;color:${THIRD}">${said}</span></td></tr>
${blocks}
<tr><td class="third" colspan="2" style="padding:22px 0 0;font-size:12px;line-height:18px;color:${THIRD}">${foot.join(' ')}<br>${links}</td></tr>
</table></td></tr></table></body></html>`;
}

/** The same as plain text. */
export function pageText({ title, standing: said, foot, ways }: Page, blocks: string[]): string {
  const links = ways.map(({ said: words, to }) => `${words}: ${to}`);
  return (
    [`${flat(title)}\n${flat(said)}`, ...blocks, [foot.join(' '), ...links].map(flat).join('\n')].join('\n\n----\n\n') +
    '\n'
  );
}

/** A report's mail around its parts, in both forms. */
export function framed(mail: MailFrame, subject: string, { html: blocks, text }: Parts): Message {
  const { missing, begun = null, leave = null, ownPage = null } = mail;
  const first = begun === null ? null : begunWords(begun, mail.place.zone);
  const fitting = withinSize(blocks);
  const shown = fitting.length === blocks.length ? blocks : [...fitting, lastWords(NO_ROOM)];
  const page: Page = {
    title: mail.report,
    standing: standing(mail),
    foot: [...(missing === undefined ? [] : missingWords(missing)), mail.coverage],
    ways: [
      { said: 'Read in Shrike', to: mail.reportLink },
      ...(ownPage === null ? [] : [{ said: 'All your mails', to: ownPage }]),
      ...(leave === null ? [] : [{ said: 'Leave this report', to: leave }]),
    ],
    locale: mail.place.locale,
  };
  return {
    subject: oneLine(subject),
    html: pageHtml(page, first === null ? shown : [...shown, lastWords(first)]).markup,
    text: pageText(page, first === null ? text : [...text, flat(first)]),
  };
}

const NO_ROOM = 'There is more, for which a mail of this form has no room: read it whole in Shrike.';

const lastWords = (said: string): Markup =>
  html`<tr><td class="second rule" colspan="2" style="padding:14px 0 0;border-top:1px solid ${RULE};color:${SECOND}">${said}</td></tr>`;
