import fc from 'fast-check';
import { parseXmlDocument } from 'slimdom';
import { describe, expect, it } from 'vitest';
import { atomFeed } from './atom';

const AT = Date.UTC(2026, 10, 28, 7, 30);
const entry = (text: string) => ({
  id: 'tag:heatherlow.example,2026:edition/9',
  title: text,
  updated: AT,
  link: 'https://shrike.example/editions/9',
  summary: text,
  html: `<p>${text}</p>`,
});
const feed = (
  text: string,
  entries: (Omit<ReturnType<typeof entry>, 'html'> & { html: string | null })[] = [entry(text)],
) =>
  atomFeed({
    id: 'tag:heatherlow.example,2026:report/1',
    title: text,
    self: 'https://shrike.example/feed/x',
    page: 'https://shrike.example/reports/1',
    author: text,
    updated: AT,
    entries,
  });

const ATOM = 'http://www.w3.org/2005/Atom';
const texts = (xml: string, name: string) =>
  parseXmlDocument(xml)
    .getElementsByTagNameNS(ATOM, name)
    .map(({ textContent }) => textContent);

describe('a feed', () => {
  it('holds what RFC 4287 asks of a feed and of each entry', () => {
    const xml = feed('Pricing, daily');
    const root = parseXmlDocument(xml).documentElement;
    expect([root?.namespaceURI, root?.localName]).toEqual([ATOM, 'feed']);
    // One id, one title and one updated, of the feed and of its entry; an author, a link to itself.
    expect(texts(xml, 'id')).toEqual(['tag:heatherlow.example,2026:report/1', 'tag:heatherlow.example,2026:edition/9']);
    expect(texts(xml, 'title')).toEqual(['Pricing, daily', 'Pricing, daily']);
    expect(texts(xml, 'updated')).toEqual(['2026-11-28T07:30:00.000Z', '2026-11-28T07:30:00.000Z']);
    expect(texts(xml, 'name')).toEqual(['Pricing, daily']);
    const links = parseXmlDocument(xml).getElementsByTagNameNS(ATOM, 'link');
    expect(links.map((link) => link.getAttribute('rel'))).toEqual(['self', 'alternate', 'alternate']);
    expect(parseXmlDocument(xml).getElementsByTagNameNS(ATOM, 'content')[0]?.getAttribute('type')).toBe('html');
  });

  it('names an entry that is read elsewhere without its content', () => {
    expect(texts(feed('Long', [{ ...entry('Long'), html: null }]), 'content')).toEqual([]);
    expect(texts(feed('Long', [{ ...entry('Long'), html: null }]), 'summary')).toEqual(['Long']);
  });

  it('without entries is one, too', () => {
    expect(texts(feed('Empty', []), 'updated')).toHaveLength(1);
  });

  it('is well formed whatever it holds, and holds it unchanged but for what no document may', () => {
    const hostile = fc.oneof(
      fc.string({ unit: 'binary', maxLength: 60 }),
      fc.constantFrom(
        ']]>',
        '<!--',
        '</feed>',
        '&#0;',
        '\u0000\u0001\u001f',
        '\ud800',
        '\ufffe',
        '<![CDATA[',
        '\u202e',
        '"\'><script>',
      ),
    );
    fc.assert(
      fc.property(hostile, (text) => {
        const kept = text.replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, '').replace(/\r\n?/g, '\n');
        const sound = kept.replace(/[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g, '\ufffd');
        expect(texts(feed(text), 'title')).toEqual([sound, sound]);
      }),
    );
  });
});
