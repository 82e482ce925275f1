import type { Instant } from '../when/interval';
import { sanitiseText } from '../value/sanitise';

/** One entry of a feed. */
interface AtomEntry {
  id: string;
  title: string;
  updated: Instant;
  link: string;
  /** What it says, as plain text. */
  summary: string;
  /** The whole of it, as HTML; null where it is read elsewhere. */
  html: string | null;
}

/** What a feed says of itself. */
interface AtomFeed {
  id: string;
  title: string;
  /** Where it is read, and where it is the same as a page. */
  self: string;
  page: string;
  author: string;
  /** When it last moved; of an empty one when it was made. */
  updated: Instant;
  entries: AtomEntry[];
}

const SIGNS: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };

/** What no XML document may hold (XML 1.0, 2.2). */
const FORBIDDEN = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g;

/** Text within XML: its signs escaped. */
const xml = (text: string): string =>
  sanitiseText(text.replace(FORBIDDEN, '')).replace(/[&<>"']/g, (sign) => SIGNS[sign] ?? '');

const rfc3339 = (at: Instant): string => new Date(at).toISOString();

/** A feed in the Atom syndication format (RFC 4287). */
export function atomFeed({ id, title, self, page, author, updated, entries }: AtomFeed): string {
  return `<?xml version="1.0" encoding="utf-8"?>
<feed xmlns="http://www.w3.org/2005/Atom">
<id>${xml(id)}</id>
<title>${xml(title)}</title>
<updated>${rfc3339(updated)}</updated>
<author><name>${xml(author)}</name></author>
<link rel="self" type="application/atom+xml" href="${xml(self)}"/>
<link rel="alternate" type="text/html" href="${xml(page)}"/>
<generator>Shrike</generator>
${entries.map(entryOf).join('\n')}
</feed>
`;
}

function entryOf({ id, title, updated, link, summary, html }: AtomEntry): string {
  return `<entry>
<id>${xml(id)}</id>
<title>${xml(title)}</title>
<updated>${rfc3339(updated)}</updated>
<link rel="alternate" type="text/html" href="${xml(link)}"/>
<summary>${xml(summary)}</summary>
${html === null ? '' : `<content type="html">${xml(html)}</content>\n`}</entry>`;
}
