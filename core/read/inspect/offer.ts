import type { Instant } from '../../when/interval';
import { openBody, sniffFormat, type Body, type Format } from '../body';
import { candidates, wholeText, type Candidate } from '../candidates';
import { shapedElements } from '../block';
import { pageFacts, parseHtml, selectElements, type Document, type PageFacts } from '../html';
import type { Locator } from '../locator';
import { listingsOf, type Listing } from '../listing/listing';

/**
 * A body in the format that it seems to be in; with why it cannot be read, where it cannot: then it is an empty page.
 */
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
  /** Whether it is a page of many things, so that they are read all at once. */
  many: boolean;
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
  many: false,
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
  const found = candidates(document);
  const many = isOfMany(document, listings, found);
  return {
    format: 'html',
    problem,
    facts: pageFacts(document),
    candidates: found,
    listings,
    many,
    words: wholeText(document),
  };
}

const LEAST_MANY = 4;
const MOSTLY = 0.7;

/** Whether most prices of a page stand in its records, and none is said to be that of the page's one thing. */
function isOfMany(document: Document, listings: Listing[], found: Candidate[]): boolean {
  if (found.some(({ type, locators }) => type.kind === 'money' && locators[0]?.way === 'structured')) return false;
  const prices = shapedElements(document, 'money');
  if (prices.length < LEAST_MANY) return false;
  return listings.some(({ records, count }) => {
    const rows = records.from === 'rows' && count >= LEAST_MANY ? selectElements(document, records.rows) : null;
    const inside = rows?.ok ? rows.value.flatMap((row) => shapedElements(row, 'money')) : [];
    return new Set(inside).size >= MOSTLY * prices.length;
  });
}
