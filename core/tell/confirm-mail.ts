import { flat } from '../value/sound';
import { formatInstant, type Place } from '../when/format';
import type { Instant } from '../when/interval';
import { listed } from '../words';
import { INK, oneLine, pageHtml, pageText, SERIF, type Message } from './mail-frame';
import { html } from './markup';

/** The question whether an address is hers, and whether she wants to hear. */
export interface ConfirmMail {
  readerName: string;
  address: string;
  askedBy: string;
  /** The reports that would reach her. */
  reports: string[];
  link: string;
  until: Instant;
  place: Place;
}

const MOST_REPORTS = 5;

/** Renders the first mail that an address gets: nothing else is sent to it before it is confirmed. */
export function confirmMail({ readerName, address, askedBy, reports, link, until, place }: ConfirmMail): Message {
  const hear =
    reports.length === 0
      ? ''
      : ` You would get ${listed(
          reports.map((name) => `‘${name}’`),
          MOST_REPORTS,
        )}.`;
  const lead = `${askedBy} would like you to hear from Shrike when something moves that matters to you.${hear}`;
  const then = 'Until you say yes nothing else is sent to this address. What there is to tell meanwhile is kept for you.';
  const page = {
    title: 'May Shrike write to you?',
    standing: `for ${readerName} · ${address}`,
    foot: [`The link ends on ${formatInstant(until, 'moment', place)}. If you did not expect this, do nothing: you will hear nothing more.`],
    ways: [],
    locale: place.locale,
  };
  const block = html`<tr><td class="ink" colspan="2" style="padding:18px 0 6px;font:400 17px/25px ${SERIF}">${lead}</td></tr>
<tr><td colspan="2" style="padding:8px 0 14px"><a class="ink" href="${link}" style="color:${INK};font-weight:700;font-size:16px">Yes, confirm this address</a></td></tr>
<tr><td colspan="2" style="padding:0">${then}</td></tr>`;
  return {
    subject: oneLine(`${askedBy} asks: may Shrike write to you?`),
    html: pageHtml(page, [block]).markup,
    text: pageText(page, [[flat(lead), '', `Yes, confirm this address: ${link}`, '', then].join('\n')]),
  };
}
