import type { Instant } from '../../when/interval';
import { openBody, sniffFormat, type Body, type Format } from '../body';
import { candidates, wholeText, type Candidate } from '../candidates';
import { pageFacts, parseHtml, type PageFacts } from '../html';
import type { Locator } from '../locator';
import { listingsOf, type Listing } from '../listing/listing';

/** A body in the format that it seems to be in; with why it cannot be read, where it cannot: then it is an empty page. */
export interface OpenedBody {
  body: Body;
  problem: string | null;
}

/** What a body offers to be watched. */
export interface Offer {
  format: Format;
  /** Why it cannot be read at all. */
  problem: string | null;
  facts: PageFacts;
  candidates: Candidate[];
  listings: Listing[];
  /** The way to all the words of a page. */
  words: Locator | null;
}

/** What is known of a body that could not even be looked through. */
export const NO_OFFER: Offer = {
  format: 'html',
  problem: null,
  facts: { title: null, siteName: null, locale: null },
  candidates: [],
  listings: [],
  words: null,
};

/** Opens a body in whatever format it is in. */
export function openAny(text: string, receivedAt: Instant): OpenedBody {
  const opened = openBody(text, sniffFormat(text), receivedAt);
  return opened.ok ? { body: opened.value, problem: null } : { body: emptyPage(), problem: opened.error };
}

function emptyPage(): Body {
  const parsed = parseHtml('');
  if (!parsed.ok) throw new Error(parsed.error);
  return { format: 'html', document: parsed.value };
}

/** Looks through a body for what could be watched in it. */
export function offerOf({ body, problem }: OpenedBody): Offer {
  const listings = listingsOf(body);
  if (body.format !== 'html') return { ...NO_OFFER, format: body.format, problem, listings };
  const { document } = body;
  return { format: 'html', problem, facts: pageFacts(document), candidates: candidates(document), listings, words: wholeText(document) };
}
