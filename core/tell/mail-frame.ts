import { foldText } from '../value/parse';
import { formatInstant, type Place } from '../when/format';
import { html, type Markup } from './markup';
import { cut, withoutDirections } from '../value/sound';

/** What every mail of a report says of itself. */
export interface MailFrame {
  report: string;
  /** The edition's number within the report, and the mail's number for this reader. */
  edition: number;
  readerName: string;
  readerNumber: number;
  made: number;
  /** How many runs stood behind it. */
  coverage: string;
  reportLink: string;
  place: Place;
}

/** A message ready for a route: a header line, and the same news in two forms. */
export interface Message {
  subject: string;
  html: string;
  text: string;
}

export const INK = '#1D2124';
export const THIRD = '#656D73';
export const RULE = '#D9D5CB';
export const TONES = { worse: '#9C4526', better: '#14626A', neither: INK } as const;
export const SERIF = "Newsreader,Georgia,'Times New Roman',serif";
const SECOND = '#4C545A';
const SANS = "'Hanken Grotesk','Segoe UI',Helvetica,Arial,sans-serif";
const MOST_SUBJECT = 140;

/** A text as a header line: one line, without control characters, bounded. */
export function oneLine(text: string): string {
  const line = foldText(withoutDirections(text).replace(/[\u0000-\u001f\u007f]/g, ' '));
  return line.length > MOST_SUBJECT ? `${cut(line, MOST_SUBJECT - 1)}…` : line;
}

/** A mail's page around its blocks, which are rows of its table. */
export function frameHtml(mail: MailFrame, blocks: Markup[]): Markup {
  const { place } = mail;
  return html`<!doctype html>
<html lang="${place.locale}">
<head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><meta name="color-scheme" content="light"><title>${mail.report}</title></head>
<body style="margin:0;padding:0;background:#FDFCF9;color:${INK};font-family:${SANS};font-size:14px;line-height:20px">
<table role="presentation" width="100%" cellpadding="0" cellspacing="0" style="border-collapse:collapse"><tr><td align="center" style="padding:28px 20px">
<table role="presentation" width="632" cellpadding="0" cellspacing="0" style="border-collapse:collapse;max-width:632px;width:100%;text-align:left">
<tr><td style="border-bottom:2px solid ${INK};padding:0 0 10px;font:500 22px/28px ${SERIF}">${mail.report}</td>
<td align="right" style="border-bottom:2px solid ${INK};padding:0 0 10px;font-size:12px;color:${THIRD}">edition ${mail.edition} &#183; ${formatInstant(mail.made, 'moment', place)} &#183; for ${mail.readerName}, no. ${mail.readerNumber}</td></tr>
${blocks}
<tr><td colspan="2" style="border-top:1px solid ${RULE};padding:12px 0 0;font-size:12px;line-height:18px;color:${THIRD}">${mail.coverage} This mail leaves out nothing of the edition.<br><a href="${mail.reportLink}" style="color:${SECOND}">Read in Shrike</a></td></tr>
</table></td></tr></table></body></html>`;
}

/** The same as plain text around its blocks. */
export function frameText(mail: MailFrame, blocks: string[]): string {
  const { place } = mail;
  const head = `${mail.report}\nedition ${mail.edition}, ${formatInstant(mail.made, 'moment', place)}, for ${mail.readerName}, no. ${mail.readerNumber}`;
  const foot = `${mail.coverage} This mail leaves out nothing of the edition.\nRead in Shrike: ${mail.reportLink}`;
  return [head, ...blocks, foot].join('\n\n----\n\n') + '\n';
}
