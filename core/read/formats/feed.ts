import { isTag, type Element } from 'domhandler';
import { textContent } from 'domutils';
import { fail, ok, type Result } from '../../result';
import { foldText } from '../../value/parse';
import { parseHtml, visibleText } from '../html';
import { parseTree } from '../tree';
import { cut } from '../../value/sanitise';

/** One entry of a feed, its parts by name. */
interface FeedItem {
  identity: string;
  parts: Record<string, string>;
}

/** A parsed RSS or Atom feed. */
export interface FeedBody {
  format: 'feed';
  title: string | null;
  items: FeedItem[];
}

const MOST_ITEMS = 5000;
const LONGEST_SUMMARY = 4000;

/** Reads RSS 2.0, RSS 1.0 and Atom (RFC 4287). An item is known by its own id, else its link, else its title. */
export function parseFeed(text: string): Result<FeedBody, string> {
  const tree = parseTree(text, 'xml');
  if (!tree.ok) return tree;
  const root = tree.value.children.find(isTag);
  if (root === undefined || !['rss', 'feed', 'rdf:RDF', 'RDF'].includes(root.name))
    return fail('This is not an RSS or Atom feed.');
  const channel = childrenOf(root).find((child) => child.name === 'channel') ?? root;
  const found = [...childrenOf(channel), ...(channel === root ? [] : childrenOf(root))];
  const entries = found.filter((child) => child.name === 'item' || child.name === 'entry');
  if (entries.length > MOST_ITEMS) return fail(`This feed has more than ${MOST_ITEMS.toLocaleString('en')} items.`);
  return ok({ format: 'feed', title: partOf(channel, 'title'), items: entries.map(itemOf) });
}

function itemOf(entry: Element): FeedItem {
  const link = linkOf(entry);
  const title = partOf(entry, 'title') ?? '';
  const id = partOf(entry, 'guid') ?? partOf(entry, 'id') ?? link ?? title;
  const parts: Record<string, string> = { title };
  if (link !== null) parts.link = link;
  const published = partOf(entry, 'pubDate', 'published', 'dc:date', 'updated');
  if (published !== null) parts.published = published;
  const author = partOf(entry, 'author', 'dc:creator');
  if (author !== null) parts.author = author;
  const summary = partOf(entry, 'description', 'summary', 'content');
  if (summary !== null) parts.summary = readable(summary);
  const category = partOf(entry, 'category');
  if (category !== null) parts.category = category;
  return { identity: id, parts };
}

/** A summary may hold markup, as text. */
function readable(summary: string): string {
  const parsed = /<[a-z!]/i.test(summary) ? parseHtml(summary) : null;
  const text = parsed?.ok ? visibleText(parsed.value) : summary;
  return cut(text, LONGEST_SUMMARY);
}

function childrenOf(element: Element): Element[] {
  return element.children.filter(isTag);
}

function partOf(element: Element, ...names: string[]): string | null {
  for (const name of names) {
    const child = childrenOf(element).find((each) => each.name === name);
    const text = child === undefined ? '' : foldText(textContent(child) || (child.attribs.term ?? ''));
    if (text !== '') return text;
  }
  return null;
}

function linkOf(entry: Element): string | null {
  const links = childrenOf(entry).filter((child) => child.name === 'link');
  const chosen =
    links.find((link) => link.attribs.rel === 'alternate') ??
    links.find((link) => link.attribs.rel === undefined) ??
    links[0];
  if (chosen === undefined) return null;
  return chosen.attribs.href ?? (foldText(textContent(chosen)) || null);
}
