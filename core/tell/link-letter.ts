import { flat } from '../value/sanitise';
import type { Place } from '../when/format';
import { INK, pageHtml, pageText, SERIF, type Message } from './mail-frame';
import { oneLine } from './subject-line';
import { html } from './markup';

/** A mail of no report that asks somebody for one thing, which she does by following its one link. */
interface LinkLetter {
  subject: string;
  title: string;
  to: { name: string; address: string };
  lead: string;
  /** What the link is called, and where it leads. */
  way: { words: string; link: string };
  then: string;
  foot: string;
  place: Place;
}

/** Renders a mail that asks for one thing. */
export function linkLetter({ subject, title, to, lead, way: { words, link }, then, foot, place }: LinkLetter): Message {
  const page = { title, standing: `for ${to.name} · ${to.address}`, foot: [foot], ways: [], locale: place.locale };
  const block = html`<tr><td class="ink" colspan="2" style="padding:18px 0 6px;font:400 17px/25px ${SERIF}">${lead}</td></tr>
<tr><td colspan="2" style="padding:8px 0 14px"><a class="ink" href="${link}" style="color:${INK};font-weight:700;font-size:16px">${words}</a></td></tr>
<tr><td colspan="2" style="padding:0">${then}</td></tr>`;
  return {
    subject: oneLine(subject),
    html: pageHtml(page, [block]).markup,
    text: pageText(page, [[flat(lead), '', `${words}: ${link}`, '', then].join('\n')]),
  };
}
